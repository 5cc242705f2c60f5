namespace Glenfrost.Storage.Records;

/// <summary>A record with a lasting id (UUIDv7, so that ids sort by time).</summary>
public abstract class Record
{
    /// <summary>Lasting id.</summary>
    public Guid Id { get; set; } = Ids.New();
}

/// <summary>A record that is edited in a form: its version tells a stale form, its removal can be undone.</summary>
public abstract class EditableRecord : Record
{
    /// <summary>Counts edits.</summary>
    public int Version { get; set; } = 1;

    /// <summary>Last edit, UTC.</summary>
    public DateTime ChangedAt { get; set; }

    /// <summary>Removed at, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>Somebody at the bench; on every reading and decision.</summary>
public sealed class Person : Record
{
    /// <summary>As the person is called.</summary>
    public required string Name { get; set; }

    /// <summary>True for somebody who came in with an import and does not work at this bench.</summary>
    public bool Elsewhere { get; set; }
}

/// <summary>A filament as a product.</summary>
public sealed class Filament : EditableRecord
{
    /// <summary>Who makes it, as the label says.</summary>
    public required string Maker { get; set; }
    /// <summary>Name of the product.</summary>
    public required string Line { get; set; }
    /// <summary>Key of the polymer family.</summary>
    public required string Family { get; set; }
    /// <summary>Fibre, wood, foaming agent …; null for none.</summary>
    public string? Additive { get; set; }
    /// <summary>Nominal diameter, mm.</summary>
    public double DiameterMm { get; set; } = 1.75;
    /// <summary>Of the solid, g/cm³; null for the family's.</summary>
    public double? SolidDensityGPerCm3 { get; set; }

