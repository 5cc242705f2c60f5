using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FirstLayer;

/// <summary>Reads first-layer patches on the simulated bench. How high each was laid comes from the file that was run, not from the plan.</summary>
public sealed class PatchBench : SimulatedTrial
{
    private static readonly (int X, int Y)[] Corners = [(-1, -1), (1, -1), (-1, 1), (1, 1)];

    /// <inheritdoc/>
    public override string Kind => FirstLayerTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (FirstLayerPlan)plan;
        var eyes = new Eyes(eyesSeed);
        var laid = piece.Trace.Layers.Where(l => l.Object == 0).Select(l => l.ZMm).Take(p.ChangesMm.Count).ToList();
        double Above(int i, double x, double y) =>
            piece.Laws.AboveBestMm((double)p.Request.NozzleOffsetMm + laid[i] - (double)p.Request.FirstLayerHeightMm, x, y);
        int Part(int i) => unchecked((int)(piece.Seed & 0xFFFF)) * 64 + i;
        foreach (var aspect in FirstLayerJudging.Aspects)
        {
            for (var i = 0; i < laid.Count; i++)
                yield return new(i, aspect, "eyes", eyes.Score(Eyes.FirstLayerQuality(Above(i, 0, 0), aspect), aspect, Part(i)));
        }

        if (!p.Request.Corners)
            yield break;
        foreach (var (corner, k) in FirstLayerJudging.Corners.Select((c, k) => (c, k)))
        {
            for (var i = 0; i < laid.Count; i++)
                yield return new(
                    i, FirstLayerTrial.Of(corner), "eyes", eyes.Score(Eyes.FirstLayerQuality(Above(i, Corners[k].X, Corners[k].Y), "all"), corner, Part(i)));
        }
    }
}
