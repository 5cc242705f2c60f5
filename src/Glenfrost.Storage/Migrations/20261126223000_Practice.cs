using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>Values that are known good in practice, and what a reel bears. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261126223000_Practice")]
    public sealed class Practice : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "SettingKey", table: "Findings", type: "TEXT", nullable: true);
            migrationBuilder.AddColumn<double>(name: "SettingValue", table: "Findings", type: "REAL", nullable: true);
            migrationBuilder.AddColumn<double>(name: "AtC", table: "Findings", type: "REAL", nullable: true);
            migrationBuilder.AddColumn<double>(name: "ReelMaxC", table: "Spools", type: "REAL", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var column in new[] { "SettingKey", "SettingValue", "AtC" })
                migrationBuilder.DropColumn(name: column, table: "Findings");
            migrationBuilder.DropColumn(name: "ReelMaxC", table: "Spools");
        }
    }
}
