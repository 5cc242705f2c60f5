using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Stepping;

/// <summary>What can be stepped by height.</summary>
/// <param name="Key">Fixed word of plans, API and command line.</param>
/// <param name="Label">As pages say it.</param>
/// <param name="Unit">Of its values.</param>
/// <param name="Min">Least value that makes sense.</param>
/// <param name="Max">Most.</param>
/// <param name="Help">How it is stepped.</param>
public sealed record Steppable(string Key, string Label, string Unit, double Min, double Max, string Help)
{
    /// <summary>Nozzle temperature, °C.</summary>
    public static readonly Steppable Temperature = new(
        "temperature", "Nozzle temperature", "°C", 150, 500, "M104 at the first line of each section, while moving.");
    /// <summary>Part fan, %.</summary>
    public static readonly Steppable Fan = new(
        "fan", "Fan", "%", 0, 100, "M106 at the first line of each section. The file's own fan changes between the steps are switched off.");
    /// <summary>Flow, %.</summary>
    public static readonly Steppable Flow = new("flow", "Flow", "%", 30, 200, "The amounts of all printing moves are rewritten; 100 is what the file has.");
    /// <summary>Retraction length, mm.</summary>
    public static readonly Steppable RetractionLength = new(
        "retraction-length", "Retraction length", "mm", 0.02, 15,
        "All retractions and their returns are rewritten, or set in firmware where the file retracts with G10.");
    /// <summary>Retraction speed, mm/s.</summary>
    public static readonly Steppable RetractionSpeed = new(
        "retraction-speed", "Retraction speed", "mm/s", 2, 200,
        "The speed of all retractions and returns is rewritten, or set in firmware where the file retracts with G10.");
    /// <summary>Pressure advance, s.</summary>
    public static readonly Steppable PressureAdvance = new(
        "pressure-advance", "Pressure advance", "s", 0, 3, "Set in the printer's own terms at the first line of each section.");
    /// <summary>Speed of printing moves, mm/s.</summary>
    public static readonly Steppable Speed = new(
        "speed", "Print speed", "mm/s", 2, 1000, "All printing moves of a section get this speed; travel and retractions keep theirs.");
    /// <summary>Speed override, %.</summary>
    public static readonly Steppable SpeedPercent = new(
        "speed-percent", "Print speed, share of the file's", "%", 5, 500, "All printing moves keep their differences; travel and retractions keep theirs.");

    /// <summary>All of them.</summary>
    public static IReadOnlyList<Steppable> All { get; } = [Temperature, Fan, Flow, RetractionLength, RetractionSpeed, PressureAdvance, Speed, SpeedPercent];

    /// <summary>The one of that word; null where there is none.</summary>
    public static Steppable? Find(string? key) => All.FirstOrDefault(s => s.Key == key);
}

/// <summary>What was asked for, as typed.</summary>
public sealed record StepRequest
{
    /// <summary>Key of what is stepped.</summary>
    public string? What { get; init; }
    /// <summary>Value of the lowest section.</summary>
    public decimal? From { get; init; }
    /// <summary>Value of the highest section.</summary>
    public decimal? To { get; init; }

    /// <summary>Size of a step; its sign does not matter.</summary>
    public decimal? By { get; init; }

    /// <summary>Height at which the first section begins, mm; or in layers.</summary>
    public decimal? BaseMm { get; init; }

    /// <summary>See <see cref="BaseMm"/>.</summary>
    public int? BaseLayers { get; init; }

    /// <summary>True where the base takes the first section's value too, from the first layer on; else it is printed as the file has it.</summary>
    public bool BaseToo { get; init; }

    /// <summary>Height of a section, mm; or in layers.</summary>
    public decimal? SectionMm { get; init; }

    /// <summary>See <see cref="SectionMm"/>.</summary>
    public int? SectionLayers { get; init; }

    /// <summary>Dialect of the printer: for pressure advance and firmware retraction.</summary>
    public string? Dialect { get; init; }

    /// <summary>Step a file all the same that was stepped here before.</summary>
    public bool Again { get; init; }
}

