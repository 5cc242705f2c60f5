using System.Globalization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Profiles;

/// <summary>What a name in a table may mean here.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Names">All names that it goes by; the first is the full one.</param>
public record Named(Guid Id, IReadOnlyList<string> Names);

/// <summary>A toolhead that notes may speak of, with its nozzle limits, °C.</summary>
public sealed record NamedToolhead(Guid Id, IReadOnlyList<string> Names, double MinC, double MaxC, double BedMaxC) : Named(Id, Names);

/// <summary>One row of old notes, understood.</summary>
/// <param name="FilamentId">The filament.</param>
/// <param name="ToolheadId">The toolhead.</param>
/// <param name="Date">Its day; null where none is given.</param>
/// <param name="Settings">Settings by key, in the key's unit.</param>
/// <param name="Note">What else was written.</param>
/// <param name="Tag">Its finding; null where none is given.</param>
public sealed record OldNote(Guid FilamentId, Guid ToolheadId, DateTime? Date, IReadOnlyDictionary<string, double> Settings, string? Note, string? Tag);

/// <summary>How days are written in a table.</summary>
public enum DayForm
{
    /// <summary>2025-03-31.</summary>
    YearFirst,

    /// <summary>31.3.2025 or 31/3/2025.</summary>
    DayFirst,

    /// <summary>3/31/2025.</summary>
    MonthFirst,
}

/// <summary>Reads tables of old notes: which column means what, and what each row says.</summary>
public static class OldNotes
{
    /// <summary>Field of the filament's name.</summary>
    public const string Filament = "filament";
    /// <summary>Field of the toolhead's name.</summary>
    public const string Toolhead = "toolhead";
    /// <summary>Field of the day.</summary>
    public const string Date = "date";
    /// <summary>Field of the note.</summary>
    public const string Note = "note";
    /// <summary>Field of what was seen.</summary>
    public const string Finding = "finding";

    private const int LongestNote = 1000;

    private static readonly (string Target, string[] Words)[] Headers =
    [
        (Filament, ["filament", "material", "spool", "product"]),
        (Toolhead, ["printer", "toolhead", "machine", "head"]),
        (Date, ["date", "day", "when"]),
        (Finding, ["finding", "problem", "fault", "issue"]),
        (Note, ["note", "notes", "remark", "remarks", "comment", "comments"]),
        ("firstLayerNozzleTemperatureC", ["first layer nozzle", "first layer temperature", "first layer temp", "nozzle first layer"]),
        ("firstLayerBedTemperatureC", ["first layer bed", "bed first layer"]),
        ("bedTemperatureC", ["bed", "bed temperature", "bed temp"]),
        ("nozzleTemperatureC", ["nozzle", "nozzle temperature", "nozzle temp", "hotend", "temperature", "temp"]),
        ("extrusionMultiplier", ["extrusion multiplier", "multiplier", "flow", "flow ratio"]),
        ("maxVolumetricFlowMm3PerS", ["flow limit", "max flow", "volumetric", "volumetric flow", "maximum volumetric speed"]),
        ("retractionLengthMm", ["retraction", "retract", "retraction length"]),
        ("retractionSpeedMmPerS", ["retraction speed", "retract speed"]),
        ("pressureAdvance", ["pressure advance", "advance", "linear advance", "k"]),
        ("fanPercent", ["fan", "cooling", "part fan"]),
        ("nozzleOffsetMm", ["offset", "nozzle offset", "z offset"]),
        ("dryingTemperatureC", ["drying temperature", "drying temp"]),
        ("dryingHours", ["drying time", "drying hours", "dried"]),
    ];

    /// <summary>Targets in the order in which they are offered: what a row needs, then every key of the settings dictionary.</summary>
    public static IReadOnlyList<(string Key, string Label)> Targets { get; } =
    [
        (Filament, "Filament"), (Toolhead, "Printer or toolhead"), (Date, "Day"), (Note, "Note"), (Finding, "Finding"),
        .. SettingRegistry.All.Select(d => (d.Key, d.Quantity.Unit.Length > 0 ? $"{d.Label}, {d.Quantity.Unit}" : d.Label)),
    ];

