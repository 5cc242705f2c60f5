using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>Own checks, versions and reference piece of a printer. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129203000_PrinterNotes")]
    public sealed class PrinterNotes : Migration
    {
        private static readonly string[] Added = ["OwnChecksJson", "VersionsJson", "PulseJson"];

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            foreach (var column in Added)
                migrationBuilder.AddColumn<string>(name: column, table: "Printers", type: "TEXT", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var column in Added)
                migrationBuilder.DropColumn(name: column, table: "Printers");
        }
    }
}
