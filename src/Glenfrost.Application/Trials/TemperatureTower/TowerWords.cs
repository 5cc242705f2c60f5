using Glenfrost.Core.Settings;
using System.Globalization;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Application.Trials.TemperatureTower;

/// <summary>What a temperature tower says, in words.</summary>
internal sealed class TowerWords : VerdictWords<TowerVerdict>
{
    /// <inheritdoc/>
    protected override TowerVerdict WithInner(TowerVerdict v) => v with
    {
        Sections = [.. v.Sections.Select((s, i) => s with { Arithmetic = How(s, v.From.Sections[i], v) })],
    };

    /// <inheritdoc/>
    protected override Wording Word(TowerVerdict v)
    {
        var next = v.Next is { } n ? Next(n) : null;
        var warnings = v.Cautions.Select(Caution).ToList();
        var told = v.Numbers is not { } numbers
            ? new Wording(Lacks(v)) { Reasons = [LackWhy(v)] }
            : new(Sentence(v, numbers)) { Reasons = [.. v.Because.Select(Reason)] };
        return told with { Warnings = warnings, Next = next, Arithmetic = [.. v.Sections.Select(s => $"{T(s.TemperatureC)} °C: {s.Arithmetic}")] };
    }

    private static string T(double v) => Say.N(v, 1);

    private static string S(double v) => Say.N(v);

    private static string P(double v) => Say.N(100 * v, 0) + " %";

    private static string All(IEnumerable<double> temperatures) => string.Join(", ", temperatures.Select(T));

    private static string Lacks(TowerVerdict v) => v.Lack switch
    {
        TowerLack.Scores => "Nothing to judge yet.",
        TowerLack.CommonAspect => "No aspect is scored on every section.",
        TowerLack.MoreThanStrings => "Strings alone settle no temperature.",
        TowerLack.Second => $"Only {T(v.Sections.First(s => s.Fate == "judged").TemperatureC)} °C is usable so far.",
        _ => "No temperature of this tower can be used.",
    };

    private static string LackWhy(TowerVerdict v) => v.Lack switch
    {
        TowerLack.Scores => "No section has a score.",
        TowerLack.AllFailed => "Every section that was printed failed.",
        TowerLack.CommonAspect => "Sections are compared only in the aspects that all of them have.",
        TowerLack.MoreThanStrings => "Colder always strings less, until the part goes weak and starved. Score bridge, overhang or surface too.",
        TowerLack.Second => v.Unread > 0 ? $"{v.Unread} sections are still to be read." : "One section alone has nothing to compare with.",
        _ => "Every section failed or has a 0.",
    };

    private static string Sentence(TowerVerdict v, TowerNumbers n)
    {
        var (value, band, behind) = (T(v.RecommendedTemperatureC!.Value), v.Band!, Behind(n));
        return v.Outcome switch
        {
            TowerOutcome.Clear => $"{value} °C. It stands alone: {behind}.",
            TowerOutcome.Band when n is { AllAlike: true, BandCount: > 2 } => $"{value} °C. Any from {T(band.FromC)} to {T(band.ToC)} will do: {behind}.",
            TowerOutcome.Band when n.BandCount > 1 => $"{value} °C. Good from {T(band.FromC)} to {T(band.ToC)}: {behind}.",
            TowerOutcome.Band => $"{value} °C: {behind}.",
            TowerOutcome.Noise => $"{T(n.BestC)} and {T(n.RivalC!.Value)} °C cannot be told apart: {value} °C is {behind}.",
            _ => v.EdgeAtLimit
                ? $"{value} °C is the best, at a limit of the machine."
                : $"{value} °C is the best so far, but at the {(n.AtHotEnd ? "hot" : "cool")} end of what was printed.",
        };
    }

    private static string Behind(TowerNumbers n) =>
        n.Loss.P95 < 0.05 ? "about nothing is lost" : $"at most {S(Math.Round(n.Loss.P95, 1))} of a score behind the best (19 in 20)";

    private static string Reason(TowerRemark r)
    {
        var t = r.TemperaturesC;
        return r.Kind switch
        {
            TowerRemarkKind.Hotter => $"Hotter: {Bad(r)}.",
            TowerRemarkKind.Cooler => $"Cooler: {Bad(r)}.",
            TowerRemarkKind.Failed => $"{All(t)} failed to print.",
            TowerRemarkKind.Vetoed => $"{All(t)} {(t.Count == 1 ? "has" : "have")} a 0: one 0 vetoes.",
            TowerRemarkKind.Pair =>
                $"{T(t[0])} scores {S(r.Scores[0])}, {T(t[1])} scores {S(r.Scores[1])} of 4 over all; {P(r.Scores[2])} that the first is really better.",
            TowerRemarkKind.BeatsAll => $"{T(t[0])} scores {S(r.Scores[0])} of 4 over all and beats every other section with more than {P(TowerJudging.Confidence)}.",
            TowerRemarkKind.Within =>
                $"{T(t[0])} to {T(t[1])} lie within {S(TowerJudging.MarginScores)} score of the best, shown at {P(TowerJudging.Confidence)}.",
            TowerRemarkKind.Curve =>
                $"The curve through all sections is highest at {T(t[0])} °C, {T(t[1])} to {T(t[2])} at 95 %; that counts more than the middle of the band.",
            TowerRemarkKind.HotLimit => $"It can't be extended: the machine's limit is {T(t[0])} °C{(r.Word.Length > 0 ? $" ({r.Word})" : "")}.",
            TowerRemarkKind.ColdLimit => $"It can't be extended: the cold-extrusion limit is {T(t[0])} °C.",
            _ => throw new ArgumentOutOfRangeException(nameof(r), r.Kind, "It is no reason."),
        };
    }

