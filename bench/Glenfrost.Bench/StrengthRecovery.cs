using System.Text.Json;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.LayerTime;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Core.Trials.Release;
using Glenfrost.Core.Trials.SettingSteps;
using Glenfrost.Core.Trials.WarpPairs;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Bench;

/// <summary>
/// Recovery of who is really stronger, of a warp effect, of a release temperature, of the least fan and of the shortest layer time, beside the plain procedures: the highest mean wins,
/// the worst corner of one pair, one look. Truths are the bench's own laws; what is read has the scatter of rig, plates, corners and prints.
/// </summary>
public static class StrengthRecovery
{
    /// <summary>Kinds that can be run.</summary>
    public static IReadOnlyList<string> Kinds { get; } = [LayerBondTrial.Word, WarpTrial.Word, ReleaseTrial.Word, FanTrial.Word, LayerTimeTrial.Word, SettingTrial.Word];

    /// <summary>What a procedure said of one hidden case.</summary>
    /// <param name="Name">Of the procedure.</param>
    /// <param name="Said">True where it says something.</param>
    /// <param name="Wrong">True where what it says is wrong.</param>
    /// <param name="Within">True where the truth lies in its interval; null where it gave none.</param>
    /// <param name="Off">How far its value is off; null where it gave none.</param>
    /// <param name="Pieces">Pieces that it took.</param>
    private sealed record Answer(string Name, bool Said, bool Wrong, bool? Within, double? Off, int Pieces);

    private static string Asked(string kind) => kind switch
    {
        LayerBondTrial.Word =>
            "said: a group is weaker than the strongest; wrong: one that is called weaker truly holds within 3 % of the best or more; off: % " +
            "that what it would use lies behind the best",
        WarpTrial.Word => "said: the box helps or harms; wrong: it truly changes less than 0.02 mm, or the other way; off: mm of the effect",
        FanTrial.Word =>
            "said: a fan is advised; wrong: what it would use truly looks more than 0.75 scores worse than the best; off: % of bond that it blows away beyond " +
            "the least fan that truly looks as good",
        LayerTimeTrial.Word =>
            "said: a time is advised; wrong: what it would use truly looks more than 0.75 scores worse than the best; off: % of time that it waits beyond the " +
            "shortest that truly looks as good",
        SettingTrial.Word =>
            "said: an outer wall speed is advised; wrong: what it would use truly looks more than 0.75 scores worse than the best; off: % of speed given away " +
            "against the fastest that truly looks as good, below 0 where it is too fast",
        _ => "wrong: fewer than 17 of 20 next parts lie free; off: °C colder than where 19 of 20 would",
    };

