using Glenfrost.Core.Profiles;

namespace Glenfrost.Storage.Records;

/// <summary>Filament (and colour, where it earned its own) on a toolhead with a nozzle specification: the thing that is profiled.</summary>
public sealed class Pairing : EditableRecord
{
    /// <summary>The filament.</summary>
    public Guid FilamentId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public Filament? Filament { get; set; }
    /// <summary>The colour variant; null where it makes no difference.</summary>
    public Guid? VariantId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public FilamentVariant? Variant { get; set; }
    /// <summary>The toolhead.</summary>
    public Guid ToolheadId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public Toolhead? Toolhead { get; set; }
    /// <summary>Nozzle specification: diameter, mm.</summary>
    public double NozzleDiameterMm { get; set; }
    /// <summary>Nozzle specification: standard or high-flow.</summary>
    public string NozzleFlow { get; set; } = "standard";

    /// <summary>looks, fine detail, strength, speed, low mass or balanced.</summary>
    public string Use { get; set; } = "balanced";
    /// <summary>machine-first, temperature-first or speed-first, or keys of stations in the tester's own order; null for machine-first.</summary>
    public string? Route { get; set; }
    /// <summary>The order before the one that stands, for taking it back; empty for the default, null where none was changed.</summary>
    public string? RouteBefore { get; set; }
    /// <summary>When it is good enough and what that may cost, as the tester said; null where nobody did.</summary>
    public string? GoalJson { get; set; }
    /// <summary>Named variants of its profile, as the tester made them; null where nobody made one.</summary>
    public string? TiersJson { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedAt { get; set; }
    /// <summary>The pairing whose profile it began with; null where it began with the label.</summary>
    public Guid? CopiedFromId { get; set; }
    /// <summary>real or practice; nothing mixes the two.</summary>
    public string World { get; set; } = Worlds.Real;

    /// <summary>The revision that stands; null before the first one.</summary>
    public Guid? NewestRevisionId { get; set; }
    /// <summary>Its profile revisions; loaded where it was asked for.</summary>
    public List<ProfileRevision> Revisions { get; set; } = [];
    /// <summary>Its runs; loaded where it was asked for.</summary>
    public List<Run> Runs { get; set; } = [];

    /// <summary>Nozzle as it is called everywhere, for example "0.4 standard".</summary>
    public string NozzleName => FormattableString.Invariant($"{NozzleDiameterMm:0.##} {NozzleFlow}");
}

/// <summary>A profile as it stood; revisions are kept.</summary>
public sealed class ProfileRevision : Record
{
    /// <summary>The pairing that it is of.</summary>
    public Guid PairingId { get; set; }
    /// <summary>From 1, within the pairing.</summary>
    public int Number { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>The reason that stands with it.</summary>
    public required string Why { get; set; }
    /// <summary>The run that it came from; null for none.</summary>
    public Guid? RunId { get; set; }

    /// <summary>The revision whose settings this one brought back; null where it is no undo.</summary>
    public Guid? UndoesId { get; set; }

    /// <summary>The decision or part that caused it; null where somebody typed.</summary>
    public Guid? CauseId { get; set; }
    /// <summary>All values of the profile as they were then.</summary>
    public List<SettingRow> Settings { get; set; } = [];
}

/// <summary>One setting of a revision.</summary>
public sealed class SettingRow : Record
{
    /// <summary>The revision.</summary>
    public Guid RevisionId { get; set; }
    /// <summary>Key of a setting, as the registry has it.</summary>
    public required string Key { get; set; }
    /// <summary>In the setting's unit; 0 for words.</summary>
    public double Value { get; set; }
    /// <summary>95 % half-width, in the unit; null where nobody knows.</summary>
    public double? Uncertainty { get; set; }

    /// <summary>The word of a setting that is no number.</summary>
    public string? Word { get; set; }

    /// <summary>Nozzle temperature that it was found at, °C; null where it has no such condition.</summary>
    public double? AtC { get; set; }

    /// <summary>What else it was found with, in words.</summary>
    public string? FoundWith { get; set; }
    /// <summary>Where the value comes from.</summary>
    public SettingOrigin Origin { get; set; }
    /// <summary>The same in words, with the year.</summary>
    public required string OriginText { get; set; }

    /// <summary>The state that versions before evidence kept here. History: no rule reads it, and new rows have none.</summary>
    public SettingState? State { get; set; }

    /// <summary>See <see cref="State"/>.</summary>
    public string? StateWhy { get; set; }
    /// <summary>The run that found it; null for none.</summary>
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
    /// <summary>Key of its trial.</summary>
    public required string Kind { get; set; }

