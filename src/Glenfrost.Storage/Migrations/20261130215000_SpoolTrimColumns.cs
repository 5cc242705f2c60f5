using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>A spool's own trim of the flow. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261130215000_SpoolTrimColumns")]
    public sealed class SpoolTrimColumns : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(name: "TrimPercent", table: "Spools", type: "REAL", nullable: true);
            migrationBuilder.AddColumn<string>(name: "TrimWhy", table: "Spools", type: "TEXT", nullable: true);
            migrationBuilder.AddColumn<Guid>(name: "TrimRunId", table: "Spools", type: "TEXT", nullable: true);
            migrationBuilder.AddColumn<long>(name: "TrimAt", table: "Spools", type: "INTEGER", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var column in new[] { "TrimPercent", "TrimWhy", "TrimRunId", "TrimAt" })
                migrationBuilder.DropColumn(name: column, table: "Spools");
        }
    }
}