/// <summary>Where a section begins in the file.</summary>
/// <param name="Section">From 0.</param>
/// <param name="Value">What it gets.</param>
/// <param name="Object">Which of several objects printed one after another.</param>
/// <param name="Layer">Index of its first layer.</param>
/// <param name="Layers">How many layers it has.</param>
/// <param name="FromMm">Height at which it begins: the bottom of its first layer.</param>
/// <param name="ToMm">Height at which it ends.</param>
/// <param name="MarkMm">Height at which it was meant to begin.</param>
public sealed record StepSection(int Section, double Value, int Object, int Layer, int Layers, double FromMm, double ToMm, double MarkMm);

/// <summary>A plan that fits its file.</summary>
public sealed record StepPlan
{
    /// <summary>What is stepped.</summary>
    public required Steppable What { get; init; }
    /// <summary>Value of each section, lowest first.</summary>
    public required IReadOnlyList<double> Values { get; init; }
    /// <summary>Height of the base, mm.</summary>
    public required double BaseMm { get; init; }
    /// <summary>True where the base takes the first section's value too.</summary>
    public bool BaseToo { get; init; }
    /// <summary>Height of a section, mm.</summary>
    public required double SectionMm { get; init; }
    /// <summary>Dialect of the file.</summary>
    public required Dialect Dialect { get; init; }

    /// <summary>Sections in the order of the file; those of each object follow each other.</summary>
    public required IReadOnlyList<StepSection> Sections { get; init; }

    /// <summary>What one should know before printing it.</summary>
    public required IReadOnlyList<string> Notes { get; init; }

    /// <summary>In one line, as the file's mark says it.</summary>
    public string Line =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{What.Key} {Values[0]:0.####} to {Values[^1]:0.####}, {Values.Count} sections of {SectionMm:0.####} mm above {BaseMm:0.####} mm" +
                $"{(BaseToo ? ", the base as the first of them" : "")}");
}

/// <summary>Fits a plan to a file.</summary>
public static class StepPlanning
{
    /// <summary>Most sections.</summary>
    public const int MostSections = 100;

    /// <summary>
    /// A plan of temperatures to begin with: heights read off the file where its layers repeat, else equal sections of whole layers; steps of 5 °C over the
    /// range.
    /// </summary>
    /// <param name="f">The file; something is extruded in it.</param>
    /// <param name="repeats">Its own sections; null where it shows none.</param>
    /// <param name="range">Temperatures that filament and machine bear, °C; 190 to 230 where null.</param>
    public static StepRequest Suggest(FileFacts f, Repeats? repeats, (double Min, double Max)? range)
    {
        const decimal Step = 5;
        var (cool, hot) = range is { } r ? (Math.Ceiling((decimal)r.Min / Step) * Step, Math.Floor((decimal)r.Max / Step) * Step) : (190m, 230m);
        if (repeats is { Sections: > 1 } && hot > cool)
            cool = Math.Max((decimal)Steppable.Temperature.Min, hot - Step * (repeats.Sections - 1));
        var request = new StepRequest { What = Steppable.Temperature.Key, From = hot, To = cool, By = Step };
        if (repeats is not null)
            return request with { BaseMm = (decimal)repeats.BaseMm, SectionMm = (decimal)repeats.SectionMm };
        var model = f.Model.ToList();
        var usual = Math.Max(Usual(model), 0.01);
        var sections = Math.Max(2, (int)((hot - cool) / Step) + 1);
        var layers = Math.Max(1, Math.Floor(model.Where(l => l.Object == 0).Max(l => l.Z) / sections / usual));
        return request with { BaseMm = 0, SectionMm = (decimal)Math.Round(layers * usual, 3) };
    }

