using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <summary>A tester's own photos as anchors of scores. A column and a table of its own: no table is rebuilt, so no model stands behind it.</summary>
    [DbContext(typeof(GlenfrostDb))]
    [Migration("20261129102500_AnchorPhotos")]
    public sealed class AnchorPhotos : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(name: "WithAnchors", table: "Sittings", type: "INTEGER", nullable: true);
            migrationBuilder.CreateTable(
                name: "AnchorPhotos",
                columns: table => new
                {
                    Id = table.Column<System.Guid>(type: "TEXT", nullable: false),
                    PersonId = table.Column<System.Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Score = table.Column<int>(type: "INTEGER", nullable: false),
                    PhotoId = table.Column<System.Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_AnchorPhotos", x => x.Id);
                    table.ForeignKey("FK_AnchorPhotos_Photos_PhotoId", x => x.PhotoId, "Photos", "Id", onDelete: ReferentialAction.Cascade);
                });
            migrationBuilder.CreateIndex("IX_AnchorPhotos_PersonId", "AnchorPhotos", "PersonId");
            migrationBuilder.CreateIndex("IX_AnchorPhotos_PhotoId", "AnchorPhotos", "PhotoId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable("AnchorPhotos");
            migrationBuilder.DropColumn(name: "WithAnchors", table: "Sittings");
        }
    }
}