    private static string Bad(TowerRemark r) => string.Join(", ", r.Aspects.Select(a => $"{a.Aspect} {S(a.Score)} of 4 from {T(a.TemperatureC)}"));

    private static string Caution(TowerRemark r)
    {
        var t = r.TemperaturesC;
        return r.Kind switch
        {
            TowerRemarkKind.LeftOut =>
                $"{char.ToUpperInvariant(r.Word[0])}{r.Word[1..]} is left out: {All(t)} °C {(t.Count == 1 ? "has" : "have")} no score for it.",
            TowerRemarkKind.Display => $"The display showed {T(t[0])} °C where {T(t[1])} was planned; judged at {T(t[0])}.",
            TowerRemarkKind.Unread => $"{r.Count} section{(r.Count == 1 ? " is" : "s are")} still to be read; the verdict may move.",
            TowerRemarkKind.BandReachesHot => "The good band reaches the hot end of what was printed; it may go on beyond.",
            TowerRemarkKind.BandReachesCool => "The good band reaches the cool end of what was printed; it may go on beyond.",
            TowerRemarkKind.OnlyStrings =>
                $"Only strings speak for {T(t[0])} over {T(t[1])} °C. Dryness and retraction come before lowering the temperature.",
            TowerRemarkKind.Strength => "Hotter for strength is unproven without a bond test: bonding may peak and fall again, and the fan often matters more.",
            TowerRemarkKind.OutsideAdvice => $"{T(t[0])} °C is outside the advised range. Advice is not a limit; it is marked in the profile.",
            _ => throw new ArgumentOutOfRangeException(nameof(r), r.Kind, "It is no caution."),
        };
    }

    private static string Next(NextPrint n)
    {
        var (range, step) = (n is { CoolestC: { } cool, HottestC: { } hot } ? $"{T(cool)} to {T(hot)} °C" : "", T(n.StepC ?? 0));
        var about = n.AboutC is { } at ? T(at) : "";
        var rival = n.RivalC is { } other ? T(other) : "";
        var text = n.Why switch
        {
            NextWhy.ScoreSections => "Score the sections, one aspect at a time.",
            NextWhy.CheckMachine => "Check nozzle, dryness and extruder feed, then print the tower again.",
            NextWhy.ScoreOneAspect => "Score one aspect down all sections first.",
            NextWhy.ScoreOneMore => "Score one more aspect down all sections.",
            NextWhy.FinerAround => $"Print finer steps around {about} °C.",
            NextWhy.FinerPair => $"{about} and {rival} °C cannot be told apart. Print {range} by {step} once.",
            NextWhy.Pair => $"{about} and {rival} °C cannot be told apart. Print these two once more.",
            NextWhy.HotterClosed => $"Confirm {about} °C; hotter is not open to this machine.",
            NextWhy.ColderClosed => $"Confirm {about} °C; colder is not open to this machine.",
            NextWhy.Extend => $"Extend the range: print {range} by {step}.{(n.MindTheLimit ? " Mind the machine's limit." : "")}",
            NextWhy.BelowLimit => $"Print the best again below the machine's limit of {about} °C; part of what was read lies above it.",
            NextWhy.Clipped => $"Within the machine's limits, print {range} by {step}.",
            _ => $"Confirm {(about.Length > 0 ? $"{about} °C" : "it")} at production flow and layer time, with the smallest feature you want.",
        };
        return n.Gain is { } gain ? $"{text} {Worth(n, gain)}" : text;
    }

    /// <summary>What another print would gain, and what it costs.</summary>
    private static string Worth(NextPrint n, double gain)
    {
        var price = n.Minutes is { } m
            ? $" for {(n.Grams is { } g ? $"{S(Math.Round(g))} g and " : "")}{(m < 60 ? $"{m} min" : $"{m / 60} h {m % 60:00}")}" : "";
        var much = $"would gain {(gain < 0.005 ? "next to nothing" : $"about {S(gain)} of a score")}{price}";
        return n.Kind != "confirm" ? $"It {much}." : $"Another tower {much}{(gain < TrialNext.SmallGain ? ": not worth it" : "")}.";
    }

    /// <summary>How the number of a section came about.</summary>
    private static string How(SectionVerdict s, SectionReading read, TowerVerdict v)
    {
        var common = v.CommonAspects;
        switch (s.Fate)
        {
            case "lost":
                return "lost: left out";
            case "unread":
                return "not read yet";
            case "failed":
                return "failed to print: 0";
            case "vetoed":
                return $"{string.Join(", ", read.Scores.Where(x => x.Value <= 0).Select(x => x.Key))} is 0: vetoed";
            case "judged" when common.Count == 0:
                return "no aspect in common";
        }

        double Weight(string aspect) => v.From.Weights is null ? 1 : v.From.Weights.GetValueOrDefault(aspect, 0);
        var product = string.Join(
            " · ", common.Select(a => Weight(a) == 1 ? $"{S(read.Scores[a])}/4" : $"({S(read.Scores[a])}/4)^{S(Weight(a))}"));
        var repeats = v.From.Sections.Count(x =>
            x.State != SectionState.Lost && (x.ObservedC ?? x.TemperatureC) == s.TemperatureC && (x.State == SectionState.Failed || x.Scores.Count > 0));
        return $"({product})^(1/{S(common.Sum(Weight))}) = {s.Desirability!.Value.ToString("0.000", CultureInfo.InvariantCulture)}" +
            $"{(repeats > 1 ? $", mean of {repeats} repeats" : "")}";
    }
}
