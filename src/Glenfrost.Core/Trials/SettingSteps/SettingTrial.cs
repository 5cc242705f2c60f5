using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <summary>Any setting in steps, on the piece that shows what is asked: a wall for faces and corners, cones for thin tips.</summary>
public sealed partial class SettingTrial : Trial<SettingRequest, SettingPlan, SettingVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "setting-steps";

    /// <summary>A wall of sections.</summary>
    public const string Wall = "wall";

    /// <summary>Cones beside each other, printed one after another.</summary>
    public const string Cones = "cones";

    /// <summary>Aspects: corners of a wall, tip of a cone, and the face of either.</summary>
    public const string Corners = "corners", Tip = "tip", Walls = "walls";

    /// <summary>Fewest values that show a peak, and most that stand on each other or on a plate.</summary>
    private const int Fewest = 3, MostSections = 9, MostCones = 8;

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "A setting in steps";

    /// <inheritdoc/>
    public override string Noun => "piece";

    /// <inheritdoc/>
    public override string PageFolder => "SettingSteps";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [.. SteppedSetting.All.Where(f => f.SettledBy is null).Select(f => f.Key)];

    /// <summary>It is done where somebody wants to be faster, or doubts a setting: no step of every route.</summary>
    public override bool IsOnRoute => false;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["lines"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["temperature", "flow"];

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override bool Decides(ITrialPlan plan) => ((SettingPlan)plan).Factor.SettledBy is null;

    /// <inheritdoc/>
    public override SettingValue? PieceNumber(TrialVerdict verdict) => verdict.Settings is [var first, ..] ? first : null;

    /// <inheritdoc/>
    public override string Purpose =>
        "Speed, line width or any other setting, on a wall or on cones: the fastest, widest or least that looks about as good as the best.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Wall, Cones];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Refits => ["factor"];

    private const string TheSetting = "What is stepped", ThePiece = "The piece", Stays = "What stays";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        OneOf(
            r => r.Factor, "Setting", "One at a time: the others stay as they are in force.", TheSetting,
            [.. SteppedSetting.All.Select(f => (f.Word, f.Label.InSentence()))]),
        Number(r => r.From, "From", "", 0, 1000, "in the setting's own unit", "A wall has it at the bottom.", TheSetting),
        Number(r => r.To, "To", "", 0, 1000, "in the setting's own unit", "", TheSetting),
        Number(r => r.Step, "Step", "", 0.01m, 200, "in the setting's own unit", "", TheSetting),
        Number(
            r => r.Margin, "Margin", "scores", 0.1m, 2, "0.5 is usual",
            "So far behind the best is about as good: the faster, wider, warmer one is taken; of fan and time the less.", TheSetting),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's. Not asked of a step of the temperature.", Stays),
        Number(r => r.LengthMm, "Length of the wall", "mm", 20, 200, "shorter has no face, longer leaves the bed", "A long one gets up to speed.", ThePiece),
        Number(r => r.SectionHeightMm, "Height of a section", "mm", 4, 30, "lower shows no wall", "", ThePiece),
        Number(r => r.ConeHeightMm, "Height of a cone", "mm", 8, 60, "lower is no cone", "Low enough for the toolhead to pass over.", ThePiece),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePiece),
    ];

    /// <inheritdoc/>
    public override string UnitOf(string field, Func<string, string> chosen) =>
        field is "from" or "to" or "step" ? SteppedSetting.Of(chosen("factor")).Unit : base.UnitOf(field, chosen);

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) =>
        Fields.Keys.Where(f => mode == Cones ? f is not ("lengthMm" or "sectionHeightMm") : f != "coneHeightMm");

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(SettingPlan plan) => ["from", "to", "step", plan.Factor.Key];

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        if (SteppedSetting.Of(copy.Word("factor")).Shows(mode))
            return copy;
        // What the other piece showed and this one does not gives way to what this one is for.
        copy["factor"] = mode == Cones ? "layer-time" : "outer-speed";
        return Refit(copy, context);
    }

    /// <inheritdoc/>
    public override PlanValues Refit(PlanValues values, PlanContext context)
    {
        (values["from"], values["to"], values["step"]) = Range(SteppedSetting.Of(values.Word("factor")), context);
        return values;
    }

    /// <summary>Range and step that a setting is usually stepped over: around what is in force, within what the machine bears.</summary>
    private static (decimal From, decimal To, decimal Step) Range(SteppedSetting f, PlanContext c)
    {
        var (s, nozzle) = (c.Settings ?? new PrintSettings(), (decimal)(c.Machine?.NozzleDiameterMm ?? 0.4));
        switch (f.Word)
        {
            case "outer-speed" or "inner-speed":
                // From well below what is in force to well above it by whole fives; where little melts, as far as that goes, by less.
                var now = (decimal)(f.Word == "outer-speed" ? s.OuterWallSpeedMmPerS : s.InnerWallSpeedMmPerS);
                var most = Math.Floor(FastestMmPerS(c, LayerOf(c)));
                var step = Math.Max(5, Math.Round(now / 15) * 5);
                if (most < 5 + 4 * step)
                    step = Math.Max(0.5m, Math.Floor(most / 3) / 2);
                var from = Math.Max(Math.Min(5, step), Math.Min(Math.Round(now / 10) * 5, most - 4 * step));
                return (from, from + step * Math.Clamp(Math.Floor((most - from) / step), 2, 4), step);
            case "width":
                return (nozzle, 1.5m * nozzle, Math.Round(0.125m * nozzle, 3));
            case "temperature":
                var (coldest, bears) = c.Machine is { } hot
                    ? (Math.Ceiling((decimal)hot.Limits.MinC / 5) * 5, Math.Floor((decimal)hot.Limits.MaxC / 5) * 5) : (150, 500);
                var middle = Math.Round((decimal)c.NozzleC / 5) * 5;
                return (Math.Clamp(middle - 10, coldest, bears - 10), Math.Clamp(middle + 10, coldest + 10, bears), 5);
            case "fan":
                var windy = (decimal)Math.Clamp(Math.Ceiling((c.Family?.FanPercent.Max ?? 100) / 10) * 10, 20, 100);
                return (0, windy, windy <= 40 ? 10 : 25);
            case "layer-time":
                return (4, 12, 2);
            default:
                var at = Math.Clamp(Math.Round((decimal)s.ExtrusionMultiplier * 50) / 50, 0.6m, 1.4m);
                return (at - 0.08m, at + 0.08m, 0.04m);
        }
    }

    private static decimal LayerOf(PlanContext c) =>
        (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3);

    /// <summary>Fastest that a line is laid at: what the machine moves and what melts through, mm/s.</summary>
    private static decimal FastestMmPerS(PlanContext c, decimal layerMm)
    {
        var s = c.Settings ?? new PrintSettings();
        return (decimal)Math.Min(c.Machine?.MaxSpeedMmPerS ?? 1000, s.MaxFlowMm3PerS / (s.SpacingMm((double)layerMm) * (double)layerMm));
    }

    /// <inheritdoc/>
    protected override SettingRequest Proposal(PlanContext c)
    {
        var (from, to, step) = Range(SteppedSetting.All[0], c);
        var nozzle = Math.Max(1, (c.Machine?.NozzleDiameterMm ?? 0.4) / 0.4);
        return new()
        {
            From = from, To = to, Step = step,
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = LayerOf(c),
            // As long as a slow start needs to get up to the fastest of them.
            LengthMm = Math.Clamp(LengthFor(to, c.Settings ?? new PrintSettings()), (decimal)Math.Round(40 * nozzle), 200),
            SectionHeightMm = (decimal)Math.Round(8 * nozzle, 1),
        };
    }

    /// <inheritdoc/>
    protected override SettingRequest RequestOf(SettingPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<SettingPlan> Plan(SettingRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        var (f, s) = (SteppedSetting.Of(r.Factor), c.Settings ?? new PrintSettings());
        PieceFields.Check(errors, c, f.Word == "temperature" ? null : r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (!f.Shows(r.Mode))
            errors.Add(SettingJudging.NotShown(f, "factor"));
        if (r.To <= r.From)
        {
            errors.Add(new(
                "to", $"The range ends at {Say.N(r.To, 3)} and begins at {Say.N(r.From, 3)}: an end above the beginning would be right.", Usual(f, c)));
        }
        else
        {
            errors.AddRange(OutOfRange(r, f, s, c));
        }

        if (errors.Count > 0)
            return errors;
        var plan = new SettingPlan
        {
            Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, LineWidthMm = s.LineWidthMm, Multiplier = s.ExtrusionMultiplier,
            InForce = c.Settings is { } force ? InForce(f, force, c) : null, Limits = LimitsOf(f, c, r.LayerHeightMm), Estimate = new(0, null, 0),
        };
        var most = r.Mode == Cones ? MostCones : MostSections;
        if (plan.Values.Count < Fewest || plan.Values.Count > most)
        {
            var step = Math.Max(f.Fine, Math.Round((r.To - r.From) / 4 / f.Fine) * f.Fine);
            errors.Add(new(
                "step",
                $"{Say.Plural(plan.Values.Count, "value")} {(plan.Values.Count < Fewest ? "can't show a best one" : "are too many")}: {Fewest} to {most} " +
                    $"would be right.",
                (r.To - r.From) / step >= Fewest - 1 ? [new($"by {Say.N(step, 3)}", new Dictionary<string, decimal> { ["step"] = step })] : []));
        }

        if (r.Mode == Wall && plan.WallSize.Layers.LayersPerSection < PointedWall.GrooveLayers + 5)
            errors.Add(new(
                "sectionHeightMm", $"{Say.Plural(plan.WallSize.Layers.LayersPerSection, "layer")} show no wall above the groove: ten or more would be right."));
        if (r.Mode == Wall && plan.WallSize.DepthMm < 12 * s.LineWidthMm)
        {
            errors.Add(new(
                "lengthMm", $"A wall of {Say.N(r.LengthMm)} mm leaves no room inside: {Say.N(Math.Ceiling(26 * s.LineWidthMm))} mm would be right."));
        }

        if (errors.Count > 0)
            return errors;
        var volume = r.Mode == Cones ? plan.Values.Count * plan.ConeSize.VolumeMm3 : plan.Values.Count * plan.WallSize.SectionVolumeMm3;
        return plan with
        {
            Estimate = new((int)Math.Ceiling(volume / 4 / 60) + 3, Math.Round(volume / 1000 * (c.DensityGPerCm3 ?? 1.2), 1), 0),
            Warnings = [.. PieceFields.Advice(c, f.Word == "temperature" ? r.To : r.NozzleTemperatureC)],
        };
    }

    private static IReadOnlyList<Offer> Usual(SteppedSetting f, PlanContext c)
    {
        var (from, to, step) = Range(f, c);
        return
        [
            new(
                $"{Say.N(from, 3)} to {f.Said((double)to)} by {Say.N(step, 3)}",
                new Dictionary<string, decimal> { ["from"] = from, ["to"] = to, ["step"] = step }),
        ];
    }

    /// <summary>What is in force of a setting.</summary>
    private static double? InForce(SteppedSetting f, PrintSettings s, PlanContext c) => f.Word switch
    {
        "outer-speed" => s.OuterWallSpeedMmPerS,
        "inner-speed" => s.InnerWallSpeedMmPerS,
        "width" => s.LineWidthMm,
        "temperature" => c.NozzleC,
        "fan" => s.FanPercent,
        "layer-time" => s.MinLayerTimeS,
        _ => s.ExtrusionMultiplier,
    };

    /// <summary>What the machine bears of a setting.</summary>
    private static Filaments.Span? LimitsOf(SteppedSetting f, PlanContext c, decimal layerMm) => f.Word switch
    {
        "outer-speed" or "inner-speed" => new(null, (double)Math.Floor(FastestMmPerS(c, layerMm))),
        "width" when c.Machine is { } m => new(Math.Max(0.6 * m.NozzleDiameterMm, (double)layerMm), 2 * m.NozzleDiameterMm),
        "temperature" when c.Machine is { } m => new(m.Limits.MinC, m.Limits.MaxC),
        _ => null,
    };

    private static IEnumerable<FieldError> OutOfRange(SettingRequest r, SteppedSetting f, PrintSettings s, PlanContext c)
    {
        var last = r.Values.Count > 0 ? r.Values[^1] : r.To;
        if (r.From < f.Least || last > f.Most)
        {
            yield return new(
                r.From < f.Least ? "from" : "to",
                $"{f.Said((double)(r.From < f.Least ? r.From : last))} is no {f.Label.InSentence()}: {Say.N(f.Least)} to {f.Said((double)f.Most)} would be " +
                    "right.",
                Usual(f, c));
            yield break;
        }

        if (f.Word == "temperature")
        {
            var errors = new List<FieldError>();
            PieceFields.Temperature(errors, c, r.From, "from");
            PieceFields.Temperature(errors, c, last, "to");
            foreach (var e in errors)
                yield return e;
        }

        if (f.Word == "width" && LimitsOf(f, c, r.LayerHeightMm) is { Min: { } narrow, Max: { } wide }
            && ((double)r.From < narrow - 1e-9 || (double)last > wide + 1e-9))
        {
            yield return new(
                (double)r.From < narrow - 1e-9 ? "from" : "to",
                $"A {Say.N(c.Machine!.NozzleDiameterMm)} mm nozzle lays lines of {Say.N(narrow, 3)} to {Say.N(wide, 3)} mm at this layer height.", Usual(f, c));
        }

        if (f.Unit != "mm/s")
            yield break;
        if (f.Word == "inner-speed" && s.Walls < 2)
            yield return new("factor", "With one wall there is none behind the one that is seen: two walls, or the outer wall's speed, would be right.");
        if (FastestMmPerS(c, r.LayerHeightMm) is var fastest && last > fastest)
        {
            var most = Math.Floor(fastest);
            yield return new(
                "to",
                c.Machine is { } m && (double)fastest >= m.MaxSpeedMmPerS - 1e-9 ? $"{m.Name} moves at most at {Say.N(m.MaxSpeedMmPerS)} mm/s."
                    : $"Lines of {Say.N(s.LineWidthMm)} × {Say.N(r.LayerHeightMm, 3)} mm at {Say.N(last)} mm/s want more than the flow limit of " +
                        $"{Say.N(s.MaxFlowMm3PerS)} mm³/s: {Say.N(most)} mm/s is what it gives.",
                most > r.From ? [new($"to {Say.N(most)} mm/s", new Dictionary<string, decimal> { ["to"] = most })] : Usual(f, c));
        }
        else if (StraightFor(last, s) is var needed
            && needed > (decimal)new PointedWallSize((double)r.LengthMm, s.LineWidthMm, new(1, 1, 1, 0.2, 0.2)).StraightMm)
        {
            var length = LengthFor(last, s);
            yield return new(
                "lengthMm",
                $"A wall of {Say.N(r.LengthMm)} mm ends before {Say.N(last)} mm/s is reached at {Say.N(s.AccelerationMmPerS2)} mm/s²: {Say.N(length)} mm " +
                    "would be right.",
                length <= 200 ? [new($"{Say.N(length)} mm", new Dictionary<string, decimal> { ["lengthMm"] = length })] : []);
        }
    }

    /// <summary>Length of a wall whose longest straight side a speed is seen on, mm.</summary>
    private static decimal LengthFor(decimal mmPerS, PrintSettings s) => Math.Ceiling(StraightFor(mmPerS, s) / 0.75m);

    /// <summary>
    /// Straight line that a speed wants to be seen on, mm: speeding up and slowing down take v²/a together, half as much again is laid at the speed itself.
    /// </summary>
    private static decimal StraightFor(decimal mmPerS, PrintSettings s) => 1.5m * mmPerS * mmPerS / (decimal)Math.Max(1, s.AccelerationMmPerS2);

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(SettingPlan plan, PieceMemory memory) => plan.Pieces(memory);

    /// <inheritdoc/>
    protected override Made<SettingPlan> Make(SettingPlan plan, PlanContext c)
    {
        var stepsTemperature = plan.Request.Factor == "temperature";
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(plan, c.Memory), Temperatures = plan.Temperatures, WaitAtChanges = stepsTemperature, Fewer = "Fewer cones, or a wall",
                PlanLines =
                [
                    $"{plan.Factor.Label.InSentence()} in steps, {c.Subject}",
                    $"{string.Join(", ", plan.Values.Select(plan.Factor.Said))} " +
                        (plan.IsCones ? "from cone 1 on; teeth in the front edge count them" : "from the bottom up; a groove between them"),
                ],
            },
            c.Machine!, c.Settings!, c.Memory);
        if (job is null)
        {
            return new(plan, null, [.. errors.Select(e => e.Field switch
            {
                "pieceDepthMm" => e with { Field = plan.IsCones ? "coneHeightMm" : "lengthMm", Offers = [] },
                "coolestC" => e with { Field = "step", Offers = [] },
                "sectionHeightMm" when plan.IsCones => e with { Field = "coneHeightMm", Offers = [] },
                "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
                "nozzleTemperatureC" when stepsTemperature => e with { Field = "to", Offers = [] },
                _ => e with { Offers = [] },
            })]);
        }

        // A cone's layers are meant to be short; a wall that is looked at keeps its speed, whatever else in its layers is slowed.
        var told = job.Warnings.Where(w => w.Kind switch
        {
            PlanWarningKind.Slowed => !plan.IsCones && plan.Request.Factor != "outer-speed",
            PlanWarningKind.TooShort => !plan.IsCones,
            _ => true,
        }).ToList();
        if (plan is { IsCones: true, Request.Factor: "layer-time" }
            && job.Layers.Where(l => l.Piece == plan.Values.Count - 1).TakeLast(3).Min(l => l.Seconds) is var tip && tip < 0.95 * plan.Values[^1])
            told.Add(new(PlanWarningKind.ShortTip, tip, c.Settings!.MinPrintSpeedMmPerS, plan.Values[^1]));
        return new(
            plan with
            {
                Estimate = PieceFields.EstimateOf(job),
                Warnings = [.. plan.Warnings, .. told],
                Offers =
                [
                    .. plan.Offers,
                    .. told.Exists(w => w.Kind is PlanWarningKind.Slowed)
                        ? PieceFields.Roomier(job, "lengthMm", "a wall", plan.Request.LengthMm, 200) : [],
                ],
            }, job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(SettingPlan plan) => plan.IsCones ? plan.ConeSize.PadLayers + 2 : plan.WallSize.Layers.BaseLayers + 3;

    /// <inheritdoc/>
    protected override string FileWords(SettingPlan plan) => $"{plan.Factor.Label.InSentence()} {Say.N(plan.Values[0], 3)} to {Say.N(plan.Values[^1], 3)}";

    /// <inheritdoc/>
    protected override string Basis(SettingPlan plan) => $"{(plan.IsCones ? Say.Plural(plan.Values.Count, "cone") : "one pointed wall")}" +
        (plan.Request.Factor == "temperature" ? "" : $" at {Say.N(plan.Request.NozzleTemperatureC)} °C");

    /// <inheritdoc/>
    protected override string Extent(SettingPlan plan) => Say.Plural(plan.Values.Count, plan.IsCones ? "cone" : "section");

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (SettingPlan)plan;
        var r = p.Request;
        return r.LayerHeightMm <= 0 || r.SectionHeightMm <= 0 || r.ConeHeightMm <= 0 ? "plan has no layer height"
            : r.Mode is not (Wall or Cones) || SteppedSetting.All.All(f => f.Word != r.Factor) ? "plan says no piece or no setting"
            : p.Values.Count is < 1 or > 60 || !(p.Multiplier > 0) || !(p.LineWidthMm > 0) || !(p.NozzleMm > 0) ? "plan has no values"
            : (p.IsCones ? r.ConeHeightMm : r.SectionHeightMm) / r.LayerHeightMm * 61 > PlanBounds.MostLayers ? "plan has too many layers"
            : base.Faults(plan);
    }
}