    /// <summary>Counts the runs of a subject and kind, from 1.</summary>
    public int Number { get; set; }
    /// <summary>The pairing that it is carried out on; null for a run of a machine.</summary>
    public Guid? PairingId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public Pairing? Pairing { get; set; }
    /// <summary>The toolhead that it is carried out on; null for a run of a pairing.</summary>
    public Guid? ToolheadId { get; set; }
    /// <summary>The printer that it is carried out on; null for others.</summary>
    public Guid? PrinterId { get; set; }
    /// <summary>The instrument that it is carried out on; null for others.</summary>
    public Guid? InstrumentId { get; set; }
    /// <summary>The run that it is linked to; null for none.</summary>
    public Guid? LinkedRunId { get; set; }
    /// <summary>follows, swap of, pair with or check of; null for none.</summary>
    public string? LinkKind { get; set; }
    /// <summary>Name of the tier whose values it was planned with; null for the profile's own.</summary>
    public string? Tier { get; set; }

    /// <summary>True where the pairing's cool-down was left out of this run's file on purpose; null where nobody asked.</summary>
    public bool? LeftToCool { get; set; }
    /// <summary>real or practice; nothing mixes the two.</summary>
    public string World { get; set; } = Worlds.Real;
    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedAt { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>planned, printed, read, decided or left.</summary>
    public string Stage { get; set; } = RunStages.Planned;
    /// <summary>Version of the stored plan.</summary>
    public int PlanVersion { get; set; }
    /// <summary>The plan as its trial stores it.</summary>
    public required string PlanJson { get; set; }
    /// <summary>When the print began, UTC; null before.</summary>
    public DateTime? PrintStartedAt { get; set; }
    /// <summary>When the print was reported ended, UTC; null before.</summary>
    public DateTime? PrintedAt { get; set; }

    /// <summary>whole, ended early.</summary>
    public string? Outcome { get; set; }
    /// <summary>Layer at which it ended early; null for a whole piece.</summary>
    public int? EndedAtLayer { get; set; }
    /// <summary>Minutes that the file was estimated at; null without a file.</summary>
    public int? ForeseenMinutes { get; set; }

    /// <summary>Foreseen by the file and by what this printer took before.</summary>
    public int? ReestimatedMinutes { get; set; }
    /// <summary>Minutes that it took; null where nobody said.</summary>
    public int? ActualMinutes { get; set; }
    /// <summary>Mass of the piece, µg; null where nobody weighed it.</summary>
    public long? MassUg { get; set; }
    /// <summary>True where the display followed the table; null where nobody looked.</summary>
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
    /// <summary>When reading was finished, UTC; null before.</summary>
    public DateTime? ReadAt { get; set; }
    /// <summary>When it was decided on, UTC; null before.</summary>
    public DateTime? DecidedAt { get; set; }
    /// <summary>Seeds what is drawn by chance, so that it can be drawn again.</summary>
    public int Seed { get; set; }
    /// <summary>Its readings, superseded ones too; loaded where it was asked for.</summary>
    public List<Reading> Readings { get; set; } = [];
    /// <summary>Its decisions, undone ones too; loaded where it was asked for.</summary>
    public List<Decision> Decisions { get; set; } = [];
    /// <summary>Its findings; loaded where it was asked for.</summary>
    public List<Finding> Findings { get; set; } = [];
    /// <summary>Its files; loaded where it was asked for.</summary>
    public List<RunFile> Files { get; set; } = [];
    /// <summary>Its photos; loaded where it was asked for.</summary>
    public List<Photo> Photos { get; set; } = [];
    /// <summary>What was learned of it later; loaded where it was asked for.</summary>
    public List<FactorEntry> FactorEntries { get; set; } = [];
}

/// <summary>A file of a run, kept by the hash of its content outside the database. A newer plan brings a newer file; older ones stay.</summary>
public sealed class RunFile : Record
{
    /// <summary>The run that it belongs to.</summary>
    public Guid RunId { get; set; }

    /// <summary>What it is: gcode.</summary>
    public required string Kind { get; set; }

    /// <summary>Name under which it is handed out; never a path.</summary>
    public required string Name { get; set; }

