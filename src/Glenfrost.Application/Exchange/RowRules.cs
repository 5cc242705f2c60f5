using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Equipment;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Reports;

namespace Glenfrost.Application.Exchange;

/// <summary>What a record must keep to beyond the types of its fields, so that every page can show what came in.</summary>
public static class RowRules
{
    private static readonly string[] WorldWords = [Worlds.Real, Worlds.Practice];

    private static readonly string[] StageWords = [RunStages.Planned, RunStages.Printed, RunStages.Read, RunStages.Decided, RunStages.Left];

    /// <summary>What is wrong with a record; null where nothing is.</summary>
    public static string? Of(Record record) =>
        record switch
        {
            Person p => Filled(p.Name, "name"),
            Filament f => Filled(f.Maker, "maker")
                ?? Filled(f.Line, "line")
                ?? OneOf(f.Family, "family", [.. Family.All.Select(x => x.Name)])
                ?? Between(f.DiameterMm, "diameterMm", 0.5, 10)
                ?? (f.ReportJson is null ? null : Reads<ReportNotes>(f.ReportJson, "report") ?? ReportNotes.Of(f).Fault()),
            FilamentVariant v => Filled(v.Colour, "colour"),
            Spool s => Filled(s.Name, "name") ?? OneOf(s.World, "world", WorldWords)
                ?? (s.TrimPercent is { } trim ? Between(trim, "trimPercent", (double)SpoolTrim.Quantity.Min, (double)SpoolTrim.Quantity.Max) : null),
            SpoolDiameter d => Between(d.Mm, "mm", 0.5, 10),
            DryingEntry d => Between(d.TemperatureC, "temperatureC", 0, 200) ?? Between(d.Hours, "hours", 0, 1000),
            SpoolStay x => OneOf(x.Place, "place", [.. SpoolPlaces.All.Select(p => p.Key)]),
            Dryer d => Filled(d.Name, "name") ?? Between(d.MaxC, "maxC", 0, 300) ?? Between(d.PowerW ?? 100, "powerW", 0, 100_000),
            RoomEntry r => Between(r.TemperatureC, "temperatureC", -60, 100),
            Printer p => Filled(p.Name, "name")
                ?? OneOf(p.World, "world", WorldWords)
                ?? OneOf(p.Dialect, "dialect", [.. Dialect.All.Select(d => d.Key)])
                ?? Between(p.BedXMm, "bedXMm", 10, 5000)
                ?? Between(p.BedYMm, "bedYMm", 10, 5000)
                ?? Between(p.HeightMm, "heightMm", 10, 5000)
                ?? Between(p.BedMaxC, "bedMaxC", 0, 300)
                ?? Between(p.MaxSpeedMmPerS, "maxSpeedMmPerS", 1, 5000)
                ?? Between(p.MaxAccelerationMmPerS2, "maxAccelerationMmPerS2", 1, 200_000)
                ?? Between(p.ScrewStepMm, "screwStepMm", 0.001, 1)
                ?? Between(p.ClearanceMm, "clearanceMm", 0, 500)
                ?? Between(p.GantryHeightMm, "gantryHeightMm", 0, 2000)
                ?? Between(p.ChamberMaxC, "chamberMaxC", 0, 300)
                ?? Between(p.PowerW ?? 100, "powerW", 0, 100_000)
                ?? Between(p.MinorPerKwh ?? 0, "minorPerKwh", 0, 1_000_000)
                ?? Own(p),
            Toolhead t => OneOf(t.Drive, "drive", ["direct", "long-tube"])
                ?? OneOf(t.Liner, "liner", ["ptfe", "metal"])
                ?? OneOf(t.NozzleFlow, "nozzleFlow", ["standard", "high-flow"])
                ?? Between(t.HeaterMaxC, "heaterMaxC", 150, 600)
                ?? Between(t.NozzleDiameterMm, "nozzleDiameterMm", 0.05, 3)
                ?? Between(t.OvershootC, "overshootC", 0, 50),
            Pairing p => OneOf(p.World, "world", WorldWords)
                ?? OneOf(p.NozzleFlow, "nozzleFlow", ["standard", "high-flow"])
                ?? Between(p.NozzleDiameterMm, "nozzleDiameterMm", 0.05, 3)
                ?? (p.GoalJson is null ? null
                    : Reads<Core.Routes.Goal>(p.GoalJson, "goal") ?? (Json.Read<Core.Routes.Goal>(p.GoalJson).Fault() is { } fault ? $"goal {fault}" : null))
                ?? (p.TiersJson is null ? null
                    : Reads<Core.Profiles.TierList>(p.TiersJson, "tiers") ?? (TierBook.Of(p).Fault() is { } wrong ? $"tiers {wrong}" : null)),
            ProfileRevision r => r.Number is < 1 or > 1_000_000 ? "number must count from 1" : null,
            SettingRow s => SettingRegistry.Find(s.Key) is not { } d ? $"\"{s.Key}\" is not a key of the settings dictionary, for example nozzleTemperatureC"
            : d.Words is not null ? d.Read(s.Word).Error
            : d.Quantity.Check((decimal)Math.Clamp(s.Value, -1e12, 1e12)).Error,
            Run r => OfRun(r),
            Reading r => Filled(r.Key, "key") ?? (r.Section is < 0 or > 10_000 ? "section must count from 0" : null) ?? OfReading(r),
            FactorEntry e => Filled(e.Factor, "factor")
                ?? (e.Section is < 0 or > 10_000 ? "section must count from 0" : null)
                ?? (e.FromLayer is < 1 or > 20_000 ? "fromLayer must count from 1" : null)
                ?? (e.Number is { } n && !double.IsFinite(n) ? "number must be a number" : null)
                ?? Short(e.Text, "text"),
            EvidenceEntry e => OneOf(e.Area, "area", [.. Core.Ageing.AgeingRules.Areas.Select(a => a.Key), EvidenceAreas.Other])
                ?? (
                    e.Key is not null && SettingRegistry.Find(e.Key) is null
                        ? $"\"{(e.Key.Length > 40 ? e.Key[..40] + "…" : e.Key)}\" is not a key of the settings dictionary"
                        : null)
                ?? (e.Kind == EvidenceKind.Stood && e.State is null ? "state is missing: a state that stood says which" : null)
                ?? (new[] { e.Number, e.Uncertainty, e.AtC }.Any(n => n is { } x && !double.IsFinite(x)) ? "numbers must be numbers" : null)
                ?? Short(e.Text, "text"),
            MachineValue m => m.Withdraws
                ? null
                : OneOf(m.Key ?? "", "key", ["stepsPerMm", "rotationDistanceMm"]) ?? (m.Number is { } n ? Between(n, "number", 0.01, 100_000) : null),
            Part x => x.ChangedJson is null ? null : Changed(x),
            MachineCheck c => (c.Kind is { Length: < 40 } own && own.StartsWith(OwnCheck.Prefix, StringComparison.Ordinal) ? null
                : OneOf(c.Kind, "kind", [.. CheckKind.All.Select(k => k.Key)])) ?? Reads<Dictionary<string, double>>(c.ValuesJson, "values"),
            Decision d => OneOf(d.Choice, "choice", DecisionChoices.All) ?? Reads<Guid[]>(d.ReadingIdsJson, "readingIds"),
            Finding f => Filled(f.Tag, "tag")
                ?? (f.Section is < 0 ? "section must count from 0" : null)
                ?? (f.SettingKey is null or PresetBook.RevisionKey || SettingRegistry.Find(f.SettingKey) is not null ? null
                    : "settingKey is not a key of the settings dictionary"),
            RunFile f => Hash(f.Sha256, "sha256")
                ?? Filled(f.Name, "name")
                ?? (f.Name.Any(c => c is '/' or '\\' || char.IsControl(c)) ? "name must not be a path" : null),
            GcodeFile f => Hash(f.Sha256, "sha256")
                ?? Filled(f.Name, "name")
                ?? (f.Name.Any(c => c is '/' or '\\' || char.IsControl(c)) ? "name must not be a path" : null)
                ?? (f.StepJson is null ? null : Reads<Core.Gcode.Stepping.StepRequest>(f.StepJson, "step")),
            Photo p => Hash(p.Sha256, "sha256")
                ?? Hash(p.SmallSha256, "smallSha256")
                ?? (p.WidthPx is < 1 or > 100_000 || p.HeightPx is < 1 or > 100_000 ? "widthPx and heightPx must be above 0" : null)
                ?? (p.Section is < 0 ? "section must count from 0" : null),
            AnchorPhoto a => OneOf(a.Key, "key", [.. ScoreAnchors.All.Select(x => x.Key)]) ?? (a.Score is < 0 or > 4 ? "score must be 0 to 4" : null),
            Sitting s => Reads<List<Guid>>(s.OrderJson, "order"),
            PhotoScore s => OneOf(s.Aspect, "aspect", Aspects.All) ?? (s.Value is < 0 or > 4 ? "value must be 0 to 4" : null),
            LogEntry l => Filled(l.Kind, "kind")
                ?? (
                    l.Link is { } link && (!link.StartsWith('/') || link.StartsWith("//", StringComparison.Ordinal) || link.Contains('\\'))
                        ? "link must be an address inside Glenfrost, beginning with /"
                        : null),
            _ => null,
        };

