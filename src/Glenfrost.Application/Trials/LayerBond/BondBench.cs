using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.LayerBond;

/// <summary>Breaks pegs on the simulated bench, in the order of the sheet: a rig with scatter, some drift and clamps that fail; or a hand that ranks.</summary>
public sealed class BondBench : SimulatedTrial
{
    /// <summary>Scatter from plate to plate and from peg to peg of one row, as a share.</summary>
    private const double Plates = 0.03, Pegs = 0.03;

    /// <inheritdoc/>
    public override string Kind => LayerBondTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (BondPlan)plan;
        var chance = new Chance(piece.Seed);
        var plate = chance.Of("plate of pegs").Normal(1, Plates);
        // The rig is the person's, not the piece's: its scatter stays from plate to plate, what it reads does not.
        var rig = new PullRig(eyesSeed ^ (piece.Seed * 31), 0.3, 0.06);
        var felt = new List<(int Part, double N)>();
        foreach (var part in p.Breaking.Where(i => states[i] != SectionState.Lost))
        {
            var look = piece.Look(p.Size.Waist.From, p.Size.Waist.To, p.RowOf(part));
            var mPa = Math.Max(0.5, look.BondMPa * plate * chance.Of("peg", part).Normal(1, Pegs));
            var (force, broke) = rig.PullUntil(mPa, p.AreaMm2);
            if (p.Request.ReadBy == "hand")
            {
                felt.Add((part, force.Value));
                continue;
            }

            var shown = p.Request.Unit == "kgf" ? force with { Value = Math.Round(force.Value / BondJudging.NewtonPerKgf, 1), Unit = "kgf", Resolution = 0.1 }
                : force;
            yield return new(part, LayerBondTrial.Force, "rig", shown);
            yield return new(part, LayerBondTrial.Broke, "eyes", new(0, "", 1), broke);
        }

        foreach (var ((part, _), rank) in felt.OrderBy(x => x.N).Select((x, i) => (x, i + 1)))
            yield return new(part, LayerBondTrial.Rank, "hand", new(rank, "", 1));
    }
}
