using Glenfrost.Core.Settings;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Trials.WarpPairs;

/// <summary>
/// Judges pairs of plates: the part is the unit (the mean of its corners), pairs are compared within themselves (paired t, its spread pooled with earlier equal
/// parts), and the exact test says what so few pairs can show at best.
/// </summary>
public static class WarpJudging
{
    /// <summary>The two arms.</summary>
    public const string Without = "without", With = "with";

    /// <summary>Room and chamber differ from this on, °C.</summary>
    public const double RoomC = 2, ChamberC = 4;

    /// <summary>Most pairs that are proposed.</summary>
    public const int MostPairs = 20;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(WarpReadings r)
    {
        var errors = new List<FieldError>();
        void Within(string field, double? v, double least, double most, string why)
        {
            if (v is { } x && !(x >= least && x <= most))
                errors.Add(new(field, $"{Say.N(x, 3)} is outside {Say.N(least)} to {Say.N(most)}: {why}."));
        }

        if (r.Parts.Count > 200)
            errors.Add(new("parts", $"{r.Parts.Count} parts are more than anybody prints: at most 200."));
        foreach (var (p, i) in r.Parts.Select((p, i) => (p, i)))
        {
            if (r.Parts.Take(i).Any(o => o.Arm == p.Arm && o.Pair == p.Pair))
                errors.Add(new($"parts[{i}].pair", $"Pair {p.Pair} has a part \"{p.Arm}\" already: a pair is one of each."));
            foreach (var (l, k) in p.Lifts.Select((l, k) => (l, k)))
                Within($"parts[{i}].lifts[{k}].mm", l.Mm, -5, 60, "a lifted corner in mm, for example 0.8");
            Within($"parts[{i}].roomC", p.RoomC, -20, 60, "the air of the room");
            Within($"parts[{i}].roomEndC", p.RoomEndC, -20, 60, "the air of the room");
            Within($"parts[{i}].chamberC", p.ChamberC, -20, 150, "the air around the part");
            Within($"parts[{i}].chamberEndC", p.ChamberEndC, -20, 150, "the air around the part");
        }

        Within("smallestUsefulMm", r.SmallestUsefulMm, 0.02, 20, "0.3 is usual");
        Within("tolerableMm", r.TolerableMm, 0.02, 20, "0.5 is usual");
        Within("earlierSpreadMm", r.EarlierSpreadMm, 0.001, 20, "the spread of earlier pairs");
        Within("earlierDegreesOfFreedom", r.EarlierFreedom, 1, 1000, "pairs less one");
        return errors;
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static WarpVerdict Judge(WarpReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = WarpOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        var leftOut = LeftOut(r);
        var sound = r with { Parts = [.. r.Parts.Where(p => leftOut.All(o => o.Pair != p.Pair))] };
        // Where no two pairs stood in the same air, all of them show what it did together, and nothing is laid to the difference.
        var told = WholePairs(sound) < 2 && WholePairs(r) >= 2 ? r : sound;
        var moments = WarpPlaces.Moments.Select(m => MomentOf(told, m)).Where(m => m.WithoutMm is not null || m.WithMm is not null).ToList();
        // The part as it comes off says what a tester lives with; the latest moment else that two pairs have.
        var main = moments.FirstOrDefault(m => m is { Moment: "released", Pairs: >= 2 }) ?? moments.LastOrDefault(m => m.Pairs >= 2)
            ?? moments.LastOrDefault(m => m.Pairs > 0);
        var v = new WarpVerdict
        {
            Outcome = WarpOutcome.Insufficient, From = r, Moments = moments, Moment = main?.Moment, Pairs = main?.Pairs ?? 0, Advised = false,
            When = When(r), EffectMm = main?.EffectMm, LeftOut = leftOut,
            RoomDifferenceC = Difference(told, p => p.Room), ChamberDifferenceC = Difference(told, p => p.Chamber),
        };
        if (main is null || main.Pairs < 2)
            return v with { Next = new("measure-more", "", WarpTrial.Word) };
        var d = Differences(told, main.Moment);
        var (spread, _) = Spread(told, d);
        var (p, floor) = Exact(d);
        v = v with
        {
            Low = main.Low,
            High = main.High,
            SpreadMm = Math.Round(spread, 3),
            P = p,
            PFloor = floor,
            Better = main.EffectMm < 0 ? With : main.EffectMm > 0 ? Without : null,
            NeededPairs = Needed(r.SmallestUsefulMm, spread),
            Advised = true,
        };
        if (told == r && leftOut.Count > 0)
            return v with { Outcome = WarpOutcome.NotAttributed, Advised = false, Next = new("same-surroundings", "", WarpTrial.Word) };
        var shown = main.Low > 0 || main.High < 0;
        return v with
        {
            Outcome = shown ? WarpOutcome.Separable : WarpOutcome.Noise,
            // What two pairs show by their interval alone is not more than a hint: the exact test can't agree.
            Proves = shown && floor <= 0.25 && v.RoomDifferenceC is not null,
            Next = v.When == WarpWhen.Release && r.Difference is not ("removal" or "ramp") ? new("cool-slower", "")
                : !shown && v.NeededPairs is { } needed && needed > main.Pairs ? new("more-pairs", "", WarpTrial.Word) : null,
        };
    }

    private static int WholePairs(WarpReadings r) =>
        r.Parts.GroupBy(p => p.Pair).Count(g => g.Any(p => p.Arm == With && p.Lifts.Count > 0) && g.Any(p => p.Arm == Without && p.Lifts.Count > 0));

    /// <summary>Pairs whose plates stood in different air. Blank is never the same: where the room is known of some plates, it must be of all.</summary>
    private static IReadOnlyList<WarpLeftOut> LeftOut(WarpReadings r)
    {
        var list = new List<WarpLeftOut>();
        void Look(string what, Func<WarpPart, double?> of, double most)
        {
            if (r.Parts.All(p => of(p) is null))
                return;
            foreach (var pair in r.Parts.GroupBy(p => p.Pair).OrderBy(g => g.Key))
            {
                var (with, without) = (pair.FirstOrDefault(p => p.Arm == With), pair.FirstOrDefault(p => p.Arm == Without));
                if (with is null || without is null || list.Any(o => o.Pair == pair.Key))
                    continue;
                double? apart = of(with) is { } a && of(without) is { } b ? Math.Round(a - b, 2) : null;
                if (apart is null || Math.Abs(apart.Value) > most)
                    list.Add(new(pair.Key, what, apart));
            }
        }

        if (r.Difference != "room")
            Look("room", p => p.Room, RoomC);
        if (r.Difference is not ("enclosure" or "draught-shield" or "room" or "chamber"))
            Look("chamber", p => p.Chamber, ChamberC);
        return list;
    }

    private static double? Difference(WarpReadings r, Func<WarpPart, double?> of)
    {
        double? Mean(string arm) => r.Parts.Where(p => p.Arm == arm).Select(of).Average();
        return r.Parts.Count == 0 || r.Parts.Any(p => of(p) is null) || Mean(With) is not { } a || Mean(Without) is not { } b ? null : Math.Round(a - b, 2);
    }

    /// <summary>With less without at a moment, by pair.</summary>
    private static IReadOnlyList<double> Differences(WarpReadings r, string moment)
    {
        double? At(string arm, int pair) => r.Parts.FirstOrDefault(p => p.Arm == arm && p.Pair == pair)?.CornersAt(moment);
        return [.. r.Parts.Select(p => p.Pair).Distinct().Order().Select(n => At(With, n) - At(Without, n)).OfType<double>()];
    }

    private static WarpMoment MomentOf(WarpReadings r, string moment)
    {
        var d = Differences(r, moment);
        double? Mean(string arm) => r.Parts.Where(p => p.Arm == arm).Select(p => p.CornersAt(moment)).OfType<double>().Select(x => (double?)x).Average();
        static double? Round(double? x) => x is { } v ? Math.Round(v, 3) : null;
        if (d.Count < 2)
            return new(moment, d.Count, Round(Mean(Without)), Round(Mean(With)), d.Count == 0 ? null : Round(d[0]), null, null);
        var (spread, freedom) = Spread(r, d);
        var half = new StudentT(0, 1, freedom).InverseCumulativeDistribution(0.975) * spread / Math.Sqrt(d.Count);
        var effect = d.Average();
        return new(moment, d.Count, Round(Mean(Without)), Round(Mean(With)), Round(effect), Round(effect - half), Round(effect + half));
    }

    /// <summary>Spread of pair differences, pooled with that of earlier equal parts; never below what a feeler of 0.05 mm makes.</summary>
    private static (double Spread, double Freedom) Spread(WarpReadings r, IReadOnlyList<double> d)
    {
        var mean = d.Average();
        var (sum, freedom) = (d.Sum(x => (x - mean) * (x - mean)), d.Count - 1.0);
        if (r.EarlierSpreadMm is { } earlier)
            (sum, freedom) = (sum + r.EarlierFreedom * earlier * earlier, freedom + r.EarlierFreedom);
        return (Math.Max(Math.Sqrt(sum / freedom), 0.05 / Math.Sqrt(12) * Math.Sqrt(2)), freedom);
    }

    /// <summary>The two-sided exact test: each pair may as well have come out the other way round. Its floor is 2 in 2^n: four pairs at best 1 in 8.</summary>
    public static (double P, double Floor) Exact(IReadOnlyList<double> d)
    {
        var n = Math.Min(d.Count, 20);
        var seen = Math.Abs(d.Take(n).Sum());
        var (hits, all) = (0, 1 << n);
        for (var signs = 0; signs < all; signs++)
        {
            var sum = 0.0;
            for (var i = 0; i < n; i++)
                sum += (signs >> i & 1) == 1 ? -d[i] : d[i];
            if (Math.Abs(sum) >= seen - 1e-9)
                hits++;
        }

        return (hits / (double)all, Math.Min(1, 2.0 / all));
    }

    /// <summary>Pairs that show a difference in 80 of 100 runs; null where more than <see cref="MostPairs"/> would be needed.</summary>
    private static int? Needed(double mm, double spread)
    {
        for (var n = 3; n <= MostPairs; n++)
        {
            var t = new StudentT(0, 1, n - 1);
            if ((t.InverseCumulativeDistribution(0.975) + t.InverseCumulativeDistribution(0.8)) * spread / Math.Sqrt(n) <= mm)
                return n;
        }

        return null;
    }

    /// <summary>When most of the lift came, from the parts that were measured at more than one moment.</summary>
    private static WarpWhen When(WarpReadings r)
    {
        var (during, cooling, release, all) = (0.0, 0.0, 0.0, 0.0);
        foreach (var p in r.Parts)
        {
            var last = p.CornersAt("next-day") ?? p.CornersAt("released");
            if (last is not { } end || p.CornersAt("cooled") is not { } cooled || end < 0.05)
                continue;
            var first = p.CornersAt("during");
            during += Math.Max(0, first ?? 0);
            cooling += first is null ? 0 : Math.Max(0, cooled - first.Value);
            release += Math.Max(0, end - cooled);
            all += Math.Max(end, cooled);
        }

        return all < 0.05 ? WarpWhen.Unclear
            : release > all / 2 ? WarpWhen.Release
            : cooling > all / 2 ? WarpWhen.Cooling
            : during > all / 2 ? WarpWhen.During
            : WarpWhen.Spread;
    }
}