    /// <summary>What a part says that it changed must be what a machine can say.</summary>
    private static string? Changed(Part x)
    {
        if (Reads<FittedChange>(x.ChangedJson!, "changed") is { } wrong)
            return wrong;
        var change = Json.Read<FittedChange>(x.ChangedJson!);
        foreach (var facts in new[] { change.Before, change.After })
        {
            if (facts is null)
                return "changed says only half of what it changed";
            var (printer, head) = (new Printer { Name = "any" }, new Toolhead());
            FittedParts.Put(x.Slot, facts, printer, head);
            if ((Of(printer) ?? Of(head)) is { } beyond)
                return $"changed: {beyond}";
        }

        return null;
    }

    private static string? OfReading(Reading r)
    {
        if (!CellAspects.IsOfHouse(r.Aspect) && !TrialCatalogue.All.Any(t => t.IsAspect(r.Aspect)))
            return $"aspect \"{r.Aspect}\" is not known: {string.Join(", ", Aspects.All)}, observedC, state, massG or stamp.clicking would be right, or " +
                $"one of another trial";
        if (Aspects.All.Contains(r.Aspect) && r.Value is < 0 or > 4 && Aspects.All.Contains(r.Aspect))
            return "value must be 0 to 4";
        return r.Value is { } v && !double.IsFinite(v) ? "value must be a number" : null;
    }

