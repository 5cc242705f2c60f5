using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WarpPairs;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.WarpPairs;

/// <summary>Measures a plate on the simulated bench: corners and middle at four moments, with a feeler of 0.05 mm.</summary>
public sealed class WarpBench : SimulatedTrial
{
    /// <summary>Scatter from print to print and from corner to corner, as a share.</summary>
    private const double Prints = 0.12, Corners = 0.15;

    /// <inheritdoc/>
    public override string Kind => WarpTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (WarpPlan)plan;
        if (piece.Trace.Layers.Count == 0)
            yield break;
        // The tester puts a box or a shield around the printer for this plate: the air in it is what the machine's own would be.
        var shelter = p.Request is { Arm: WarpJudging.With } with ? with.Difference switch { "enclosure" => 0.75, "draught-shield" => 0.3, _ => 0 } : 0;
        var chance = new Chance(piece.Seed);
        var laws = shelter <= piece.Laws.Machine.Shelter
            ? piece.Laws
            : new Laws(piece.Laws.Material, piece.Laws.Machine with { Shelter = shelter }, piece.Laws.RoomC);
        var bed = piece.Trace.Layers[0].BedC;
        var taken = p.Request switch
        {
            { Difference: "removal", Arm: WarpJudging.With } r => (double)r.RemovalC,
            // Taken off as soon as the printer is done, and it can be touched: what cooling the file itself brings is read off what it did.
            { Difference: "ramp" } => Math.Min(0.7 * bed, piece.Trace.BedEndC ?? bed),
            _ => laws.RoomC + 8,
        };
        var print = Math.Max(0.2, chance.Of("warp").Normal(1, Prints));
        for (var place = 0; place < WarpPlaces.All.Count; place++)
        {
            // The middle bows by a part of what the corners lift.
            var share = (place == WarpPlaces.All.Count - 1 ? 0.35 : 1) * print * Math.Max(0.1, chance.Of("corner", place).Normal(1, Corners));
            foreach (var (moment, i) in WarpPlaces.Moments.Select((m, i) => (m, i)))
            {
                var mm = laws.WarpMm(moment, p.Size.LengthMm, bed, p.BrimInForceMm, taken, p.Size.ThickMm) * share
                    + chance.Of("feeler", place * 4 + i).Normal(0, 0.03);
                yield return new(
                    place, $"{WarpTrial.Lift}{moment}", i < 2 ? "feeler" : "calliper", new Shown(Math.Round(Math.Max(0, mm) / 0.05) * 0.05, "mm", 0.05));
            }
        }
    }
}
