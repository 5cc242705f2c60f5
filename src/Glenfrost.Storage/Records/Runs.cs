using Glenfrost.Core.Profiles;

namespace Glenfrost.Storage.Records;

/// <summary>Filament (and colour, where it earned its own) on a toolhead with a nozzle specification: the thing that is profiled.</summary>
public sealed class Pairing : EditableRecord
{
    public Guid FilamentId { get; set; }
    public Filament? Filament { get; set; }
    public Guid? VariantId { get; set; }
    public FilamentVariant? Variant { get; set; }
    public Guid ToolheadId { get; set; }
    public Toolhead? Toolhead { get; set; }
    public double NozzleDiameterMm { get; set; }
    public string NozzleFlow { get; set; } = "standard";

    /// <summary>looks, fine detail, strength, speed, low mass or balanced.</summary>
    public string Use { get; set; } = "balanced";
    public DateTime CreatedAt { get; set; }
    public Guid? CopiedFromId { get; set; }
    public string World { get; set; } = Worlds.Real;

    /// <summary>The revision that stands; null before the first one.</summary>
    public Guid? NewestRevisionId { get; set; }
    public List<ProfileRevision> Revisions { get; set; } = [];
    public List<Run> Runs { get; set; } = [];

    /// <summary>Nozzle as it is called everywhere, for example "0.4 standard".</summary>
    public string NozzleName => FormattableString.Invariant($"{NozzleDiameterMm:0.##} {NozzleFlow}");
}

/// <summary>A profile as it stood; revisions are kept.</summary>
public sealed class ProfileRevision : Record
{
    public Guid PairingId { get; set; }
    public int Number { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public required string Why { get; set; }
    public Guid? RunId { get; set; }

    /// <summary>The revision whose settings this one brought back; null where it is no undo.</summary>
    public Guid? UndoesId { get; set; }

    /// <summary>The decision or part that caused it; null where somebody typed.</summary>
    public Guid? CauseId { get; set; }
    public List<SettingRow> Settings { get; set; } = [];
}

/// <summary>One setting of a revision.</summary>
public sealed class SettingRow : Record
{
    public Guid RevisionId { get; set; }
    public required string Key { get; set; }
    public double Value { get; set; }
    public double? Uncertainty { get; set; }

    /// <summary>The word of a setting that is no number.</summary>
    public string? Word { get; set; }

    /// <summary>Nozzle temperature that it was found at, °C; null where it has no such condition.</summary>
    public double? AtC { get; set; }

    /// <summary>What else it was found with, in words.</summary>
    public string? FoundWith { get; set; }
    public SettingOrigin Origin { get; set; }
    public required string OriginText { get; set; }

    /// <summary>The state that versions before evidence kept here. History: no rule reads it, and new rows have none.</summary>
    public SettingState? State { get; set; }

    /// <summary>See <see cref="State"/>.</summary>
    public string? StateWhy { get; set; }
    public Guid? RunId { get; set; }

    /// <summary>The value with the state that the evidence gives it.</summary>
    public ProfileSetting ToCore(SettingState state, string? why) =>
        new(Key, Value, Uncertainty, Origin, OriginText, state, why, RunId) { Word = Word, AtC = AtC, FoundWith = FoundWith };

    /// <summary>The value as it is kept: without a state.</summary>
    public static SettingRow From(ProfileSetting s) => new()
    {
        Key = s.Key,
        Value = s.Value,
        Uncertainty = s.Uncertainty,
        Word = s.Word,
        AtC = s.AtC,
        FoundWith = s.FoundWith,
        Origin = s.Origin,
        OriginText = s.OriginText,
        RunId = s.RunId,
    };
}

/// <summary>One trial carried out on one subject.</summary>
public sealed class Run : EditableRecord
{
    public required string Kind { get; set; }

    /// <summary>Counts the runs of a subject and kind, from 1.</summary>
    public int Number { get; set; }
    public Guid? PairingId { get; set; }
    public Pairing? Pairing { get; set; }
    public Guid? ToolheadId { get; set; }
    public Guid? PrinterId { get; set; }
    public Guid? InstrumentId { get; set; }
    public Guid? LinkedRunId { get; set; }
    public string? LinkKind { get; set; }
    public string World { get; set; } = Worlds.Real;
    public DateTime CreatedAt { get; set; }
    public Guid? PersonId { get; set; }

    /// <summary>planned, printed, read, decided or left.</summary>
    public string Stage { get; set; } = RunStages.Planned;
    public int PlanVersion { get; set; }
    public required string PlanJson { get; set; }
    public DateTime? PrintStartedAt { get; set; }
    public DateTime? PrintedAt { get; set; }

    /// <summary>whole, ended early.</summary>
    public string? Outcome { get; set; }
    public int? EndedAtLayer { get; set; }
    public int? ForeseenMinutes { get; set; }

    /// <summary>Foreseen by the file and by what this printer took before.</summary>
    public int? ReestimatedMinutes { get; set; }
    public int? ActualMinutes { get; set; }
    public long? MassUg { get; set; }
    public bool? DisplayFollowed { get; set; }

