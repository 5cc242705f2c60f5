using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Release;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.Release;

/// <summary>Watches chips let go on the simulated bench: tried now and then while the bed cools, so that each is a bound.</summary>
public sealed class ReleaseBench : SimulatedTrial
{
    /// <summary>Spread from print to print, °C.</summary>
    private const double SpreadC = 2.5;

    /// <inheritdoc/>
    public override string Kind => ReleaseTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var (p, chance) = ((ReleasePlan)plan, new Chance(piece.Seed));
        for (var i = 0; i < (int)p.Request.Prints; i++)
        {
            var goes = piece.Laws.ReleaseC + chance.Of("release", i).Normal(0, SpreadC);
            var c = chance.Of("tried", i);
            if (c.Of("pulls").Uniform() < 0.12)
            {
                // Somebody was in a hurry.
                yield return new(i, ReleaseTrial.Pulled, "display", new(Math.Round(goes + c.Of("hurry").Between(4, 15)), "°C", 1));
                continue;
            }

            // Nudged every few degrees as the bed cools, whenever that happens to be.
            var (step, at) = (Math.Round(c.Of("step").Between(4, 9)), Math.Round((double)p.Request.BedC - c.Of("first").Between(2, 12)));
            double? held = null;
            for (; at > goes; at -= step)
                held = at;
            if (held is { } on)
                yield return new(i, ReleaseTrial.Held, "display", new(on, "°C", 1));
            yield return new(i, ReleaseTrial.Free, "display", new(at, "°C", 1));
        }
    }
}
