using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>What runs were made with, events of evidence and their projection, machine values as a history, several values of a setting by condition.</summary>
    public partial class FactorsAndEvidence : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Settings_RevisionId_Key",
                table: "Settings");

            // A revision keeps values only, so that State may be missing. The table is written anew by hand: the tool's own way leaves the transaction, and a killed upgrade would stop halfway.
            migrationBuilder.Sql("""
                CREATE TABLE "Settings_new" (
                    "Id" TEXT NOT NULL CONSTRAINT "PK_Settings" PRIMARY KEY,
                    "RevisionId" TEXT NOT NULL,
                    "Key" TEXT NOT NULL,
                    "Value" REAL NOT NULL,
                    "Uncertainty" REAL NULL,
                    "Word" TEXT NULL,
                    "AtC" REAL NULL,
                    "FoundWith" TEXT NULL,
                    "Origin" TEXT NOT NULL,
                    "OriginText" TEXT NOT NULL,
                    "State" TEXT NULL,
                    "StateWhy" TEXT NULL,
                    "RunId" TEXT NULL,
                    CONSTRAINT "FK_Settings_Revisions_RevisionId" FOREIGN KEY ("RevisionId") REFERENCES "Revisions" ("Id") ON DELETE CASCADE
                );
                INSERT INTO "Settings_new" ("Id", "RevisionId", "Key", "Value", "Uncertainty", "Origin", "OriginText", "State", "StateWhy", "RunId")
                    SELECT "Id", "RevisionId", "Key", "Value", "Uncertainty", "Origin", "OriginText", "State", "StateWhy", "RunId" FROM "Settings";
                DROP TABLE "Settings";
                ALTER TABLE "Settings_new" RENAME TO "Settings";
                """);

            migrationBuilder.AddColumn<string>(
                name: "FactorsJson",
                table: "Runs",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "RetiredAt",
                table: "RunFiles",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "NewestRevisionId",
                table: "Pairings",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Evidence",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Area = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RevisionId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SpoolId = table.Column<Guid>(type: "TEXT", nullable: true),
                    CauseId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Number = table.Column<double>(type: "REAL", nullable: true),
                    Uncertainty = table.Column<double>(type: "REAL", nullable: true),
                    AtC = table.Column<double>(type: "REAL", nullable: true),
                    Text = table.Column<string>(type: "TEXT", nullable: true),
                    State = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Evidence", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Evidence_Pairings_PairingId",
                        column: x => x.PairingId,
                        principalTable: "Pairings",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "FactorEntries",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Factor = table.Column<string>(type: "TEXT", nullable: false),
                    Section = table.Column<int>(type: "INTEGER", nullable: true),
                    Number = table.Column<double>(type: "REAL", nullable: true),
                    Text = table.Column<string>(type: "TEXT", nullable: true),
                    ThingId = table.Column<Guid>(type: "TEXT", nullable: true),
                    FromLayer = table.Column<int>(type: "INTEGER", nullable: true),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    SupersedesId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_FactorEntries", x => x.Id);
                    table.ForeignKey(
                        name: "FK_FactorEntries_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "MachineValues",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    ToolheadId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: true),
                    Number = table.Column<double>(type: "REAL", nullable: true),
                    ProvenAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Withdraws = table.Column<bool>(type: "INTEGER", nullable: false),
                    CauseId = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_MachineValues", x => x.Id);
                    table.ForeignKey(
                        name: "FK_MachineValues_Toolheads_ToolheadId",
                        column: x => x.ToolheadId,
                        principalTable: "Toolheads",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Standings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Area = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: true),
                    AtC = table.Column<double>(type: "REAL", nullable: true),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    Why = table.Column<string>(type: "TEXT", nullable: true),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Standings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Standings_Pairings_PairingId",
                        column: x => x.PairingId,
                        principalTable: "Pairings",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Settings_RevisionId_Key_AtC",
                table: "Settings",
                columns: new[] { "RevisionId", "Key", "AtC" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Runs_LinkedRunId",
                table: "Runs",
                column: "LinkedRunId");

            migrationBuilder.CreateIndex(
                name: "IX_Evidence_CauseId",
                table: "Evidence",
                column: "CauseId");

            migrationBuilder.CreateIndex(
                name: "IX_Evidence_PairingId",
                table: "Evidence",
                column: "PairingId");

            migrationBuilder.CreateIndex(
                name: "IX_FactorEntries_RunId",
                table: "FactorEntries",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_MachineValues_ToolheadId",
                table: "MachineValues",
                column: "ToolheadId");

            migrationBuilder.CreateIndex(
                name: "IX_Standings_PairingId",
                table: "Standings",
                column: "PairingId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Evidence");

            migrationBuilder.DropTable(
                name: "FactorEntries");

            migrationBuilder.DropTable(
                name: "MachineValues");

            migrationBuilder.DropTable(
                name: "Standings");

            migrationBuilder.DropIndex(
                name: "IX_Settings_RevisionId_Key_AtC",
                table: "Settings");

            migrationBuilder.DropIndex(
                name: "IX_Runs_LinkedRunId",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "AtC",
                table: "Settings");

            migrationBuilder.DropColumn(
                name: "FoundWith",
                table: "Settings");

            migrationBuilder.DropColumn(
                name: "Word",
                table: "Settings");

            migrationBuilder.DropColumn(
                name: "FactorsJson",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "RetiredAt",
                table: "RunFiles");

            migrationBuilder.DropColumn(
                name: "NewestRevisionId",
                table: "Pairings");

            migrationBuilder.AlterColumn<string>(
                name: "State",
                table: "Settings",
                type: "TEXT",
                nullable: false,
                defaultValue: "",
                oldClrType: typeof(string),
                oldType: "TEXT",
                oldNullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_Settings_RevisionId_Key",
                table: "Settings",
                columns: new[] { "RevisionId", "Key" },
                unique: true);
        }
    }
}
