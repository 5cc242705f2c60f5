using Glenfrost.Core.Statistics;
using Glenfrost.Core.Settings;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <content>What is said beside the verdict, and what to print next.</content>
public static partial class TowerJudging
{
    /// <summary>What is missing; null where something can be said.</summary>
    private static TowerLack? Lacking(List<Group> contenders, IReadOnlyList<string> common, int unread, int groups) =>
        groups == 0 ? TowerLack.Scores
        : common.Count == 0 && contenders.Count == 0 && unread == 0 ? TowerLack.AllFailed
        : common.Count == 0 ? TowerLack.CommonAspect
        : common is ["strings"] ? TowerLack.MoreThanStrings
        : contenders.Count switch { 0 => TowerLack.NoneUsable, 1 => TowerLack.Second, _ => null };

    private static NextPrint NextFor(TowerLack lack, List<Group> contenders) => lack switch
    {
        TowerLack.Scores => new("print-again", "") { Why = NextWhy.ScoreSections },
        TowerLack.CommonAspect => new("print-again", "") { Why = NextWhy.ScoreOneAspect },
        TowerLack.MoreThanStrings => new("print-again", "") { Why = NextWhy.ScoreOneMore },
        TowerLack.Second => new("finer-steps", "", contenders[0].TemperatureC + 4, contenders[0].TemperatureC - 4, 2)
        {
            Why = NextWhy.FinerAround, AboutC = contenders[0].TemperatureC,
        },
        _ => new("print-again", "") { Why = NextWhy.CheckMachine },
    };

    private static List<TowerRemark> CommonWarnings(
        TowerReadings readings, List<SectionReading> read, List<string> common, Dictionary<string, double> weights)
    {
        var warnings = new List<TowerRemark>();
        foreach (var aspect in Aspects.All.Where(a => weights[a] > 0 && !common.Contains(a)))
        {
            var missing = read.Where(s => !s.Scores.ContainsKey(aspect)).ToList();
            if (missing.Count > 0 && missing.Count < read.Count)
                warnings.Add(new(TowerRemarkKind.LeftOut, [.. missing.Select(s => s.TemperatureC)]) { Word = aspect });
        }

        foreach (var s in readings.Sections.Where(s => s.State != SectionState.Lost && s.ObservedC is { } o && Math.Abs(o - s.TemperatureC) > 2))
            warnings.Add(new(TowerRemarkKind.Display, s.ObservedC!.Value, s.TemperatureC));
        return warnings;
    }

    private static TowerRemark? StringsAlone(List<Group> contenders, IReadOnlyList<string> common, TowerReadings readings, Group best)
    {
        var at = common.ToList().IndexOf("strings");
        if (at < 0 || common.Count < 2)
            return null;
        var weights = common.Where((_, i) => i != at).Select(a => readings.Weights?.GetValueOrDefault(a, 0) ?? 1).ToArray();
        var without = contenders.MaxBy(c => c.Scores.Average(s => ScoreBootstrap.Desirability([.. s.Where((_, i) => i != at)], weights)))!;
        return without.TemperatureC > best.TemperatureC && Beats(best, without) < Confidence
            ? new(TowerRemarkKind.OnlyStrings, best.TemperatureC, without.TemperatureC) : null;
    }

    private static IEnumerable<TowerRemark> Reasons(
        List<Group> groups, IReadOnlyList<string> common, Group best, List<Group> unseparated, List<Group> band)
    {
        var scored = groups.Where(g => g.Scores.Count > 0 && !g.Failed).ToList();
        double Mean(Group g, int a) => g.Scores.Average(s => s[a]);
        TowerRemark Side(TowerRemarkKind kind, Func<int, Group?> first) => new(kind)
        {
            Aspects =
            [
                .. common.Select((name, a) => (name, a, at: first(a))).Where(x => x.at is not null)
                    .Select(x => new AspectAt(x.name, Mean(x.at!, x.a), x.at!.TemperatureC)),
            ],
        };
        TowerRemark[] sides =
        [
            Side(TowerRemarkKind.Hotter, a => scored.Where(g => g.TemperatureC > best.TemperatureC && Mean(g, a) <= 2).MinBy(g => g.TemperatureC)),
            Side(TowerRemarkKind.Cooler, a => scored.Where(g => g.TemperatureC < best.TemperatureC && Mean(g, a) <= 2).MaxBy(g => g.TemperatureC)),
        ];
        foreach (var side in sides.Where(x => x.Aspects.Count > 0))
            yield return side;
        var failed = groups.Where(g => g.Failed).Select(g => g.TemperatureC).ToList();
        if (failed.Count > 0)
            yield return new(TowerRemarkKind.Failed, failed);
        var vetoed = groups.Where(g => !g.Failed && g.Vetoed).Select(g => g.TemperatureC).ToList();
        if (vetoed.Count > 0)
            yield return new(TowerRemarkKind.Vetoed, vetoed);
        if (unseparated.FirstOrDefault() is { } pair)
            yield return new(TowerRemarkKind.Pair, best.TemperatureC, pair.TemperatureC)
            {
                Scores = [4 * best.Desirability, 4 * pair.Desirability, Beats(best, pair)],
            };
        else
            yield return new(TowerRemarkKind.BeatsAll, best.TemperatureC) { Scores = [4 * best.Desirability] };
        if (band.Count > 1)
            yield return new(TowerRemarkKind.Within, band[^1].TemperatureC, band[0].TemperatureC);
    }

