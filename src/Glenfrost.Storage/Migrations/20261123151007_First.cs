using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Glenfrost.Storage.Migrations
{
    /// <inheritdoc />
    public partial class First : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Dryers",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    MaxC = table.Column<double>(type: "REAL", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Dryers", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Filaments",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Maker = table.Column<string>(type: "TEXT", nullable: false),
                    Line = table.Column<string>(type: "TEXT", nullable: false),
                    Family = table.Column<string>(type: "TEXT", nullable: false),
                    Additive = table.Column<string>(type: "TEXT", nullable: true),
                    DiameterMm = table.Column<double>(type: "REAL", nullable: false),
                    SolidDensityGPerCm3 = table.Column<double>(type: "REAL", nullable: true),
                    PriceMinor = table.Column<long>(type: "INTEGER", nullable: true),
                    Currency = table.Column<string>(type: "TEXT", nullable: true),
                    NetMassUg = table.Column<long>(type: "INTEGER", nullable: true),
                    DryingC = table.Column<double>(type: "REAL", nullable: true),
                    DryingHours = table.Column<double>(type: "REAL", nullable: true),
                    DryingNote = table.Column<string>(type: "TEXT", nullable: true),
                    Notes = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Filaments", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Instruments",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Instruments", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Log",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    Link = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Log", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "People",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_People", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Printers",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Maker = table.Column<string>(type: "TEXT", nullable: true),
                    World = table.Column<string>(type: "TEXT", nullable: false),
                    Dialect = table.Column<string>(type: "TEXT", nullable: false),
                    BedXMm = table.Column<double>(type: "REAL", nullable: false),
                    BedYMm = table.Column<double>(type: "REAL", nullable: false),
                    HeightMm = table.Column<double>(type: "REAL", nullable: false),
                    BedSurface = table.Column<string>(type: "TEXT", nullable: true),
                    BedMaxC = table.Column<double>(type: "REAL", nullable: false),
                    Enclosure = table.Column<string>(type: "TEXT", nullable: false),
                    ChamberMaxC = table.Column<double>(type: "REAL", nullable: false),
                    MaxSpeedMmPerS = table.Column<double>(type: "REAL", nullable: false),
                    MaxAccelerationMmPerS2 = table.Column<double>(type: "REAL", nullable: false),
                    ColdExtrusionC = table.Column<double>(type: "REAL", nullable: true),
                    ScrewStepMm = table.Column<double>(type: "REAL", nullable: false),
                    Firmware = table.Column<string>(type: "TEXT", nullable: true),
                    StartCode = table.Column<string>(type: "TEXT", nullable: true),
                    EndCode = table.Column<string>(type: "TEXT", nullable: true),
                    Notes = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Printers", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Room",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    TemperatureC = table.Column<double>(type: "REAL", nullable: false),
                    HumidityPercent = table.Column<double>(type: "REAL", nullable: true),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Room", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "FilamentSources",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    FilamentId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    NozzleMinC = table.Column<double>(type: "REAL", nullable: true),
                    NozzleMaxC = table.Column<double>(type: "REAL", nullable: true),
                    BedMinC = table.Column<double>(type: "REAL", nullable: true),
                    BedMaxC = table.Column<double>(type: "REAL", nullable: true),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_FilamentSources", x => x.Id);
                    table.ForeignKey(
                        name: "FK_FilamentSources_Filaments_FilamentId",
                        column: x => x.FilamentId,
                        principalTable: "Filaments",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "FilamentVariants",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    FilamentId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Colour = table.Column<string>(type: "TEXT", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_FilamentVariants", x => x.Id);
                    table.ForeignKey(
                        name: "FK_FilamentVariants_Filaments_FilamentId",
                        column: x => x.FilamentId,
                        principalTable: "Filaments",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "InstrumentRevisions",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    InstrumentId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    FromAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Resolution = table.Column<double>(type: "REAL", nullable: false),
                    Unit = table.Column<string>(type: "TEXT", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_InstrumentRevisions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_InstrumentRevisions_Instruments_InstrumentId",
                        column: x => x.InstrumentId,
                        principalTable: "Instruments",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Parts",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PrinterId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ToolheadId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Slot = table.Column<string>(type: "TEXT", nullable: false),
                    Description = table.Column<string>(type: "TEXT", nullable: false),
                    FittedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    Why = table.Column<string>(type: "TEXT", nullable: true),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Parts", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Parts_Printers_PrinterId",
                        column: x => x.PrinterId,
                        principalTable: "Printers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Toolheads",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PrinterId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Drive = table.Column<string>(type: "TEXT", nullable: false),
                    TubeLengthMm = table.Column<double>(type: "REAL", nullable: true),
                    StepsPerMm = table.Column<double>(type: "REAL", nullable: true),
                    RotationDistanceMm = table.Column<double>(type: "REAL", nullable: true),
                    FeedCheckedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Liner = table.Column<string>(type: "TEXT", nullable: false),
                    HeaterMaxC = table.Column<double>(type: "REAL", nullable: false),
                    LinerContinuousC = table.Column<double>(type: "REAL", nullable: true),
                    LinerHardC = table.Column<double>(type: "REAL", nullable: true),
                    OvershootC = table.Column<double>(type: "REAL", nullable: false),
                    NozzleDiameterMm = table.Column<double>(type: "REAL", nullable: false),
                    NozzleMaterial = table.Column<string>(type: "TEXT", nullable: false),
                    NozzleFlow = table.Column<string>(type: "TEXT", nullable: false),
                    NozzleMaxC = table.Column<double>(type: "REAL", nullable: true),
                    PartFan = table.Column<string>(type: "TEXT", nullable: true),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Toolheads", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Toolheads_Printers_PrinterId",
                        column: x => x.PrinterId,
                        principalTable: "Printers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Spools",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    FilamentId = table.Column<Guid>(type: "TEXT", nullable: false),
                    VariantId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Lot = table.Column<string>(type: "TEXT", nullable: true),
                    OpenedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Stored = table.Column<string>(type: "TEXT", nullable: true),
                    Slot = table.Column<string>(type: "TEXT", nullable: true),
                    ReelMassUg = table.Column<long>(type: "INTEGER", nullable: true),
                    World = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Spools", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Spools_FilamentVariants_VariantId",
                        column: x => x.VariantId,
                        principalTable: "FilamentVariants",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_Spools_Filaments_FilamentId",
                        column: x => x.FilamentId,
                        principalTable: "Filaments",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Pairings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    FilamentId = table.Column<Guid>(type: "TEXT", nullable: false),
                    VariantId = table.Column<Guid>(type: "TEXT", nullable: true),
                    ToolheadId = table.Column<Guid>(type: "TEXT", nullable: false),
                    NozzleDiameterMm = table.Column<double>(type: "REAL", nullable: false),
                    NozzleFlow = table.Column<string>(type: "TEXT", nullable: false),
                    Use = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    CopiedFromId = table.Column<Guid>(type: "TEXT", nullable: true),
                    World = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Pairings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Pairings_FilamentVariants_VariantId",
                        column: x => x.VariantId,
                        principalTable: "FilamentVariants",
                        principalColumn: "Id");
                    table.ForeignKey(
                        name: "FK_Pairings_Filaments_FilamentId",
                        column: x => x.FilamentId,
                        principalTable: "Filaments",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_Pairings_Toolheads_ToolheadId",
                        column: x => x.ToolheadId,
                        principalTable: "Toolheads",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Dryings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SpoolId = table.Column<Guid>(type: "TEXT", nullable: false),
                    DryerId = table.Column<Guid>(type: "TEXT", nullable: true),
                    StartAt = table.Column<long>(type: "INTEGER", nullable: false),
                    TemperatureC = table.Column<double>(type: "REAL", nullable: false),
                    Hours = table.Column<double>(type: "REAL", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: true),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Dryings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Dryings_Spools_SpoolId",
                        column: x => x.SpoolId,
                        principalTable: "Spools",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "SpoolDiameters",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SpoolId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    Place = table.Column<int>(type: "INTEGER", nullable: false),
                    Direction = table.Column<int>(type: "INTEGER", nullable: false),
                    Mm = table.Column<double>(type: "REAL", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SpoolDiameters", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SpoolDiameters_Spools_SpoolId",
                        column: x => x.SpoolId,
                        principalTable: "Spools",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "SpoolWeighings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SpoolId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    MassUg = table.Column<long>(type: "INTEGER", nullable: false),
                    Entered = table.Column<string>(type: "TEXT", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SpoolWeighings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_SpoolWeighings_Spools_SpoolId",
                        column: x => x.SpoolId,
                        principalTable: "Spools",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Revisions",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Why = table.Column<string>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    UndoesId = table.Column<Guid>(type: "TEXT", nullable: true),
                    CauseId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Revisions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Revisions_Pairings_PairingId",
                        column: x => x.PairingId,
                        principalTable: "Pairings",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Runs",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: true),
                    ToolheadId = table.Column<Guid>(type: "TEXT", nullable: true),
                    PrinterId = table.Column<Guid>(type: "TEXT", nullable: true),
                    InstrumentId = table.Column<Guid>(type: "TEXT", nullable: true),
                    LinkedRunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    LinkKind = table.Column<string>(type: "TEXT", nullable: true),
                    World = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Stage = table.Column<string>(type: "TEXT", nullable: false),
                    PlanVersion = table.Column<int>(type: "INTEGER", nullable: false),
                    PlanJson = table.Column<string>(type: "TEXT", nullable: false),
                    PrintStartedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    PrintedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Outcome = table.Column<string>(type: "TEXT", nullable: true),
                    EndedAtLayer = table.Column<int>(type: "INTEGER", nullable: true),
                    ForeseenMinutes = table.Column<int>(type: "INTEGER", nullable: true),
                    ActualMinutes = table.Column<int>(type: "INTEGER", nullable: true),
                    MassUg = table.Column<long>(type: "INTEGER", nullable: true),
                    DisplayFollowed = table.Column<bool>(type: "INTEGER", nullable: true),
                    ConditionsJson = table.Column<string>(type: "TEXT", nullable: true),
                    SettingsJson = table.Column<string>(type: "TEXT", nullable: true),
                    ReadAt = table.Column<long>(type: "INTEGER", nullable: true),
                    DecidedAt = table.Column<long>(type: "INTEGER", nullable: true),
                    Seed = table.Column<int>(type: "INTEGER", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    ChangedAt = table.Column<long>(type: "INTEGER", nullable: false),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Runs", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Runs_Pairings_PairingId",
                        column: x => x.PairingId,
                        principalTable: "Pairings",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "Settings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RevisionId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<double>(type: "REAL", nullable: false),
                    Uncertainty = table.Column<double>(type: "REAL", nullable: true),
                    Origin = table.Column<string>(type: "TEXT", nullable: false),
                    OriginText = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false),
                    StateWhy = table.Column<string>(type: "TEXT", nullable: true),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Settings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Settings_Revisions_RevisionId",
                        column: x => x.RevisionId,
                        principalTable: "Revisions",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Decisions",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Choice = table.Column<string>(type: "TEXT", nullable: false),
                    SettingKey = table.Column<string>(type: "TEXT", nullable: true),
                    Value = table.Column<double>(type: "REAL", nullable: true),
                    Why = table.Column<string>(type: "TEXT", nullable: true),
                    VerdictJson = table.Column<string>(type: "TEXT", nullable: false),
                    ReadingIdsJson = table.Column<string>(type: "TEXT", nullable: false),
                    EngineVersion = table.Column<string>(type: "TEXT", nullable: false),
                    Seed = table.Column<int>(type: "INTEGER", nullable: false),
                    RevisionId = table.Column<Guid>(type: "TEXT", nullable: true),
                    UndoneAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Decisions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Decisions_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "Findings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: true),
                    PairingId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Section = table.Column<int>(type: "INTEGER", nullable: true),
                    Tag = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: true),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    RemovedAt = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Findings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Findings_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id");
                });

            migrationBuilder.CreateTable(
                name: "Readings",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    RunId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    Section = table.Column<int>(type: "INTEGER", nullable: false),
                    Aspect = table.Column<string>(type: "TEXT", nullable: false),
                    Value = table.Column<double>(type: "REAL", nullable: true),
                    Entered = table.Column<string>(type: "TEXT", nullable: false),
                    At = table.Column<long>(type: "INTEGER", nullable: false),
                    PersonId = table.Column<Guid>(type: "TEXT", nullable: true),
                    InstrumentRevisionId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Resolution = table.Column<double>(type: "REAL", nullable: true),
                    SupersedesId = table.Column<Guid>(type: "TEXT", nullable: true),
                    Why = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Readings", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Readings_Runs_RunId",
                        column: x => x.RunId,
                        principalTable: "Runs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Decisions_RunId",
                table: "Decisions",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_Dryings_SpoolId",
                table: "Dryings",
                column: "SpoolId");

            migrationBuilder.CreateIndex(
                name: "IX_FilamentSources_FilamentId",
                table: "FilamentSources",
                column: "FilamentId");

            migrationBuilder.CreateIndex(
                name: "IX_FilamentVariants_FilamentId",
                table: "FilamentVariants",
                column: "FilamentId");

            migrationBuilder.CreateIndex(
                name: "IX_Findings_Key",
                table: "Findings",
                column: "Key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Findings_PairingId",
                table: "Findings",
                column: "PairingId");

            migrationBuilder.CreateIndex(
                name: "IX_Findings_RunId",
                table: "Findings",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_InstrumentRevisions_InstrumentId",
                table: "InstrumentRevisions",
                column: "InstrumentId");

            migrationBuilder.CreateIndex(
                name: "IX_Log_At",
                table: "Log",
                column: "At");

            migrationBuilder.CreateIndex(
                name: "IX_Pairings_FilamentId",
                table: "Pairings",
                column: "FilamentId");

            migrationBuilder.CreateIndex(
                name: "IX_Pairings_ToolheadId",
                table: "Pairings",
                column: "ToolheadId");

            migrationBuilder.CreateIndex(
                name: "IX_Pairings_VariantId",
                table: "Pairings",
                column: "VariantId");

            migrationBuilder.CreateIndex(
                name: "IX_Parts_PrinterId",
                table: "Parts",
                column: "PrinterId");

            migrationBuilder.CreateIndex(
                name: "IX_Readings_RunId_Key",
                table: "Readings",
                columns: new[] { "RunId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Readings_RunId_Section_Aspect_PersonId",
                table: "Readings",
                columns: new[] { "RunId", "Section", "Aspect", "PersonId" },
                unique: true,
                filter: "\"SupersedesId\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Readings_SupersedesId",
                table: "Readings",
                column: "SupersedesId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Revisions_PairingId_Number",
                table: "Revisions",
                columns: new[] { "PairingId", "Number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Room_At",
                table: "Room",
                column: "At");

            migrationBuilder.CreateIndex(
                name: "IX_Runs_PairingId",
                table: "Runs",
                column: "PairingId");

            migrationBuilder.CreateIndex(
                name: "IX_Runs_Stage",
                table: "Runs",
                column: "Stage");

            migrationBuilder.CreateIndex(
                name: "IX_Settings_RevisionId_Key",
                table: "Settings",
                columns: new[] { "RevisionId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_SpoolDiameters_SpoolId",
                table: "SpoolDiameters",
                column: "SpoolId");

            migrationBuilder.CreateIndex(
                name: "IX_SpoolWeighings_SpoolId",
                table: "SpoolWeighings",
                column: "SpoolId");

            migrationBuilder.CreateIndex(
                name: "IX_Spools_FilamentId",
                table: "Spools",
                column: "FilamentId");

            migrationBuilder.CreateIndex(
                name: "IX_Spools_VariantId",
                table: "Spools",
                column: "VariantId");

            migrationBuilder.CreateIndex(
                name: "IX_Toolheads_PrinterId",
                table: "Toolheads",
                column: "PrinterId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Decisions");

            migrationBuilder.DropTable(
                name: "Dryers");

            migrationBuilder.DropTable(
                name: "Dryings");

            migrationBuilder.DropTable(
                name: "FilamentSources");

            migrationBuilder.DropTable(
                name: "Findings");

            migrationBuilder.DropTable(
                name: "InstrumentRevisions");

            migrationBuilder.DropTable(
                name: "Log");

            migrationBuilder.DropTable(
                name: "Parts");

            migrationBuilder.DropTable(
                name: "People");

            migrationBuilder.DropTable(
                name: "Readings");

            migrationBuilder.DropTable(
                name: "Room");

            migrationBuilder.DropTable(
                name: "Settings");

            migrationBuilder.DropTable(
                name: "SpoolDiameters");

            migrationBuilder.DropTable(
                name: "SpoolWeighings");

            migrationBuilder.DropTable(
                name: "Instruments");

            migrationBuilder.DropTable(
                name: "Runs");

            migrationBuilder.DropTable(
                name: "Revisions");

            migrationBuilder.DropTable(
                name: "Spools");

            migrationBuilder.DropTable(
                name: "Pairings");

            migrationBuilder.DropTable(
                name: "FilamentVariants");

            migrationBuilder.DropTable(
                name: "Toolheads");

            migrationBuilder.DropTable(
                name: "Filaments");

            migrationBuilder.DropTable(
                name: "Printers");
        }
    }
}