    /// <summary>Checks what was asked and finds where its sections begin.</summary>
    /// <returns>The plan; or by field what is wrong and what would be right.</returns>
    public static (StepPlan? Plan, IReadOnlyList<FieldError> Errors) Plan(StepRequest r, FileFacts f, Machine? machine = null)
    {
        var errors = new List<FieldError>();
        var what = Steppable.Find(r.What);
        if (what is null)
            errors.Add(new("what", $"Choose what is stepped: {string.Join(", ", Steppable.All.Select(s => s.Key))}."));
        var model = f.Model.ToList();
        if (model.Count == 0)
            errors.Add(new("", "Nothing is extruded in this file; there is nothing to step."));
        if (f.StepMarks.Count > 0 && !r.Again)
            errors.Add(
                new(
                    "again",
                    $"This file was stepped here before ({f.StepMarks[0][StepMark.Text.Length..].Trim(':', ' ')}). Take the file that it was made from, or " +
                        $"say that you mean it."
                ));
        if (f.Settings.Count >= FileFacts.MostSettings)
            errors.Add(new("", $"More than {FileFacts.MostSettings} lines set something in this file; its own steps can't be told from yours."));
        var values = Values(r, what, machine, errors);
        var (baseMm, sectionMm) = Heights(r, model, errors);
        if (errors.Count > 0 || what is null)
            return (null, errors);
        var sections = Sections(model, values, baseMm, sectionMm, r.BaseToo);
        var count = sections.Where(s => s.Object == sections[0].Object).Select(s => s.Section).Distinct().Count();
        if (sections.Count == 0 || count < values.Count)
        {
            var height = model.Where(l => l.Object == model[0].Object).Max(l => l.Z);
            errors.Add(
                new(
                    "section",
                    $"{values.Count} sections of {Say.N(sectionMm, 3)} mm above {Say.N(baseMm, 3)} mm need " +
                    $"{Say.N(baseMm + values.Count * sectionMm, 3)} mm; the model is " +
                        $"{Say.N(height, 3)} mm high and would hold {count}. Lower sections, fewer or larger steps would fit.",
                    Lower(height, baseMm, values.Count)));
            return (null, errors);
        }

        if (Missing(what, f, r.Dialect) is { } missing)
            return (null, [missing]);
        return (
            new()
            {
                What = what, Values = values, BaseMm = baseMm, BaseToo = r.BaseToo, SectionMm = sectionMm, Dialect = Dialect.Of(r.Dialect), Sections = sections,
                Notes = Notes(what, values, baseMm, sectionMm, sections, model, f),
            },
            []);
    }

    private static List<double> Values(StepRequest r, Steppable? what, Machine? machine, List<FieldError> errors)
    {
        var values = new List<double>();
        foreach (var (field, v) in new[] { ("from", r.From), ("to", r.To) })
        {
            if (v is null)
                errors.Add(new(field, "Type a number."));
            else if (what is not null && ((double)v < what.Min || (double)v > what.Max))
                errors.Add(new(field, $"{v} {what.Unit} is outside {Say.N(what.Min, 3)} to {Say.N(what.Max, 3)} {what.Unit}."));
            else if (what == Steppable.Temperature && machine is not null && (double)v > machine.Limits.MaxC)
                errors.Add(new(field, $"{v} °C is above the limit of {machine.Name}: {Say.N(machine.Limits.MaxC, 3)} °C ({machine.Limits.MaxBecause})."));
            else if (what == Steppable.Temperature && machine is not null && (double)v < machine.Limits.MinC)
                errors.Add(new(field, $"{v} °C is below the cold-extrusion limit of {machine.Name}: {Say.N(machine.Limits.MinC, 3)} °C."));
            else if (what == Steppable.Speed && machine is not null && (double)v > machine.MaxSpeedMmPerS)
                errors.Add(new(field, $"{v} mm/s is above what {machine.Name} moves: {Say.N(machine.MaxSpeedMmPerS, 3)} mm/s."));
        }

        if (r.By is null or 0)
            errors.Add(new("by", "A step above 0 would be right."));
        if (errors.Count > 0 || r is not { From: { } from, To: { } to, By: { } by } || what is null)
            return values;
        var step = Math.Abs(by);
        var n = Math.Abs(to - from) / step;
        if (n > MostSections - 1)
            errors.Add(new("by", $"{from} to {to} by {step} makes {Math.Floor(n) + 1} sections; at most {MostSections} can be told apart."));
        else if (n < 1)
            errors.Add(new("to", $"{from} to {to} by {step} makes a single section; there would be nothing to compare."));
        else if (n != decimal.Truncate(n))
            errors.Add(
                new(
                    "by", $"{from} to {to} is no whole number of steps of {step}.",
                    [
                        new(
                            $"to {from + Math.Sign(to - from) * decimal.Truncate(n) * step}",
                            new Dictionary<string, decimal> { ["to"] = from + Math.Sign(to - from) * decimal.Truncate(n) * step }),
                    ]));
        if (errors.Count > 0)
            return values;
        for (var i = 0; i <= (int)n; i++)
            values.Add((double)(from + Math.Sign(to - from) * i * step));
        return values;
    }

