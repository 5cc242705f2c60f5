using Glenfrost.Core.Settings;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.PressureAdvance;

namespace Glenfrost.Application.Trials.PressureAdvance;

/// <summary>What a row of lines or corners says, in words.</summary>
internal sealed class PressureWords : VerdictWords<PressureVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(PressureVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        if (v.From is not { } r)
            return new("Nothing is read yet.");
        if (v.Numbers is not { } n)
        {
            var scores = r.Scores.Count(s => s is not null);
            return new(
                scores < PressureJudging.LeastScores
                    ? $"{Say.Plural(scores, "score")}: three are the least."
                    : $"None of them reads as usable ({Say.N(PressureJudging.Usable)} of 4 or more): look at flow and retraction first, or at another range.");
        }

        return new(Sentence(v))
        {
            Reasons = [Why(v, r, n), "It belongs to its temperature, speeds and acceleration: another tube, nozzle or gear asks for another one."],
            Warnings = v.K > PressureJudging.LongTubeK && r.Drive != "long-tube"
                ? ["Above 0.25 s is a long tube's factor. On a direct drive look at the unit, and at the dialect."] : [],
            Next = Next(v, n),
            Arithmetic =
            [
                $"k = {Say.N(r.StartK, 4)} + {Say.N(n.Best, 2)} × {Say.N(r.StepK, 4)} = {K(v)} s",
                .. v.Commands.Select(c => $"{Dialect.Of(c.Dialect).KCommand}: {c.Command}"),
            ],
        };
    }

    private static string K(PressureVerdict v) => Say.N(v.K!.Value, 4);

    private static string Sentence(PressureVerdict v)
    {
        var half = Say.N(v.UncertaintyK!.Value, 4);
        var at = v.FoundAt is { } f
            ? $" at {Say.N(f.NozzleTemperatureC)} °C, {Say.N(f.SlowMmPerS)} to {Say.N(f.FastMmPerS)} mm/s, {Say.N(f.AccelerationMmPerS2)} mm/s²" : "";
        return v.Outcome switch
        {
            PressureOutcome.Edge => $"{K(v)} s reads best, and is the end of the row: the best may lie beyond.",
            PressureOutcome.Finer => $"{K(v)} s ± {half} on a coarse row: a finer one tells closer.",
            PressureOutcome.Noise => $"{K(v)} s, but places far apart read alike.",
            _ => $"{K(v)} s ± {half}{at}.",
        };
    }

    private static string Why(PressureVerdict v, PressureReadings r, PressureNumbers n) =>
        r.Best is { } named
            ? named == Math.Floor(named) ? $"Number {Say.N(named)} reads best." : $"It lies between {Say.N(Math.Floor(named))} and {Say.N(Math.Ceiling(named))}."
            : $"By {Say.Plural(n.Read, "score")} it is best at number {Say.N(n.Best, 1)}, ± {Say.N(n.HalfSteps, 1)}. By that at most " +
                $"{Say.N(v.Loss!.P95, 1)} of a score is lost against the best (19 in 20), {Say.N(v.Loss.Expected)} on the average.";

    private static string? Next(PressureVerdict v, PressureNumbers n)
    {
        if (v.NextRange is not { } range)
            return null;
        var (start, step) = (Say.N(range.StartK, 4), Say.N(range.StepK, 4));
        return v.Outcome == PressureOutcome.Edge
            ? $"A row from {start} by {step}."
            : $"A finer row from {start} by {step}, {range.Count} of them.{(n.Gain is { } more ? $" It would gain about {Say.N(more)} of a score." : "")}";
    }
}
