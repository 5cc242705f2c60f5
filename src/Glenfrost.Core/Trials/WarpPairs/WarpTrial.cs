using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.WarpPairs;

/// <summary>Warp in pairs: whether one thing (brim, shield, enclosure, fan, room, ramp, removal) keeps corners down, from plates printed in turn.</summary>
public sealed class WarpTrial : Trial<WarpRequest, WarpPlan, WarpVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "warp-pairs";

    /// <summary>Its area of evidence.</summary>
    public const string Warp = "warp";

    /// <summary>Begins the aspect of a lift: lift.during.</summary>
    public const string Lift = "lift.";

    private static readonly string[] Differences = ["enclosure", "draught-shield", "brim", "fan", "room", "ramp", "removal"];

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Warp in pairs";

    /// <inheritdoc/>
    public override string Noun => "plate";

    /// <inheritdoc/>
    public override string PageFolder => "WarpPairs";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [Warp];

    /// <inheritdoc/>
    public override bool LooksBack => true;

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override bool AsksAround => true;

    /// <inheritdoc/>
    public override int MostTogether => 2 * WarpJudging.MostPairs;

    /// <inheritdoc/>
    public override int LongestApartDays => 90;

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override string Purpose => "Whether one thing keeps corners down: plates in pairs, one with it and one without, in turn.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
    [
        "A hot bed is not left alone, also while it cools. Improvised enclosures (curtain, cardboard, bags) burn: off hot parts, a smoke alarm near, the " +
            "firmware's thermal protection on.",
        "Plastics that want an enclosure give off fumes: ventilate the room, not the part.",
        "A part that has bonded can tear glass or coating off: let the bed cool, blade flat and away from the hand, eyes covered.",
    ];

    private const string TheDifference = "What differs", ThePlate = "The part", WhatMatters = "What matters";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        OneOf(
            r => r.Difference, "One difference", "Everything else stays: room, chamber, spool, place on the bed.", TheDifference,
            [
                ("enclosure", "enclosure"), ("draught-shield", "draught shield"), ("brim", "brim"), ("fan", "fan"), ("room", "room"), ("ramp", "cool-down"),
                ("removal", "when it is taken off"),
            ]),
        OneOf(r => r.Arm, "This print", "They are printed in turn: without, with; with, without.", TheDifference, ("without", "without it"),
            ("with", "with it")),
        Number(r => r.Pair, "Pair", "", 1, 40, "pairs are counted from 1", "Four pairs show 1 in 8 at best, six 1 in 32.", TheDifference, whole: true),
        Number(r => r.BrimMm, "Brim with", "mm", 1, 30, "narrower holds nothing", "", TheDifference),
        Number(r => r.ArmFanPercent, "Fan with", "%", 0, 100, "0 is off, 100 all of it", "", TheDifference),
        Number(r => r.RemovalC, "Taken off at", "°C", 20, 140, "the bed's temperature", "", TheDifference),
        Number(r => r.LengthMm, "Length", "mm", 40, 400, "shorter hardly lifts", "The longer, the more it lifts.", ThePlate),
        Number(r => r.WidthMm, "Width", "mm", 10, 100, "", "", ThePlate),
        Number(r => r.ThickMm, "Thickness", "mm", 1, 12, "thinner bends by itself", "", ThePlate),
        Number(r => r.EndMm, "Ends stand up", "mm", 0, 60, "they pull the corners up", "They pull the corners up, as walls of real parts do.", ThePlate),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "The profile's: it is held.", ThePlate),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePlate),
        Number(
            r => r.SmallestUsefulMm, "Smallest difference that matters", "mm", 0.05m, 10, "0.3 is usual", "Says how many pairs it takes.", WhatMatters),
        Number(r => r.TolerableMm, "A corner may lift", "mm", 0.05m, 10, "0.5 is usual", "Below it the pairing's warp counts as good.", WhatMatters),
    ];

    /// <summary>The mode of a part of somebody's own, printed as it was sliced.</summary>
    public const string Own = "own";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => ["", Own];

    /// <inheritdoc/>
    public override bool PrintsOwnFile(string mode) => mode == Own;

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => mode != Own || f is not ("widthMm" or "thickMm" or "endMm"));

    /// <inheritdoc/>
    public override FieldError NoFile => new("", "Your own part is printed: drop its file in the plan, then it is kept here.");

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => true;

    /// <summary>Which plate of which pair it is, and what matters, say nothing of how it was made but by what differs.</summary>
    public override string? FactorOf(string field) =>
        field is "pair" or "arm" or "smallestUsefulMm" or "tolerableMm" or "removalC" ? null : base.FactorOf(field);

    /// <summary>
    /// What differs on purpose is set aside, and so are room and chamber: a verdict looks at them itself and says where they spoil the comparison.
    /// </summary>
    protected override IEnumerable<string> SetAside(WarpPlan plan) =>
    [
        FactorRegistry.RoomC, FactorRegistry.ChamberC,
        // The plate begins as it goes on.
        "firstLayerNozzleTemperatureC",
        .. plan.Request.Difference switch
        {
            "brim" => ["brimWidthMm", "brimMm"],
            "fan" => ["fanPercent", "bridgeFanPercent", "armFanPercent"],
            "draught-shield" => ["draughtShield", FactorRegistry.Enclosure],
            "ramp" => ["coolDown"],
            "enclosure" => [FactorRegistry.Enclosure, "chamberTemperatureC"],
            _ => (string[])[],
        },
    ];

    /// <summary>The plate that is printed after one: the other arm of its pair, then the next pair, begun with the arm that ended it.</summary>
    public static (int Pair, string Arm) After(int pair, string arm)
    {
        var first = pair % 2 == 1 ? WarpJudging.Without : WarpJudging.With;
        return arm == first ? (pair, Other(arm)) : (pair + 1, arm);
    }

    private static string Other(string arm) => arm == WarpJudging.With ? WarpJudging.Without : WarpJudging.With;

    /// <inheritdoc/>
    protected override WarpRequest Proposal(PlanContext c)
    {
        if (c.Earlier.Select(e => e.Plan).OfType<WarpPlan>().LastOrDefault() is { } last)
        {
            var (pair, arm) = After((int)last.Request.Pair, last.Request.Arm);
            return last.Request with { Pair = pair, Arm = arm };
        }

        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var room = (decimal)((c.Machine?.BedXMm ?? 220) - 30);
        return new()
        {
            Difference = c.Machine?.Enclosure is null or "none" ? "enclosure" : "brim",
            LengthMm = Math.Min(140, Math.Floor(room / 10) * 10),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3),
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            RemovalC = (decimal)Math.Max(25, Math.Round((c.Settings?.BedTemperatureC ?? 60) * 0.7)),
        };
    }

    /// <inheritdoc/>
    public override PlanValues ValuesAfter(ITrialPlan plan)
    {
        var r = ((WarpPlan)plan).Request;
        var (pair, arm) = After((int)r.Pair, r.Arm);
        var values = ValuesOf(plan).With(new Dictionary<string, decimal> { ["pair"] = pair });
        values["arm"] = arm;
        return values;
    }

    /// <inheritdoc/>
    protected override WarpRequest RequestOf(WarpPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<WarpPlan> Plan(WarpRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (!Differences.Contains(r.Difference))
            errors.Add(new("difference", $"\"{r.Difference}\" is none of {Say.List(Differences)}."));
        var own = r.Mode == Own;
        if (!own && r.ThickMm < 2 * r.LayerHeightMm)
            errors.Add(new("thickMm", $"{Say.N(r.ThickMm)} mm are fewer than two layers: at least {Say.N(2 * r.LayerHeightMm)} mm."));
        if (!own && r.WidthMm > r.LengthMm)
            errors.Add(new("widthMm", $"{Say.N(r.WidthMm)} mm is wider than it is long: at most {Say.N(r.LengthMm)} mm."));
        if (errors.Count > 0)
            return errors;
        if (own)
        {
            var file = c.OwnFile;
            return new WarpPlan
            {
                Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, BedC = c.Settings?.BedTemperatureC ?? 60, BrimInForceMm = Brim(r, 0),
                FileName = file?.Name, OwnLayers = file?.Layers, Estimate = file is null ? new(0, null, 0) : new(file.Minutes, file.Grams, 0, true),
                Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC), .. SameFile(r, file?.Name, c)],
            };
        }

        var volume = (double)(r.LengthMm * r.WidthMm * r.ThickMm) * 0.9 + 2 * 3 * (double)(r.WidthMm * r.EndMm);
        return new WarpPlan
        {
            Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, BedC = c.Settings?.BedTemperatureC ?? 60,
            BrimInForceMm = Brim(r, c.Settings?.BrimWidthMm ?? 0),
            Estimate = new((int)Math.Ceiling(volume / 5 / 60) + 3, Math.Round(volume / 1000 * 1.1, 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
    }

    /// <summary>What differs in the file itself can't differ between two prints of one file.</summary>
    private static IEnumerable<PlanWarning> SameFile(WarpRequest r, string? name, PlanContext c) =>
        name is not null && r.Difference is "brim" or "fan" or "ramp"
        && c.Earlier.Select(e => e.Plan).OfType<WarpPlan>()
            .Any(p => p.FileName == name && p.Request.Arm != r.Arm && p.Request.Difference == r.Difference)
            ? [new(PlanWarningKind.SameFile, [], [name])] : [];

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        // The plate's length is none of a part's: nobody has measured that yet.
        if (mode == Own && values.Word("mode") != Own)
            copy.Remove("lengthMm");
        // What the file says is not asked again.
        if (mode == Own && context.OwnFile is { } file)
        {
            copy["layerHeightMm"] = (decimal)file.LayerHeightMm;
            if (file.NozzleC is { } nozzle)
                copy["nozzleTemperatureC"] = (decimal)nozzle;
            if (file.LengthMm is >= 40 and <= 400)
                copy["lengthMm"] = (decimal)file.LengthMm;
        }

        return copy;
    }

    private static double Brim(WarpRequest r, double usual) => r.Difference != "brim" ? usual : r.Arm == WarpJudging.With ? (double)r.BrimMm : 0;

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(WarpPlan plan, PieceMemory memory) => plan.IsOwn ? []
        : [FlatPlate.Build(plan.Size, plan.Request is { Difference: "fan", Arm: WarpJudging.With } r ? (double)r.ArmFanPercent : null, memory)];

    /// <inheritdoc/>
    protected override Made<WarpPlan> Make(WarpPlan plan, PlanContext c)
    {
        if (plan.IsOwn)
            return new(plan, null, []);
        var settings = c.Settings! with
        {
            BrimWidthMm = Brim(plan.Request, c.Settings!.BrimWidthMm),
            // What is compared is in one arm's file and not in the other's; a part that is taken off warm cools by itself.
            CoolDown = plan.Request is { Difference: "ramp", Arm: WarpJudging.Without } or { Difference: "removal" } ? null : c.Settings.CoolDown,
        };
        var p = plan with
        {
            NozzleMm = c.Machine!.NozzleDiameterMm,
            BedC = settings.BedTemperatureC,
            BrimInForceMm = settings.BrimWidthMm,
        };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)p.Request.NozzleTemperatureC, "all of it")],
                PlanLines = [$"warp in pairs, {c.Subject}", $"pair {Say.N(p.Request.Pair)}, {p.ArmInWords}"],
            },
            c.Machine, settings, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(At)])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    private static FieldError At(FieldError e) => e.Field switch
    {
        "pieceDepthMm" => e with { Field = "lengthMm", Offers = [] },
        "sectionHeightMm" => e with { Field = "endMm", Offers = [] },
        "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
        _ => e,
    };

    /// <inheritdoc/>
    protected override string FileWords(WarpPlan plan) => $"pair {Say.N(plan.Request.Pair)} {plan.Request.Arm}";

    /// <inheritdoc/>
    protected override string Extent(WarpPlan plan) => plan.IsOwn ? "one part" : "one plate";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) =>
        ((WarpPlan)plan).Request is { LayerHeightMm: <= 0 } ? "plan has no layer height"
        : !Differences.Contains(((WarpPlan)plan).Request.Difference) ? "plan has no difference"
        : base.Faults(plan);

    /// <inheritdoc/>
    public override ReadingGrid Grid(WarpPlan plan)
    {
        GridColumn Column(string moment, string label, bool wanted) =>
            new($"{Lift}{moment}", label, CellKind.Number, wanted)
            {
                Quantity = new("Lift", "mm", -5, 60, "calliper or feeler; 0 where a feeler finds nothing"), Resolution = 0.05, Digits = 2, Plausible = (0, 8),
                Lead = $"lift {label.InSentence()}",
            };
        return new(
            [.. WarpPlan.Places.Select((p, i) => new GridRow(i, p))],
            [
                Column("during", "While it prints", false), Column("cooled", "Cooled, on the plate", true), Column("released", "Taken off", true),
                Column("next-day", "Next day", false),
            ])
        {
            RowHead = "Corner",
        };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) =>
        aspect.StartsWith(Lift, StringComparison.Ordinal) && WarpPlaces.Moments.Contains(aspect[Lift.Length..]);

    private static WarpPart PartOf(WarpPlan p, RunReadings read) => new(
        p.Request.Arm, (int)p.Request.Pair,
        [
            .. from place in Enumerable.Range(0, WarpPlaces.All.Count) from moment in WarpPlaces.Moments let mm = read.Value(place, $"{Lift}{moment}")
                where mm is not null select new WarpLift(WarpPlaces.All[place], moment, mm.Value),
        ])
    {
        RoomC = read.Around.RoomC, RoomEndC = read.Around.RoomEndC, ChamberC = read.Around.ChamberC, ChamberEndC = read.Around.ChamberEndC,
    };

    /// <inheritdoc/>
    public override WarpVerdict Judge(WarpPlan plan, RunReadings readings, JudgeContext context)
    {
        var r = plan.Request;
        List<WarpPart> parts = [PartOf(plan, readings)];
        foreach (var (before, read) in context.Earlier)
        {
            // A plate that was printed anew stands for the earlier one of the same pair and arm.
            if (before is WarpPlan q && q.Request.Difference == r.Difference && q.IsOwn == plan.IsOwn
                && parts.All(p => (p.Arm, p.Pair) != (q.Request.Arm, (int)q.Request.Pair)))
                parts.Add(PartOf(q, read));
        }

        parts = [.. parts.Where(p => p.Lifts.Count > 0).OrderBy(p => p.Pair)];
        var v = WarpJudging.Judge(new()
        {
            Difference = r.Difference, Parts = parts, SmallestUsefulMm = (double)r.SmallestUsefulMm, TolerableMm = (double)r.TolerableMm,
        });
        var (pair, arm) = After((int)r.Pair, r.Arm);
        return v.Next is { Kind: "measure-more" or "more-pairs" or "same-surroundings" } next
            ? v with
            {
                Next = (next with
                {
                    Values = new Dictionary<string, decimal> { ["pair"] = pair },
                    Words = new Dictionary<string, string> { ["arm"] = arm },
                }).Costing(plan.Estimate, v.Outcome == WarpOutcome.Insufficient ? 1 : Math.Max(2, 2 * ((v.NeededPairs ?? v.Pairs + 1) - v.Pairs))),
            }
            : v;
    }

    /// <inheritdoc/>
    protected override AreaFinding? Finding(WarpVerdict verdict)
    {
        if (verdict is not { Outcome: WarpOutcome.Separable or WarpOutcome.Noise, Moment: { } at } || verdict.Moments.FirstOrDefault(m => m.Moment == at)
            is not { } m)
            return null;
        var least = Math.Min(m.WithoutMm ?? double.MaxValue, m.WithMm ?? double.MaxValue);
        return new(Warp, least <= verdict.From.TolerableMm, [], false);
    }

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(
        IReadOnlyList<WarpPart> Parts, string? Difference, double? SmallestUsefulMm, double? TolerableMm, double? EarlierSpreadMm,
            double? EarlierDegreesOfFreedom);

    /// <inheritdoc/>
    protected override WarpVerdict? Answer(JsonFields json)
    {
        var parts = (json.List("parts", true) ?? []).Select(p => new WarpPart(
            p.Word("arm", [WarpJudging.Without, WarpJudging.With], true) ?? WarpJudging.Without, p.Whole("pair", 1, 1000) ?? 1,
            [
                .. (p.List("lifts", true) ?? []).Select(l => new WarpLift(
                    l.Word("place", WarpPlaces.All) ?? WarpPlaces.All[0], l.Word("moment", WarpPlaces.Moments, true) ?? "released",
                        (double)(l.Number("mm", true)
                        ?? 0))),
            ])
        {
            RoomC = (double?)p.Number("roomC"), RoomEndC = (double?)p.Number("roomEndC"), ChamberC = (double?)p.Number("chamberC"),
            ChamberEndC = (double?)p.Number("chamberEndC"),
        }).ToList();
        var readings = new WarpReadings
        {
            Difference = json.Word("difference", [.. Differences, "chamber"]) ?? "enclosure",
            Parts = parts,
            SmallestUsefulMm = (double)(json.Number("smallestUsefulMm") ?? 0.3m),
            TolerableMm = (double)(json.Number("tolerableMm") ?? 0.5m),
            EarlierSpreadMm = (double?)json.Number("earlierSpreadMm"),
            EarlierFreedom = (double)(json.Number("earlierDegreesOfFreedom") ?? 3),
        };
        if (json.Errors.Count == 0)
            json.Take(WarpJudging.Check(readings));
        return json.Errors.Count > 0 ? null : WarpJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"difference": "enclosure", "parts": [""" +
            """{"arm": "without", "pair": 1, "roomC": 19, "lifts": [{"place": "front-left", "moment": "released", "mm": 1.4},""" +
            """ {"place": "back-right", "moment": "released", "mm": 1.2}]}, {"arm": "with", "pair": 1, "roomC": 19.5, "lifts": [""" +
            """{"place": "front-left", "moment": "released", "mm": 0.3}, {"place": "back-right", "moment": "released", "mm": 0.5}]},""" +
            """ {"arm": "without", "pair": 2, "roomC": 19, "lifts": [{"moment": "released", "mm": 1.1}]},""" +
            """ {"arm": "with", "pair": 2, "roomC": 18.5, "lifts": [{"moment": "released", "mm": 0.4}]}]}""";

    /// <inheritdoc/>
    public override string PlanExample => """{"difference": "brim", "arm": "with", "brimMm": 8, "lengthMm": 120}""";
}
