using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.PressureAdvance;

/// <summary>Looks at counted lines or crooks on the simulated bench: the evenest one, halves where two are alike, or a score each.</summary>
public sealed class RowBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => PressureTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (PressurePlan)plan;
        var eyes = new Eyes(eyesSeed);
        var seen = new List<(int Number, double Quality)>();
        foreach (var (k, i) in p.Ks.Select((k, i) => (k, i)))
        {
            // What the file set, not what the plan says: a file that forgets to change it gives a row that looks alike.
            if (i < piece.Trace.Pressure.Count && piece.Trace.Pressure[i] is var run)
                seen.Add((i, 4 * Math.Exp(-Math.Pow(piece.Laws.Uneven(run.K, run.ChangeMmPerS), 1.3))));
        }

        if (seen.Count == 0)
            yield break;
        if (p.Request.ReadBy == "scores")
        {
            foreach (var (i, quality) in seen)
                yield return new(i, PressureTrial.Score, "eyes", eyes.Score(quality, PressureTrial.Score, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + i));
            yield break;
        }

        var looked = seen.Select(s => (s.Number, Quality: s.Quality + new Chance(piece.Seed).Of("look at row", s.Number).Normal(0, 0.25)))
            .OrderByDescending(s => s.Quality).ToList();
        var (first, second) = (looked[0], looked.ElementAtOrDefault(1));
        var between = looked.Count > 1 && Math.Abs(first.Number - second.Number) == 1 && first.Quality - second.Quality < 0.3;
        yield return new(0, PressureTrial.Best, "eyes", new(between ? (first.Number + second.Number) / 2.0 : first.Number, "", 0.5));
    }
}
