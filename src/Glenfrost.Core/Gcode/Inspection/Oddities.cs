using Glenfrost.Core.Settings;
using Glenfrost.Core.Equipment;
using System.Globalization;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>How much something matters.</summary>
public enum Weight
{
    /// <summary>Worth knowing.</summary>
    Note,

    /// <summary>Probably not meant.</summary>
    Odd,

    /// <summary>Spoils the print or the machine.</summary>
    Wrong,
}

/// <summary>Something that stands out in a file.</summary>
/// <param name="Key">A fixed word for its kind.</param>
/// <param name="Weight">How much it matters.</param>
/// <param name="Text">What it is, the number first.</param>
/// <param name="ToDo">What to do.</param>
/// <param name="Line">Its line; 0 where it has none.</param>
/// <param name="Layer">Its layer's index; -1 where it has none.</param>
/// <param name="Fix">Key of the rewrite that mends it; null where there is none.</param>
public sealed record Oddity(string Key, Weight Weight, string Text, string ToDo, int Line = 0, int Layer = -1, string? Fix = null);

/// <summary>Looks for what stands out in a file, each with its line and what to do.</summary>
public static partial class Oddities
{
    /// <summary>All of them, what matters most first.</summary>
    public static IReadOnlyList<Oddity> Of(FileFacts f)
    {
        if (f.Empty)
            return
            [
                new(
                    "empty", Weight.Wrong, f.Lines == 0 ? "The file is empty." : "Nothing is extruded in this file.",
                    "Slice the model again and drop the new file here."),
            ];
        return
        [
            .. StartAndEnd(f).Concat(Temperatures(f)).Concat(Extruder(f)).Concat(Motion(f)).Concat(Flow(f)).Concat(Shape(f)).Concat(Steps(f)).Concat(Waits(f))
                .Concat(Reading(f)).OrderByDescending(o => o.Weight),
        ];
    }

    private static IEnumerable<SettingLine> Of(FileFacts f, params SettingKind[] kinds) => f.Settings.Where(s => kinds.Contains(s.Kind));


    /// <summary>A length of time as it is spoken.</summary>
    internal static string Time(double seconds) =>
        seconds < 90 ? $"{Say.N(seconds, seconds < 10 ? 1 : 0)} s"
        : seconds < 5400 ? $"{Say.N(seconds / 60, 0)} min"
        : $"{(int)(seconds / 3600)} h {(int)(seconds % 3600 / 60)} min";

    /// <summary>A layer as people count: from 1, with its height.</summary>
    internal static string Layer(FileFacts f, int index) =>
        index < 0 ? "before the first layer" : $"layer {index - f.Layers.TakeWhile(l => l.Priming).Count() + 1} (z {Say.N(f.Layers[index].Z, 2)})";

    private static IEnumerable<Oddity> StartAndEnd(FileFacts f)
    {
        var first = f.FirstExtrudeLine;
        foreach (var (kind, what, code, key) in new[]
            {
                (SettingKind.FlowPercent, "flow", "M221", "flow-override"), (SettingKind.SpeedPercent, "speed", "M220", "speed-override"),
            })
        {
            var all = Of(f, kind).ToList();
            if (all.LastOrDefault(s => s.Line < first) is { } left && Math.Abs(left.Value - 100) > 0.01)
            {
                yield return new(
                    key, Weight.Odd, $"{Say.N(left.Value, 1)} % {what} override stands in the start code ({code} " +
                        $"S{Say.N(left.Value, 1)}).", kind == SettingKind.FlowPercent
                        ? "Left over from an earlier trial? It multiplies every flow that you measure here. Drop the line, or keep it on purpose."
                        : "Left over? All times and flows change with it. Drop the line, or keep it on purpose.",
                    left.Line, -1, kind == SettingKind.FlowPercent ? "flow-override" : "speed-override");
            }
        }

        foreach (var (value, what) in new[] { (f.End.Nozzles.Where(t => t > 0).DefaultIfEmpty(0).Max(), "nozzle"), (f.End.Bed > 0 ? f.End.Bed : 0, "bed") })
        {
            if (value > 0)
                yield return new(
                    $"{what}-left-on", what == "nozzle" ? Weight.Wrong : Weight.Odd, $"The {what} is still set to {Say.N(value, 1)} °C at the end of the file.",
                    "Add a line that switches it off, unless your printer's end macro does.", f.Lines);
        }

        var volumetric = Of(f, SettingKind.Volumetric).LastOrDefault(s => s.Value > 0);
        if (volumetric is not null)
            yield return new(
                "volumetric", Weight.Note, "E counts mm³ in this file (M200).",
                "Amounts here are computed from that. A printer without M200 would feed far too much.", volumetric.Line);
    }