    /// <summary>Guesses what columns mean from their names; each target is taken once. Null where nothing fits.</summary>
    public static IReadOnlyList<string?> Guess(IReadOnlyList<string> headers)
    {
        var taken = new HashSet<string>();
        var result = new string?[headers.Count];
        // Names that fit wholly first, so that "bed first layer" is not taken for the bed.
        foreach (var whole in new[] { true, false })
        {
            for (var i = 0; i < headers.Count; i++)
            {
                if (result[i] is not null)
                    continue;
                var name = Plain(headers[i]);
                var target = SettingRegistry.All.FirstOrDefault(d => Plain(d.Key) == name || Plain(d.Label) == name)?.Key
                    ?? Headers.FirstOrDefault(h => h.Words.Any(w => whole ? w == name : w.Length > 3 && name.Contains(w, StringComparison.Ordinal))).Target;
                if (target is not null && taken.Add(target))
                    result[i] = target;
            }
        }

        return result;
    }

    /// <summary>What is wrong with a mapping; empty where it can be read.</summary>
    public static IReadOnlyList<FieldError> Check(IReadOnlyList<string?> mapping)
    {
        var errors = new List<FieldError>();
        if (!mapping.Contains(Filament))
            errors.Add(new("mapping", "No column is the filament. Choose the one that names it."));
        if (!mapping.Contains(Toolhead))
            errors.Add(new("mapping", "No column is the printer or toolhead. Choose the one that names it."));
        foreach (var twice in mapping.OfType<string>().Where(m => m is not Note).GroupBy(m => m).Where(g => g.Count() > 1))
            errors.Add(new("mapping", $"Two columns are the {Targets.First(t => t.Key == twice.Key).Label.InSentence()}. Leave one of them out."));
        if (mapping.OfType<string>().All(m => m is Filament or Toolhead or Date))
            errors.Add(new("mapping", "No column is a setting, a note or a finding: there would be nothing to keep."));
        return errors;
    }

    /// <summary>Reads one row.</summary>
    /// <param name="cells">Its cells by column.</param>
    /// <param name="mapping">Target by column; null leaves a column out.</param>
    /// <param name="form">How days are written.</param>
    /// <param name="filaments">Filaments here.</param>
    /// <param name="toolheads">Toolheads here.</param>
    /// <param name="today">Today; later days are refused.</param>
    /// <returns>The note, or by column what is wrong.</returns>
    public static (OldNote? Note, IReadOnlyDictionary<int, string> Errors) Read(
        IReadOnlyList<string> cells, IReadOnlyList<string?> mapping, DayForm form, IReadOnlyList<Named> filaments, IReadOnlyList<NamedToolhead> toolheads,
        DateTime today)
    {
        var errors = new Dictionary<int, string>();
        Named? filament = null;
        NamedToolhead? head = null;
        DateTime? date = null;
        string? tag = null;
        var notes = new List<string>();
        var settings = new Dictionary<string, double>();
        for (var i = 0; i < mapping.Count; i++)
        {
            var text = i < cells.Count ? cells[i].Trim() : "";
            switch (mapping[i])
            {
                case null:
                    break;
                case Filament:
                    filament = Match(text, filaments, "filament", i, errors);
                    break;
                case Toolhead:
                    head = (NamedToolhead?)Match(text, toolheads, "printer or toolhead", i, errors);
                    break;
                case Date:
                    date = Day(text, form, today, i, errors);
                    break;
                case Note:
                    if (text.Length > LongestNote)
                        errors[i] = $"{text.Length} characters; at most {LongestNote} fit.";
                    else if (text.Length > 0)
                        notes.Add(text);
                    break;
                case Finding:
                    tag = text.Length == 0 ? null : text;
                    if (text.Length > 60)
                        errors[i] = $"{text.Length} characters; a finding has at most 60. A longer text belongs into a note.";
                    break;
                case { } key:
                    Setting(key, text, settings, i, errors);
                    break;
            }
        }

        if (head is not null)
            CheckLimits(head, mapping, settings, errors);
        if (errors.Count > 0 || filament is null || head is null)
            return (null, errors);
        if (settings.Count == 0 && notes.Count == 0 && tag is null)
        {
            errors[mapping.ToList().FindIndex(m => m is not (null or Filament or Toolhead or Date))] = "The row says nothing: no setting, note or finding.";
            return (null, errors);
        }

        return (new(filament.Id, head.Id, date, settings, notes.Count == 0 ? null : string.Join(" · ", notes), tag), errors);
    }

