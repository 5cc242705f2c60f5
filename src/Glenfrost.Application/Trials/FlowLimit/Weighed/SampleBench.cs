using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FlowLimit.Weighed;

/// <summary>Cuts and weighs what the simulated printer extruded into the air, on a scale of the plan's step.</summary>
public sealed class SampleBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => FlowWeighedTrial.Word;

    /// <inheritdoc/>
    public override bool Followed(SimulatedPiece piece, ITrialPlan plan) => true;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (WeighedPlan)plan;
        var (n, repeats) = (p.FlowsMm3PerS.Count, (int)p.Request.Repeats);
        // The first one primes; samples are what was asked in the file's own order.
        var samples = piece.Trace.Free.Where(f => f.AskedMm > 20.5 || f.AskedMm > 0.9 * (double)p.Request.ExtrudedLengthMm).ToList();
        var scale = new Scale(piece.Seed, (double)p.Request.ScaleResolutionG);
        var at = 0;
        for (var section = 0; section < n * (p.Request.SecondTemperatureC is null ? 1 : 2); section++)
        {
            var clicked = false;
            for (var i = 1; i <= repeats && at < samples.Count; i++, at++)
            {
                clicked |= piece.ClicksAt(samples[at]);
                scale.Tare();
                yield return new(section, $"{FlowWeighedTrial.Mass}{i}", "scale", scale.Weigh(piece.SampleG(samples[at], at)));
            }

            if (!clicked)
                continue;
            yield return new(section, FlowTrial.Fault, "eyes", new(0, "", 1), "clicking");
            // Somebody stands by and stops: the rest at this temperature is not extruded.
            var skip = n - section % n - 1;
            at += skip * repeats;
            section += skip;
        }
    }
}
