using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>
    /// What a fitted part changed of what its machine says of itself, and where spools lie. A column and a table of its own: no table is rebuilt, so no model
    /// stands behind it.
    /// </summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129031500_FittedParts")]
    public sealed class FittedParts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "ChangedJson", table: "Parts", type: "TEXT", nullable: true);
            migrationBuilder.CreateTable(
                name: "SpoolStays",
                columns: table => new
                {
                    Id = table.Column<System.Guid>(type: "TEXT", nullable: false),
                    SpoolId = table.Column<System.Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Place = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<System.Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SpoolStays", x => x.Id);
                    table.ForeignKey("FK_SpoolStays_Spools_SpoolId", x => x.SpoolId, "Spools", "Id", onDelete: ReferentialAction.Cascade);
                });
            migrationBuilder.CreateIndex("IX_SpoolStays_SpoolId", "SpoolStays", "SpoolId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable("SpoolStays");
            migrationBuilder.DropColumn(name: "ChangedJson", table: "Parts");
        }
    }
}