    private static IEnumerable<Oddity> Temperatures(FileFacts f)
    {
        var m = f.Request.Machine;
        foreach (var (kinds, limit, what) in m is null
                ? []
                : new[]
                {
                    (new[] { SettingKind.Nozzle, SettingKind.NozzleAndWait }, m.Limits.MaxC, $"nozzle's limit of {Say.N(m.Limits.MaxC, 1)} °C"),
                    ([SettingKind.Bed, SettingKind.BedAndWait], m.BedMaxC, $"bed's limit of {Say.N(m.BedMaxC, 1)} °C"),
                    ([SettingKind.Chamber], m.ChamberMaxC, $"chamber's limit of {Say.N(m.ChamberMaxC, 1)} °C"),
                })
        {
            if (Of(f, kinds).Where(s => s.Value > limit).OrderByDescending(s => s.Value).FirstOrDefault() is { } hot)
                yield return new(
                    "temperature-above-limit", Weight.Wrong, $"{Say.N(hot.Value, 1)} °C is above the {what} on {m!.Name}.",
                    "Don't print it on this printer. Correct the temperature, or choose the printer that it was made for.", hot.Line, hot.Layer, "temperature");
        }

        var nozzle = Of(f, SettingKind.Nozzle, SettingKind.NozzleAndWait).ToList();
        var said = nozzle.Any(s => s.Line < f.FirstExtrudeLine && s.Value > 0);
        if (!said)
        {
            yield return new(
                "temperature-never-set", f.Unknown.Count > 0 ? Weight.Odd : Weight.Wrong, "No nozzle temperature is set before the first extrusion.",
                f.Unknown.Count > 0
                    ? "If your printer's start macro heats, that is fine; else add one to the start code."
                    : "Add M104 and M109 to the start code, or slice again with one.",
                f.FirstExtrudeLine);
        }
        else
        {
            if (f.ColdMoves > 0)
                yield return new(
                    "cold-extrusion", Weight.Wrong,
                    $"{f.ColdMoves} moves extrude at {(double.IsNaN(f.ColdC) ? "no set temperature" : $"{Say.N(f.ColdC, 1)} °C")}, below the cold-extrusion " +
                        $"limit{(m is null ? "" : $" of {Say.N(m.Limits.MinC, 1)} °C")}.",
                    "The printer refuses or skips. Heat before that line.", f.ColdLine);
            if (!nozzle.Any(s => s.Kind == SettingKind.NozzleAndWait && s.Line < f.FirstExtrudeLine) && f.Unknown.Count == 0)
                yield return new(
                    "not-waited", Weight.Odd, "The nozzle is not waited for before the first extrusion.", "Add M109 with the temperature to the start code.",
                    f.FirstExtrudeLine);
        }

        foreach (var twice in nozzle.Where(s => s.Layer >= 0 && s.Line < f.LastExtrudeLine && s.Value > 0).GroupBy(s => (s.Layer, s.Tool))
                .Where(g => g.Select(s => s.Value).Distinct().Count() > 1)
                .Take(3))
        {
            var all = twice.ToList();
            // What comes between objects printed one after another belongs to the next one.
            yield return new(
                "temperature-twice", Weight.Odd,
                $"The temperature is set {all.Count} times in {Layer(f, twice.Key.Layer)}: " +
                    $"{string.Join(", then ", all.Take(4).Select(s => $"{Say.N(s.Value, 1)} °C"))}.",
                "Only one of them can be meant. Drop the other line.", all[1].Line, twice.Key.Layer, "temperature");
        }

        if (!Of(f, SettingKind.Bed, SettingKind.BedAndWait).Any() && f.Unknown.Count == 0)
            yield return new(
                "bed-never-set", Weight.Note, "No bed temperature is set.", "Fine for a bed without heater; else add M140 and M190 to the start code.");
    }