    /// <summary>Price in minor units (cents) of <see cref="Currency"/>.</summary>
    public long? PriceMinor { get; set; }
    /// <summary>Of the price; null without one.</summary>
    public string? Currency { get; set; }
    /// <summary>Filament on a full spool, µg; null where nobody said.</summary>
    public long? NetMassUg { get; set; }
    /// <summary>What the maker says, °C; null for the family's.</summary>
    public double? DryingC { get; set; }
    /// <summary>What the maker says, h; null for the family's.</summary>
    public double? DryingHours { get; set; }
    /// <summary>What else the maker says of drying; null for nothing.</summary>
    public string? DryingNote { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Notes { get; set; }
    /// <summary>The tester's words of its report, as JSON; null for none.</summary>
    public string? ReportJson { get; set; }
    /// <summary>What label, reel and page say; loaded where it was asked for.</summary>
    public List<FilamentSource> Sources { get; set; } = [];
    /// <summary>Its colours; loaded where it was asked for.</summary>
    public List<FilamentVariant> Variants { get; set; } = [];
    /// <summary>Its spools; loaded where it was asked for.</summary>
    public List<Spool> Spools { get; set; } = [];

    /// <summary>Maker and line, as it is called everywhere.</summary>
    public string Name => $"{Maker} {Line}";
}

/// <summary>What one source (reel, box, data sheet, web page) says. Sources may contradict each other: all are kept.</summary>
public sealed class FilamentSource : Record
{
    /// <summary>The filament that it is of.</summary>
    public Guid FilamentId { get; set; }
    /// <summary>label, reel, page or other.</summary>
    public required string Kind { get; set; }
    /// <summary>Lowest nozzle that it advises, °C; null where it says none.</summary>
    public double? NozzleMinC { get; set; }
    /// <summary>Hottest nozzle that it advises, °C; null where it says none.</summary>
    public double? NozzleMaxC { get; set; }
    /// <summary>Lowest bed that it advises, °C; null where it says none.</summary>
    public double? BedMinC { get; set; }
    /// <summary>Hottest bed that it advises, °C; null where it says none.</summary>
    public double? BedMaxC { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A colour of a product.</summary>
public sealed class FilamentVariant : Record
{
    /// <summary>The filament that it is of.</summary>
    public Guid FilamentId { get; set; }
    /// <summary>As the maker or tester calls it.</summary>
    public required string Colour { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>One physical reel.</summary>
public sealed class Spool : EditableRecord
{
    /// <summary>The filament that it is of.</summary>
    public Guid FilamentId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public Filament? Filament { get; set; }
    /// <summary>The colour variant; null where it makes no difference.</summary>
    public Guid? VariantId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public FilamentVariant? Variant { get; set; }
    /// <summary>As it is called here, for example H-07.</summary>
    public required string Name { get; set; }
    /// <summary>The maker's batch; null where nobody wrote it down.</summary>
    public string? Lot { get; set; }
    /// <summary>When it was opened, UTC; null while it is sealed, or where nobody knows.</summary>
    public DateTime? OpenedAt { get; set; }
    /// <summary>How it is stored, in words; null where nobody said.</summary>
    public string? Stored { get; set; }
    /// <summary>Where it stands; null where nobody said.</summary>
    public string? Slot { get; set; }
    /// <summary>Mass of the empty reel, µg; null where nobody knows.</summary>
    public long? ReelMassUg { get; set; }

    /// <summary>What the reel bears while it dries, °C; null for the usual.</summary>
    public double? ReelMaxC { get; set; }

    /// <summary>Flow that this spool wants against the profile's multiplier, %; null where it runs as its filament does.</summary>
    public double? TrimPercent { get; set; }
    /// <summary>How that was found, in words; null without one.</summary>
    public string? TrimWhy { get; set; }
    /// <summary>The run that showed it; null where it was typed.</summary>
    public Guid? TrimRunId { get; set; }
    /// <summary>When, UTC; null without one.</summary>
    public DateTime? TrimAt { get; set; }

    /// <summary>real or practice; runs never mix worlds.</summary>
    public string World { get; set; } = Worlds.Real;
    /// <summary>Its diameter readings; loaded where it was asked for.</summary>
    public List<SpoolDiameter> Diameters { get; set; } = [];
    /// <summary>Its weighings; loaded where it was asked for.</summary>
    public List<SpoolWeighing> Weighings { get; set; } = [];
    /// <summary>Its dryings; loaded where it was asked for.</summary>
    public List<DryingEntry> Dryings { get; set; } = [];
    /// <summary>Where it lay since when; loaded where it was asked for.</summary>
    public List<SpoolStay> Stays { get; set; } = [];
}

/// <summary>A diameter reading of a spool.</summary>
public sealed class SpoolDiameter : Record
{
    /// <summary>The spool.</summary>
    public Guid SpoolId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Place along the filament, from 1.</summary>
    public int Place { get; set; }
    /// <summary>Direction across it, 1 or 2.</summary>
    public int Direction { get; set; }
    /// <summary>Diameter, mm.</summary>
    public double Mm { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A weighing of a spool, reel included.</summary>
public sealed class SpoolWeighing : Record
{
    /// <summary>The spool.</summary>
    public Guid SpoolId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }

    /// <summary>Filament and reel together, micrograms.</summary>
    public long MassUg { get; set; }
    /// <summary>As it was entered.</summary>
    public required string Entered { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A drying of a spool.</summary>
public sealed class DryingEntry : Record
{
    /// <summary>The spool.</summary>
    public Guid SpoolId { get; set; }
    /// <summary>The dryer; null where nobody said.</summary>
    public Guid? DryerId { get; set; }
    /// <summary>When it began, UTC.</summary>
    public DateTime StartAt { get; set; }
    /// <summary>At what temperature, °C.</summary>
    public double TemperatureC { get; set; }
    /// <summary>For how long, h.</summary>
    public double Hours { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>Where a spool lies from a moment on.</summary>
public sealed class SpoolStay : Record
{
    /// <summary>The spool.</summary>
    public Guid SpoolId { get; set; }
    /// <summary>Since when, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>open, dry-box or sealed: see <see cref="Core.Filaments.SpoolPlaces"/>.</summary>
    public required string Place { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A dryer.</summary>
public sealed class Dryer : EditableRecord
{
    /// <summary>As testers call it.</summary>
    public required string Name { get; set; }
    /// <summary>What it reaches, °C.</summary>
    public double MaxC { get; set; }
    /// <summary>Mean of what it draws, W; null where nobody measured or typed it.</summary>
    public double? PowerW { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }
}

/// <summary>A line of the room log.</summary>
public sealed class RoomEntry : Record
{
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Air of the room, °C.</summary>
    public double TemperatureC { get; set; }
    /// <summary>Relative humidity, %; null where it was not read.</summary>
    public double? HumidityPercent { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
}

/// <summary>The two worlds.</summary>
public static class Worlds
{
    /// <summary>Real pieces, spools and profiles.</summary>
    public const string Real = "real";
    /// <summary>The practice bench.</summary>
    public const string Practice = "practice";
}
