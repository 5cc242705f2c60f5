using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>Layer bond: which temperature and fan hold best between layers, from pegs that are broken blind.</summary>
public sealed partial class LayerBondTrial : Trial<BondRequest, BondPlan, BondVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "layer-bond";

    /// <summary>Its area of evidence.</summary>
    public const string Bond = "bond";

    /// <summary>Groups of several temperatures.</summary>
    public const string Temperature = "temperature";

    /// <summary>Groups of several fans.</summary>
    public const string Fan = "fan";

    /// <summary>Two temperatures by two fans.</summary>
    public const string Crossed = "crossed";

    /// <summary>Equal pegs that show what the rig scatters.</summary>
    public const string RigCheck = "rig-check";

    /// <summary>True for a stored plan that asks about the rig and not about the layers.</summary>
    public static bool AsksTheRig(string planJson) => planJson.Contains($"\"mode\":\"{RigCheck}\"", StringComparison.Ordinal);

    /// <summary>Aspect of the force.</summary>
    public const string Force = "force";

    /// <summary>Aspect of where it broke.</summary>
    public const string Broke = "broke";

    /// <summary>Aspect of the rank in a break by hand.</summary>
    public const string Rank = "rank";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Layer bond";

    /// <inheritdoc/>
    public override string Noun => "plate of pegs";

    /// <inheritdoc/>
    public override string PageFolder => "LayerBond";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [Bond];

    /// <inheritdoc/>
    public override bool IsOnRoute => true;

    /// <inheritdoc/>
    public override bool LooksBack => true;

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override int MostTogether => 11;

    /// <inheritdoc/>
    public override int LongestApartDays => 60;

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override string Purpose => "Strength between layers over temperature and fan: pegs with a waist, numbered, broken blind, by rig or by hand.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
    [
        "A peg that lets go throws fragments: glasses on, a shield or cloth around it, nobody in the line of the pull.",
        "Fingers out of clamps and levers; weights hang low over something soft, feet away.",
    ];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Temperature, Fan, Crossed, RigCheck];

    private const int MostTogetherOnPlate = 4;

    private const string Differs = "What differs", ThePegs = "The pegs", TheRig = "The rig";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.CoolestC, "Coolest", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "", Differs),
        Number(r => r.HottestC, "Hottest", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "", Differs),
        Number(r => r.StepC, "Step", "°C", 2, 50, "pegs scatter more than 2 °C change them", "", Differs),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "The profile's: it is held.", Differs),
        Number(r => r.FanFromPercent, "Least fan", "%", 0, 100, "0 is off, 100 all of it", "", Differs),
        Number(r => r.FanToPercent, "Most fan", "%", 0, 100, "0 is off, 100 all of it", "", Differs),
        Number(r => r.FanStepPercent, "Fan step", "%", 5, 100, "less changes nothing that a rig sees", "", Differs),
        Number(r => r.FanPercent, "Fan", "%", 0, 100, "0 is off, 100 all of it", "The profile's: it is held.", Differs),
        Number(
            r => r.Block, "Plate", "", 1, 20, "two or more plates of the same",
                "Pegs off one plate are one print: print two plates or more. Each has its own order.",
            ThePegs, whole: true),
        Number(
            r => r.Together, "Pegs of each", "", 1, MostTogetherOnPlate, "more need more than one plate",
                "Of a group, on this plate; printed together layer by layer.", ThePegs,
            whole: true),
        Number(r => r.WaistMm, "Waist", "mm", 2.5m, 12, "thinner breaks at a touch, thicker breaks the clamps",
            "Thin enough that a layer parts before the clamp slips.", ThePegs),
        Number(r => r.HeightMm, "Height", "mm", 15, 120, "lower leaves the clamps nothing to hold",
            "Rows are printed one after another, so they stay below the toolhead's carrier.", ThePegs),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePegs),
        OneOf(r => r.ReadBy, "Broken", "", TheRig, ("rig", "on a rig"), ("hand", "by hand, ranked")),
        OneOf(r => r.Unit, "Force in", "", TheRig, ("N", "N"), ("kgf", "kgf")),
        Number(
            r => r.RigRevision, "Rig, revision", "", 1, 999, "raised whenever the rig is rebuilt",
            "Raise it when clamps, lever or gauge change: old forces are not set beside new ones.", TheRig, whole: true),
        Number(
            r => r.RigScatterPercent, "Its scatter", "%", 1, 80, "10 to 15 is usual",
            "From a rig check of this revision. Empty: nobody checked it, and the pegs themselves must show it.", TheRig, false),
        Number(
            r => r.SmallestUsefulPercent, "Smallest difference that matters", "%", 1, 500, "15 is usual", "Says how many pegs it takes.", TheRig),
    ];

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => f switch
    {
        "coolestC" or "hottestC" => mode is Temperature or Crossed,
        "stepC" => mode == Temperature,
        "nozzleTemperatureC" => mode is Fan or RigCheck,
        "fanFromPercent" or "fanToPercent" => mode is Fan or Crossed,
        "fanStepPercent" => mode == Fan,
        "fanPercent" => mode is Temperature or RigCheck,
        "readBy" or "rigScatterPercent" => mode != RigCheck,
        _ => true,
    });

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        if (mode != values.Word("mode"))
            copy["block"] = 1m;
        if (mode == RigCheck)
        {
            copy["readBy"] = "rig";
            copy.Remove("rigScatterPercent");
        }

        return copy;
    }

    /// <summary>Which plate it is, how it is read and what the rig is known for say nothing of how pegs were made; another revision of the rig does.</summary>
    public override string? FactorOf(string field) =>
        field is "block" or "unit" or "smallestUsefulPercent" or "rigScatterPercent" ? null : base.FactorOf(field);

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(BondPlan plan) =>
    [
        "hottestC", "coolestC", "stepC", "fanFromPercent", "fanToPercent", "fanStepPercent", "together",
        .. plan.Request.Mode is Temperature or Crossed ? ["nozzleTemperatureC", "firstLayerNozzleTemperatureC"] : (string[])[],
        .. plan.Request.Mode is Fan or Crossed ? ["fanPercent"] : (string[])[],
    ];

    /// <inheritdoc/>
    protected override BondRequest Proposal(PlanContext c)
    {
        var last = c.Earlier.Select(e => e.Plan).OfType<BondPlan>().LastOrDefault();
        var r = Usual(c);
        // The scatter of a rig that was checked, on whatever pairing, as long as nobody rebuilt it.
        var rig = c.Earlier.Concat(c.RigChecks).Select(e => e.Plan).OfType<BondPlan>().OrderBy(p => p.Request.RigRevision).LastOrDefault();
        if (rig is not null)
            r = r with { RigRevision = rig.Request.RigRevision, Unit = rig.Request.Unit, RigScatterPercent = Checked(c, (int)rig.Request.RigRevision) };
        // The second plate of what was begun is the most likely wish.
        return last is { RigCheck: false } && last.Request.Block == 1 ? last.Request with { Block = 2, RigScatterPercent = r.RigScatterPercent } : r;
    }

    private static decimal? Checked(PlanContext c, int revision) =>
        c.Earlier.Concat(c.RigChecks).Where(e => e.Plan is BondPlan { RigCheck: true } p && p.Request.RigRevision == revision)
            .Select(e => BondJudging.Judge(ReadingsOf((BondPlan)e.Plan, e.Readings, [])).ScatterPercent).OfType<double>()
            .Select(s => (decimal?)Math.Round((decimal)s, 1)).LastOrDefault();

    private static BondRequest Usual(PlanContext c)
    {
        var own = Math.Round((decimal)c.NozzleC / 5) * 5;
        var (least, most) = ((decimal)(c.Machine?.Limits.MinC ?? 170), (decimal)(c.Machine?.Limits.ProposedMaxC ?? 300));
        if (c.Kept.TryGetValue("nozzleTemperatureC", out var kept))
            own = Math.Round((decimal)kept);
        var hottest = Math.Min(most, own + 10);
        var steps = Math.Floor((hottest - own) / 10);
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var layer = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3);
        var size = new PegSize(Math.Round(Math.Max(4, 6 * nozzle), 1), 24, (double)layer, nozzle, 2);
        var room = Math.Max(Math.Ceiling(size.LeastHeightMm), Math.Min(34, (c.Machine?.GantryHeightMm ?? 25) - 1));
        var fan = (decimal)Math.Round(c.Settings?.FanPercent ?? 50);
        return new()
        {
            // The profile's own temperature is one of them: what it is worth is the question.
            HottestC = Math.Max(own, own + 10 * steps), CoolestC = Math.Max(Math.Ceiling(least), own - 20), StepC = 10,
            NozzleTemperatureC = Math.Round((decimal)c.NozzleC),
            FanPercent = fan, FanFromPercent = 0, FanToPercent = fan >= 20 ? fan : 100, FanStepPercent = Math.Max(5, Math.Round((fan >= 20 ? fan : 100) / 2)),
            WaistMm = (decimal)Math.Round(size.WaistMm, 1), HeightMm = (decimal)Math.Floor(room), LayerHeightMm = layer,
        };
    }

    /// <inheritdoc/>
    public override PlanValues ValuesAfter(ITrialPlan plan) =>
        ValuesOf(plan).With(new Dictionary<string, decimal> { ["block"] = ((BondPlan)plan).Request.Block + 1 });

    /// <inheritdoc/>
    protected override BondRequest RequestOf(BondPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<BondPlan> Plan(BondRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        var (warm, windy) = (r.Mode is Temperature or Crossed, r.Mode is Fan or Crossed);
        PieceFields.Check(errors, c, warm ? null : r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (warm)
        {
            PieceFields.Temperature(errors, c, r.HottestC, "hottestC");
            PieceFields.Temperature(errors, c, r.CoolestC, "coolestC");
            if (r.HottestC <= r.CoolestC)
                errors.Add(new("hottestC", $"{Say.N(r.HottestC)} °C is not above the coolest, {Say.N(r.CoolestC)} °C."));
        }

        if (windy && r.FanToPercent <= r.FanFromPercent)
            errors.Add(new("fanToPercent", $"{Say.N(r.FanToPercent)} % is not above the least fan, {Say.N(r.FanFromPercent)} %."));
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var plan = new BondPlan
        {
            Request = r, NozzleMm = nozzle, Estimate = new(0, null, 0),
            ProfileC = c.Kept.TryGetValue("nozzleTemperatureC", out var own) ? own : null,
            ProfileFanPercent = c.Kept.TryGetValue("fanPercent", out var fan) ? fan : null,
        };
        if (r.HeightMm < (decimal)plan.Size.LeastHeightMm)
        {
            var least = Math.Ceiling((decimal)plan.Size.LeastHeightMm);
            errors.Add(
                new(
                    "heightMm", $"{Say.N(r.HeightMm)} mm leave the clamps nothing to hold: at least {Say.N(least)} mm with a waist of {Say.N(r.WaistMm)} mm.",
                    [new($"{Say.N(least)} mm", new Dictionary<string, decimal> { ["heightMm"] = least })]));
        }

        if (r.WaistMm < 6 * (decimal)nozzle)
        {
            errors.Add(
                new(
                    "waistMm", $"A waist of {Say.N(r.WaistMm)} mm is too few lines of a {Say.N(nozzle)} mm nozzle: at least {Say.N(6 * nozzle, 1)} mm.",
                    [new($"{Say.N(6 * nozzle, 1)} mm", new Dictionary<string, decimal> { ["waistMm"] = Math.Round(6 * (decimal)nozzle, 1) })]));
        }

        if (errors.Count == 0 && plan.Values.Count > 8)
        {
            var (from, to, field) = r.Mode == Fan ? (r.FanFromPercent, r.FanToPercent, "fanStepPercent") : (r.CoolestC, r.HottestC, "stepC");
            var step = Math.Ceiling((to - from) / 7);
            errors.Add(
                new(
                    field, $"{plan.Values.Count} groups are more than a plate holds and a rig tells apart: at most 8.",
                    [new($"by {Say.N(step)}", new Dictionary<string, decimal> { [field] = step })]));
        }

        if (errors.Count > 0)
            return errors;
        var volume = plan.Pegs * (2 * plan.Size.BlockMm * plan.Size.WidthMm * plan.Size.DepthMm * 0.6
            + plan.Size.TaperMm * plan.Size.WidthMm * plan.Size.DepthMm * 0.6);
        return plan with
        {
            Estimate = new((int)Math.Ceiling(volume / 4 / 60) + 5, Math.Round(volume / 1000 * 1.2, 1), 0),
            Warnings = [.. new[] { (decimal)plan.Values.Max(v => v.TemperatureC), (decimal)plan.Values.Min(v => v.TemperatureC) }.Distinct()
                .SelectMany(t => PieceFields.Advice(c, t))],
        };
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(BondPlan plan, PieceMemory memory)
    {
        var numbers = plan.Numbers.Chunk((int)plan.Request.Together).ToList();
        return [.. plan.Rows.Select((g, i) => Peg.Row(plan.Size, numbers[i], plan.Values[g].FanPercent, memory))];
    }

    /// <inheritdoc/>
    protected override Made<BondPlan> Make(BondPlan plan, PlanContext c)
    {
        var p = plan with { NozzleMm = c.Machine!.NozzleDiameterMm };
        var r = p.Request;
        var temperatures = p.Rows.Select((g, i) => new TemperatureFrom(i, 1, p.Values[g].TemperatureC, $"row {i + 1}"))
            .Where((t, i) => i == 0 || p.Values[p.Rows[i - 1]].TemperatureC != t.TemperatureC).ToList();
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = temperatures, WaitAtChanges = temperatures.Count > 1,
                Fewer = "Fewer groups, or fewer pegs of each",
                PlanLines =
                [
                    $"layer bond, {c.Subject}",
                        $"pegs with a waist of {Say.N(r.WaistMm)} mm, {Say.N(r.Together)} of each, plate {Say.N(r.Block)}; order by lot",
                ],
            },
            c.Machine, c.Settings!, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(e => At(e, p))])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <summary>Refusals of the plate at this trial's fields.</summary>
    private static FieldError At(FieldError e, BondPlan p) => e.Field switch
    {
        "sectionHeightMm" => e with { Field = "heightMm", Offers = [] },
        "pieceDepthMm" => e with { Field = "together", Offers = [] },
        "coolestC" => e with
        {
            Field = p.Request.Mode switch { Fan => "fanStepPercent", Temperature => "stepC", _ => "together" },
            Offers = [],
        },
        "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
        "nozzleTemperatureC" when p.Request.Mode is Temperature or Crossed => e with { Field = "hottestC", Offers = [] },
        _ => e,
    };
}
