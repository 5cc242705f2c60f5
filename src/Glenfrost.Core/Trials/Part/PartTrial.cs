using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.Part;

/// <summary>Somebody's own part as a run: its file kept with it, looked at zone by zone, passed or not.</summary>
public sealed class PartTrial : Trial<PartRequest, PartPlan, PartVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "part";

    /// <summary>Aspect of a zone's score.</summary>
    public const string Score = "part";

    /// <summary>Aspect of the layer at which a zone failed.</summary>
    public const string FailedAt = "failedAtLayer";

    /// <summary>Begins the aspect of what was seen on a zone: defect.1, defect.2.</summary>
    public const string Defect = "defect.";

    /// <summary>What may be ticked of one zone.</summary>
    public const int MostDefects = 2;

    private const string ThePart = "The part, as its file says", TheZones = "Zones that are looked at by themselves",
        Made = "Cut down, turned, scaled: what the file does not say";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Own part";

    /// <inheritdoc/>
    public override string Noun => "part";

    /// <inheritdoc/>
    public override string PageFolder => "Part";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["temperature", "flow", "strings"];

    /// <inheritdoc/>
    public override bool TakesOwnFile => true;

    /// <inheritdoc/>
    public override bool CoolsDown => false;

    /// <inheritdoc/>
    public override bool LooksBack => true;

    /// <inheritdoc/>
    public override string Purpose => "A part of your own: its file kept with the run, zone by zone passed or not, and what to suspect where it did not.";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "As the file prints it.", ThePart),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePart),
        Number(r => r.HeightMm, "Height", "mm", 1, 2000, "from the bed to its top", "", ThePart),
        Number(r => r.TargetScore, "Each zone is to reach", "", 0.5m, 4, "4 is clean, 2 passes just", "4 is clean, 2 passes just.", TheZones),
        Text(r => r.ZoneNames, "Names of the zones", 200, "From the bed up, with commas: base, mast, second spire. Empty: by their heights.", TheZones),
        Top(r => r.Zone1Mm, "First zone ends at", "Heights at which the shape changes. Empty: no further zone."),
        Top(r => r.Zone2Mm, "Second zone ends at"),
        Top(r => r.Zone3Mm, "Third zone ends at"),
        Top(r => r.Zone4Mm, "Fourth zone ends at"),
        Top(r => r.Zone5Mm, "Fifth zone ends at"),
        Top(r => r.Zone6Mm, "Sixth zone ends at"),
        Number(
            r => r.BeginsAtLayer, "Begins at layer", "", 2, 20000, "layers of the whole part count from 1",
            "For a cut-down file: where it begins in the whole part. Empty for the whole part.", Made, false, true),
        Number(
            r => r.OfRun, "Cut from run", "", 1, 100000, "the number of a run of the whole part",
            "For a cut-down file: the run of the whole part, by its number.", Made, false, true),
        Text(r => r.Orientation, "How it stands", 60, "For example: on its back, turned by 45°.", Made),
        Number(
            r => r.ScalePercent, "Scale", "%", 5, 2000, "smaller is dust, larger fits no bed", "Against what was drawn. Empty: nobody says.", Made, false),
        OneOf(r => r.Shield, "Draught shield around it", "", Made, ("", "nobody says"), ("no", "none"), ("yes", "a wall around it")),
    ];

    private static PlanField Top(System.Linq.Expressions.Expression<Func<PartRequest, decimal?>> of, string label, string help = "") =>
        Number(of, label, "mm", 0.1m, 2000, "above the zone beneath and below the top of the part", help, TheZones, false);

    /// <summary>Score that each zone is to reach for a use.</summary>
    internal static decimal TargetOf(string? use) => use switch { "looks" or "fine detail" => 3.5m, "speed" or "low mass" => 2, _ => 3 };

    /// <summary>Zones, target and where it begins say how it is read, not how it is made.</summary>
    public override string? FactorOf(string field) =>
        field.StartsWith("zone", StringComparison.Ordinal) || field is "targetScore" or "ofRun" ? null : base.FactorOf(field);

    /// <inheritdoc/>
    protected override PartRequest Proposal(PlanContext c)
    {
        var usual = new PartRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
            TargetScore = TargetOf(c.Use),
        };
        if (c.OwnFile is not { } own)
            return usual;
        decimal? At(int i) => i < own.TopsMm.Count ? (decimal)own.TopsMm[i] : null;
        return usual with
        {
            NozzleTemperatureC = own.NozzleC is { } nozzle ? (decimal)nozzle : usual.NozzleTemperatureC,
            LayerHeightMm = (decimal)own.LayerHeightMm,
            HeightMm = (decimal)own.HeightMm,
            Zone1Mm = At(0),
            Zone2Mm = At(1),
            Zone3Mm = At(2),
            Zone4Mm = At(3),
            Zone5Mm = At(4),
            Zone6Mm = At(5),
        };
    }

    /// <inheritdoc/>
    public override string PlanExample => """{"heightMm":62.4}""";

    /// <summary>How high a part is says its file; without one nobody has said it yet.</summary>
    public override PlanValues Propose(PlanContext context)
    {
        var values = base.Propose(context);
        if (context.OwnFile is null)
            values.Remove("heightMm");
        return values;
    }

    /// <inheritdoc/>
    protected override PartRequest RequestOf(PartPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override FieldError NoFile => new("", "Your own file is printed: put it in the G-code room and choose Print this as a run, then it is kept here.");

    /// <inheritdoc/>
    public override Planned<PartPlan> Plan(PartRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (c.Machine is { } m && r.HeightMm > (decimal)m.HeightMm)
            errors.Add(new("heightMm", $"{m.Name} prints up to {Say.N(m.HeightMm)} mm; the part is {Say.N(r.HeightMm)} mm high."));
        var (under, tops) = (0m, r.Tops());
        for (var i = 0; i < tops.Count; i++)
        {
            if (tops[i] is not { } top)
            {
                if (tops.Skip(i + 1).FirstOrDefault(t => t is not null) is not null)
                    errors.Add(new($"zone{i + 1}Mm", "A zone above this one has an end: say where this one ends, or empty those above."));
                break;
            }

            if (top <= under)
                errors.Add(new($"zone{i + 1}Mm", $"{Say.N(top, 2)} mm is not above {Say.N(under, 2)} mm, where the zone beneath ends."));
            else if (top >= r.HeightMm)
                errors.Add(new($"zone{i + 1}Mm", $"{Say.N(top, 2)} mm is not below the top of the part, {Say.N(r.HeightMm, 2)} mm: the last zone ends there."));
            else if (top - under < r.LayerHeightMm || r.HeightMm - top < r.LayerHeightMm)
                errors.Add(new($"zone{i + 1}Mm", $"A zone holds at least one layer of {Say.N(r.LayerHeightMm, 2)} mm."));
            under = top;
        }

        if (r.HeightMm < r.LayerHeightMm)
            errors.Add(new("heightMm", $"A part holds at least one layer of {Say.N(r.LayerHeightMm, 2)} mm."));
        if (r.HeightMm / Math.Max(r.LayerHeightMm, 0.01m) > 20000)
            errors.Add(new("heightMm", "More than 20,000 layers: are height and layer height right?"));
        var zones = r.Tops().Count(t => t is not null) + 1;
        if (r.Names() is var names && names.Count > zones)
            errors.Add(new("zoneNames", $"{Say.Plural(names.Count, "name")} for {Say.Plural(zones, "zone")}: one each would be right."));
        if (r.OfRun is { } whole)
        {
            // What was never read is not offered as the whole; only what is known is refused.
            var of = c.Earlier.FirstOrDefault(e => e.Number == whole);
            if (c.Earlier.Count > 0 && of is null)
                errors.Add(
                    new("ofRun", $"No run {Say.N(whole)} of a part was read here: {Say.List(c.Earlier.Select(e => $"{e.Number}"))} would be right."));
            else if (r.BeginsAtLayer is null)
                errors.Add(new("beginsAtLayer", "Say at which layer of that part the cut-down file begins."));
            else if (of is not null && r.BeginsAtLayer > of.Plan.TotalLayers)
                errors.Add(
                    new(
                        "beginsAtLayer",
                        $"The part of run {Say.N(whole)} has {of.Plan.TotalLayers} layers; {Say.N(r.BeginsAtLayer.Value)} is above its top."));
        }

        if (errors.Count > 0)
            return errors;
        return new PartPlan
        {
            Request = r,
            FileName = c.OwnFile?.Name,
            Outline = c.OwnFile?.Outline is { Count: > 0 } outline ? outline : null,
            Estimate = c.OwnFile is { } own ? new(own.Minutes, own.Grams, 0, true) : new(0, null, 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(PartPlan plan)
    {
        return new(
            // The part stands with its top up.
            [.. ((ITrialPlan)plan).Parts.Reverse().Select(p => new GridRow(p.Index, p.Label, $"layers {p.FirstLayer} to {p.LastLayer}"))],
            ZoneCells.Columns(plan))
        {
            RowHead = "Zone", ManyColumns = true,
        };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => ZoneCells.IsAspect(aspect);

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value) =>
        ZoneCells.Elsewhere(plan, section, aspect, value) ?? base.Question(plan, section, aspect, value);

    /// <inheritdoc/>
    protected override string Extent(PartPlan plan) => Say.Plural(plan.Zones.Count, "zone");

    /// <summary>It passes or does not: no value is kept from it.</summary>
    public override bool Decides(ITrialPlan plan) => false;

    /// <inheritdoc/>
    public override PartVerdict Judge(PartPlan plan, RunReadings readings, JudgeContext c)
    {
        var states = States(plan, readings);
        var v = PartJudging.Judge(new()
        {
            TargetScore = (double)plan.Request.TargetScore,
            ScoreNoise = c.ScoreNoise,
            Zones = ZoneCells.Zones(plan, readings, states),
        });
        return v with { BeginsAtLayer = (int?)plan.Request.BeginsAtLayer, OfRun = (int?)plan.Request.OfRun };
    }

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(PartReadings);

    /// <inheritdoc/>
    protected override PartVerdict? Answer(JsonFields json)
    {
        var readings = new PartReadings
        {
            Zones = ZoneCells.From(json),
            TargetScore = (double)(json.Number("targetScore") ?? 3), ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
        };
        if (json.Errors.Count == 0 && PartJudging.Check(readings) is { } wrong)
            json.Take([wrong]);
        return json.Errors.Count > 0 ? null : PartJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """
        {"zones": [{"label": "base", "score": 4}, {"label": "mast", "score": 2, "defects": ["strings"]},
          {"label": "roof", "state": "failed", "failedAtLayer": 118}], "targetScore": 3}
        """;
}
