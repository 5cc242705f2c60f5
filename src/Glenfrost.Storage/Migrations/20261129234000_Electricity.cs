using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>What a printer draws and what that costs. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129234000_Electricity")]
    public sealed class Electricity : Migration
    {
        private static readonly string[] Added = ["PowerW", "MinorPerKwh"];

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            foreach (var column in Added)
                migrationBuilder.AddColumn<double>(name: column, table: "Printers", type: "REAL", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var column in Added)
                migrationBuilder.DropColumn(name: column, table: "Printers");
        }
    }
}
