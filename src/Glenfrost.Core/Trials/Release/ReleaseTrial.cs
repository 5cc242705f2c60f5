using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.Release;

/// <summary>What a tester asks of a release temperature. Temperatures in °C.</summary>
public sealed record ReleaseRequest
{
    /// <summary>Prints that may be noted.</summary>
    public decimal Prints { get; init; } = 8;

    /// <summary>Bed while it prints.</summary>
    public decimal BedC { get; init; } = 80;

    /// <summary>Air around the part: the chamber where it was measured, else the room; null where nobody measured it.</summary>
    public decimal? SurroundingsC { get; init; }

    /// <summary>A logged cooling: bed as it was switched off; null where none was logged.</summary>
    public decimal? CoolingFromC { get; init; }

    /// <summary>Bed at its end.</summary>
    public decimal? CoolingToC { get; init; }

    /// <summary>Minutes between.</summary>
    public decimal? CoolingMinutes { get; init; }

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 240;

    /// <summary>Length of the chip, mm.</summary>
    public decimal LengthMm { get; init; } = 60;

    /// <summary>Layer height, mm.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;
}

/// <summary>A list of prints with their chip. Version 2 of the stored form: fields are only added.</summary>
public sealed record ReleasePlan : PlanRecord
{
    /// <summary>Air that is taken for granted where nobody measured it, °C.</summary>
    public const double UsualRoomC = 22;

    /// <summary>What was asked.</summary>
    public required ReleaseRequest Request { get; init; }

    /// <summary>Middle of the family's bed, °C; null where it is not known.</summary>
    public double? FamilyBedC { get; init; }

    /// <summary>Nozzle that the chip is scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Measures of the chip.</summary>
    [JsonIgnore]
    public FlatPlateSize Size =>
        new((double)Request.LengthMm, (double)Request.LengthMm * 0.4, 10 * (double)Request.LayerHeightMm, 0, (double)Request.LayerHeightMm, NozzleMm);

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [.. Enumerable.Range(0, (int)Request.Prints).Select(i => new PlanPart(i, $"print {i + 1}", 1, Size.Layers, 0, Size.Layers * Size.LayerHeightMm))];

    /// <inheritdoc/>
    protected override string InWords => $"bed {Say.N(Request.BedC)} °C; a chip of {Say.N(Request.LengthMm)} mm, or any part that is printed anyway";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => Size.Layers;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf => [new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C, bed {Say.N(Request.BedC)} °C",
        "all of it")];
}

/// <summary>Release: the bed temperature at which parts let go by themselves, each print a reading.</summary>
public sealed class ReleaseTrial : Trial<ReleaseRequest, ReleasePlan, ReleaseVerdict>
{
    /// <summary>Its kind, and its area of evidence.</summary>
    public const string Word = "release";

    /// <summary>Aspects: bed at which it still held, at which it lay free, at which it was pulled.</summary>
    public const string Held = "heldC", Free = "freeC", Pulled = "pulledC";

    /// <summary>Aspect of the bed's own cooling, minutes to 1/e of what it is above the air.</summary>
    public const string Cooled = "coolingMinutes";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Release";

    /// <inheritdoc/>
    public override string Noun => "chip";

    /// <inheritdoc/>
    public override string PageFolder => "Release";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["releaseBedTemperatureC"];

    /// <summary>Each print says something of it beside what it was printed for: it is no step of its own.</summary>
    public override bool IsOnRoute => false;

    /// <inheritdoc/>
    public override bool CoolsDown => false;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [Word];

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override string Purpose => "The bed temperature at which parts let go by themselves, so that nobody pulls them off warm or waits too long.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
    [
        "A hot bed is not left alone while it cools; it burns long after it was switched off.",
        "A part that has bonded can tear glass or coating off: never force it warm, blade flat and away from the hand, eyes covered.",
    ];