    private static IEnumerable<Oddity> Extruder(FileFacts f)
    {
        if (f.BothE)
            yield return new(
                "e-mode-mixed", Weight.Odd, "E changes between absolute and relative within the model (M82 and M83).",
                "Two scripts may have been at work. Look whether the first line after each change counts from the right place.",
                Of(f, SettingKind.AbsoluteE, SettingKind.RelativeE).FirstOrDefault(s => s.Layer >= 0)?.Line ?? 0);
        if (f.ThickestMm2 > 4)
            yield return new(
                "e-jump", Weight.Wrong, $"{Say.N(f.ThickestMm2, 0)} mm² would be laid in one move: far more than a nozzle can.",
                "E probably counts from another place there: absolute numbers read as relative, or a missing G92 E0.", f.ThickestLine);
        var relative = Of(f, SettingKind.RelativeE).LastOrDefault(s => s.Line < f.FirstExtrudeLine);
        if (relative is not null
            && f.RelativeE
            && Of(f, SettingKind.AbsoluteXyz).LastOrDefault(s => s.Line > relative.Line && s.Line < f.FirstExtrudeLine) is { } absolute)
            yield return new(
                "g90-after-m83", Weight.Note, "G90 comes after M83 and before the model.",
                "Some printers then count E absolute too. Put M83 behind G90 to be safe.", absolute.Line);
        if (f.Retraction.Count == 0 && f.Retraction.LongTravelsWithout > 10)
            yield return new(
                "no-retraction", Weight.Note, $"{f.Retraction.LongTravelsWithout} travels of more than 2 mm, and not one retraction.",
                "Meant for a trial without; else look at the slicing profile.");
    }

    private static IEnumerable<Oddity> Motion(FileFacts f)
    {
        if (f.BesideMoves > 0)
            yield return new(
                "beside-bed", f.BesideExtrudes ? Weight.Wrong : Weight.Odd,
                $"{f.BesideMoves} moves leave the bed or height of {f.Request.Machine!.Name}, the first to {f.BesideWhere}.",
                "Was it sliced for another printer or origin? Move the model and slice again.", f.BesideLine);
        if (f.CrowdedSeconds >= 0.5)
        {
            yield return new(
                "crowded", Weight.Odd,
                $"Up to {Say.N(f.MostMovesPerSecond, 0)} moves a second, for {Time(f.CrowdedSeconds)}: more than the " +
                $"{Say.N(f.Request.MostMovesPerSecond, 0)} that " +
                    $"controllers usually take.",
                "Tiny segments make the nozzle stutter and leave blobs. Slice with a coarser resolution (0.05 mm or arcs), or slower.", f.MostMovesLine);
        }

        if (f.Request.FlowLimit is { } limit && f.SecondsAbove > 0)
        {
            var above = f.Model.Where(l => l.SecondsAbove > 0).ToList();
            var most = above.MaxBy(l => l.SecondsAbove);
            yield return new(
                "flow-above-limit", Weight.Odd,
                $"{Time(f.SecondsAbove)} are faster than {Say.N(limit, 1)} mm³/s, in {above.Count} of {f.Model.Count()} layers; the most is " +
                $"{Say.N(f.MaxFlow, 1)} mm³/s.",
                $"Lines get thin there. Lower the speed, line width or layer height, most of all in {Layer(f, most?.Index ?? -1)}.", f.MaxFlowLine,
                most?.Index ?? -1);
        }
    }

    private static IEnumerable<Oddity> Flow(FileFacts f)
    {
        if (FlowShape.Of(f) is not { } shape)
            yield break;
        if (shape.SpeedOnly)
            yield return new(
                "flow-flat", Weight.Odd, $"Speed rises with height, but flow stays at {Say.N(shape.ToFlow, 1)} mm³/s.",
                "A flow limit in the slicing profile may hold it: take that off for a flow trial.");
        if (shape.ClippedFromLayer >= 0)
            yield return new(
                "flow-clipped", Weight.Odd,
                $"Flow rises from {Say.N(shape.FromFlow, 1)} to {Say.N(shape.ToFlow, 1)} mm³/s and is cut off from {Layer(f, shape.ClippedFromLayer)} on.",
                "A flow or speed limit of the slicing profile holds it. For a flow trial take the limit off.", f.Layers[shape.ClippedFromLayer].FirstLine,
                shape.ClippedFromLayer);
        if (shape.HeldBackFromLayer >= 0)
            yield return new(
                "flow-held-back", Weight.Odd,
                $"From {Layer(f, shape.HeldBackFromLayer)} on the machine's acceleration keeps flow below what the file asks: {Say.N(shape.ReachedFlow, 1)} " +
                    $"instead of {Say.N(shape.ToFlow, 1)} mm³/s at the top.",
                "Use a larger piece with long straight lines, or a higher acceleration.", f.Layers[shape.HeldBackFromLayer].FirstLine, shape.HeldBackFromLayer);
    }

