using Glenfrost.Core.Equipment;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <summary>Foaming filament: temperature and multiplier from single walls at a fixed speed.</summary>
public sealed partial class FoamingFlowTrial : Trial<FoamingRequest, FoamingPlan, FoamVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "foaming-flow";

    /// <summary>Its modes.</summary>
    public const string TemperatureMode = "temperatures", MultiplierMode = "multipliers";

    /// <summary>Begins the aspect of a wall's thickness: wallMm.1 on the front.</summary>
    public const string Wall = "wallMm.";

    /// <summary>Volume of a piece cut from a step, cm³.</summary>
    public const string Volume = "volumeCm3";

    /// <summary>How it ran: steady, or blobs.</summary>
    public const string Ran = "ran";

    private static readonly string[] TemperatureOnly = ["hottestC", "coolestC", "stepC"];
    private static readonly string[] MultiplierOnly = ["nozzleTemperatureC", "mostMultiplier", "leastMultiplier", "multiplierStep"];

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Foaming filament";

    /// <inheritdoc/>
    public override string Noun => "walls";

    /// <inheritdoc/>
    public override string PageFolder => "FoamingFlow";

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override bool Suits(string family) => Foams(family);

    /// <summary>True for a family whose filaments foam in the nozzle.</summary>
    public static bool Foams(string family) => family.StartsWith("foaming", StringComparison.Ordinal);

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["extrusionMultiplier", "nozzleTemperatureC", "firstLayerNozzleTemperatureC"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["flow", "temperature"];

    // Curve, multipliers and check piece are one inquiry: the wall is the same, what it is swept over is not.
    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(FoamingPlan plan) =>
        [
            "mode", FactorRegistry.PieceKind, "hottestC", "coolestC", "stepC", "nozzleTemperatureC", "mostMultiplier", "leastMultiplier", "multiplierStep",
            "extrusionMultiplier", "referenceWidthMm", "targetDensityGPerCm3",
        ];

    /// <inheritdoc/>
    protected override string? FoundWith(FoamingPlan plan, string key) => $"{Say.N(plan.Request.SpeedMmPerS)} mm/s";

    /// <inheritdoc/>
    public override string Purpose => "Temperature and multiplier of filament that foams, from single walls at a fixed speed.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [TemperatureMode, MultiplierMode];

    private const string Temperatures = "Temperatures", OneTemperature = "Multipliers at one temperature", TheWall = "The wall";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.HottestC, "Hottest, at the bottom", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "", Temperatures),
        Number(
            r => r.CoolestC, "Coolest, at the top", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "Where it hardly foams.",
            Temperatures),
        Number(r => r.StepC, "Step", "°C", 1, 30, "finer than a heater holds, or coarser than the foam's peak", "", Temperatures),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "The one that the temperatures chose.",
            OneTemperature),
        Number(r => r.MostMultiplier, "Most, at the bottom", "", 0.1m, 1.5m, "below a tenth nothing sticks together", "", OneTemperature),
        Number(
            r => r.LeastMultiplier, "Least, at the top", "", 0.1m, 1.5m, "below a tenth nothing sticks together",
            "Equal to the most: one check piece. Below some flow the strand tears into blobs: stop there, and read it so.", OneTemperature),
        Number(r => r.MultiplierStep, "Step", "", 0.01m, 0.5m, "finer can't be measured on foam", "", OneTemperature),
        Number(
            r => r.ExtrusionMultiplier, "Full multiplier", "", 0.3m, 1.5m, "right where it does not foam", "Right where it does not foam.", TheWall),
        Number(r => r.TargetWidthMm, "Line width", "mm", 0.1m, 3m, "no nozzle lays such a line", "The wall that is wanted: the line as it is sliced.", TheWall),
        Number(
            r => r.ReferenceWidthMm, "Wall without foam", "mm", 0.1m, 3m, "measured where it does not foam",
            "Measured, at the full multiplier, printed cool. Empty: the sliced line.", TheWall, false),
        Number(
            r => r.TargetDensityGPerCm3, "Wanted density", "g/cm³", 0.2m, 3m, "between light foam and the solid", "Empty: as light as it gets.", TheWall, false),
        Number(
            r => r.SpeedMmPerS, "Speed", "mm/s", 5, 300, "fixed: it is a factor, and belongs to the result",
            "Fixed for all, and kept with the result: slower foams more.", TheWall),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheWall),
        Number(r => r.SideMm, "Side", "mm", 20, 150, "shorter gives the calliper no straight, longer wastes filament", "", TheWall),
        Number(r => r.SectionHeightMm, "Section height", "mm", 4, 40, "lower than a jaw is wide, or taller than a wall stands", "Whole layers.", TheWall),
        Tick(r => r.Brim, "With a brim", "", TheWall),
        Number(r => r.ResidualFlowPercent, "Flow override in the start code", "%", 10, 300, "what an override leaves, 100 for none", "", TheWall, false),
        OneOf(r => r.Override, "In real prints it", "Correcting in both places would correct twice.", TheWall, FlowOverride.Answers),
    ];

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => !(mode == MultiplierMode ? TemperatureOnly : MultiplierOnly).Contains(f));

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => FlowOverride.IsShown(field, context);

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => FlowOverride.HelpOf(field, context) ?? (field switch
    {
        "hottestC" when context.Machine?.Limits is { } l => $"At most {Say.N(l.MaxC)} °C here ({l.MaxBecause}).",
        "targetDensityGPerCm3" when context.DensityGPerCm3 is { } solid => $"Solid: {Say.N(solid)}. Empty: as light as it gets.",
        _ => base.HelpOf(field, context),
    });

    /// <inheritdoc/>
    protected override FoamingRequest Proposal(PlanContext c)
    {
        var limits = c.Machine?.Limits;
        var hot = Math.Floor(Math.Min(c.AdvisedC?.Max ?? 250, limits?.ProposedMaxC ?? 260) / 5) * 5;
        var cool = Math.Ceiling(Math.Max(c.AdvisedC?.Min ?? 200, limits?.MinC ?? 170) / 5) * 5;
        var step = hot - cool > 40 ? 10 : 5;
        cool = hot - Math.Floor((hot - cool) / step) * step;
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var layer = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3);
        return new()
        {
            HottestC = (decimal)hot,
            CoolestC = (decimal)Math.Min(cool, hot - step),
            StepC = step,
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            TargetWidthMm = (decimal)Math.Round(c.Settings?.LineWidthMm ?? nozzle * 1.1, 3),
            LayerHeightMm = layer,
            SectionHeightMm = layer * Math.Ceiling(8 / layer),
            SpeedMmPerS = (decimal)Math.Max(5, Math.Floor(new[]
            {
                25, c.Settings?.OuterWallSpeedMmPerS ?? 25, c.Machine?.MaxSpeedMmPerS ?? 25,
                c.Settings is { } set ? set.MaxFlowMm3PerS / (set.LineWidthMm * (c.Kept.TryGetValue("layerHeightMm", out var high) ? high : nozzle / 2)) : 25,
            }.Min())),
        };
    }

    /// <inheritdoc/>
    protected override FoamingRequest RequestOf(FoamingPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<FoamingPlan> Plan(FoamingRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        var byTemperature = r.Mode != MultiplierMode;
        PieceFields.Check(errors, c, byTemperature ? null : r.NozzleTemperatureC, r.LayerHeightMm, r.TargetWidthMm);
        if (byTemperature)
        {
            PieceFields.Temperature(errors, c, r.HottestC, "hottestC");
            PieceFields.Temperature(errors, c, r.CoolestC, "coolestC");
            if (r.HottestC <= r.CoolestC)
                errors.Add(new("coolestC", $"{Say.N(r.CoolestC)} °C is not below {Say.N(r.HottestC)} °C: the hottest stands at the bottom."));
            else if ((r.HottestC - r.CoolestC) % r.StepC != 0)
            {
                var fit = r.HottestC - Math.Floor((r.HottestC - r.CoolestC) / r.StepC) * r.StepC;
                errors.Add(
                    new(
                        "stepC", $"Steps of {Say.N(r.StepC)} °C do not end at {Say.N(r.CoolestC)}.",
                        fit < r.HottestC ? [new($"{Say.N(fit)} °C at the top", new Dictionary<string, decimal> { ["coolestC"] = fit })] : []));
            }
        }
        else if (r.LeastMultiplier > r.MostMultiplier)
        {
            errors.Add(new("leastMultiplier", $"{Say.N(r.LeastMultiplier, 3)} is above {Say.N(r.MostMultiplier, 3)}: the most stands at the bottom."));
        }
        else if ((r.MostMultiplier - r.LeastMultiplier) % r.MultiplierStep != 0)
        {
            var fit = r.MostMultiplier - Math.Floor((r.MostMultiplier - r.LeastMultiplier) / r.MultiplierStep) * r.MultiplierStep;
            errors.Add(
                new(
                    "multiplierStep", $"Steps of {Say.N(r.MultiplierStep, 3)} do not end at {Say.N(r.LeastMultiplier, 3)}.",
                    [
                        new($"{Say.N(fit, 3)} at the top", new Dictionary<string, decimal> { ["leastMultiplier"] = fit }),
                        new(
                            $"step {Say.N(r.MostMultiplier - r.LeastMultiplier, 3)}",
                            new Dictionary<string, decimal> { ["multiplierStep"] = r.MostMultiplier - r.LeastMultiplier }),
                    ]));
        }

        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        Fast(errors, c, r);
        if (r.SectionHeightMm % r.LayerHeightMm != 0)
        {
            var whole = Math.Max(1, Math.Round(r.SectionHeightMm / r.LayerHeightMm)) * r.LayerHeightMm;
            if (Fields["sectionHeightMm"].Quantity is { } q)
                whole += whole < q.Min ? r.LayerHeightMm : whole > q.Max ? -r.LayerHeightMm : 0;
            errors.Add(
                new(
                    "sectionHeightMm",
                    $"{Say.N(r.SectionHeightMm)} mm is no whole number of layers of {Say.N(r.LayerHeightMm, 3)} mm. {Say.N(whole, 3)} mm would be right.",
                    [new($"{Say.N(whole, 3)} mm", new Dictionary<string, decimal> { ["sectionHeightMm"] = whole })]));
        }

        if (errors.Count > 0)
            return errors;
        List<PlannedFoam> steps = byTemperature
            ?
            [
                .. Enumerable.Range(0, (int)((r.HottestC - r.CoolestC) / r.StepC) + 1)
                    .Select(i => new PlannedFoam(r.HottestC - i * r.StepC, r.ExtrusionMultiplier)),
            ]
            :
            [
                .. Enumerable.Range(0, (int)((r.MostMultiplier - r.LeastMultiplier) / r.MultiplierStep) + 1)
                    .Select(i => new PlannedFoam(r.NozzleTemperatureC, r.MostMultiplier - i * r.MultiplierStep)),
            ];
        if (steps.Count > 15)
            return new List<FieldError>
            {
                new(
                    byTemperature ? "stepC" : "multiplierStep",
                    $"{steps.Count} sections of foam make a wall that wobbles: at most 15. A coarser step, then a finer one around the best, tells more."),
            };
        // One or two multipliers are to be proved: foam is rough, so each stands as often as its mean needs.
        if (!byTemperature && steps.Count <= 2)
            steps = [.. steps.SelectMany(s => Enumerable.Repeat(s, steps.Count == 1 ? 3 : 2))];
        var layers = (int)(r.SectionHeightMm / r.LayerHeightMm);
        var path = (double)(4 * r.SideMm * layers * steps.Count);
        var warnings = new List<PlanWarning>();
        if (byTemperature)
            warnings.AddRange(steps.SelectMany(s => PieceFields.Advice(c, s.TemperatureC)).Distinct());
        else
            warnings.AddRange(PieceFields.Advice(c, r.NozzleTemperatureC));
        warnings.AddRange(PieceFields.DiameterAdvice(c));
        if (r.ReferenceWidthMm is null)
            warnings.Add(new(PlanWarningKind.NoReferenceWall));
        return new FoamingPlan
        {
            Request = r, Steps = steps, SectionLayers = layers,
            Estimate = new(
                (int)Math.Ceiling(path / (double)r.SpeedMmPerS / 60),
                Math.Round(path * (double)(r.TargetWidthMm * r.LayerHeightMm * steps.Average(s => s.Multiplier)) * 1.24 / 1000, 1), 0),
            MeasuredDiameterMm = c.Diameter?.MeanMm, Warnings = warnings,
        };
    }

    /// <summary>A speed that the machine or the flow limit would quietly lower: the result would be kept with a speed that it never had.</summary>
    private static void Fast(List<FieldError> errors, PlanContext c, FoamingRequest r)
    {
        static FieldError Refused(string text, decimal most) =>
            new("speedMmPerS", text, [new($"{Say.N(most)} mm/s", new Dictionary<string, decimal> { ["speedMmPerS"] = most })]);

        if (c.Machine is { } m && (double)r.SpeedMmPerS > m.MaxSpeedMmPerS)
        {
            errors.Add(
                Refused(
                    $"{Say.N(r.SpeedMmPerS)} mm/s is above this machine's limit of {Say.N(m.MaxSpeedMmPerS)} mm/s.", (decimal)Math.Floor(m.MaxSpeedMmPerS)));
            return;
        }

        var most = (double)(r.Mode == MultiplierMode ? r.MostMultiplier : r.ExtrusionMultiplier);
        var area = (double)(r.TargetWidthMm * r.LayerHeightMm) * most;
        if (c.Settings is { } s && area > 0 && (double)r.SpeedMmPerS * area > s.MaxFlowMm3PerS + 1e-9)
        {
            var reach = (decimal)Math.Max(1, Math.Floor(s.MaxFlowMm3PerS / area));
            errors.Add(
                Refused(
                    $"{Say.N(r.SpeedMmPerS)} mm/s lay {Say.N((double)r.SpeedMmPerS * area, 1)} mm³/s, and the limit in force is " +
                        $"{Say.N(s.MaxFlowMm3PerS, 1)}: it would be slowed, and speed belongs to the result. At most {Say.N(reach)} mm/s.", reach));
        }
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(FoamingPlan p, PieceMemory memory)
    {
        var r = p.Request;
        // Marks at the foot of each section tell side and section alike: where the bumps stand, the next one begins.
        var marks = Enumerable.Range(0, p.Steps.Count).Select(i => i * p.SectionLayers + 2).ToList();
        var flows = p.ByTemperature ? [] : p.Steps.Select((s, i) => new FlowZone((double)(s.Multiplier / r.ExtrusionMultiplier), i)).ToList();
        return
        [
            MarkedWall.Build(
                new((double)r.SideMm, (double)r.LayerHeightMm, [.. p.Steps.Select(_ => p.SectionLayers)], (double)r.TargetWidthMm, p.NozzleMm, marks),
                "Foaming walls", flows, memory),
        ];
    }

    /// <inheritdoc/>
    protected override Made<FoamingPlan> Make(FoamingPlan plan, PlanContext c)
    {
        var p = plan with { NozzleMm = c.Machine!.NozzleDiameterMm };
        var r = p.Request;
        var s = c.Settings! with
        {
            LineWidthMm = (double)r.TargetWidthMm,
            ExtrusionMultiplier = (double)r.ExtrusionMultiplier,
            Walls = 1,
            OuterWallSpeedMmPerS = (double)r.SpeedMmPerS,
            // The speed is a factor: nothing may slow it.
            MinLayerTimeS = 0,
            BrimWidthMm = r.Brim ? Math.Max(4, c.Settings!.BrimWidthMm) : 0,
        };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures =
                [
                    .. p.Steps.Select((x, i) => new TemperatureFrom(0, i * p.SectionLayers + 1, (double)x.TemperatureC, $"section {i + 1}"))
                        .Where((t, i) => i == 0 || p.ByTemperature),
                ],
                PlanLines =
                [
                    $"foaming filament, {c.Subject}",
                    $"single walls, sections from the bed up: {string.Join(", ", p.Steps.Select(x => $"{Say.N(x.TemperatureC)} C x {Say.N(x.Multiplier, 3)}"))}, all at {Say.N(r.SpeedMmPerS)} mm/s",
                    "stop rule: when extrusion turns to blobs, stop; the section is a reading",
                ],
            },
            c.Machine!, s, c.Memory);
        if (job is null)
            return new(
                plan, null,
                [
                    .. errors.Select(PieceFields.At)
                        .Select(e =>
                            e.Field == "nozzleTemperatureC" && p.ByTemperature ? e with { Field = "hottestC" }
                            : e.Field == "heightMm" ? e with { Field = "sectionHeightMm" }
                            : e),
                ]);
        return new(
            p with
            {
                FileDiameterMm = s.FilamentDiameterMm,
                StartSeconds = [.. p.Steps.Select((_, i) => Math.Round(job.SecondsAt(0, i * p.SectionLayers + 1)))],
                Estimate = PieceFields.EstimateOf(job),
                Warnings = [.. plan.Warnings, .. job.Warnings],
            },
            job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(FoamingPlan plan) => Math.Max(2, plan.SectionLayers / 2);

    /// <inheritdoc/>
    protected override string Basis(FoamingPlan plan) => plan.ByTemperature ? "one set of walls, no check piece yet" : "one set of walls";

    /// <inheritdoc/>
    protected override string FileWords(FoamingPlan plan) =>
        $"{Say.N(plan.Steps.Max(s => s.TemperatureC), 0)} {Say.N(plan.Steps.Min(s => s.TemperatureC), 0)}";
}
