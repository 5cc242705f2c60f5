using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class MachineChecks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "FirstFeedValue",
                table: "Toolheads",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "FilamentId",
                table: "Parts",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "PairingId",
                table: "Parts",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Checks",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PrinterId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ToolheadId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    ValuesJson = table.Column<string>(type: "TEXT", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    Passed = table.Column<bool>(type: "INTEGER", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    DecisionId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Checks", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Checks_Printers_PrinterId",
                        column: x => x.PrinterId,
                        principalTable: "Printers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Runs_ToolheadId",
                table: "Runs",
                column: "ToolheadId");

            migrationBuilder.CreateIndex(
                name: "IX_Checks_PrinterId",
                table: "Checks",
                column: "PrinterId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Checks");

            migrationBuilder.DropIndex(
                name: "IX_Runs_ToolheadId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "FirstFeedValue",
                table: "Toolheads");

            migrationBuilder.DropColumn(
                name: "FilamentId",
                table: "Parts");

            migrationBuilder.DropColumn(
                name: "PairingId",
                table: "Parts");
        }
    }
}
