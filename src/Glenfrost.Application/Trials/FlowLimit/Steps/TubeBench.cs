using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FlowLimit.Steps;

/// <summary>Looks at a tube whose speed rose in steps on the simulated bench: what came out well, and what it sounded like.</summary>
public sealed class TubeBench : SimulatedTrial
{
    /// <summary>Share of the plastic from which its lack can be seen on a wall.</summary>
    internal const double Seen = 0.08;

    /// <inheritdoc/>
    public override string Kind => FlowStepsTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var habit = new Chance(eyesSeed).Of("thin walls").Normal(0, 0.012);
        foreach (var part in plan.Parts)
        {
            var look = piece.Look(part.FromZMm!.Value, part.ToZMm!.Value);
            if (look.Layers == 0)
                yield break;
            var lack = look.Starved + new Chance(piece.Seed).Of("lack", part.Index).Normal(0, 0.006) + habit;
            var word = look.Clicks ? "clicking" : lack > 0.4 ? "nothing came" : lack > 1.6 * Seen ? "gaps" : lack > Seen ? "thin wall" : "good";
            yield return new(part.Index, FlowTrial.Fault, "eyes", new(0, "", 1), word);
            if (FlowTrial.Ends(word))
                yield break;
        }
    }
}