    private static (double BaseMm, double SectionMm) Heights(StepRequest r, List<LayerFacts> model, List<FieldError> errors)
    {
        if (r is { BaseMm: not null, BaseLayers: not null })
            errors.Add(new("baseMm", "Either mm or layers, not both."));
        if (r is { SectionMm: not null, SectionLayers: not null })
            errors.Add(new("sectionMm", "Either mm or layers, not both."));
        if (r.BaseMm is < 0 or > 1000)
            errors.Add(new("baseMm", $"{r.BaseMm} mm: 0 to 1000 mm would be right."));
        if (r.BaseLayers is < 0 || r.BaseLayers >= model.Count && model.Count > 0)
            errors.Add(new("baseLayers", $"{r.BaseLayers} layers: the model has {model.Count}."));
        if (r is { SectionMm: null, SectionLayers: null })
            errors.Add(new("sectionMm", "How high is a section, in mm or in layers?"));
        if (r.SectionMm is <= 0 or > 1000)
            errors.Add(new("sectionMm", $"{r.SectionMm} mm: above 0 would be right."));
        if (r.SectionLayers is <= 0 || r.SectionLayers > model.Count && model.Count > 0)
            errors.Add(new("sectionLayers", $"{r.SectionLayers} layers: 1 to {model.Count} would be right."));
        if (errors.Count > 0 || model.Count == 0)
            return default;
        var thickness = Usual(model);
        var baseMm = r.BaseLayers is { } layers ? layers == 0 ? 0 : model[layers - 1].Z : (double)(r.BaseMm ?? 0);
        var sectionMm = r.SectionLayers is { } n ? n * thickness : (double)r.SectionMm!;
        if (sectionMm < thickness - 1e-6)
            errors.Add(new("sectionMm", $"{Say.N(sectionMm, 3)} mm is less than a layer of {Say.N(thickness, 3)} mm."));
        return (baseMm, sectionMm);
    }

    /// <summary>The usual thickness of a layer, mm: the middle of all but the first.</summary>
    public static double Usual(IReadOnlyList<LayerFacts> model)
    {
        var all = (model.Count > 1 ? model.Skip(1) : model).Select(l => l.Thickness).Order().ToList();
        return all.Count == 0 ? 0 : all[all.Count / 2];
    }

    /// <summary>A section begins with the layer whose bottom is nearest to its mark; the first one with its object where it takes the base along.</summary>
    private static List<StepSection> Sections(List<LayerFacts> model, List<double> values, double baseMm, double sectionMm, bool baseToo)
    {
        var result = new List<StepSection>();
        foreach (var part in model.GroupBy(l => l.Object))
        {
            // Heights of an object rise; a layer that comes back to an older height belongs to where its height is.
            var layers = part.OrderBy(l => l.Index).ToList();
            var first = new LayerFacts?[values.Count];
            foreach (var l in layers)
            {
                var at = SectionAt(l, baseMm, sectionMm, values.Count);
                if (at >= 0)
                    first[at] ??= l;
            }

            for (var k = 0; k < values.Count; k++)
            {
                if (first[k] is not { } begin)
                    continue;
                var withBase = baseToo && k == 0;
                if (withBase)
                    begin = layers[0];
                var own = layers.Where(l => SectionAt(l, baseMm, sectionMm, values.Count) is var at && (at == k || (withBase && at < 0))).ToList();
                var from = Math.Round(begin.Z - begin.Thickness, 4);
                result.Add(
                    new(
                        k, values[k], part.Key, begin.Index, own.Count, from, Math.Round(own.Max(l => l.Z), 4),
                        withBase ? from : Math.Round(baseMm + k * sectionMm, 4)));
            }
        }

        return result;
    }

    private static int SectionAt(LayerFacts l, double baseMm, double sectionMm, int sections)
    {
        var bottom = l.Z - l.Thickness;
        if (bottom < baseMm - l.Thickness / 2 + 1e-6)
            return -1;
        return Math.Min(sections - 1, (int)Math.Floor((bottom - baseMm + l.Thickness / 2 - 1e-6) / sectionMm + 1e-6));
    }

    private static IReadOnlyList<Offer> Lower(double height, double baseMm, int sections)
    {
        var fits = (decimal)Math.Floor((height - baseMm) / sections * 10 + 1e-6) / 10;
        return fits <= 0 ? [] : [new($"{fits} mm a section", new Dictionary<string, decimal> { ["sectionMm"] = fits })];
    }

