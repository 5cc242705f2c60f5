using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlexCompression;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FlexCompression;

/// <summary>Measures pieces cut off a blocked stub on the simulated bench, pushed by hand and driven.</summary>
public sealed class FlexBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => FlexTrial.Word;

    /// <inheritdoc/>
    public override bool Followed(SimulatedPiece piece, ITrialPlan plan) => true;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var r = ((FlexPlan)plan).Request;
        // Nothing was driven where the printer refused to feed cold filament.
        if (piece.Trace.Free.Count == 0)
            yield break;
        var calliper = new Calliper(piece.Seed);
        foreach (var (aspect, driven) in new[] { (FlexTrial.Hand, false), (FlexTrial.Driven, true) })
        {
            for (var i = 0; i < (int)r.Pieces; i++)
                yield return new(i, aspect, "calliper", calliper.Measure(piece.CutPieceMm((double)r.StubLengthMm, driven, i)));
        }
    }
}
