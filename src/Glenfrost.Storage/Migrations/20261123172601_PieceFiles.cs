using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PieceFiles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "AbsoluteE",
                table: "Printers",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<double>(
                name: "ClearanceMm",
                table: "Printers",
                type: "REAL",
                nullable: false,
                defaultValue: 40.0);

            migrationBuilder.AddColumn<double>(
                name: "GantryHeightMm",
                table: "Printers",
                type: "REAL",
                nullable: false,
                defaultValue: 25.0);

            migrationBuilder.AddColumn<bool>(
                name: "OriginInMiddle",
                table: "Printers",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateTable(
                name: "RunFiles",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Sha256 = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RunFiles", x => x.Id);
                    table.ForeignKey(
                        name: "FK_RunFiles_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_RunFiles_RunId",
                table: "RunFiles",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_RunFiles_Sha256",
                table: "RunFiles",
                column: "Sha256");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "RunFiles");

            migrationBuilder.DropColumn(
                name: "AbsoluteE",
                table: "Printers");

            migrationBuilder.DropColumn(
                name: "ClearanceMm",
                table: "Printers");

            migrationBuilder.DropColumn(
                name: "GantryHeightMm",
                table: "Printers");

            migrationBuilder.DropColumn(
                name: "OriginInMiddle",
                table: "Printers");
        }
    }
}
