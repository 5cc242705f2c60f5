using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.LayerBond;

/// <content>What is read and judged, and what the API takes of it.</content>
public sealed partial class LayerBondTrial
{
    private static readonly string[] Ways = ["layer", "clamp", "slip", "unbroken"];

    /// <inheritdoc/>
    protected override string FileWords(BondPlan plan) => $"{plan.Request.Mode} plate {Say.N(plan.Request.Block)}";

    /// <inheritdoc/>
    protected override string Extent(BondPlan plan) => Say.Plural(plan.Pegs, "peg");

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (BondPlan)plan;
        return p.Request.LayerHeightMm <= 0 ? "plan has no layer height"
            : p.Request.Together is < 1 or > 8 || p.Request.Block is < 1 or > 1000 ? "plan has no pegs"
            : p.Size.Layers > PlanBounds.MostLayers ? "plan has too many layers"
            : base.Faults(plan);
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(BondPlan plan)
    {
        var unit = plan.Request.Unit;
        var parts = ((ITrialPlan)plan).Parts;
        GridRow Row(int i)
        {
            var (brisk, anew) = BondPlan.WayOf(i);
            return new(i, parts[i].Label, plan.RigCheck ? $"{(brisk ? "briskly" : "slowly")}, {(anew ? "seated by eye" : "lined up")}" : "");
        }

        var there = new GridColumn(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" };
        return new(
            [.. plan.Breaking.Select(Row)],
            plan.Request.ReadBy == "hand"
                ?
                [
                    new GridColumn(Rank, "Rank", CellKind.Number)
                    {
                        Quantity = new("Rank", "", 1, plan.Pegs, "1 broke most easily; equal ones get the same"), Resolution = 0.5, Digits = 1,
                    },
                    there,
                ]
                :
                [
                    new GridColumn(Force, unit, CellKind.Number)
                    {
                        Quantity = new("Force", unit, 0.01m, unit == "N" ? 5000 : 500, "above 0, what the rig showed when it gave way"),
                            Resolution = unit == "N" ? 1 : 0.1,
                        Digits = 2, Plausible = Plausible(plan), Lead = "force",
                    },
                    new GridColumn(Broke, "Broke", CellKind.Word) { Words = Ways, Lead = "where it broke" },
                    there,
                ])
        {
            Across = true, RowHead = "Peg",
        };
    }

    /// <summary>Forces of 3 to 120 MPa in the waist.</summary>
    private static (double From, double To) Plausible(BondPlan plan)
    {
        var n = plan.AreaMm2 / (plan.Request.Unit == "kgf" ? BondJudging.NewtonPerKgf : 1);
        return (3 * n, 120 * n);
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Force or Broke or Rank;

    /// <summary>What was read of a plate and of those that are judged along, by group.</summary>
    private static BondReadings ReadingsOf(BondPlan plan, RunReadings readings, IReadOnlyList<(ITrialPlan Plan, RunReadings Readings)> earlier)
    {
        var r = plan.Request;
        List<(BondPlan Plan, RunReadings Readings, int Plate)> plates = [(plan, readings, 1)];
        foreach (var (before, read) in earlier)
        {
            if (before is BondPlan q && q.RigCheck == plan.RigCheck && q.Request.ReadBy == r.ReadBy && q.Request.RigRevision == r.RigRevision)
                plates.Add((q, read, plates.Count + 1));
        }

        if (r.ReadBy == "hand")
            return Ranks(plates);
        double InUnit(BondPlan p, double force) => p.Request.Unit == r.Unit ? force
            : r.Unit == "N" ? force * BondJudging.NewtonPerKgf : force / BondJudging.NewtonPerKgf;
        IEnumerable<(string Key, BondValue Value, int Part, BondPiece Piece)> All()
        {
            foreach (var (p, read, plate) in plates)
            {
                foreach (var (part, order) in p.Breaking.Select((part, order) => (part, order + 1)))
                {
                    if (read.Text(part, CellAspects.State) is "failed" or "lost" || read.Value(part, Force) is not { } force || force <= 0)
                        continue;
                    // Where it broke decides what its force means: one that nobody looked at says nothing yet.
                    if (!Enum.TryParse<BondMode>(read.Text(part, Broke), true, out var mode))
                        continue;
                    var value = p.Values[p.GroupOf(part)];
                    var (brisk, anew) = BondPlan.WayOf(part);
                    yield return (
                        p.RigCheck ? $"{(brisk ? "briskly" : "slowly")}, {(anew ? "by eye" : "lined up")}" : value.Label, value, part,
                        new(InUnit(p, force), mode, plate, order));
                }
            }
        }

        var all = All().ToList();
        var labels = (plan.RigCheck ? all.Select(x => x.Key) : plates.SelectMany(p => p.Plan.Values.Select(v => v.Label))).Distinct();
        return new()
        {
            Unit = r.Unit, AreaMm2 = plan.AreaMm2, SmallestUsefulPercent = (double)r.SmallestUsefulPercent, RigCheck = plan.RigCheck,
            RigScatterPercent = plan.RigCheck ? null : (double?)r.RigScatterPercent, RigFreedom = 5,
            Groups =
            [
                .. labels.Select(label =>
                {
                    var value = plates.SelectMany(p => p.Plan.Values).FirstOrDefault(v => v.Label == label);
                    var of = all.Where(x => x.Key == label).ToList();
                    return new BondGroup(label, plan.RigCheck ? null : value?.TemperatureC, plan.RigCheck ? null : value?.FanPercent,
                        [.. of.Select(x => x.Piece)])
                    {
                        Brisk = plan.RigCheck && of.Count > 0 && BondPlan.WayOf(of[0].Part).Brisk, Anew = plan.RigCheck && of.Count > 0
                            && BondPlan.WayOf(of[0].Part).Anew,
                    };
                }).OrderBy(g => g.TemperatureC).ThenBy(g => g.FanPercent),
            ],
        };
    }

    private static BondReadings Ranks(IReadOnlyList<(BondPlan Plan, RunReadings Readings, int Plate)> plates)
    {
        // Ranks of two plates are not one order: only this plate's are told.
        var (p, read, _) = plates[0];
        return new()
        {
            Ranks =
            [
                .. Enumerable.Range(0, p.Pegs).Where(i => read.Value(i, Rank) is not null && read.Text(i, CellAspects.State) is not ("failed" or "lost"))
                    .Select(i => new BondRank(p.Values[p.GroupOf(i)].Label, read.Value(i, Rank)!.Value)),
            ],
        };
    }

    /// <inheritdoc/>
    public override BondVerdict Judge(BondPlan plan, RunReadings readings, JudgeContext context)
    {
        var from = ReadingsOf(plan, readings, context.Earlier);
        // While pegs are left to break, or nobody said where one broke, no group is told: whoever knows the values breaks otherwise.
        var left = Waiting(plan, readings).Select(w => w.Section).Distinct().Count();
        if (left > 0)
            return new() { Outcome = BondOutcome.Insufficient, From = from, Advised = false, Next = new("measure-more", ""), LeftToBreak = left };
        var own = plan.RigCheck ? null : plan.Values.FirstOrDefault(v =>
            (plan.Request.Mode == Fan || plan.ProfileC is { } c && Math.Abs(c - v.TemperatureC) < 0.5)
            && (plan.Request.Mode == Temperature || plan.ProfileFanPercent is { } f && Math.Abs(f - v.FanPercent) < 0.5));
        var verdict = BondJudging.Judge(from) with { Own = own?.Label };
        // Pegs that are all broken and yet too few: the next plate brings as many again.
        if (plan.Request.ReadBy == "hand" && verdict.Next is { Kind: "more-pieces" } by)
        {
            // Another plate would be another order: more pegs that are ranked together are what helps.
            return verdict with
            {
                Next = plan.Request.Together >= MostTogetherOnPlate ? by with { Trial = null }
                    : by with { Values = new Dictionary<string, decimal> { ["together"] = MostTogetherOnPlate } },
            };
        }

        if (verdict.Next is { Kind: "measure-more" } && !plan.RigCheck)
            verdict = verdict with { Next = new("second-plate", "", Word) };
        return verdict.Next is { Kind: "second-plate" or "more-pieces" } next
            ? verdict with
            {
                Next = (next with { Values = new Dictionary<string, decimal> { ["block"] = plan.Request.Block + 1 } })
                    .Costing(plan.Estimate, next.Kind == "second-plate" || verdict.NeededPieces is not { } needed
                        ? 1 : Math.Max(1, Math.Ceiling((needed - verdict.Groups.Min(g => g.N)) / (double)plan.Request.Together))),
            }
            : verdict;
    }

    /// <inheritdoc/>
    protected override AreaFinding? Finding(BondVerdict verdict) =>
        // What one plate shows, or luck alone may do, closes nothing; and only the profile's own values are judged.
        verdict is { Proves: true, Own: { } own, Outcome: BondOutcome.Separable or BondOutcome.Trend or BondOutcome.Noise }
            && (verdict.Outcome != BondOutcome.Noise || verdict.DetectablePercent <= 2 * verdict.From.SmallestUsefulPercent)
            ? new(Bond, !verdict.Weaker.Contains(own), [], false)
            : null;

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(
        IReadOnlyList<BondGroup> Groups, string? Unit, double? AreaMm2, BondBending? Bending, string? Reference, double? SmallestUsefulPercent,
        double? RigScatterPercent, double? RigDegreesOfFreedom, bool? RigCheck, IReadOnlyList<BondRank>? Ranks, IReadOnlyList<string>? Expected);

    /// <inheritdoc/>
    protected override BondVerdict? Answer(JsonFields json)
    {
        var groups = (json.List("groups") ?? []).Select(g => new BondGroup(
            g.Text("label", 60) ?? "", (double?)g.Number("temperatureC"), (double?)g.Number("fanPercent"),
            [
                .. (g.List("pieces", true) ?? []).Select(p => new BondPiece(
                    (double)(p.Number("force", true) ?? 1), Enum.Parse<BondMode>(p.Word("mode", Ways) ?? "layer", true), p.Whole("plate", 1, 1000),
                    p.Whole("order", 1, 10_000))),
            ])
        {
            Brisk = g.Flag("brisk"), Anew = g.Flag("anew"),
        }).ToList();
        var bending = json.Object("bending");
        var readings = new BondReadings
        {
            Groups = groups,
            Ranks = [.. (json.List("ranks") ?? []).Select(x => new BondRank(x.Text("label", 60) ?? "", (double)(x.Number("rank", true) ?? 1)))],
            Expected = json.TextList("expected", 24, 60),
            Unit = json.Word("unit", ["N", "kgf"]) ?? "N",
            AreaMm2 = (double?)json.Number("areaMm2"),
            Bending = bending is null ? null : new(
                (double)(bending.Number("spanMm", true) ?? 1), (double)(bending.Number("widthMm", true) ?? 1), (double)(bending.Number("thicknessMm", true)
                    ?? 1)),
            Reference = json.Text("reference", 60),
            SmallestUsefulPercent = (double)(json.Number("smallestUsefulPercent") ?? 15),
            RigScatterPercent = (double?)json.Number("rigScatterPercent"),
            RigFreedom = (double)(json.Number("rigDegreesOfFreedom") ?? 24),
            RigCheck = json.Flag("rigCheck"),
            BreaksNotSaid = (json.List("groups") ?? []).SelectMany(g => g.List("pieces") ?? []).Count(p => p.Word("mode", Ways) is null),
        };
        if (json.Errors.Count == 0)
            json.Take(BondJudging.Check(readings));
        return json.Errors.Count > 0 ? null : BondJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"unit": "kgf", "areaMm2": 12.57, "groups": [""" +
            """{"label": "220 °C", "temperatureC": 220, "pieces": [{"force": 21, "plate": 1}, {"force": 24, "plate": 1}, {"force": 23, "plate": 2},""" +
            """ {"force": 20, "plate": 2}]}, {"label": "230 °C", "temperatureC": 230, "pieces": [{"force": 27, "plate": 1}, {"force": 25, "plate": 1},""" +
            """ {"force": 31, "mode": "clamp", "plate": 2}, {"force": 29, "plate": 2}]}, {"label": "240 °C", "temperatureC": 240, "pieces": [""" +
            """{"force": 34, "plate": 1}, {"force": 32, "plate": 1}, {"force": 30, "plate": 2}, {"force": 37, "plate": 2}]}]}""";

    /// <inheritdoc/>
    public override string PlanExample => """{"coolestC": 210, "hottestC": 240, "stepC": 10, "together": 2}""";
}