    /// <summary>
    /// What it was really made with, see <see cref="Core.Factors.FactorSet"/>; a draft until the print is reported ended. Null for a run of an earlier version
    /// that is not filled in yet.
    /// </summary>
    public string? FactorsJson { get; set; }

    /// <summary>Conditions as earlier versions kept them; read once, when factors are filled in.</summary>
    public string? ConditionsJson { get; set; }

    /// <summary>The profile as it stood when the run was planned, as earlier versions kept it.</summary>
    public string? SettingsJson { get; set; }
    public DateTime? ReadAt { get; set; }
    public DateTime? DecidedAt { get; set; }
    public int Seed { get; set; }
    public List<Reading> Readings { get; set; } = [];
    public List<Decision> Decisions { get; set; } = [];
    public List<Finding> Findings { get; set; } = [];
    public List<RunFile> Files { get; set; } = [];
    public List<Photo> Photos { get; set; } = [];
    public List<FactorEntry> FactorEntries { get; set; } = [];
}

/// <summary>A file of a run, kept by the hash of its content outside the database. A newer plan brings a newer file; older ones stay.</summary>
public sealed class RunFile : Record
{
    public Guid RunId { get; set; }

    /// <summary>What it is: gcode.</summary>
    public required string Kind { get; set; }

    /// <summary>Name under which it is handed out; never a path.</summary>
    public required string Name { get; set; }

    /// <summary>SHA-256 of its content, 64 small hexadecimal digits.</summary>
    public required string Sha256 { get; set; }
    public long Bytes { get; set; }
    public DateTime CreatedAt { get; set; }
    public Guid? PersonId { get; set; }

    /// <summary>When another plan took its place that has no file: it is not handed out any more.</summary>
    public DateTime? RetiredAt { get; set; }
}

/// <summary>The stages of a run, as stored.</summary>
public static class RunStages
{
    public const string Planned = "planned";
    public const string Printed = "printed";
    public const string Read = "read";
    public const string Decided = "decided";
    public const string Left = "left";
}

/// <summary>One measured or judged value. Never overwritten: a correction supersedes it and says why.</summary>
public sealed class Reading : Record
{
    public Guid RunId { get; set; }

    /// <summary>Made by the client; the same key is stored once.</summary>
    public required string Key { get; set; }

    /// <summary>Section from 0, lowest first.</summary>
    public int Section { get; set; }

    /// <summary>Aspect, or state, or observedC.</summary>
    public required string Aspect { get; set; }

    /// <summary>The number; null for words and for an emptied cell.</summary>
    public double? Value { get; set; }

    /// <summary>As it was entered; empty for an emptied cell.</summary>
    public required string Entered { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public Guid? InstrumentRevisionId { get; set; }

    /// <summary>The device that posted it or on which it was typed; null at the bench itself.</summary>
    public Guid? DeviceId { get; set; }
    public double? Resolution { get; set; }
    public Guid? SupersedesId { get; set; }
    public string? Why { get; set; }
}

/// <summary>What was decided on a verdict, with the verdict as it was shown.</summary>
public sealed class Decision : Record
{
    public Guid RunId { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }

    /// <summary>kept, own choice or left.</summary>
    public required string Choice { get; set; }
    public string? SettingKey { get; set; }
    public double? Value { get; set; }
    public string? Why { get; set; }
    public required string VerdictJson { get; set; }
    public required string ReadingIdsJson { get; set; }
    public required string EngineVersion { get; set; }
    public int Seed { get; set; }
    public Guid? RevisionId { get; set; }
    public DateTime? UndoneAt { get; set; }
}

/// <summary>A tagged remark on a run or pairing.</summary>
public sealed class Finding : Record
{
    public string Key { get; set; } = Guid.CreateVersion7().ToString();
    public Guid? RunId { get; set; }
    public Guid? PairingId { get; set; }
    public int? Section { get; set; }
    public required string Tag { get; set; }
    public string? Text { get; set; }

    /// <summary>The photo that shows it.</summary>
    public Guid? PhotoId { get; set; }

    /// <summary>Key of a setting that is known good in practice; null for other findings.</summary>
    public string? SettingKey { get; set; }

    /// <summary>Its value, in the key's unit.</summary>
    public double? SettingValue { get; set; }

    /// <summary>Nozzle temperature at which it is, °C; null where nobody said.</summary>
    public double? AtC { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>Everything that happened.</summary>
public sealed class LogEntry : Record
{
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }

    /// <summary>filament, spool, printer, pairing, run, reading, photo, finding, tried, profile, room, device, import or person.</summary>
    public required string Kind { get; set; }
    public required string Text { get; set; }
    public string? Link { get; set; }

    /// <summary>What takes it back, as the undo page reads it; null where nothing does.</summary>
    public string? Undo { get; set; }

    /// <summary>When it was taken back.</summary>
    public DateTime? UndoneAt { get; set; }

    /// <summary>How many alike things this line stands for; null for one.</summary>
    public int? Count { get; set; }
}