    /// <summary>What the file lacks for this factor.</summary>
    private static FieldError? Missing(Steppable what, FileFacts f, string? dialect)
    {
        var r = f.Retraction;
        if ((what == Steppable.RetractionLength || what == Steppable.RetractionSpeed) && r.Count == 0)
            return new("what", "This file has no retraction that could be stepped. Slice it again with retraction switched on.");
        if ((what == Steppable.RetractionLength || what == Steppable.RetractionSpeed) && r.Firmware > 0 && r.Firmware < r.Count)
            return new("what", "This file retracts both in firmware (G10) and by itself; only one of them can be stepped.");
        if (what == Steppable.PressureAdvance && dialect is null)
            return new("dialect", "Choose the printer or its dialect: pressure advance is set by another command on each.");
        return null;
    }

    private static List<string> Notes(
        Steppable what, List<double> values, double baseMm, double sectionMm, List<StepSection> sections, List<LayerFacts> model, FileFacts f)
    {
        var notes = new List<string>();
        var thickness = Usual(model);
        var layers = sectionMm / thickness;
        if (Math.Abs(layers - Math.Round(layers)) > 0.01)
        {
            var (less, more) = (Math.Floor(layers) * thickness, Math.Ceiling(layers) * thickness);
            var counts = sections.Where(s => s.Section < values.Count - 1).Select(s => s.Layers).Distinct().Order().ToList();
            notes.Add(
                $"{Say.N(sectionMm, 3)} mm are {Say.N(layers, 2)} layers of {Say.N(thickness, 3)} mm, not a whole number: sections get " +
                $"{string.Join(" or ", counts)} layers " +
                    $"and begin up to {Say.N(sections.Max(s => Math.Abs(s.FromMm - s.MarkMm)), 3)} mm away from the model's own marks. " +
                    $"{(less > 0 ? $"{Say.N(less, 3)} or " : "")}{Say.N(more, 3)} mm would be whole."
            );
        }
        else if (sections.Max(s => Math.Abs(s.FromMm - s.MarkMm)) > 0.01)
        {
            notes.Add(
                $"Sections begin up to {Say.N(sections.Max(s => Math.Abs(s.FromMm - s.MarkMm)), 3)} mm away from {Say.N(baseMm, 3)} mm and its " +
                $"multiples: the layers lie so."
            );
        }

        var height = model.Where(l => l.Object == model[0].Object).Max(l => l.Z);
        var over = height - (baseMm + values.Count * sectionMm);
        if (over > thickness / 2)
            notes.Add($"The model goes on for {Say.N(over, 3)} mm above the last section and is printed there as that section is.");
        if (sections.Any(s => s.Object > 0 && s.Section == 0))
            notes.Add($"{sections.Select(s => s.Object).Distinct().Count()} objects stand in the file one after another; each is stepped from its own bottom.");
        if (model.Any(l => l.Spiral))
            notes.Add("The file is a spiral: a step comes at one place of the turn, and a height is reached over a whole turn.");
        if (f.TooManyLayers)
            notes.Add("The file has more heights than can be told apart.");
        if (what == Steppable.Temperature)
            notes.Add(Lag(values, sections, f));
        if (what == Steppable.Flow && f.Settings.Any(s => s.Kind == SettingKind.FlowPercent && Math.Abs(s.Value - 100) > 0.01))
            notes.Add("A flow override (M221) stands in the file and multiplies every step.");
        return notes;
    }

    private static string Lag(List<double> values, List<StepSection> sections, FileFacts f)
    {
        var shortest = sections.Min(s => f.Layers.Skip(s.Layer).Take(s.Layers).Sum(l => l.Seconds));
        var lag = Enumerable.Range(1, values.Count - 1).Max(i => Math.Abs(values[i] - values[i - 1])) / HotendLimits.FollowCPerS;
        var text = $"A step takes the nozzle about {Say.N(lag, 0)} s, and the shortest section is printed in {Say.N(shortest, 0)} s";
        return lag > shortest / 3
            ? $"{text}: it would not have settled for most of it. Use higher sections, a larger model or smaller steps."
            : $"{text}: read the upper part of each section.";
    }

}
