using Glenfrost.Core.Settings;
using System.Globalization;

namespace Glenfrost.Core.Gcode.Inspection;

/// <content>Waits and ramps: units, hands, and the end that they stand at.</content>
public static partial class Oddities
{
    /// <summary>A wait of a whole number of milliseconds below this does nothing, s.</summary>
    private const double NoWaitS = 0.1;

    /// <summary>Nobody lets a nozzle stand for longer in one line, s.</summary>
    private const double EndlessS = 3600;

    /// <summary>Nor over a part that it is printing, s.</summary>
    private const double EndlessInPartS = 100;

    private static IEnumerable<Oddity> Waits(FileFacts f)
    {
        // Within a layer some printers are given waits of a few milliseconds on purpose; between heaters nobody does.
        bool Outside(DwellLine d) => d.Layer < 0 || d.Line > f.LastExtrudeLine || NearHeater(f, d);
        var nothing = f.Dwells.Where(d => d.Letter == 'P' && d.Value >= 2 && d.Seconds < NoWaitS && Outside(d)).ToList();
        if (nothing.Count > 0)
            yield return Unit(
                nothing[0], nothing.Count, $"waits {Raw(nothing[0].Seconds)} s",
                $"P counts milliseconds. Were {Raw(nothing[0].Value)} s meant? Then G4 S{Raw(nothing[0].Value)}, or G4 P{Raw(nothing[0].Value * 1000)}.");
        bool Endless(DwellLine d) => d.Letter == 'S' && d.Seconds >= (d.Layer >= 0 && d.Line < f.LastExtrudeLine ? EndlessInPartS : EndlessS);
        var endless = f.Dwells.Where(Endless).ToList();
        if (endless.Count > 0)
            yield return Unit(
                endless[0], endless.Count, $"waits {Time(endless[0].Seconds)}",
                $"S counts seconds. Were {Raw(endless[0].Value)} milliseconds meant? Then G4 P{Raw(endless[0].Value)}, or G4 S{Raw(endless[0].Value / 1000)}.");
        var unheard = f.Request.Machine?.Dialect == "macro" ? f.Dwells.Where(d => d is { Letter: 'S', Seconds: > 0 } && !Endless(d)).ToList() : [];
        if (unheard is [var deaf, ..])
            yield return Unit(
                deaf, unheard.Count, $"counts seconds, and {f.Request.Machine!.Name} reads milliseconds behind P only",
                $"It would not wait at all. G4 P{Raw(deaf.Value * 1000)} is what this printer understands.");
        if (HandRamp.Of(f) is { } ramp)
        {
            var steps = string.Join(", ", ramp.StepsC.Take(8).Select(c => Say.N(c, 1))) + (ramp.StepsC.Count > 8 ? " …" : "");
            yield return new(
                "hand-ramp", Weight.Note,
                $"A ramp of the bed by hand stands in the end code, lines {ramp.FirstLine} to {ramp.LastLine}: {steps} °C, " +
                    (ramp.Minutes > 0 ? $"with {Time(ramp.Minutes * 60)} of waits{(ramp.WaitsForBed ? ", and waiting for the bed on top" : "")}."
                    : ramp.WaitsForBed ? "each waited for, as long as that takes." : "and no wait between: the bed never sees its steps."),
                "The cool-down below replaces it as a whole, or leave it as it is.", ramp.FirstLine, -1, "cool-down");
        }

        if (ColdestBelow(f) is { } cold)
            yield return cold;
    }

    private static Oddity Unit(DwellLine d, int count, string what, string toDo) =>
        new(
            "dwell-unit", Weight.Odd, $"G4 {d.Letter}{Raw(d.Value)} {what}{(count > 1 ? $", and {count - 1} more like it" : "")}.", toDo, d.Line, d.Layer);

    private static string Raw(double v) => Say.N(v, 4);

    private static bool NearHeater(FileFacts f, DwellLine d) =>
        f.Settings.Any(s =>
            Math.Abs(s.Line - d.Line) <= 2
            && s.Kind is SettingKind.Nozzle or SettingKind.NozzleAndWait or SettingKind.Bed or SettingKind.BedAndWait);

    /// <summary>A tower that gets hotter upwards: a nozzle that blocks at the coldest section spoils all that stands above it.</summary>
    private static Oddity? ColdestBelow(FileFacts f)
    {
        var top = f.Model.LastOrDefault()?.Index ?? -1;
        var sections = f.Model.Skip(1).Where(l => !double.IsNaN(l.NozzleMax)).Select(l => (Layer: l, C: l.NozzleMax)).ToList();
        var values = new List<(LayerFacts Layer, double C)>();
        foreach (var s in sections)
        {
            if (values.Count == 0 || Math.Abs(values[^1].C - s.C) > 0.5)
                values.Add(s);
        }

        if (values.Count < 3 || top < 0 || values.Zip(values.Skip(1)).Any(p => p.Second.C <= p.First.C))
            return null;
        return new(
            "coldest-at-bottom", Weight.Odd,
            $"The nozzle gets hotter with height, from {Say.N(values[0].C, 1)} to {Say.N(values[^1].C, 1)} °C: the coldest section stands at the bottom.",
            "A nozzle that blocks there spoils all that stands above it. Turn the steps round: the hottest at the bottom.", values[0].Layer.FirstLine,
            values[0].Layer.Index, "step");
    }
}