    /// <summary>SHA-256 of its content, 64 small hexadecimal digits.</summary>
    public required string Sha256 { get; set; }
    /// <summary>Size, bytes.</summary>
    public long Bytes { get; set; }
    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedAt { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>When another plan took its place that has no file: it is not handed out any more.</summary>
    public DateTime? RetiredAt { get; set; }
}

/// <summary>The stages of a run, as stored.</summary>
public static class RunStages
{
    /// <summary>Planned; nothing is printed.</summary>
    public const string Planned = "planned";
    /// <summary>Printed; readings are missing.</summary>
    public const string Printed = "printed";
    /// <summary>Read; nothing is decided.</summary>
    public const string Read = "read";
    /// <summary>Decided: kept, or an own choice.</summary>
    public const string Decided = "decided";
    /// <summary>The profile was left as it is.</summary>
    public const string Left = "left";
}

/// <summary>One measured or judged value. Never overwritten: a correction supersedes it and says why.</summary>
public sealed class Reading : Record
{
    /// <summary>The run that it belongs to.</summary>
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
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>The instrument that read it, as it was; null for eyes and hands of the person.</summary>
    public Guid? InstrumentRevisionId { get; set; }

    /// <summary>The device that posted it or on which it was typed; null at the bench itself.</summary>
    public Guid? DeviceId { get; set; }
    /// <summary>Smallest step of the reading, in its unit; null where there is none.</summary>
    public double? Resolution { get; set; }
    /// <summary>The reading that it corrects; null for the first one of its cell.</summary>
    public Guid? SupersedesId { get; set; }
    /// <summary>The reason of a correction; null for the first one and for slips.</summary>
    public string? Why { get; set; }
}

/// <summary>What was decided on a verdict, with the verdict as it was shown.</summary>
public sealed class Decision : Record
{
    /// <summary>The run that it belongs to.</summary>
    public Guid RunId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>kept, own choice or left.</summary>
    public required string Choice { get; set; }
    /// <summary>The setting that was kept; null where none was.</summary>
    public string? SettingKey { get; set; }
    /// <summary>The kept value, in the setting's unit; null where none was.</summary>
    public double? Value { get; set; }
    /// <summary>The reason in words; null where none was asked.</summary>
    public string? Why { get; set; }
    /// <summary>The verdict as it was shown.</summary>
    public required string VerdictJson { get; set; }
    /// <summary>The readings that it rested on.</summary>
    public required string ReadingIdsJson { get; set; }
    /// <summary>Version of the rules that made the verdict.</summary>
    public required string EngineVersion { get; set; }
    /// <summary>Seeds what is drawn by chance, so that it can be drawn again.</summary>
    public int Seed { get; set; }
    /// <summary>The profile revision that it wrote; null for none.</summary>
    public Guid? RevisionId { get; set; }
    /// <summary>When it was undone, UTC; null while it stands.</summary>
    public DateTime? UndoneAt { get; set; }
}

/// <summary>A tagged remark on a run or pairing.</summary>
public sealed class Finding : Record
{
    /// <summary>Made by the client; the same key is stored once.</summary>
    public string Key { get; set; } = Guid.CreateVersion7().ToString();
    /// <summary>The run that it was seen on; null for one of the pairing.</summary>
    public Guid? RunId { get; set; }
    /// <summary>The pairing that it is of; null for one of a machine's run.</summary>
    public Guid? PairingId { get; set; }
    /// <summary>Part of the piece, from 0; null for the whole.</summary>
    public int? Section { get; set; }
    /// <summary>What was seen, in a word or two.</summary>
    public required string Tag { get; set; }
    /// <summary>In words; null for none.</summary>
    public string? Text { get; set; }

    /// <summary>The photo that shows it.</summary>
    public Guid? PhotoId { get; set; }

    /// <summary>Key of a setting that is known good in practice; null for other findings.</summary>
    public string? SettingKey { get; set; }

    /// <summary>Its value, in the key's unit.</summary>
    public double? SettingValue { get; set; }

    /// <summary>Nozzle temperature at which it is, °C; null where nobody said.</summary>
    public double? AtC { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>Everything that happened.</summary>
public sealed class LogEntry : Record
{
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>filament, spool, printer, pairing, run, reading, photo, finding, tried, profile, room, device, import or person.</summary>
    public required string Kind { get; set; }
    /// <summary>What happened.</summary>
    public required string Text { get; set; }
    /// <summary>Where it can be seen; null for nowhere.</summary>
    public string? Link { get; set; }

    /// <summary>What takes it back, as the undo page reads it; null where nothing does.</summary>
    public string? Undo { get; set; }

    /// <summary>When it was taken back.</summary>
    public DateTime? UndoneAt { get; set; }

    /// <summary>How many alike things this line stands for; null for one.</summary>
    public int? Count { get; set; }
}
