using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class GcodeRoom : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "GcodeFiles",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Sha256 = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: true),
                    FromId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Made = table.Column<string>(type: "TEXT", nullable: true),
                    StepJson = table.Column<string>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_GcodeFiles", x => x.Id);
                    table.ForeignKey(
                        name: "FK_GcodeFiles_Pairings_PairingId",
                        column: x => x.PairingId,
                        principalTable: "Pairings",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateIndex(
                name: "IX_GcodeFiles_FromId",
                table: "GcodeFiles",
                column: "FromId");

            migrationBuilder.CreateIndex(
                name: "IX_GcodeFiles_PairingId",
                table: "GcodeFiles",
                column: "PairingId");

            migrationBuilder.CreateIndex(
                name: "IX_GcodeFiles_Sha256",
                table: "GcodeFiles",
                column: "Sha256");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "GcodeFiles");
        }
    }
}
