namespace Glenfrost.Storage.Records;

/// <summary>A record with a lasting id (UUIDv7, so that ids sort by time).</summary>
public abstract class Record
{
    /// <summary>Lasting id.</summary>
    public Guid Id { get; set; } = Guid.CreateVersion7();
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
    public required string Name { get; set; }

    /// <summary>True for somebody who came in with an import and does not work at this bench.</summary>
    public bool Elsewhere { get; set; }
}

/// <summary>A filament as a product.</summary>
public sealed class Filament : EditableRecord
{
    public required string Maker { get; set; }
    public required string Line { get; set; }
    public required string Family { get; set; }
    public string? Additive { get; set; }
    public double DiameterMm { get; set; } = 1.75;
    public double? SolidDensityGPerCm3 { get; set; }

    /// <summary>Price in minor units (cents) of <see cref="Currency"/>.</summary>
    public long? PriceMinor { get; set; }
    public string? Currency { get; set; }
    public long? NetMassUg { get; set; }
    public double? DryingC { get; set; }
    public double? DryingHours { get; set; }
    public string? DryingNote { get; set; }
    public string? Notes { get; set; }
    public List<FilamentSource> Sources { get; set; } = [];
    public List<FilamentVariant> Variants { get; set; } = [];
    public List<Spool> Spools { get; set; } = [];

    /// <summary>Maker and line, as it is called everywhere.</summary>
    public string Name => $"{Maker} {Line}";
}

/// <summary>What one source (reel, box, data sheet, web page) says. Sources may contradict each other: all are kept.</summary>
public sealed class FilamentSource : Record
{
    public Guid FilamentId { get; set; }
    public required string Kind { get; set; }
    public double? NozzleMinC { get; set; }
    public double? NozzleMaxC { get; set; }
    public double? BedMinC { get; set; }
    public double? BedMaxC { get; set; }
    public string? Note { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A colour of a product.</summary>
public sealed class FilamentVariant : Record
{
    public Guid FilamentId { get; set; }
    public required string Colour { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>One physical reel.</summary>
public sealed class Spool : EditableRecord
{
    public Guid FilamentId { get; set; }
    public Filament? Filament { get; set; }
    public Guid? VariantId { get; set; }
    public FilamentVariant? Variant { get; set; }
    public required string Name { get; set; }
    public string? Lot { get; set; }
    public DateTime? OpenedAt { get; set; }
    public string? Stored { get; set; }
    public string? Slot { get; set; }
    public long? ReelMassUg { get; set; }

    /// <summary>What the reel bears while it dries, °C; null for the usual.</summary>
    public double? ReelMaxC { get; set; }

    /// <summary>real or practice; runs never mix worlds.</summary>
    public string World { get; set; } = Worlds.Real;
    public List<SpoolDiameter> Diameters { get; set; } = [];
    public List<SpoolWeighing> Weighings { get; set; } = [];
    public List<DryingEntry> Dryings { get; set; } = [];
}

public sealed class SpoolDiameter : Record
{
    public Guid SpoolId { get; set; }
    public DateTime At { get; set; }
    public int Place { get; set; }
    public int Direction { get; set; }
    public double Mm { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

public sealed class SpoolWeighing : Record
{
    public Guid SpoolId { get; set; }
    public DateTime At { get; set; }

    /// <summary>Filament and reel together, micrograms.</summary>
    public long MassUg { get; set; }
    public required string Entered { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

public sealed class DryingEntry : Record
{
    public Guid SpoolId { get; set; }
    public Guid? DryerId { get; set; }
    public DateTime StartAt { get; set; }
    public double TemperatureC { get; set; }
    public double Hours { get; set; }
    public string? Note { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

public sealed class Dryer : EditableRecord
{
    public required string Name { get; set; }
    public double MaxC { get; set; }
    public string? Note { get; set; }
}

public sealed class RoomEntry : Record
{
    public DateTime At { get; set; }
    public double TemperatureC { get; set; }
    public double? HumidityPercent { get; set; }
    public Guid? PersonId { get; set; }
}

/// <summary>The two worlds.</summary>
public static class Worlds
{
    public const string Real = "real";
    public const string Practice = "practice";
}