    /// <summary>Runs the seeds of a kind and prints what came of them.</summary>
    public static void Run(string kind, int from, int to, bool json)
    {
        var cases = new List<Answer>[to - from + 1];
        Parallel.For(from, to + 1, seed => cases[seed - from] = kind switch
        {
            LayerBondTrial.Word => [.. Bond((ulong)seed)],
            WarpTrial.Word => [.. Warp((ulong)seed)],
            FanTrial.Word => [.. Fan((ulong)seed)],
            LayerTimeTrial.Word => [.. LayerTime((ulong)seed)],
            SettingTrial.Word => [.. OuterSpeed((ulong)seed)],
            _ => [.. Release((ulong)seed)],
        });
        var rows = cases[0].Select(a => a.Name).Select(name =>
        {
            var all = cases.Select(c => c.First(a => a.Name == name)).ToList();
            var off = all.Select(a => a.Off).OfType<double>().Select(Math.Abs).Order().ToList();
            return new
            {
                procedure = name, said = all.Count(a => a.Said), wrong = all.Count(a => a.Wrong), within = all.Count(a => a.Within is true),
                intervals = all.Count(a => a.Within is not null), median = Recovery.At(off, 0.5), p95 = Recovery.At(off, 0.95),
                pieces = all.Average(a => a.Pieces),
            };
        }).ToList();
        if (json)
        {
            Console.WriteLine(JsonSerializer.Serialize(new { kind, from, to, rows }));
            return;
        }

        Console.WriteLine($"{kind}, seeds {from} to {to}. {Asked(kind)}");
        foreach (var r in rows)
            Console.WriteLine(
                $"  {r.procedure,-34} said {r.said,4}  wrong {r.wrong,4}  truth in ± {(r.intervals == 0 ? "–"
                    : $"{100.0 * r.within / r.intervals:0} %"),5}  off " +
                    $"{r.median:0.00} ({r.p95:0.00})  pieces {r.pieces:0.0}");
    }

    private static (Laws Laws, Chance Chance) Hidden(ulong seed, double roomC = 20)
    {
        var chance = new Chance(seed).Of("strength recovery");
        string[] families = ["PLA", "PETG", "ABS", "ASA"];
        var family = families[(int)(seed % 4)];
        return (new(HiddenMaterial.Draw(family, seed), HiddenMachine.Draw(seed + 7), roomC), chance);
    }

    /// <summary>Four temperatures, two plates of two pegs each; and four plates.</summary>
    private static IEnumerable<Answer> Bond(ulong seed)
    {
        var (laws, chance) = Hidden(seed);
        var own = Math.Round(laws.DisplayC(laws.Material.CentreC, 4) / 5) * 5;
        double[] at = [own - 20, own - 10, own, own + 10];
        double[] truth = [.. at.Select(c => laws.Bond(laws.MeltC(c, 4), 0.3, 10) * laws.Material.BondMPa)];
        var rig = new PullRig(seed * 13, 0.3, 0.05);
        var pieces = at.Select(_ => new List<BondPiece>()).ToArray();
        for (var plate = 1; plate <= 4; plate++)
        {
            var shared = chance.Of("plate", plate).Normal(1, 0.03);
            foreach (var (i, order) in BlindOrder.Of(Enumerable.Range(0, 8), (int)seed * 10 + plate).Select((i, k) => (i, k)))
            {
                var group = i / 2;
                var (force, broke) = rig.PullUntil(Math.Max(0.3, truth[group] * shared * chance.Of("peg", plate * 100 + i).Normal(1, 0.03)), 12.57);
                pieces[group].Add(new(Math.Max(1, force.Value), Enum.Parse<BondMode>(broke, true), plate, order + 1));
            }

            if (plate is not (2 or 4))
                continue;
            var v = BondJudging.Judge(new()
            {
                Groups = [.. at.Select((c, g) => new BondGroup($"{c} °C", c, null, [.. pieces[g]]))],
            });
            var best = truth.Max();
            double Behind(int g) => 100 * (1 - truth[g] / best);
            int Of(string label) => Array.FindIndex(at, c => $"{c} °C" == label);
            yield return new(
                $"judged, {2 * plate} pegs each", v.Weaker.Count > 0, v.Weaker.Any(w => Behind(Of(w)) < 3), null, Behind(Of(v.Strongest!)), 8 * plate);
            if (plate == 2)
            {
                // Highest mean wins, a clamp that let go counts as what it showed, and all others are called weaker.
                var means = pieces.Select(p => p.Average(x => x.Force)).ToList();
                var wins = means.IndexOf(means.Max());
                yield return new("plain: highest mean wins", true, Enumerable.Range(0, 4).Any(g => g != wins && Behind(g) < 3), null, Behind(wins), 16);
            }
        }
    }

    private static IEnumerable<Answer> Warp(ulong seed)
    {
        // Every fourth time what is put around it is nothing at all.
        var (open, chance) = Hidden(seed);
        var nothing = seed % 4 == 3;
        var boxed = new Laws(open.Material, open.Machine with { Shelter = nothing ? open.Machine.Shelter : 0.75 }, open.RoomC);
        double At(Laws laws) => laws.WarpMm("released", 140, 80, 0, 28);
        var effect = At(boxed) - At(open);
        WarpPart Plate(string arm, int pair)
        {
            var c = chance.Of(arm, pair);
            var print = Math.Max(0.2, c.Of("print").Normal(1, 0.12));
            return new(
                arm, pair,
                [
                    .. WarpPlaces.All.SkipLast(1).Select((p, i) => new WarpLift(
                        p, "released",
                        Math.Round(Math.Max(0, At(arm == "with" ? boxed : open) * print * c.Of("corner", i).Normal(1, 0.15) + c.Of("feeler", i).Normal(0,
                            0.03)) / 0.05) * 0.05)),
                ])
            {
                RoomC = 20,
            };
        }

        bool Wrong(double said) => Math.Abs(effect) < 0.02 || Math.Sign(said) != Math.Sign(effect);
        var (a, b) = (Plate("without", 1), Plate("with", 1));
        var worst = b.Lifts.Max(l => l.Mm) - a.Lifts.Max(l => l.Mm);
        yield return new("plain: worst corner of one pair", worst != 0, worst != 0 && Wrong(worst), null, worst - effect, 2);
        foreach (var pairs in new[] { 3, 4, 6 })
        {
            var v = WarpJudging.Judge(new() { Parts = [.. Enumerable.Range(1, pairs).SelectMany(n => new[] { Plate("without", n), Plate("with", n) })] });
            var said = v.Outcome == WarpOutcome.Separable;
            yield return new(
                $"judged, {pairs} pairs", said, said && Wrong(v.EffectMm!.Value), v.Low <= effect && effect <= v.High, v.EffectMm - effect, 2 * pairs);
        }
    }

    /// <summary>A fan tower from nothing to all of it, looked at once, and a second one.</summary>
    private static IEnumerable<Answer> Fan(ulong seed)
    {
        var (laws, chance) = Hidden(seed);
        double[] fans = [0, 25, 50, 75, 100];
        var melt = laws.Material.CentreC;
        double Looks(double fan, bool bridge) => Eyes.Quality(
            new PieceLook { SagMm = laws.SagMm(melt, 20, fan / 100), CurlMm = laws.CurlMm(melt, 0.5, fan / 100) }, bridge ? "bridge" : "overhang");
        double Mean(double fan) => (Looks(fan, true) + Looks(fan, false)) / 2;
        double Bond(double fan) => laws.Bond(melt, fan / 100, 10);
        var best = fans.Max(Mean);
        var least = fans.First(f => Mean(f) >= best - 0.5);
        double Behind(double fan) => best - Mean(fan);
        double Blown(double fan) => Math.Max(0, 100 * (1 - Bond(fan) / Bond(least)));
        double Seen(double fan, bool bridge, int tower)
        {
            var c = chance.Of(bridge ? "bridge" : "overhang", tower * 1000 + (int)fan);
            return Math.Clamp(Math.Round(Looks(fan, bridge) + c.Normal(0, 0.4)), 0, 4);
        }

        FanPoint Point(double fan, int tower) => new(fan, [Seen(fan, true, tower), Seen(fan, false, tower)], []);
        var once = fans.Select(f => Point(f, 1)).ToList();
        // One look: the most beautiful section wins, the windier one where two are alike.
        var winner = once.OrderByDescending(p => p.Looks.Average()).ThenByDescending(p => p.FanPercent).First().FanPercent;
        yield return new("plain: the best-looking section", true, Behind(winner) > 0.75, null, Blown(winner), 1);
        foreach (var towers in new[] { 1, 2 })
        {
            var v = FanJudging.Judge(new() { Points = [.. Enumerable.Range(1, towers).SelectMany(t => fans.Select(f => Point(f, t)))] });
            var said = v.FanPercent is not null && v.Outcome is FanOutcome.Clear or FanOutcome.Edge;
            yield return new(
                $"judged, {(towers == 1 ? "one tower" : "two towers")}", said, said && Behind(v.FanPercent!.Value) > 0.75, null,
                v.FanPercent is { } f ? Blown(f) : null, towers);
        }
    }

    /// <summary>A column of five layer times with the family's fan, looked at once, and a second one.</summary>
    private static IEnumerable<Answer> LayerTime(ulong seed)
    {
        var (laws, chance) = Hidden(seed);
        double[] times = [4.5, 6, 7.5, 9, 10.5];
        var (melt, fan) = (laws.Material.CentreC, laws.Material.Family.FanNeed);
        double Looks(double t, string aspect) => Eyes.Quality(
            new PieceLook { SlumpMm = laws.SlumpMm(melt, t, fan), RoughMm = laws.RoughMm(melt, fan) }, aspect);
        double Mean(double t) => (Looks(t, LayerTimeTrial.Corners) + Looks(t, LayerTimeTrial.Walls)) / 2;
        var best = times.Max(Mean);
        var least = times.First(t => Mean(t) >= best - 0.5);
        double Waited(double t) => Math.Max(0, 100 * (t / least - 1));
        double Seen(double t, string aspect, int column) =>
            Math.Clamp(Math.Round(Looks(t, aspect) + chance.Of(aspect, column * 1000 + (int)(10 * t)).Normal(0, 0.4)), 0, 4);
        LayerTimePoint Point(double t, int column) => new(t, [Seen(t, LayerTimeTrial.Corners, column), Seen(t, LayerTimeTrial.Walls, column)], []);
        var once = times.Select(t => Point(t, 1)).ToList();
        // One look: the most beautiful section wins, the slower one where two are alike.
        var winner = once.OrderByDescending(p => p.Looks.Average()).ThenByDescending(p => p.Seconds).First().Seconds;
        yield return new("plain: the best-looking section", true, best - Mean(winner) > 0.75, null, Waited(winner), 1);
        foreach (var columns in new[] { 1, 2 })
        {
            var v = LayerTimeJudging.Judge(new() { Points = [.. Enumerable.Range(1, columns).SelectMany(n => times.Select(t => Point(t, n)))] });
            var said = v.Seconds is not null && v.Outcome is LayerTimeOutcome.Clear or LayerTimeOutcome.Edge;
            yield return new(
                $"judged, {(columns == 1 ? "one column" : "two columns")}", said, said && best - Mean(v.Seconds!.Value) > 0.75, null,
                v.Seconds is { } t ? Waited(t) : null, columns);
        }
    }

    /// <summary>A wall of five outer wall speeds, looked at once, and a second one.</summary>
    private static IEnumerable<Answer> OuterSpeed(ulong seed)
    {
        var (laws, chance) = Hidden(seed);
        double[] speeds = [30, 50, 70, 90, 110];
        var (melt, fan) = (laws.Material.CentreC, laws.Material.Family.FanNeed);
        double Looks(double v, string aspect) => Eyes.Quality(
            new PieceLook { SlumpMm = laws.SlumpMm(melt, 15, fan), RoughMm = laws.RoughMm(melt, fan), WavesMm = laws.WavesMm(v) }, aspect);
        double Mean(double v) => (Looks(v, SettingTrial.Corners) + Looks(v, SettingTrial.Walls)) / 2;
        var best = speeds.Max(Mean);
        var fastest = speeds.Last(v => Mean(v) >= best - 0.5);
        double Given(double v) => 100 * (1 - v / fastest);
        double Seen(double v, string aspect, int wall) =>
            Math.Clamp(Math.Round(Looks(v, aspect) + chance.Of(aspect, wall * 1000 + (int)v).Normal(0, 0.4)), 0, 4);
        SettingPoint Point(double v, int wall) => new(v, [Seen(v, SettingTrial.Corners, wall), Seen(v, SettingTrial.Walls, wall)]);
        // One look: the most beautiful section wins, the faster one where two are alike.
        var winner = speeds.Select(v => Point(v, 1)).OrderByDescending(p => p.Looks.Average()).ThenByDescending(p => p.Value).First().Value;
        yield return new("plain: the best-looking section", true, best - Mean(winner) > 0.75, null, Given(winner), 1);
        foreach (var walls in new[] { 1, 2 })
        {
            var v = SettingJudging.Judge(new() { Points = [.. Enumerable.Range(1, walls).SelectMany(n => speeds.Select(s => Point(s, n)))] });
            var said = v.Value is not null && v.Outcome is SettingOutcome.Clear or SettingOutcome.Edge;
            yield return new(
                $"judged, {(walls == 1 ? "one wall" : "two walls")}", said, said && best - Mean(v.Value!.Value) > 0.75, null,
                v.Value is { } at ? Given(at) : null, walls);
        }
    }

    private static IEnumerable<Answer> Release(ulong seed)
    {
        var (laws, chance) = Hidden(seed);
        const double Spread = 2.5;
        var bed = Core.Filaments.Family.Find(laws.Material.Family.Name)!.BedC.Middle!.Value;
        var truth = laws.ReleaseC - 1.645 * Spread;
        ReleasePrint One(int i)
        {
            var goes = laws.ReleaseC + chance.Of("release", i).Normal(0, Spread);
            var c = chance.Of("tried", i);
            var (step, at) = (Math.Round(c.Of("step").Between(4, 9)), Math.Round(bed - c.Of("first").Between(2, 12)));
            double? held = null;
            for (; at > goes; at -= step)
                held = at;
            return new(at, held);
        }

        bool Wrong(double said) => 1 - MathNet.Numerics.Distributions.Normal.CDF(laws.ReleaseC, Spread, said) < 0.85;
        var once = One(1).FreeAtC!.Value;
        yield return new("plain: one look", true, Wrong(once), null, truth - once, 1);
        foreach (var prints in new[] { 3, 8 })
        {
            var v = ReleaseJudging.Judge(new() { Prints = [.. Enumerable.Range(1, prints).Select(One)], FamilyBedC = bed, BedC = bed, MeasuredAirC = 5 });
            yield return new($"judged, {prints} prints", v.ReleaseC is not null, v.ReleaseC is { } c && Wrong(c), null, truth - v.ReleaseC, prints);
        }
    }
}