    private const string ThePrints = "The prints", TheCooling = "One logged cooling of this bed", TheChip = "The chip";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.Prints, "Prints to note", "", 1, 40, "five are fitted, fewer give a working value", "Five or more are fitted.", ThePrints, whole: true),
        Number(r => r.BedC, "Bed while printing", "°C", 20, 160, "the bed in force", "", ThePrints),
        Number(
            r => r.SurroundingsC, "Air around the part", "°C", -20, 120, "chamber or room",
            "The chamber where one was measured, else the room. Empty: 22 °C is taken for granted, and said.", ThePrints, false),
        Number(r => r.CoolingFromC, "Switched off at", "°C", 20, 160, "the bed as it was switched off", "Empty: what cooling costs is a guess.", TheCooling,
            false),
        Number(r => r.CoolingToC, "was then at", "°C", 0, 160, "the bed later", "", TheCooling, false),
        Number(r => r.CoolingMinutes, "after", "min", 0.5m, 1000, "between the two", "", TheCooling, false),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "The profile's.", TheChip),
        Number(r => r.LengthMm, "Length of a chip", "mm", 20, 200, "", "Any part that is printed anyway does as well.", TheChip),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheChip),
    ];

    /// <summary>Only the bed is a factor of how it lets go; what was logged, and how many are noted, is none.</summary>
    public override string? FactorOf(string field) =>
        field is "prints" or "surroundingsC" or "coolingFromC" or "coolingToC" or "coolingMinutes" ? null
        : field == "bedC" ? "bedTemperatureC" : base.FactorOf(field);

    /// <inheritdoc/>
    protected override ReleaseRequest Proposal(PlanContext c) => new()
    {
        BedC = (decimal)Math.Round(c.Settings?.BedTemperatureC ?? c.Family?.BedC.Middle ?? 80),
        NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
        LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
    };

    /// <inheritdoc/>
    protected override ReleaseRequest RequestOf(ReleasePlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<ReleasePlan> Plan(ReleaseRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (c.Machine is { } m && r.BedC > (decimal)m.BedMaxC)
            errors.Add(new("bedC", $"{Say.N(r.BedC)} °C is above the bed's limit of {Say.N(m.BedMaxC)} °C."));
        decimal?[] cooling = [r.CoolingFromC, r.CoolingToC, r.CoolingMinutes];
        if (cooling.Any(x => x is not null) && cooling.Any(x => x is null))
        {
            var field = r.CoolingFromC is null ? "coolingFromC" : r.CoolingToC is null ? "coolingToC" : "coolingMinutes";
            errors.Add(new(field, "A logged cooling is all three: from, to, and the minutes between. Empty all of them where none was logged."));
        }
        else if (Cooling(r) is { } logged && logged.ConstantMinutes(Air(r)) is null)
        {
            errors.Add(
                new("coolingToC",
                    $"{Say.N(r.CoolingToC!.Value)} °C is not between the air, {Say.N(Air(r))} °C, and where it began, {Say.N(r.CoolingFromC!.Value)} °C."));
        }

        if (errors.Count > 0)
            return errors;
        return new ReleasePlan
        {
            Request = r, FamilyBedC = c.Family?.BedC.Middle, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            Estimate = new(8, Math.Round((double)(r.LengthMm * r.LengthMm * 4 * r.LayerHeightMm) / 1000 * 1.1, 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
    }

    private static double Air(ReleaseRequest r) => (double?)r.SurroundingsC ?? ReleasePlan.UsualRoomC;

    private static BedCooling? Cooling(ReleaseRequest r) => r is { CoolingFromC: { } from, CoolingToC: { } to, CoolingMinutes: { } minutes }
        ? new((double)from, (double)to, (double)minutes) : null;

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(ReleasePlan plan, PieceMemory memory) => [FlatPlate.Build(plan.Size, null, memory)];

    /// <inheritdoc/>
    protected override Made<ReleasePlan> Make(ReleasePlan plan, PlanContext c)
    {
        var p = plan with { NozzleMm = c.Machine!.NozzleDiameterMm };
        var bed = (double)p.Request.BedC;
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)p.Request.NozzleTemperatureC, "all of it")],
                PlanLines = [$"release, {c.Subject}", $"a chip; bed {Say.N(bed)} C, to be watched as it cools"],
            },
            c.Machine,
            c.Settings! with
            {
                CoolDown = null,
                BedTemperatureC = bed,
                FirstLayerBedTemperatureC = Math.Max(bed, c.Settings!.FirstLayerBedTemperatureC),
            }, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(e => e.Field switch
            {
                "pieceDepthMm" => e with { Field = "lengthMm", Offers = [] },
                "bedTemperatureC" => e with { Field = "bedC", Offers = [] },
                "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
                _ => e,
            })])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    protected override string FileWords(ReleasePlan plan) => "chip";

    /// <inheritdoc/>
    protected override string Extent(ReleasePlan plan) => Say.Plural((int)plan.Request.Prints, "print");

    /// <inheritdoc/>
    protected override string Basis(ReleasePlan plan) => "prints as they let go";

    /// <inheritdoc/>
    protected override string? FoundWith(ReleasePlan plan, string key) => $"bed {Say.N(plan.Request.BedC)} °C";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) => ((ReleasePlan)plan).Request is { LayerHeightMm: <= 0 } ? "plan has no layer height" : base.Faults(plan);

    /// <inheritdoc/>
    public override ReadingGrid Grid(ReleasePlan plan)
    {
        GridColumn Column(string aspect, string label, string name) => new(aspect, label, CellKind.Number, false)
        {
            Quantity = new(name, "°C", 0, 160, "the bed's temperature"), Resolution = 1, Digits = 0, Plausible = (15, (double)plan.Request.BedC + 5),
        };
        return new(
            [.. ((ITrialPlan)plan).Parts.Select(p => new GridRow(p.Index, p.Label))],
            [Column(Held, "Held at, °C", "Still held at"), Column(Free, "Free at, °C", "Lay free at"), Column(Pulled, "Pulled at, °C", "Pulled at"),
                new(Cooled, "Bed cools, min", CellKind.Number, false)
                {
                    Quantity = new("The bed's own cooling", "min", 1, 1000, "minutes to a third of what it is above the air, as a log of it says"),
                    Resolution = 1, Digits = 0, Plausible = (8, 120),
                }])
        {
            Across = true, RowHead = "Print",
        };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Held or Free or Pulled or Cooled;

    /// <inheritdoc/>
    public override ReleaseVerdict Judge(ReleasePlan plan, RunReadings readings, JudgeContext context)
    {
        var r = plan.Request;
        return ReleaseJudging.Judge(new()
        {
            Prints = [.. Enumerable.Range(0, (int)r.Prints).Select(i => new ReleasePrint(readings.Value(i, Free), readings.Value(i, Held),
                readings.Value(i, Pulled)))],
            FamilyBedC = plan.FamilyBedC, BedC = (double)r.BedC, MeasuredAirC = (double?)r.SurroundingsC,
            Cooling = Cooling(r), LoggedMinutes = [.. Enumerable.Range(0, (int)r.Prints).Select(i => readings.Value(i, Cooled)).OfType<double>()],
        });
    }

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(IReadOnlyList<ReleasePrint> Prints, double? BedC, double? SurroundingsC, double? FamilyBedC, BedCooling? Cooling);

    /// <inheritdoc/>
    protected override ReleaseVerdict? Answer(JsonFields json)
    {
        var cooling = json.Object("cooling");
        var log = LogOf(cooling);
        var readings = new ReleaseReadings
        {
            Prints =
            [
                .. (json.List("prints", true) ?? []).Select(p =>
                    new ReleasePrint((double?)p.Number("freeAtC"), (double?)p.Number("heldAtC"), (double?)p.Number("pulledAtC"))),
            ],
            FamilyBedC = (double?)json.Number("familyBedC"),
            BedC = (double?)json.Number("bedC"),
            MeasuredAirC = (double?)json.Number("surroundingsC"),
            Cooling = cooling is null || log is not null ? null : new(
                (double)(cooling.Number("fromC", true) ?? 1), (double)(cooling.Number("toC", true) ?? 1), (double)(cooling.Number("minutes", true) ?? 1)),
        };
        if (json.Errors.Count == 0 && log is not null)
        {
            var (minutes, fault) = CoolingLog.Constant(log, readings.SurroundingsC);
            if (fault is not null)
                json.Take([fault with { Field = $"cooling.{fault.Field}" }]);
            else
                readings = readings with { LoggedMinutes = [minutes!.Value] };
        }

        if (json.Errors.Count == 0)
            json.Take(ReleaseJudging.Check(readings));
        return json.Errors.Count > 0 ? null : ReleaseJudging.Judge(readings);
    }

    /// <summary>A log of a bed as a script posts it; null where there is none.</summary>
    /// <param name="json">Holds <c>log</c>, a list of minute and bedC.</param>
    public static IReadOnlyList<LoggedBed>? LogOf(JsonFields? json) => json?.List("log", false) is { } log
        ? [.. log.Select(x => new LoggedBed((double)(x.Number("minute", true) ?? 0), (double)(x.Number("bedC", true) ?? 0)))] : null;

    /// <inheritdoc/>
    public override string Example =>
        """{"prints": [{"freeAtC": 62}, {"freeAtC": 58, "heldAtC": 75}, {"freeAtC": 55}], "bedC": 100, "surroundingsC": 30,""" +
            """ "cooling": {"fromC": 100, "toC": 65, "minutes": 25}}""";
}
