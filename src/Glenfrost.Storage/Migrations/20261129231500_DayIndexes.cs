using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>What the day asks of a long record: the last check of each kind, and what was printed this week.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129231500_DayIndexes")]
    public sealed class DayIndexes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "IX_Checks_PrinterId_ToolheadId_Kind_At_RemovedAt_Id", table: "Checks",
                columns: ["PrinterId", "ToolheadId", "Kind", "At", "RemovedAt", "Id"]);
            migrationBuilder.DropIndex(name: "IX_Checks_PrinterId", table: "Checks");
            migrationBuilder.CreateIndex(name: "IX_Runs_PrintedAt", table: "Runs", column: "PrintedAt");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(name: "IX_Runs_PrintedAt", table: "Runs");
            migrationBuilder.CreateIndex(name: "IX_Checks_PrinterId", table: "Checks", column: "PrinterId");
            migrationBuilder.DropIndex(name: "IX_Checks_PrinterId_ToolheadId_Kind_At_RemovedAt_Id", table: "Checks");
        }
    }
}
