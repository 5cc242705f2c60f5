using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>What a fitted part changed of what its machine says of itself. A column only: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129031500_FittedParts")]
    public sealed class FittedParts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder) =>
            migrationBuilder.AddColumn<string>(name: "ChangedJson", table: "Parts", type: "TEXT", nullable: true);

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) => migrationBuilder.DropColumn(name: "ChangedJson", table: "Parts");
    }
}
