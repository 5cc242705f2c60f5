using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class SimulatedBench : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "ReestimatedMinutes",
                table: "Runs",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Simulated",
                table: "Instruments",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.CreateTable(
                name: "Jobs",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PrinterId = table.Column<Guid>(type: "TEXT", nullable: true),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    EndedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Speed = table.Column<double>(type: "REAL", nullable: false),
                    Seed = table.Column<long>(type: "INTEGER", nullable: false),
                    OptionsJson = table.Column<string>(type: "TEXT", nullable: true),
                    Line = table.Column<long>(type: "INTEGER", nullable: false),
                    Layer = table.Column<int>(type: "INTEGER", nullable: false),
                    ZMm = table.Column<double>(type: "REAL", nullable: false),
                    ClockS = table.Column<double>(type: "REAL", nullable: false),
                    PredictedS = table.Column<double>(type: "REAL", nullable: true),
                    ReestimatedS = table.Column<double>(type: "REAL", nullable: true),
                    Outcome = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Jobs", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Jobs_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_PrinterId",
                table: "Jobs",
                column: "PrinterId",
                unique: true,
                filter: "\"State\" IN ('running', 'paused')");

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_RunId",
                table: "Jobs",
                column: "RunId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Jobs");

            migrationBuilder.DropColumn(
                name: "ReestimatedMinutes",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Simulated",
                table: "Instruments");
        }
    }
}
