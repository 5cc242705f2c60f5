using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Rewriting;

namespace Glenfrost.Core.Gcode.Stepping;

/// <summary>What the written file was found to do in a section.</summary>
/// <param name="Section">As planned.</param>
/// <param name="FoundMin">Least value found in its layers; NaN where none was.</param>
/// <param name="FoundMax">Most.</param>
/// <param name="Line">Line of the written file at which it begins.</param>
/// <param name="Holds">It is what was planned.</param>
public sealed record ProvenSection(StepSection Section, double FoundMin, double FoundMax, int Line, bool Holds);

/// <summary>A written file, read back.</summary>
/// <param name="Sections">Section by section.</param>
/// <param name="Diff">How its lines differ from the file that it was made from.</param>
/// <param name="Others">What is wrong beside the sections, in words.</param>
public sealed record StepProof(IReadOnlyList<ProvenSection> Sections, LineDiff Diff, IReadOnlyList<string> Others)
{
    /// <summary>Every section has its value and nothing else changed.</summary>
    public bool Holds => Sections.All(s => s.Holds) && Others.Count == 0;

    /// <summary>
    /// Reads the written file with the same reader as any other, from its bytes alone, and compares it with the plan and with the file that it was made from.
    /// </summary>
    public static StepProof Read(Func<Stream> before, FileFacts was, Func<Stream> after, StepPlan plan, CancellationToken stop = default)
    {
        FileFacts now;
        using (var file = after())
            now = Inspector.Inspect(file, was.Request with { Motion = null }, stop);
        var diff = LineDiff.Of(before, after, stop);
        var others = new List<string>();
        if (now.Layers.Count != was.Layers.Count)
            others.Add($"The written file has {now.Layers.Count} layers instead of {was.Layers.Count}.");
        var onlyMoves =
            plan.What == Steppable.Flow
            || plan.What == Steppable.RetractionLength
            || plan.What == Steppable.RetractionSpeed
            || plan.What == Steppable.Speed
            || plan.What == Steppable.SpeedPercent;
        if (diff.Other > 0 || !onlyMoves && diff.Moves > 0)
            others.Add($"{diff.Other + (onlyMoves ? 0 : diff.Moves)} lines changed that should not have.");
        if (plan.What != Steppable.Flow && Math.Abs(now.Volume - was.Volume) > 1e-3 * Math.Max(1, was.Volume))
            others.Add("The amount of filament changed.");
        var sections = new List<ProvenSection>();
        foreach (var s in plan.Sections)
        {
            if (s.Layer >= now.Layers.Count)
                continue;
            var layers = Of(now, plan, s).Where(l => l.Index < was.Layers.Count).ToList();
            var (min, max) = Found(plan.What, layers, was, now.Retraction.Firmware > 0);
            var tolerance =
                plan.What == Steppable.Fan ? 0.25
                : plan.What == Steppable.Flow || plan.What == Steppable.SpeedPercent ? Math.Max(0.02, 0.002 * s.Value)
                : plan.What == Steppable.RetractionLength ? 0.006
                : 1e-3 * Math.Max(1, s.Value);
            // A section without a retraction has none to prove.
            var none = double.IsNaN(min) && (plan.What == Steppable.RetractionLength || plan.What == Steppable.RetractionSpeed);
            sections.Add(new(s, min, max, now.Layers[s.Layer].FirstLine, none || min >= s.Value - tolerance && max <= s.Value + tolerance));
        }

        return new(sections, diff, others);
    }

    private static List<LayerFacts> Of(FileFacts now, StepPlan plan, StepSection s)
    {
        var i = plan.Sections.ToList().IndexOf(s);
        var next = i + 1 < plan.Sections.Count ? plan.Sections[i + 1].Layer : now.Layers.Count;
        return [.. now.Layers.Skip(s.Layer).Take(next - s.Layer).Where(l => l.Object == s.Object)];
    }

    private static (double Min, double Max) Found(Steppable what, List<LayerFacts> layers, FileFacts was, bool firmware)
    {
        var all = layers.Select(l =>
            what == Steppable.Temperature ? (l.NozzleMin, l.NozzleMax)
            : what == Steppable.Fan ? (l.FanMin, l.FanMax)
            : what == Steppable.PressureAdvance ? (l.AdvanceMin, l.AdvanceMax)
            : what == Steppable.Speed ? (l.MinSpeed, l.MaxSpeed)
            : what == Steppable.Flow ? Share(l.Volume, was.Layers[l.Index].Volume)
            : what == Steppable.SpeedPercent ? Share(l.Length / l.AskedSeconds, was.Layers[l.Index].Length / was.Layers[l.Index].AskedSeconds)
            : what == Steppable.RetractionLength ? Retraction(l, was.Layers[l.Index], firmware)
            : (l.RetractSpeedMin, l.RetractSpeedMax)).Where(v => !double.IsNaN(v.Item1) && !double.IsNaN(v.Item2)).ToList();
        // The retraction before a section's first line was still done under the section before.
        if ((what == Steppable.RetractionLength || what == Steppable.RetractionSpeed) && all.Count > 1)
            all.RemoveAt(0);
        return all.Count == 0 ? (double.NaN, double.NaN) : (all.Min(v => v.Item1), all.Max(v => v.Item2));
    }

    private static (double, double) Share(double now, double was) => was > 0 ? (now / was * 100, now / was * 100) : (double.NaN, double.NaN);

    /// <summary>Of a layer's retractions the longest is the whole one.</summary>
    private static (double, double) Retraction(LayerFacts now, LayerFacts was, bool firmware) =>
        firmware || was.RetractMax - was.RetractMin < 0.01 ? (now.RetractMin, now.RetractMax) : (now.RetractMax, now.RetractMax);
}