    private static void Setting(string key, string text, Dictionary<string, double> settings, int column, Dictionary<int, string> errors)
    {
        if (text.Length == 0 || text is "-" or "–" or "?")
            return;
        var d = SettingRegistry.Get(key);
        var parsed = d.Quantity.Parse(text);
        // A multiplier is often noted in per cent.
        if (key == "extrusionMultiplier" && text.EndsWith('%') && d.Quantity.Parse(text.TrimEnd('%', ' ')) is var inPercent
            && decimal.TryParse(text.TrimEnd('%', ' ').Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var percent))
            parsed = inPercent.Value is null ? d.Quantity.Check(percent / 100) : inPercent;
        if (parsed.Error is not null)
            errors[column] = parsed.Error;
        else
            settings[key] = d.Round((double)parsed.Value!.Value);
    }

    private static void CheckLimits(NamedToolhead head, IReadOnlyList<string?> mapping, Dictionary<string, double> settings, Dictionary<int, string> errors)
    {
        foreach (var (key, value) in settings)
        {
            var column = mapping.ToList().IndexOf(key);
            if (key is "nozzleTemperatureC" or "firstLayerNozzleTemperatureC" && (value > head.MaxC || value < head.MinC))
                errors[column] = FormattableString.Invariant($"{value} °C is outside this toolhead's limits of {head.MinC} to {head.MaxC} °C.");
            if (key is "bedTemperatureC" or "firstLayerBedTemperatureC" && value > head.BedMaxC)
                errors[column] = FormattableString.Invariant($"{value} °C is above what this bed reaches, {head.BedMaxC} °C.");
        }
    }

    private static Named? Match(string text, IReadOnlyList<Named> known, string what, int column, Dictionary<int, string> errors)
    {
        var name = Plain(text);
        var fits = known.Where(k => k.Names.Any(n => Plain(n) == name)).ToList();
        if (fits.Count == 1)
            return fits[0];
        if (text.Length == 0)
            errors[column] = $"The {what} is empty.";
        else if (fits.Count > 1)
            errors[column] = $"\"{Short(text)}\" may be {string.Join(" or ", fits.Select(f => f.Names[0]))}. Type the full name.";
        else if (known.Count == 0)
            errors[column] = $"No {what} is registered yet. Register it first; these notes wait.";
        else
            errors[column] = $"No {what} here is called \"{Short(text)}\". Nearest: {known.MinBy(k => k.Names.Min(n => NearWords.Edits(Plain(n), name)))!.Names[0]}.";
        return null;
    }

    private static DateTime? Day(string text, DayForm form, DateTime today, int column, Dictionary<int, string> errors)
    {
        if (text.Length == 0)
            return null;
        string[] forms = form switch
        {
            DayForm.DayFirst => ["d.M.yyyy", "d/M/yyyy", "d-M-yyyy", "d.M.yy", "d/M/yy"],
            DayForm.MonthFirst => ["M/d/yyyy", "M-d-yyyy", "M/d/yy"],
            _ => ["yyyy-M-d", "yyyy/M/d", "yyyy.M.d", "yyyyMMdd"],
        };
        if (!DateTime.TryParseExact(text, forms, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var day))
            errors[column] =
                $"\"{Short(text)}\" is not a day written like {(form switch { DayForm.DayFirst => "31.3.2025", DayForm.MonthFirst => "3/31/2025", _ => "2025-03-31" })}.";
        else if (day > today.AddDays(1) || day.Year < 2000)
            errors[column] = $"{day:yyyy-MM-dd} lies {(day.Year < 2000 ? "before 2000" : "in the future")}.";
        else
            return day;
        return null;
    }

    private static string Plain(string text) =>
        string.Join(
            ' ', new string([.. text.ToLowerInvariant().Select(c => char.IsLetterOrDigit(c) ? c : ' ')]).Split(' ', StringSplitOptions.RemoveEmptyEntries));

    private static string Short(string text) => text.Length > 40 ? text[..40] + "…" : text;
}
