using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>Retraction and strings: the shortest retraction that is as clean as the best, and what else travels do.</summary>
public sealed partial class RetractionTrial : Trial<RetractionRequest, RetractionPlan, RetractionVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "retraction-sweep";

    /// <summary>One piece by height.</summary>
    public const string Tower = "tower";

    /// <summary>Small pieces on one plate.</summary>
    public const string Plate = "plate";

    /// <summary>Somebody's own model, its file stepped by height.</summary>
    public const string Own = "own";

    /// <summary>Retraction off and on.</summary>
    public const string OnOff = "on-off";

    /// <summary>The same before and after drying.</summary>
    public const string Dried = "dried-pair";

    /// <summary>Aspects of scores: of the narrow gap and of the wide one.</summary>
    public const string Narrow = "narrow", Wide = "wide";

    /// <summary>Aspects of counts.</summary>
    public const string NarrowCount = "strings.narrow", WideCount = "strings.wide";

    /// <summary>Gaps after travel.</summary>
    public const string Gaps = "gaps";

    /// <summary>Strings as a photo showed them.</summary>
    public const string Photo = "strings.photo";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Retraction";

    /// <inheritdoc/>
    public override string Noun => "row of reeds";

    /// <inheritdoc/>
    public override string PageFolder => "RetractionSweep";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["retractionLengthMm", "retractionSpeedMmPerS", "wipeMm", "coastMm", "zHopMm", "travelSpeedMmPerS"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["strings"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(RetractionPlan plan) =>
        ["from", "to", "step", .. plan.Request.Mode is Tower or Plate or Own ? new[] { SweepFactor.Of(plan.Request.Factor).Key } : []];

    /// <inheritdoc/>
    public override string Purpose =>
        "Retraction from strings between thin reeds: the shortest that is as clean as the best. Wipe, coast, hop and travel speed, one at a time.";

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override bool Decides(ITrialPlan plan) =>
        ((RetractionPlan)plan).Request is { Mode: not (OnOff or Dried) } r && SweepFactor.Of(r.Factor).SettledBy is null;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
        ["Fine hairs come off with a little warm air, small and moving, away from anything that burns; nothing flammable near."];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Tower, Plate, Own, OnOff, Dried];

    // Six rows of usual reeds are as deep as a small plate.
    private const int MostRows = 6;

    private const string TheFactor = "What is swept", Stays = "What stays", TheReeds = "The reeds", TheModel = "Your model";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        OneOf(
            r => r.Factor, "Factor", "One at a time: the others stay as below and in the profile.", TheFactor,
            [.. SweepFactor.All.Select(f => (f.Word, f.Label.InSentence()))]),
        Number(r => r.From, "From", "", 0, 1000, "in the factor's own unit", "", TheFactor),
        Number(r => r.To, "To", "", 0, 1000, "in the factor's own unit", "", TheFactor),
        Number(r => r.Step, "Step", "", 0.05m, 200, "in the factor's own unit", "", TheFactor),
        Number(
            r => r.Margin, "Margin", "scores", 0.1m, 2, "0.5 is usual",
            "So far behind the best is about as good: the shorter one is taken, of temperatures the warmer.", TheFactor),
        Number(
            r => r.RetractionLengthMm, "Retraction", "mm", 0, 15, "a value outside it is a slip of unit or decimal sign",
            "Of a pair, and where another factor is swept.", Stays),
        Number(r => r.RetractionSpeedMmPerS, "its speed", "mm/s", 1, 200, "per second, not per minute", "", Stays),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's, unless another one is held: strings belong to their temperature. Not asked of a sweep of the temperature.", Stays),
        OneOf(
            r => r.SpoolState, "The spool", "", Stays, ("as logged", "as its log says"), ("dried just now", "dried just now"), ("not known", "nobody knows")),
        Number(r => r.TotalLayers, TowerFields.All["totalLayers"], "Layers count from 1.", TheModel),
        Number(r => r.BaseLayers, TowerFields.All["baseLayers"], "Below the first section.", TheModel),
        Number(r => r.FirstLayerHeightMm, TowerFields.All["firstLayerHeightMm"], "Empty: as the others.", TheModel),
        Number(r => r.PostMm, "Reed", "mm", 2, 10, "3 to 5: wide ones hide fine strings", "3 to 5: wide ones hide fine strings.", TheReeds),
        Number(r => r.NarrowGapMm, "Narrow gap", "mm", 4, 40, "8 to 25 shows strings", "", TheReeds),
        Number(r => r.WideGapMm, "Wide gap", "mm", 4, 60, "8 to 25 shows strings", "", TheReeds),
        Number(
            r => r.Rows, "Rows together", "", 1, MostRows, "each one gives a layer more time to cool; more leave the plate",
            "More rows of the same, so that no layer is slowed; read them together.", TheReeds, whole: true),
        Number(r => r.SectionHeightMm, "Height of a section", "mm", 1, 20, "lower shows too few strings", "Or of a small piece.", TheReeds),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheReeds),
        Number(r => r.Repeats, "Pieces at each value", "", 1, 6, "a tower is repeated as a run", "", TheReeds, whole: true),
        OneOf(r => r.ReadBy, "Read by", "", TheReeds, ("scores", "scores, 0 to 4"), ("counts", "counting strings")),
    ];

    /// <inheritdoc/>
    public override string HelpOf(string field, PlanContext context, Func<string, string> chosen)
    {
        if (field != "to")
            return base.HelpOf(field, context, chosen);
        var factor = SweepFactor.Of(chosen("factor"));
        if (factor.Word != "length")
        {
            var (from, to, _) = Range(factor, context);
            return $"Usually {Say.N(from)} to {Say.N(to)}{(factor.Unit.Length == 0 ? "" : $" {factor.Unit}")} here.";
        }

        var drive = context.Machine?.LongTube == true ? "long-tube" : "direct";
        var advised = RetractionJudging.Advisory(drive);
        return $"On a {(drive == "long-tube" ? "long tube" : "direct drive")}: usually {Say.N(advised.Min!.Value)} to " +
            $"{Say.N(advised.Max!.Value)} mm, at most " +
            $"{Say.N(RetractionJudging.MostMm(drive))} mm.{(context.Soft ? " Soft filament packs in the path and may need more." : "")}";
    }

    /// <inheritdoc/>
    public override string UnitOf(string field, Func<string, string> chosen) =>
        field is "from" or "to" or "step" ? SweepFactor.Of(chosen("factor")).Unit : base.UnitOf(field, chosen);

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode)
    {
        var pair = mode is OnOff or Dried;
        if (mode == Own)
            return Fields.Keys.Where(f => f is not ("postMm" or "narrowGapMm" or "wideGapMm" or "rows" or "sectionHeightMm" or "repeats"));
        return Fields.Keys.Where(f => f is not ("totalLayers" or "baseLayers" or "firstLayerHeightMm"))
            .Where(f => !(pair && f is "factor" or "from" or "to" or "step" or "margin") && !(mode == Tower && f == "repeats"));
    }

    /// <inheritdoc/>
    public override bool IsNeeded(string field, string mode) =>
        field is "totalLayers" or "baseLayers" ? mode == Own : field != "firstLayerHeightMm" && base.IsNeeded(field, mode);

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        if (mode is OnOff or Dried && values.Number("repeats") is null or 1)
            copy["repeats"] = 2m;
        // No retraction at all can't be written into the moves of a file that has some: the least that is tried is a step of it.
        if (mode == Own && copy.Word("factor") == "length" && copy.Number("from") == 0)
            copy["from"] = copy.Number("step") ?? 0.2m;
        return mode == Plate ? Fitting(copy, context) : copy;
    }

    /// <summary>The same with so many values that their pieces fit on this machine's plate: fewer in whole steps, and not fewer than three.</summary>
    private PlanValues Fitting(PlanValues values, PlanContext context)
    {
        if (context.Machine is null || context.Settings is null || values.Number("from") is not { } from || values.Number("to") is not { } to
            || values.Number("step") is not > 0)
            return values;
        bool Fits(PlanValues v) => Plan(v, context).Plan is RetractionPlan plan && Make(plan, context).Errors.Count == 0;
        var count = (int)((to - from) / values.Number("step")!.Value) + 1;
        for (var n = count; n >= 3; n--)
        {
            var step = (to - from) / (n - 1);
            var copy = values.With(new Dictionary<string, decimal> { ["step"] = step });
            if (step == Math.Round(step, 2) && Fits(copy))
                return copy;
        }

        return values;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<string> Refits => ["factor"];

    /// <inheritdoc/>
    public override PlanValues Refit(PlanValues values, PlanContext context)
    {
        (values["from"], values["to"], values["step"]) = Range(SweepFactor.Of(values.Word("factor")), context);
        if (values.Word("mode") == Own)
            return InMode(Own, values, context);
        return values.Word("mode") == Plate ? Fitting(values, context) : values;
    }

    /// <summary>Range and step that a factor is usually swept over on a machine.</summary>
    private static (decimal From, decimal To, decimal Step) Range(SweepFactor f, PlanContext c)
    {
        if (f.Word == "length")
            return c.Machine?.LongTube == true ? (1, 6, 0.5m) : c.Soft ? (0, 2.4m, 0.3m) : (f.From, f.To, f.Step);
        if (f.Word == "travel" && c.Machine is { } m && (decimal)m.MaxSpeedMmPerS < f.To)
        {
            // A slow machine: from half its speed up to it.
            var most = Math.Floor((decimal)m.MaxSpeedMmPerS / 10) * 10;
            return (Math.Max(10, Math.Floor(most / 20) * 10), most, Math.Max(5, Math.Floor(most / 60) * 5));
        }

        switch (f.Word)
        {
            case "temperature":
                // Around what is in force, in whole fives, within what the machine bears.
                var (least, bears) = c.Machine is { } hot
                    ? (Math.Ceiling((decimal)hot.Limits.MinC / 5) * 5, Math.Floor((decimal)hot.Limits.MaxC / 5) * 5) : (150, 500);
                var middle = Math.Round((decimal)c.NozzleC / 5) * 5;
                return (Math.Clamp(middle - 15, least, bears - 10), Math.Clamp(middle + 15, least + 10, bears), f.Step);
            case "multiplier":
                // Foam is laid with little: the range stays within what a reed is laid with.
                var at = Math.Clamp(Math.Round((decimal)(c.Settings?.ExtrusionMultiplier ?? 1) * 20) / 20, 0.6m, 1.4m);
                return (at - 0.1m, at + 0.1m, f.Step);
            default:
                return (f.From, f.To, f.Step);
        }
    }

    /// <inheritdoc/>
    protected override RetractionRequest Proposal(PlanContext c)
    {
        var (from, to, step) = Range(SweepFactor.All[0], c);
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            From = from,
            To = to,
            Step = step,
            RetractionLengthMm = (decimal)Math.Round(c.Settings?.RetractionLengthMm ?? 0.8, 2),
            RetractionSpeedMmPerS = (decimal)Math.Round(c.Settings?.RetractionSpeedMmPerS ?? 30),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
            PostMm = (decimal)Math.Round(4 * Math.Max(1, (c.Machine?.NozzleDiameterMm ?? 0.4) / 0.4), 1),
        };
    }

    /// <inheritdoc/>
    protected override RetractionRequest RequestOf(RetractionPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<RetractionPlan> Plan(RetractionRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        var f = SweepFactor.Of(r.Factor);
        var pair = r.Mode is OnOff or Dried;
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        var drive = c.Machine?.LongTube == true ? "long-tube" : "direct";
        var most = (decimal)RetractionJudging.MostMm(drive);
        var longest = !pair && f.Word == "length" ? r.To : r.RetractionLengthMm;
        if (longest > most && !c.Soft)
        {
            var field = !pair && f.Word == "length" ? "to" : "retractionLengthMm";
            errors.Add(
                new(
                    field,
                    $"{Say.N(longest)} mm is more than a {(drive == "long-tube" ? "long tube" : "direct drive")} bears: at most {Say.N(most)} mm. Beyond " +
                        $"it the melt is drawn into the cold zone and clogs.",
                    [new($"{Say.N(most)} mm", new Dictionary<string, decimal> { [field] = most })]));
        }

        IReadOnlyList<Offer> Usual()
        {
            var (from, to, step) = Range(f, c);
            return
            [
                new(
                    $"{Say.N(from)} to {Say.N(to)} {f.Unit} by {Say.N(step)}",
                    new Dictionary<string, decimal> { ["from"] = from, ["to"] = to, ["step"] = step }),
            ];
        }

        if (!pair && f.Word == "temperature" && r.Values.Count > 0)
        {
            PieceFields.Check(errors, c, r.Values[0], r.LayerHeightMm, null, "from");
            PieceFields.Check(errors, c, r.Values[^1], r.LayerHeightMm, null, "to");
        }

        if (!pair && f.Word == "fan" && r.To > 100)
            errors.Add(new("to", $"A fan runs at 100 % at most; {Say.N(r.To)} is more.", Usual()));
        if (!pair && f.Word == "multiplier" && (r.From < 0.5m || r.To > 1.5m))
            errors.Add(new(r.From < 0.5m ? "from" : "to", "A multiplier of 0.5 to 1.5 lays a reed; outside it starves or smears.", Usual()));
        if (r.Mode == Own)
        {
            if (f.Word is not ("length" or "speed"))
                errors.Add(
                    new("factor", $"{f.Label} can't be stepped through a finished file: retraction length or speed would be right, or a piece of ours."));
            errors.AddRange(OwnModel.Faults(r.Model));
        }

        if (!pair)
        {
            if (r.To <= r.From)
                errors.Add(new("to", $"The range ends at {Say.N(r.To)} and begins at {Say.N(r.From)}: an end above the beginning would be right."));
            else if (r.Values.Count is < 3 && r.Repeats < 2 || r.Values.Count < 2)
                errors.Add(
                    new(
                        "step", $"{Say.Plural(r.Values.Count, "value")} can't show a shortest: a smaller step would be right.",
                        [
                            new(
                                $"by {Say.N((r.To - r.From) / 6, 2)}",
                                new Dictionary<string, decimal> { ["step"] = Math.Max(0.05m, Math.Round((r.To - r.From) / 6, 2)) }),
                        ]));
            else if (r.Values.Count > 24)
                errors.Add(
                    new(
                        "step", $"{r.Values.Count} values stand too tall and take hours: {Say.N(Math.Ceiling((r.To - r.From) / 12 * 20) / 20)} would be right.",
                        [
                            new(
                                $"by {Say.N(Math.Ceiling((r.To - r.From) / 12 * 20) / 20)}",
                                new Dictionary<string, decimal> { ["step"] = Math.Ceiling((r.To - r.From) / 12 * 20) / 20 }),
                        ]));
            if (f.Unit == "mm/s" && r.From < 1)
                errors.Add(new("from", $"{Say.N(r.From)} mm/s is no speed: {Say.N(Range(f, c).From)} to {Say.N(Range(f, c).To)} is usual.", Usual()));
            if (f.Word is "wipe" or "coast" or "hop" && r.To > 10)
                errors.Add(new("to", $"{Say.N(r.To)} mm is more than any reed is round: at most 10 mm.", Usual()));
            if (f.Word == "travel" && c.Machine is { } fast && r.To > (decimal)fast.MaxSpeedMmPerS)
                errors.Add(
                    new(
                        "to", $"{fast.Name} travels at most at {Say.N(fast.MaxSpeedMmPerS)} mm/s.",
                        [new($"{Say.N(fast.MaxSpeedMmPerS)} mm/s", new Dictionary<string, decimal> { ["to"] = (decimal)fast.MaxSpeedMmPerS })]));
            if (f.Word == "coast" && r.To * 2 > r.PostMm * 3)
                errors.Add(
                    new(
                        "to",
                        $"A coast of {Say.N(r.To)} mm is half of the way around a reed of {Say.N(r.PostMm)} mm: at most " +
                            $"{Say.N(Math.Floor(r.PostMm * 15) / 10)} mm."
                    ));
        }

        if (pair && r.Mode == OnOff && r.RetractionLengthMm <= 0)
            errors.Add(
                new(
                    "retractionLengthMm", "On needs a length: the drive's usual one would be right.",
                    [
                        new(
                            $"{(drive == "long-tube" ? 4 : 0.8m)} mm",
                            new Dictionary<string, decimal> { ["retractionLengthMm"] = drive == "long-tube" ? 4 : 0.8m }),
                    ]));
        if (r.WideGapMm < r.NarrowGapMm && r.Mode != Own)
            errors.Add(
                new(
                    "wideGapMm",
                    $"The wide gap, {Say.N(r.WideGapMm)} mm, is narrower than the narrow one: " +
                        $"{Say.N(Math.Min(2 * r.NarrowGapMm, Fields["wideGapMm"].Quantity!.Max))} mm would be right."));
        if (r.Mode != Own && c.Machine is { } machine && r.PostMm < 6 * (decimal)machine.NozzleDiameterMm)
            errors.Add(
                new(
                    "postMm",
                    $"A reed of {Say.N(r.PostMm)} mm has no room for two walls of a {Say.N(machine.NozzleDiameterMm)} mm nozzle: " +
                        $"{Say.N(8 * machine.NozzleDiameterMm)} mm would be right.",
                    [new($"{Say.N(8 * machine.NozzleDiameterMm)} mm", new Dictionary<string, decimal> { ["postMm"] = 8 * (decimal)machine.NozzleDiameterMm })])
            );
        if (errors.Count > 0)
            return errors;
        IReadOnlyList<decimal> parts = r.Mode switch
        {
            OnOff => [.. Enumerable.Range(0, (int)r.Repeats).SelectMany(_ => new[] { 0m, r.RetractionLengthMm })],
            Dried => [.. Enumerable.Repeat(r.RetractionLengthMm, 2 * (int)r.Repeats)],
            Plate => [.. Enumerable.Range(0, (int)r.Repeats).SelectMany(_ => r.Values)],
            _ => r.Values,
        };
        List<PlanWarning> warnings = [.. PieceFields.Advice(c, !pair && f.Word == "temperature" ? r.Values[^1] : r.NozzleTemperatureC)];
        if (c.Dryness is { DryFirst: true } dry && r.SpoolState != "dried just now" && r.Mode != Dried)
            warnings.Add(new(PlanWarningKind.DryFirst, dry.Numbers, [dry.State, "strings"]));
        var advisory = RetractionJudging.Advisory(drive);
        if (!pair && f.Word == "length" && r.To > (decimal)advisory.Max!.Value)
            warnings.Add(new(PlanWarningKind.LongRetraction, [advisory.Max!.Value], c.Soft ? [drive, "soft"] : [drive]));
        if (r.PostMm > 5 && r.Mode != Own)
            warnings.Add(new(PlanWarningKind.WideReeds));
        var plan = new RetractionPlan
        {
            Request = r, Drive = drive, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, Values = parts, Soft = c.Soft,
            Estimate = new(1, null, 0), Warnings = warnings, Multiplier = c.Settings?.ExtrusionMultiplier ?? 1,
            Limits = f.Word switch
            {
                "temperature" when c.Machine is { } m => new(m.Limits.MinC, m.Limits.MaxC),
                "fan" => new(0, 100),
                "multiplier" => new(0.5, 1.5),
                _ => null,
            },
        };
        if (r.Mode == Own)
            return plan with { Estimate = new(0, null, 0) };
        var layers = ((ITrialPlan)plan).TotalLayers * (r.Mode == Dried ? 2 : 1);
        return plan with
        {
            Estimate = new(
                (int)Math.Ceiling(layers * 8 / 60.0),
                Math.Round(layers * 3 * Math.PI * Math.Pow((double)r.PostMm / 2, 2) * (double)r.LayerHeightMm * plan.Size.Rows * 1.24 / 1000, 1), 0),
        };
    }
}
