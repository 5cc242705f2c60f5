using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.ExtruderFeed;

/// <summary>Reads what the simulated printer fed into the air with a ruler and a pen: what is left to the mark, repeat by repeat.</summary>
public sealed class FeedBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => ExtruderFeedTrial.Word;

    /// <inheritdoc/>
    public override bool Followed(SimulatedPiece piece, ITrialPlan plan) => true;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var r = ((FeedPlan)plan).Request;
        // The longest feed is the measured one; what was primed before is past the mark's making.
        if (piece.Trace.Free.MaxBy(f => f.AskedMm) is not { } fed)
            yield break;
        var ruler = new Ruler(piece.Seed, (double)r.ResolutionMm);
        for (var i = 0; i < (int)r.Repeats; i++)
        {
            var left = (double)r.MarkMm - piece.FedMm(fed, i);
            if (left < 0)
                yield return new(i, ExtruderFeedTrial.Mark, "ruler", new(0, "mm", (double)r.ResolutionMm), "went in");
            else
                yield return new(i, ExtruderFeedTrial.Remaining, "ruler", ruler.Measure(left));
        }
    }
}
