using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Evidence : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "DeviceId",
                table: "Readings",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Elsewhere",
                table: "People",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "Count",
                table: "Log",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Undo",
                table: "Log",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "UndoneAt",
                table: "Log",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "PhotoId",
                table: "Findings",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Devices",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    TokenHash = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    LastSeenAt = table.Column<long>(type: "INTEGER", nullable: true),
                    WithdrawnAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Devices", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Photos",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Section = table.Column<int>(type: "INTEGER", nullable: true),
                    Sha256 = table.Column<string>(type: "TEXT", nullable: false),
                    SmallSha256 = table.Column<string>(type: "TEXT", nullable: false),
                    WidthPx = table.Column<int>(type: "INTEGER", nullable: false),
                    HeightPx = table.Column<int>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    DeviceId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Photos", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Photos_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Sittings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Seed = table.Column<int>(type: "INTEGER", nullable: false),
                    OrderJson = table.Column<string>(type: "TEXT", nullable: false),
                    FinishedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Sittings", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "PhotoScores",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SittingId = table.Column<Guid>(type: "TEXT", nullable: false),
                    PhotoId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Aspect = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<double>(type: "REAL", nullable: true),
                    ReadingId = table.Column<Guid>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PhotoScores", x => x.Id);
                    table.ForeignKey(
                        name: "FK_PhotoScores_Photos_PhotoId",
                        column: x => x.PhotoId,
                        principalTable: "Photos",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_PhotoScores_Sittings_SittingId",
                        column: x => x.SittingId,
                        principalTable: "Sittings",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Log_Undo",
                table: "Log",
                column: "Undo");

            migrationBuilder.CreateIndex(
                name: "IX_Devices_TokenHash",
                table: "Devices",
                column: "TokenHash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_PhotoScores_PhotoId",
                table: "PhotoScores",
                column: "PhotoId");

            migrationBuilder.CreateIndex(
                name: "IX_PhotoScores_SittingId_PhotoId_Aspect",
                table: "PhotoScores",
                columns: new[] { "SittingId", "PhotoId", "Aspect" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Photos_Key",
                table: "Photos",
                column: "Key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Photos_RunId",
                table: "Photos",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_Photos_Sha256",
                table: "Photos",
                column: "Sha256");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Devices");

            migrationBuilder.DropTable(
                name: "PhotoScores");

            migrationBuilder.DropTable(
                name: "Photos");

            migrationBuilder.DropTable(
                name: "Sittings");

            migrationBuilder.DropIndex(
                name: "IX_Log_Undo",
                table: "Log");

            migrationBuilder.DropColumn(
                name: "DeviceId",
                table: "Readings");

            migrationBuilder.DropColumn(
                name: "Elsewhere",
                table: "People");

            migrationBuilder.DropColumn(
                name: "Count",
                table: "Log");

            migrationBuilder.DropColumn(
                name: "Undo",
                table: "Log");

            migrationBuilder.DropColumn(
                name: "UndoneAt",
                table: "Log");

            migrationBuilder.DropColumn(
                name: "PhotoId",
                table: "Findings");
        }
    }
}