    private static IEnumerable<Oddity> Shape(FileFacts f)
    {
        var model = f.Model.ToList();
        var rest = model.Skip(1).Where(l => !l.Spiral).Select(l => l.Thickness).Order().ToList();
        if (rest.Count > 2 && model[0].Thickness > 1.45 * rest[rest.Count / 2])
            yield return new(
                "thick-first-layer", Weight.Odd, $"{Say.N(model[0].Thickness, 2)} mm first layer above layers of {Say.N(rest[rest.Count / 2], 2)} mm.",
                "It takes that much more flow. Count layers from it with care: heights don't divide by the layer height.", model[0].FirstLine, model[0].Index);
        foreach (var order in Order(f, model))
            yield return order;
        if (SlowDowns.Of(f) is { Layers: > 0 } slow)
        {
            var lasting = double.IsNaN(slow.MinimumS) ? "" : $" to last {(slow.Stated ? "the stated" : "about")} {Say.N(slow.MinimumS, 1)} s";
            yield return new(
                "slowed", Weight.Note,
                $"{slow.Layers} layers are slowed down{lasting}" +
                    (slow.CostS < 0.5 ? "; none shows how fast they would be without."
                    : $", the slowest to {Say.N(slow.SlowestShare * 100, 0)} % of the file's own speeds; that costs {(slow.AtLeast ? "at least " : "")}" +
                        $"{Time(slow.CostS)}."),
                "In a trial of temperature or flow such layers are printed under other conditions than the rest. Change the minimum below, or print two " +
                    "pieces at once.",
                f.Layers[slow.FirstLayer].FirstLine, slow.FirstLayer, "layer-time");
        }

        if (f.TooManyLayers)
            yield return new(
                "too-many-heights", Weight.Odd, $"More than {LayerFinder.Most} heights.",
                "The file may be carved, not layered. What is above is counted to the last layer.");
    }

    private static IEnumerable<Oddity> Steps(FileFacts f)
    {
        foreach (var mark in f.StepMarks.Where(s => s.Contains(" to ", StringComparison.Ordinal)).Take(3))
            yield return new(
                "stepped", Weight.Note, $"This file was stepped here before: {mark[StepMark.Text.Length..].Trim(':', ' ')}.",
                "Step the file that it was made from; stepping this one again mixes two steps.");
        var inModel = f.Settings.Where(s => s.Layer > f.Layers.TakeWhile(l => l.Priming).Count() && s.Line < f.LastExtrudeLine).ToList();
        var temperatures = inModel.Where(s => s.Kind is SettingKind.Nozzle or SettingKind.NozzleAndWait && s.Value > 0).DistinctBy(s => (s.Layer, s.Value))
            .ToList();
        if (f.SaysTower)
        {
            if (temperatures.Select(s => s.Value).Distinct().Count() < 2)
                yield return new(
                    "tower-without-steps", Weight.Odd, "The file calls itself a temperature tower, but its temperature never changes.",
                    "Step it by height below, then print that file.", 0, -1, "step");
        }
        else if (f.StepMarks.Count == 0)
        {
            foreach (var (name, values) in new[]
                {
                    ("nozzle temperature", temperatures), ("flow override", inModel.Where(s => s.Kind == SettingKind.FlowPercent).ToList()),
                    ("pressure advance", inModel.Where(s => s.Kind == SettingKind.PressureAdvance).DistinctBy(s => s.Value).ToList()),
                })
            {
                if (values.Count >= 3 && values.Select(s => s.Value).Distinct().Count() >= 3)
                    yield return new(
                        "steps-left-on", Weight.Odd,
                        $"{values.Count} changes of {name} with height: {string.Join(", ", values.Take(4).Select(s => Say.N(s.Value, 3)))}" +
                            $"{(values.Count > 4 ? " …" : "")}.",
                        "A stepping script left on from an earlier file? Switch it off and slice again, unless this is a trial.", values[0].Line,
                        values[0].Layer);
            }
        }
    }

    private static IEnumerable<Oddity> Reading(FileFacts f)
    {
        if (f.UnreadLines > 0)
            yield return new(
                "unreadable", f.UnreadLines > f.Lines / 20 ? Weight.Wrong : Weight.Odd, $"{f.UnreadLines} lines can't be read; the first: {f.Unread[0].Why}.",
                "Printers guess at such lines. Slice again, or mend the script that wrote them.", f.Unread[0].Line);
        if (f.LongLines > 0)
            yield return new("long-lines", Weight.Odd, $"{f.LongLines} lines are longer than 256 KiB.", "No printer takes them; they were passed over.");
        if (f.ThickestMm2 < 4 && f.Width.Total > 0 && f.Width.Quantile(0.5) is > 2.5 or < 0.05)
            yield return new(
                "odd-width", Weight.Odd, $"Half of all lines would be {Say.N(f.Width.Quantile(0.5), 2)} mm wide.",
                $"Is {Say.N(f.Request.FilamentDiameterMm, 2)} mm the right filament diameter?");
    }
}
