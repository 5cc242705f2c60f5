using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>When a pairing is good enough, and the order of work before a change. Columns only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129195000_Goals")]
    public sealed class Goals : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "RouteBefore", table: "Pairings", type: "TEXT", nullable: true);
            migrationBuilder.AddColumn<string>(name: "GoalJson", table: "Pairings", type: "TEXT", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "RouteBefore", table: "Pairings");
            migrationBuilder.DropColumn(name: "GoalJson", table: "Pairings");
        }
    }
}
