using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials.RetractionSweep;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Trials.FlexCompression;

/// <summary>Compression of soft filament from pieces cut off a blocked stub.</summary>
public static class FlexJudging
{
    /// <summary>Fewer of each tell no scatter.</summary>
    public const int Least = 3;

    /// <summary>Hand lengths farther apart are repeated first, mm.</summary>
    public const double HandApartMm = 0.3;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FlexReadings r)
    {
        var errors = new List<FieldError>();
        foreach (var (list, field) in new[] { (r.HandLengthsMm, "handLengthsMm"), (r.DrivenLengthsMm, "drivenLengthsMm") })
        {
            foreach (var (v, i) in list.Select((v, i) => (v, i)))
            {
                if (!(v is > 0 and <= 2000))
                    errors.Add(new($"{field}[{i}]", $"{Say.N(v)} mm is no cut piece: above 0 to 2,000 would be right."));
            }
        }

        if (!(r.ResolutionMm is > 0 and <= 5))
            errors.Add(new("resolutionMm", $"{Say.N(r.ResolutionMm, 3)} mm is no step: 0.01 for a calliper, 0.5 for a ruler."));
        if (r.StubLengthMm is { } s && !(s is >= 5 and <= 500))
            errors.Add(new("stubLengthMm", $"{Say.N(s)} mm is no stub: 5 to 500 would be right, 30 to 60 is usual."));
        if (r.PathLengthMm is { } p && !(p is >= 5 and <= 3000))
            errors.Add(new("pathLengthMm", $"{Say.N(p)} mm is no path: 5 to 3,000 would be right."));
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static FlexVerdict Judge(FlexReadings r)
    {
        var (hand, driven) = (r.HandLengthsMm, r.DrivenLengthsMm);
        var basis = new FlexVerdict { Outcome = FlexOutcome.Insufficient, From = r, Advised = false };
        if (hand.Count < Least || driven.Count < Least)
            return basis;
        if (hand.Max() - hand.Min() > HandApartMm + 1e-9)
            return basis with { Outcome = FlexOutcome.Repeat, Next = new("repeat", "") };
        var (a, b) = (Measured.Of(hand, r.ResolutionMm), Measured.Of(driven, r.ResolutionMm));
        // Welch: both scatters, and the step of one instrument in both means.
        var (va, vb, step) = (a.Sd * a.Sd / a.Count, b.Sd * b.Sd / b.Count, r.ResolutionMm * r.ResolutionMm / 6);
        var u2 = va + vb + step;
        var freedom = va + vb <= 0 ? 1e6 : Math.Min(1e6, u2 * u2 / (va * va / (a.Count - 1) + vb * vb / (b.Count - 1)));
        var n = new FlexNumbers(
            a, b, b.Mean - a.Mean, Math.Sqrt(u2) * StudentT.InvCDF(0, 1, freedom, 0.975), freedom,
            r is { StubLengthMm: { } stubMm, PathLengthMm: { } pathMm } ? pathMm / stubMm : 1);
        basis = basis with
        {
            Outcome = FlexOutcome.NoCompression,
            Numbers = n,
            CompressionMm = Math.Round(n.CompressionMm, 4),
            UncertaintyMm = Math.Round(n.HalfWidthMm, 4),
            CompressionPercent = r.StubLengthMm is { } stub ? Math.Round(100 * n.CompressionMm / stub, 2) : null,
        };
        return n.CompressionMm - n.HalfWidthMm <= 0
            ? basis with { Next = new("sweep", "", RetractionTrial.Word, new Dictionary<string, decimal>()) }
            : basis with
            {
                Outcome = FlexOutcome.Compression,
                StartRetractionMm = n.StartMm,
                Next = new(
                    "sweep", "", RetractionTrial.Word, new Dictionary<string, decimal>
                    {
                        ["from"] = Math.Round((decimal)n.StartMm * 0.25m, 2), ["to"] = (decimal)n.StartMm,
                        ["step"] = Math.Max(0.05m, Math.Round((decimal)n.StartMm / 8, 2)),
                    })
                { Words = new Dictionary<string, string> { ["mode"] = RetractionTrial.Tower, ["factor"] = "length" } },
                Proves = false,
            };
    }
}
