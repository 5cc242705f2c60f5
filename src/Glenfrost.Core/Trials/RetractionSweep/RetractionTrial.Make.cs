using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <content>What is printed: rows of reeds, each part with its own value of what is swept.</content>
public sealed partial class RetractionTrial
{
    private static TravelWay Way(RetractionRequest r, decimal value)
    {
        var (length, speed, v) = ((double)r.RetractionLengthMm, (double)r.RetractionSpeedMmPerS, (double)value);
        var fixedWay = new TravelWay(length, speed);
        return r.Mode is OnOff ? fixedWay with { LengthMm = v } : r.Mode is Dried ? fixedWay : r.Factor switch
        {
            "speed" => fixedWay with { SpeedMmPerS = v },
            "wipe" => fixedWay with { WipeMm = v },
            "coast" => fixedWay with { CoastMm = v },
            "hop" => fixedWay with { HopMm = v },
            "travel" => fixedWay with { TravelMmPerS = v },
            "length" => fixedWay with { LengthMm = v },
            _ => fixedWay,
        };
    }

    private static IReadOnlyList<Piece> PiecesOf(RetractionPlan p, bool byHeight, PieceMemory memory)
    {
        ReedSection Of(decimal v) => new(
            Way(p.Request, v), p.Sweeps("fan") ? (double)v : null, p.Sweeps("multiplier") ? (double)v / p.Multiplier : 1);
        return byHeight
            ? [Reeds.Build(p.Size, [.. p.Values.Select(Of)], memory)]
            : [.. p.Values.Take(p.ByHeight ? p.Values.Count : p.PlatePieces).Select((v, i) => Reeds.Build(p.Size, [Of(v)], memory, i + 1))];
    }

    /// <summary>Temperatures of pieces: one for all of them, or where it is swept that of each section, pad and first piece with the first.</summary>
    private static IReadOnlyList<TemperatureFrom> TemperaturesOf(RetractionPlan p, bool byHeight, int pieces)
    {
        if (!p.Sweeps("temperature"))
            return [new(0, 1, (double)p.Request.NozzleTemperatureC, "all of it")];
        return byHeight
            ? [.. p.Values.Select((v, i) => new TemperatureFrom(
                0, i == 0 ? 1 : p.Size.PadLayers + i * p.Size.SectionLayers + 1, (double)v, $"section {i + 1}"))]
            : [.. p.Values.Take(pieces).Select((v, i) => new TemperatureFrom(i, 1, (double)v, $"piece {i + 1}"))];
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(RetractionPlan plan, PieceMemory memory) => plan.IsOwn ? [] : PiecesOf(plan, plan.ByHeight, memory);

    /// <inheritdoc/>
    protected override Made<RetractionPlan> Make(RetractionPlan plan, PlanContext context)
    {
        var p = plan;
        if (p.IsOwn)
            return new(plan, null, []);
        (PieceJob? Job, IReadOnlyList<FieldError> Errors) Job(IReadOnlyList<Piece> pieces, bool byHeight) =>
            PieceJob.Make(
                new JobRequest
                {
                    // Strings belong to their temperature: where it is swept, no reed is begun before the nozzle is there.
                    Pieces = pieces, Temperatures = TemperaturesOf(p, byHeight, pieces.Count), WaitAtChanges = p.Sweeps("temperature"),
                    Fewer = "Fewer values, fewer repeats or one piece by height", PlanLines =
                    [
                        $"retraction, {context.Subject}", ((ITrialPlan)p).Summary,
                        $"from {(p.ByHeight ? "the bottom up" : "piece 1 on; teeth in the front edge count them")}: " +
                            $"{string.Join(", ", ((ITrialPlan)p).Parts.Take(p.ByHeight ? p.Values.Count : p.PlatePieces).Select(x => x.Label))}",
                    ],
                },
                context.Machine!, context.Settings!, context.Memory);
        var (job, errors) = Job(Pieces(p, context.Memory), p.ByHeight);
        // Shorter pieces take less room behind each other: the most rows with which all of them fit.
        IReadOnlyList<Offer> FewerRows()
        {
            var rows = Enumerable.Range(1, Math.Max(0, p.Size.Rows - 1)).Reverse().FirstOrDefault(n =>
                p with { Request = p.Request with { Rows = n } } is var smaller && Job(PiecesOf(smaller, false, context.Memory), false).Job is not null);
            return rows == 0 ? [] : [new($"{Say.Plural(rows, "row")} together", new Dictionary<string, decimal> { ["rows"] = rows })];
        }

        if (job is null)
            return new(
                plan, null,
                [
                    .. errors.Select(e =>
                        e.Field switch
                        {
                            "pieceDepthMm" => e with { Field = "wideGapMm", Offers = [] },
                            "coolestC" => e with { Field = "repeats", Offers = FewerRows() },
                            "nozzleTemperatureC" when p.Sweeps("temperature") => e with { Field = "to" },
                            _ => e,
                        }),
                ]);
        List<SweepWay> ways = [];
        if (p.Request.Mode is Tower or Plate && p.Request.Repeats == 1)
        {
            // Both ways are made, so that what they cost is counted, not guessed.
            var tower = p.ByHeight ? job : Job(PiecesOf(p, true, context.Memory), true).Job;
            var plate = p.ByHeight ? Job(PiecesOf(p, false, context.Memory), false).Job : job;
            var single = Job([.. PiecesOf(p, false, context.Memory).Take(1)], false).Job;
            if (tower is not null)
                ways.Add(new("one piece by height", tower.Minutes, 1, p.ByHeight));
            if (plate is not null)
                ways.Add(new("small pieces on one plate", plate.Minutes, 1, !p.ByHeight));
            if (single is not null)
                ways.Add(new("small pieces, one print each", single.Minutes * p.Values.Count, p.Values.Count, false));
        }

        var estimate = PieceFields.EstimateOf(job);
        if (p.Request.Mode == Dried)
            estimate = estimate with { Minutes = 2 * estimate.Minutes, MassG = 2 * estimate.MassG, CostMinor = 2 * estimate.CostMinor };
        return new(
            p with
            {
                Estimate = estimate,
                Ways = ways,
                Warnings = [.. plan.Warnings, .. job.Warnings],
                Offers = [.. plan.Offers, .. PieceFields.MoreAtOnce(job, "rows", "rows together", p.Size.Rows, MostRows)],
            }, job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(RetractionPlan plan) => plan.IsOwn ? 1 : plan.Size.PadLayers + 2;
}
