using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Settings;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Trials.Release;

/// <summary>
/// Judges at which bed temperature parts let go. Each print is a bound: free at T says at T or warmer, held or pulled at T says colder. From five prints on the
/// bounds are fitted with the family's prior, and the answer is the temperature at which 19 of 20 next parts lie free.
/// </summary>
public static class ReleaseJudging
{
    /// <summary>Prints from which bounds are fitted.</summary>
    public const int LeastFitted = 5;

    /// <summary>So far below the lowest that was seen free, °C, while fewer are known.</summary>
    public const double BelowLowestC = 5;

    /// <summary>What a bed's cooling constant is taken for where nobody logged one, minutes: a guess.</summary>
    public const double UsualConstantMinutes = 35;

    /// <summary>Parts let go at this share of the bed's usual temperature, ± <see cref="PriorSpreadC"/>: what is known before anything was printed.</summary>
    private const double PriorShare = 0.62, PriorSpreadC = 12, ScatterC = 3;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(ReleaseReadings r)
    {
        var errors = new List<FieldError>();
        void Within(string field, double? v, double least, double most, string why)
        {
            if (v is { } x && !(x >= least && x <= most))
                errors.Add(new(field, $"{Say.N(x, 1)} is outside {Say.N(least)} to {Say.N(most)}: {why}."));
        }

        if (r.Prints.Count > 200)
            errors.Add(new("prints", $"{r.Prints.Count} prints: at most 200."));
        foreach (var (p, i) in r.Prints.Select((p, i) => (p, i)))
        {
            Within($"prints[{i}].freeAtC", p.FreeAtC, 0, 160, "the bed's temperature in °C");
            Within($"prints[{i}].heldAtC", p.HeldAtC, 0, 160, "the bed's temperature in °C");
            Within($"prints[{i}].pulledAtC", p.PulledAtC, 0, 160, "the bed's temperature in °C");
            if (p.FreeAtC is { } free && p.Held is { } held && held <= free)
                errors.Add(
                    new(
                        $"prints[{i}].heldAtC",
                        $"It held at {Say.N(held)} °C and lay free at {Say.N(free)} °C: a bed cools, so it held where it was warmer than it lay free."));
        }

        foreach (var m in r.LoggedMinutes)
            Within("cooling", m, 1, 1000, "minutes to a third of what the bed is above the air");
        Within("bedC", r.BedC, 20, 160, "the bed while it prints");
        Within("surroundingsC", r.SurroundingsC, -20, 120, "the air around the part");
        Within("familyBedC", r.FamilyBedC, 20, 160, "the family's usual bed");
        if (r.Cooling is { } c)
        {
            Within("cooling.fromC", c.FromC, 20, 160, "the bed as it was switched off");
            Within("cooling.toC", c.ToC, 0, 160, "the bed at the end");
            Within("cooling.minutes", c.Minutes, 0.5, 1000, "between the two");
            if (errors.Count == 0 && c.ConstantMinutes(r.SurroundingsC) is null)
                errors.Add(
                    new(
                        "cooling.toC",
                        $"From {Say.N(c.FromC)} to {Say.N(c.ToC)} °C in air of {Say.N(r.SurroundingsC)} °C is no cooling that says anything: it ends " +
                            "above the air and below where it began."));
        }

        return errors;
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static ReleaseVerdict Judge(ReleaseReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = ReleaseOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        var prints = r.Prints.Where(p => p.FreeAtC is not null || p.Held is not null).ToList();
        var free = prints.Select(p => p.FreeAtC).OfType<double>().ToList();
        var v = new ReleaseVerdict
        {
            Outcome = ReleaseOutcome.Insufficient, From = r, Prints = prints.Count, LowestFreeC = free.Count > 0 ? free.Min() : null, Advised = false,
            Crossing = prints.Count(p => p.Held is { } held && free.Any(f => f > held)),
            CoolingConstantMinutes = r.OwnMinutes is { } own ? Math.Round(own, 1) : UsualConstantMinutes, Guessed = r.OwnMinutes is null,
        };
        if (free.Count == 0)
            return v with { Next = new("measure-more", "") };
        double release;
        if (prints.Count < LeastFitted)
        {
            // What held colder than that bounds it too.
            release = Math.Min(free.Min(), prints.Select(p => p.FreeAtC is null ? p.Held : null).OfType<double>().DefaultIfEmpty(double.MaxValue).Min())
                - BelowLowestC;
            v = v with { Outcome = ReleaseOutcome.Working, ReleaseC = Math.Floor(release), Proves = false };
        }
        else
        {
            var (middle, spread, at) = Fit(prints, r.FamilyBedC);
            v = v with { Outcome = ReleaseOutcome.Fitted, ReleaseC = Math.Floor(at), MiddleC = Math.Round(middle, 1), SpreadC = Math.Round(spread, 1) };
        }

        v = v with { Minutes = r.BedC is { } bed ? MinutesTo(v.ReleaseC!.Value, bed, r.SurroundingsC, v.CoolingConstantMinutes!.Value) : null };
        // The same bound that a cool-down of a file has.
        if (v.ReleaseC < r.SurroundingsC + CoolDown.AboveSurroundingsC)
            return v with { Outcome = ReleaseOutcome.TooNear };
        return v with
        {
            Advised = true,
            Settings = [new("releaseBedTemperatureC", v.ReleaseC.Value, v.SpreadC is { } s ? Math.Round(1.96 * s, 1) : BelowLowestC)],
            Next = prints.Count < LeastFitted ? new("measure-more", "") : null,
        };
    }

    /// <summary>Minutes until a bed that is left to itself has cooled from one temperature to another; null where it never does.</summary>
    public static double? MinutesTo(double toC, double fromC, double surroundingsC, double constantMinutes) =>
        toC <= surroundingsC + 0.5 ? null : toC >= fromC ? 0
        : Math.Round(constantMinutes * Math.Log((fromC - surroundingsC) / (toC - surroundingsC)));

    /// <summary>
    /// Middle and spread of where prints let go, and the temperature at which 19 of 20 next ones are free, over all middles and spreads that the bounds leave.
    /// </summary>
    private static (double Middle, double Spread, double At) Fit(IReadOnlyList<ReleasePrint> prints, double? familyBedC)
    {
        var prior = PriorShare * (familyBedC ?? 80);
        double[] spreads = [.. Enumerable.Range(0, 14).Select(i => 0.8 * Math.Pow(1.25, i))];
        double[] middles = [.. Enumerable.Range(0, 181).Select(i => i * 0.75 + 10)];
        static double Below(double t, double middle, double spread) => Normal.CDF(middle, spread, t);
        var weights = new List<(double Middle, double Spread, double Weight)>();
        foreach (var middle in middles)
        {
            foreach (var spread in spreads)
            {
                var log = Math.Log(Normal.PDF(prior, PriorSpreadC, middle) + 1e-300) + Math.Log(LogNormal.PDF(Math.Log(ScatterC), 0.6, spread) * spread
                    + 1e-300);
                foreach (var p in prints)
                {
                    // It let go between where it lay free and where it still held.
                    var upper = p.Held is { } held ? Below(held, middle, spread) : 1;
                    var lower = p.FreeAtC is { } free ? Below(free, middle, spread) : 0;
                    log += Math.Log(Math.Max(1e-12, upper - lower));
                }

                weights.Add((middle, spread, log));
            }
        }

        var most = weights.Max(w => w.Weight);
        var all = weights.ConvertAll(w => (w.Middle, w.Spread, Weight: Math.Exp(w.Weight - most)));
        var sum = all.Sum(w => w.Weight);
        double Free(double t) => all.Sum(w => w.Weight * (1 - Below(t, w.Middle, w.Spread))) / sum;
        var (low, high) = (-20.0, 150.0);
        for (var i = 0; i < 50; i++)
        {
            var t = (low + high) / 2;
            (low, high) = Free(t) > 0.95 ? (t, high) : (low, t);
        }

        return (all.Sum(w => w.Weight * w.Middle) / sum, all.Sum(w => w.Weight * w.Spread) / sum, low);
    }
}