    private static string? OfRun(Run r)
    {
        if (OneOf(r.World, "world", WorldWords) is { } world)
            return world;
        if (r.Tier is { Length: > Core.Profiles.TierList.LongestName })
            return $"tier has more than {Core.Profiles.TierList.LongestName} characters";
        if (OneOf(r.Stage, "stage", StageWords) is { } stage)
            return stage;
        if (OneOf(r.Kind, "kind", [.. TrialCatalogue.All.Select(t => t.Kind)]) is { } kind)
            return kind;
        var trial = TrialCatalogue.Get(r.Kind);
        if (trial.Subject == TrialSubject.Pairing && r.PairingId is null)
            return $"pairingId is missing: a {trial.Noun} belongs to a pairing";
        if (trial.Subject == TrialSubject.Toolhead && r.ToolheadId is null)
            return "toolheadId is missing: this trial is of a toolhead";
        if (r.ConditionsJson is not null && Reads<RunConditions>(r.ConditionsJson, "conditions") is { } conditions)
            return conditions;
        if (r.FactorsJson is not null && Factors(r.FactorsJson) is { } factors)
            return factors;
        if (r.SettingsJson is not null && Reads<Dictionary<string, double>>(r.SettingsJson, "settings") is { } settings)
            return settings;
        if (r.PlanVersion > StoredPlan.Version)
            return $"planVersion {r.PlanVersion} is of a newer Glenfrost; this one reads up to {StoredPlan.Version}";
        return PlanBounds.Of(trial, r.PlanJson);
    }

    private static string? Factors(string json)
    {
        try
        {
            var set = FactorSet.Read(json);
            return
                set.Values.Count > 500
                || set.Values.Any(v =>
                    v.Key.Length is 0 or > 80 || v.Value is null || v.Value.Text is { Length: > 400 } || (v.Value.Number is { } n && !double.IsFinite(n)))
                || set.Swept is null
                || set.Swept.Any(s => s is null)
                ? "factors hold more, longer or other values than a run has"
                : null;
        }
        catch (Exception e)
            when (e is System.Text.Json.JsonException or NotSupportedException or InvalidOperationException or ArgumentException or NullReferenceException)
        {
            return $"factors can't be read: {(e.Message.Length > 160 ? e.Message[..160] + "…" : e.Message)}";
        }
    }

    private static string? Short(string? text, string field) => text is { Length: > 4000 } ? $"{field} is longer than 4,000 characters" : null;

    private static string? Own(Printer p)
    {
        string? All<T>(string? json, string field, int most, Func<T, string?> fault)
            where T : class =>
            json is null ? null
            : Reads<List<T?>>(json, field) is { } wrong ? wrong
            : Json.Read<List<T?>>(json) is { } list && (list.Count > most || list.Contains(null)) ? $"{field} holds more than {most}, or an empty one"
            : Json.Read<List<T>>(json).Select(fault).FirstOrDefault(f => f is not null) is { } said ? $"{field}: one {said}" : null;
        return All<OwnCheck>(p.OwnChecksJson, "ownChecks", OwnCheck.Most, o => o.Fault())
            ?? All<VersionPair>(p.VersionsJson, "versions", VersionPair.Most, v => v.Fault())
            ?? (p.PulseJson is null ? null : Reads<PulseOf>(p.PulseJson, "pulse"));
    }

    private static string? Reads<T>(string json, string field)
    {
        try
        {
            return Json.Read<T>(json) is null ? $"{field} is empty" : null;
        }
        catch (Exception e) when (e is System.Text.Json.JsonException or NotSupportedException or InvalidOperationException)
        {
            return $"{field} can't be read: {(e.Message.Length > 160 ? e.Message[..160] + "…" : e.Message)}";
        }
    }

    private static string? Filled(string text, string field) =>
        string.IsNullOrWhiteSpace(text) ? $"{field} is empty"
        : text.Length > 4000 ? $"{field} is longer than 4,000 characters"
        : null;

    private static string? OneOf(string word, string field, IReadOnlyCollection<string> words) =>
        words.Contains(word) ? null : $"{field} is \"{(word.Length > 40 ? word[..40] + "…" : word)}\": {string.Join(", ", words)} would be right";

    private static string? Between(double value, string field, double least, double most) =>
        value >= least && value <= most ? null : $"{field} is {Words.N(value)}: {Words.N(least)} to {Words.N(most)} would be right";

    private static string? Hash(string text, string field) => FileStore.IsHash(text) ? null : $"{field} is no SHA-256 in 64 small hexadecimal digits";
}
