using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>Which spool is on which toolhead. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261130042000_LoadedSpools")]
    public sealed class LoadedSpools : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(name: "LoadedSpoolId", table: "Toolheads", type: "TEXT", nullable: true);
            migrationBuilder.AddColumn<long>(name: "LoadedAt", table: "Toolheads", type: "INTEGER", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "LoadedSpoolId", table: "Toolheads");
            migrationBuilder.DropColumn(name: "LoadedAt", table: "Toolheads");
        }
    }
}