    private static NextPrint Next(
        TowerOutcome outcome, List<Group> groups, Group best, List<Group> unseparated, List<Group> outside, List<Group> band, double step,
        TowerReadings readings)
    {
        if (outcome != TowerOutcome.Noise)
            return new("confirm", "") { Why = NextWhy.Production, AboutC = band.Count > 1 ? null : best.TemperatureC };
        var rival = outside.FirstOrDefault() ?? unseparated[0];
        var chance = ChanceAfterRepeat(best, rival);
        var hot = Math.Max(best.TemperatureC, rival.TemperatureC);
        var cool = Math.Min(best.TemperatureC, rival.TemperatureC);
        var between = hot - cool;
        if (between > step + 1e-9 || step <= 3)
            return new("repeat-pair", "", hot, cool, Math.Min(20, between), chance)
            {
                Why = NextWhy.Pair, AboutC = best.TemperatureC, RivalC = rival.TemperatureC,
            };
        const double Fine = 2;
        var top = Clip(hot + Fine, readings);
        var count = Math.Floor((top - cool + Fine) / Fine);
        return new("finer-steps", "", top, top - count * Fine, Fine, chance)
        {
            Why = NextWhy.FinerPair, AboutC = best.TemperatureC, RivalC = rival.TemperatureC,
        };
    }

    /// <summary>Chance that one repeat of both separates them, if the difference seen is the true one (normal approximation).</summary>
    private static double ChanceAfterRepeat(Group best, Group rival)
    {
        var d = best.Desirability - rival.Desirability;
        var sd = best.Draws.Zip(rival.Draws, (a, b) => a - b).StandardDeviation() / Math.Sqrt(2);
        return sd < 1e-9 ? 1 : Normal.CDF(0, 1, d / sd - Normal.InvCDF(0, 1, Confidence));
    }

    /// <summary>How a range goes on beyond its end; and the limit where it can't.</summary>
    private static (NextPrint Next, TowerRemark? Closed) EdgeNext(TowerReadings readings, Group best, double step, bool atHotEnd)
    {
        var t = best.TemperatureC;
        if (atHotEnd)
        {
            var max = (double?)readings.Limits?.Max;
            var room = max is { } m ? Math.Floor((m - t) / step + 1e-9) : 3;
            return room < 1
                ? (
                    new("confirm", "") { Why = NextWhy.HotterClosed, AboutC = t },
                    new(TowerRemarkKind.HotLimit, max!.Value) { Word = readings.Limits?.MaxBecause ?? "" })
                : (new("extend-range", "", t + Math.Min(3, room) * step, t - step, step) { Why = NextWhy.Extend, MindTheLimit = max is null }, null);
        }

        var min = (double)(readings.Limits?.Min ?? (decimal)Equipment.HotendLimits.ColdExtrusionC);
        var down = Math.Floor((t - min) / step + 1e-9);
        return down < 1
            ? (new("confirm", "") { Why = NextWhy.ColderClosed, AboutC = t }, new(TowerRemarkKind.ColdLimit, min))
            : (new("extend-range", "", t + step, t - Math.Min(3, down) * step, step) { Why = NextWhy.Extend }, null);
    }

    /// <summary>No proposal leaves the machine's limits: a range is cut at them in whole steps, and one that nothing is left of is dropped.</summary>
    private static NextPrint? WithinLimits(NextPrint? next, TowerReadings readings)
    {
        if (next is not { HottestC: { } hot, CoolestC: { } cool, StepC: { } step })
            return next;
        var max = (double)(readings.Limits?.Max ?? 600);
        var min = (double)(readings.Limits?.Min ?? (decimal)Equipment.HotendLimits.ColdExtrusionC);
        if (hot <= max && cool >= min)
            return next;
        var top = hot > max ? Math.Floor(max) : hot;
        var steps = Math.Floor((top - Math.Max(cool, min)) / step + 1e-9);
        return steps < 1
            ? new("confirm", "") { Why = NextWhy.BelowLimit, AboutC = max }
            : next with { HottestC = top, CoolestC = top - steps * step, Why = NextWhy.Clipped };
    }

    private static double Clip(double t, TowerReadings readings) =>
        readings.Limits?.Max is { } max ? Math.Min(t, (double)max) : t;

    /// <summary>What another print would gain, and what it costs, where it is the same tower again.</summary>
    private static NextPrint? Worth(NextPrint? next, double gain, TowerReadings readings, int sections)
    {
        if (next is not { Kind: "confirm" or "repeat-pair" or "finer-steps" })
            return next;
        var again = next.HottestC is { } hot && next.CoolestC is { } cool && next.StepC is > 0 and var step ? (hot - cool) / step + 1 : sections;
        var costing = readings.Cost is { } cost ? (NextPrint)next.Costing(cost, again / sections) : next;
        return costing with { Gain = Math.Round(gain, 3) };
    }

    private static SectionVerdict Describe(SectionReading s, List<Group> groups, List<string> common)
    {
        if (s.State == SectionState.Lost)
            return new(s.TemperatureC, null, null, null, null, "lost", "");
        var g = groups.FirstOrDefault(x => x.TemperatureC == At(s));
        // A repeat that nobody read yet says nothing, even where its twin is scored.
        if (g is null || (s.State == SectionState.Judged && s.Scores.Count == 0))
            return new(At(s), null, null, null, null, "unread", "");
        if (g.Failed || g.Vetoed)
            return new(g.TemperatureC, 0, 0, 0, 0, g.Failed ? "failed" : "vetoed", "");
        return common.Count == 0
            ? new(g.TemperatureC, null, null, null, null, "judged", "")
            : new(g.TemperatureC, g.Desirability, g.Draws.Quantile(0.025), Math.Min(1, g.Draws.Quantile(0.975)), g.Win, "judged", "");
    }
}
