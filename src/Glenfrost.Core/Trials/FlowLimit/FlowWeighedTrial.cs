using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Flow limit by weighed samples: equal lengths into the air at rising flow, each cut and weighed; what is missing is the loss.</summary>
public sealed class FlowWeighedTrial : FlowTrial<WeighedRequest, WeighedPlan, WeighedFlowVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "flow-limit-weighed";

    /// <summary>
    /// Margin that is proposed, on the page and in the API, %: free air loses less than a print, and the recovery benchmark shows that 5 are not enough.
    /// </summary>
    public const decimal FreeAirMargin = 12;

    /// <summary>No sample weighs more than this many of what its length should: density and diameter are not that far off.</summary>
    private const double MostMasses = 2;

    /// <summary>Filament that is fed before the first sample of a temperature, and cut off, mm.</summary>
    public const double PrimeMm = 20;

    /// <summary>Begins the aspect of a mass; its number tells repeats apart.</summary>
    public const string Mass = "sampleG.";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Flow limit by weighing";

    /// <inheritdoc/>
    public override string Noun => "row of samples";

    /// <inheritdoc/>
    public override string PageFolder => "FlowLimit/Weighed";

    /// <inheritdoc/>
    public override bool CoolsDown => false;

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(WeighedPlan plan) =>
        ["secondTemperatureC", "startFlowMm3PerS", "stepMm3PerS", "samples", "maxVolumetricFlowMm3PerS"];

    /// <inheritdoc/>
    public override string Purpose =>
        "Flow limit from equal lengths extruded into the air and weighed: the finest way, with a loss curve. Free air loses less than printing.";

    /// <inheritdoc/>
    public override (string Print, string Measure, string Done) BenchWords =>
        (
            "take sheet, side cutters and numbered cups to the printer; the file runs once",
            "Run the file, cut each sample in its pause, weigh them cold. A scale that types goes from cell to cell.", "the file ran once");

    private const string TheSamples = "The samples", Scale = "Scale and length", Counts = "What counts";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.StartFlowMm3PerS, "First flow", "mm³/s", 0.2m, 200, "low enough that nothing is lost", "So low that nothing is lost.", TheSamples),
        Number(r => r.StepMm3PerS, "Step", "mm³/s", 0.1m, 50, "1 to 3 is usual", "", TheSamples),
        Number(r => r.Samples, "Samples", "", 4, 40, "fewer show no curve, more nobody weighs", "", TheSamples, whole: true),
        Number(r => r.Repeats, "Samples at each flow", "", 1, 5, "two show the scatter", "Two show the scatter.", TheSamples, whole: true),
        Number(r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "The pairing's own.", TheSamples),
        Number(r => r.SecondTemperatureC, "And again at", "°C", 150, 500, "for example the top of the range", "", TheSamples, false),
        Number(
            r => r.ScaleResolutionG, "Step of the scale", "g", 0.0001m, 1, "0.1, 0.01 or 0.001",
            "What it tells is said beside the plan, before anything is extruded.", Scale),
        Number(
            r => r.ExtrudedLengthMm, "Filament of a sample", "mm", 20, 2000, "the coarser the scale, the longer", "The coarser the scale, the longer.",
            Scale),
        Number(r => r.PauseS, "Pause to cut", "s", 2, 300, "to cut it, label it and put it aside", "", Scale),
        Number(r => r.RecommendLossPercent, "Loss accepted", "%", 0.5m, 30, "5 for looks", "5 for looks, 10 at most.", Counts),
        Number(r => r.LimitLossPercent, "Loss that is the limit", "%", 0.5m, 50, "10 is usual", "", Counts),
        Number(r => r.MarginPercent, "Margin", "%", 0, 50, "5 to 20 is usual", "Below the accepted loss.", Counts),
        OneOf(r => r.SpoolState, "The spool", "", Counts, Flows.SpoolStates),
        Number(r => r.ResidualFlowPercent, "Flow override in the start code", "%", 10, 300, "what an override leaves, 100 for none", "", Counts, false),
        OneOf(r => r.Override, "In real prints it", "Correcting in both places would correct twice.", Counts, FlowOverride.Answers),
    ];

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => field == "secondTemperatureC"
        ? $"For example the top of the range{(context.AdvisedC?.Max is { } max ? $", {Say.N(max)} °C" : "")}; empty for none. Never averaged."
        : base.HelpOf(field, context);

    /// <inheritdoc/>
    protected override WeighedRequest Proposal(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var guess = (c.Settings?.MaxFlowMm3PerS ?? 8 * nozzle / 0.4) * 2;
        var needed = WeighedJudging.NeededLengthMm(0.01, c.Settings?.FilamentDiameterMm ?? 1.75, c.DensityGPerCm3 ?? c.Settings?.DensityGPerCm3 ?? 1.24);
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            StartFlowMm3PerS = (decimal)Math.Max(1, Math.Round(guess / 8)),
            StepMm3PerS = (decimal)Math.Max(0.5, Math.Round(guess / 10, 1)),
            // A tenth more than would do: filament is thinner or lighter than its label now and then.
            ExtrudedLengthMm = (decimal)(Math.Ceiling(needed * 1.1 / 10) * 10),
        };
    }

    /// <inheritdoc/>
    protected override WeighedRequest RequestOf(WeighedPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<WeighedPlan> Plan(WeighedRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Temperature(errors, c, r.NozzleTemperatureC, "nozzleTemperatureC");
        if (r.SecondTemperatureC is { } second)
        {
            PieceFields.Temperature(errors, c, second, "secondTemperatureC");
            if (second == r.NozzleTemperatureC)
                errors.Add(new("secondTemperatureC", "Both temperatures are the same: leave the second one empty, or take the top of the range."));
        }

        if (r.LimitLossPercent < r.RecommendLossPercent)
            errors.Add(
                new(
                    "limitLossPercent",
                    $"The limit, {Say.N(r.LimitLossPercent)} %, lies below the accepted loss, {Say.N(r.RecommendLossPercent)} %: 10 and 5 are usual."));
        var (diameter, density) = (c.Settings?.FilamentDiameterMm ?? 1.75, c.DensityGPerCm3 ?? c.Settings?.DensityGPerCm3 ?? 1.24);
        var top = (double)(r.StartFlowMm3PerS + (r.Samples - 1) * r.StepMm3PerS);
        if (top > 200)
            errors.Add(
                new(
                    "stepMm3PerS",
                    $"The last sample would be extruded at {Say.N(top)} mm³/s: no hotend melts that. Fewer samples or a smaller step would be right."));
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        if (errors.Count > 0)
            return errors;
        var mass = WeighedJudging.MassG((double)r.ExtrudedLengthMm * (double)r.ResidualFlowPercent / 100, diameter, density);
        var points = WeighedJudging.LossUncertainty((double)r.ScaleResolutionG, mass);
        var needed = WeighedJudging.NeededLengthMm((double)r.ScaleResolutionG, diameter, density);
        var adequate = points <= WeighedJudging.PointsAsked + 1e-9;
        List<PlanWarning> warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)];
        if (!adequate)
            warnings.Add(new(PlanWarningKind.CoarseScale, (double)r.RecommendLossPercent, (double)r.ScaleResolutionG, mass, points, (double)needed));
        if (r.SecondTemperatureC is { } t2)
            warnings.AddRange(PieceFields.Advice(c, t2));
        var n = (int)(r.Samples * r.Repeats) * (r.SecondTemperatureC is null ? 1 : 2);
        var feeds =
            Enumerable.Range(0, (int)r.Samples)
                .Sum(i => (double)r.ExtrudedLengthMm / Flows.FeedMmPerS((double)(r.StartFlowMm3PerS + i * r.StepMm3PerS), diameter))
            * n
            / (double)r.Samples;
        var plan = new WeighedPlan
        {
            Request = r,
            NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            FilamentDiameterMm = diameter,
            DensityGPerCm3 = density,
            FlowsMm3PerS = [.. Enumerable.Range(0, (int)r.Samples).Select(i => (double)(r.StartFlowMm3PerS + i * r.StepMm3PerS))],
            ExpectedMassG = Math.Round(mass, 4),
            ScaleAdequate = adequate,
            LossUncertaintyPoints = Math.Round(points, 3),
            NeededLengthMm = needed,
            Estimate = new((int)Math.Ceiling((feeds + n * (double)r.PauseS) / 60), Math.Round(n * mass, 1), 0),
            Warnings = warnings,
            Offers =
                adequate || needed > 2000
                    ? []
                    : [new($"samples of {Say.N(needed)} mm", new Dictionary<string, decimal> { ["extrudedLengthMm"] = (decimal)needed })],
        };
        if (c.Machine is null || c.Settings is null)
            return plan;
        var (_, estimate, wrong) = Write(plan, c);
        return wrong.Count > 0 ? wrong.ToList() : plan with { Estimate = estimate };
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(WeighedPlan p, PlanContext c)
    {
        var (r, m, s) = (p.Request, c.Machine!, c.Settings!);
        // A sample is fed as it is asked: no multiplier, no retraction that would be missing from the next one.
        var (f, errors) = PatternFile.Begin(
            m, s with { ExtrusionMultiplier = 1, RetractionLengthMm = 0 }, (double)r.NozzleTemperatureC,
            [
                $"flow limit by weighed samples, {c.Subject}",
                $"each sample {Say.N(r.ExtrudedLengthMm)} mm of filament, {Say.N(p.ExpectedMassG, 3)} g where nothing is lost",
                "cut each sample at the nozzle in its pause, label it, weigh it cold; stop at clicking or grinding and note the sample",
            ],
            0.2, 1, false);
        if (f is null)
            return (null, new(0, null, 0), errors);
        f.Go(m.BedXMm / 2, Math.Min(20, m.BedYMm / 4), Math.Min(60, Math.Floor(m.HeightMm / 2)));
        f.Comment("prime, not weighed");
        f.Feed(PrimeMm, Flows.FeedMmPerS(p.FlowsMm3PerS[0], p.FilamentDiameterMm));
        f.Line("M400");
        f.Dwell((double)r.PauseS);
        var n = 0;
        foreach (var (t, k) in p.Temperatures.Select((t, k) => (t, k)))
        {
            if (k > 0)
            {
                f.Comment($"second temperature: {Say.N(t)} C");
                f.Line(f.Dialect.WaitForNozzle((double)t));
                // What hung in the nozzle while it changed is no sample.
                f.Comment("prime, not weighed");
                f.Feed(PrimeMm, Flows.FeedMmPerS(p.FlowsMm3PerS[0], p.FilamentDiameterMm));
                f.Line("M400");
                f.Dwell((double)r.PauseS);
            }

            foreach (var q in p.FlowsMm3PerS)
            {
                for (var i = 0; i < (int)r.Repeats; i++)
                {
                    f.Comment(
                        $"sample {++n}: {Say.N(q, 2)} mm3/s{(r.Repeats > 1 ? $", the {i + 1}. time" : "")}{(p.Temperatures.Count > 1 ? $", {Say.N(t)} C" : "")}"
                    );
                    f.Feed((double)r.ExtrudedLengthMm, Flows.FeedMmPerS(q, p.FilamentDiameterMm));
                    f.Line("M400");
                    f.Dwell((double)r.PauseS);
                }
            }
        }

        var mass = f.FeedMm * Math.PI * p.FilamentDiameterMm * p.FilamentDiameterMm / 4 / 1000 * p.DensityGPerCm3;
        var lines = f.End(false);
        return (
            lines,
            new((int)Math.Ceiling(f.Seconds / 60), Math.Round(mass, 1), 0, true, s.PriceMinorPerKg is { } price ? Math.Round(price * mass / 1000) : null), []);
    }

    /// <inheritdoc/>
    protected override string Extent(WeighedPlan plan) => $"{plan.FlowsMm3PerS.Count * plan.Temperatures.Count * (int)plan.Request.Repeats} samples";

    /// <inheritdoc/>
    protected override string Basis(WeighedPlan plan) => $"one row of samples at {Say.N(plan.Request.NozzleTemperatureC)} °C, in free air";

    /// <inheritdoc/>
    public override ReadingGrid Grid(WeighedPlan p)
    {
        return new(
            [.. ((ITrialPlan)p).Parts.Select(x => new GridRow(x.Index, x.Label, SampleNumbers(x.Index, (int)p.Request.Repeats)))],
            [
                .. Enumerable.Range(1, (int)p.Request.Repeats)
                    .Select(i => new GridColumn($"{Mass}{i}", p.Request.Repeats > 1 ? $"{i}., g" : "Mass, g", CellKind.Number)
                    {
                        Quantity = new(p.Request.Repeats > 1 ? $"Mass, the {i}. time" : "Mass of the sample", "g", 0,
                            p.ExpectedMassG > 0 ? Math.Round((decimal)(MostMasses * p.ExpectedMassG), 3) : 1000,
                            $"{Say.N(p.Request.ExtrudedLengthMm)} mm of this filament weigh no more"),
                        Resolution = (double)p.Request.ScaleResolutionG, Digits = 4, Plausible = (0.4 * p.ExpectedMassG, 1.1 * p.ExpectedMassG),
                    }),
                new(FlowTrial.Fault, "Heard, or wrong", CellKind.Word, false)
                {
                    Words = ["nothing", "clicking", "grinding", "tangle", "piece lost"], Lead = "what was heard or went wrong",
                },
            ])
        { RowHead = "Flow", Across = p.Request.Repeats > 1 };
    }

    /// <summary>Numbers of the samples of a row, as the file counts them through both temperatures.</summary>
    private static string SampleNumbers(int row, int repeats) =>
        repeats == 1 ? $"sample {row + 1}" : $"samples {row * repeats + 1} to {(row + 1) * repeats}";

    /// <inheritdoc/>
    public override string TagNoun => "cup";

    /// <summary>A cup for each sample, numbered as the file counts them.</summary>
    public override IReadOnlyList<PieceTag> Tags(ITrialPlan plan)
    {
        var repeats = (int)((WeighedPlan)plan).Request.Repeats;
        return
        [
            .. plan.Parts.SelectMany(p => Enumerable.Range(0, repeats).Select(i => new PieceTag(
                $"Sample {p.Index * repeats + i + 1}", p.Label, "cup ________ g   with it ________ g"))),
        ];
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) =>
        aspect == FlowTrial.Fault
        || (
            aspect.StartsWith(Mass, StringComparison.Ordinal)
            && int.TryParse(aspect[Mass.Length..], System.Globalization.CultureInfo.InvariantCulture, out var i)
            && i is > 0 and <= 5);

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings)
    {
        var n = ((WeighedPlan)plan).FlowsMm3PerS.Count;
        // Clicking ends the row of its temperature; a tangle or a lost piece is not weighed.
        return base.Waiting(plan, readings).Where(c => readings.Text(c.Section, FlowTrial.Fault) is not ("tangle" or "piece lost")
            && !Enumerable.Range(c.Section / n * n, c.Section % n).Any(i => FlowTrial.Ends(readings.Text(i, FlowTrial.Fault))));
    }

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(WeighedPlan p, RunReadings readings)
    {
        var notes = new Dictionary<int, string>();
        for (var k = 0; k < p.Temperatures.Count; k++)
        {
            var v = One(p, k, readings, 1);
            for (var i = 0; i < v.LossPercent.Count; i++)
            {
                if (v.LossPercent[i] is { } loss)
                    notes[k * p.FlowsMm3PerS.Count + i] = $"{Say.N(Math.Max(0, loss), 1)} % lost";
            }
        }

        return notes;
    }

    private static WeighedFlowVerdict One(WeighedPlan p, int temperature, RunReadings readings, int seed)
    {
        var (r, n) = (p.Request, p.FlowsMm3PerS.Count);
        var from = temperature * n;
        var masses = Enumerable.Range(from, n)
            .Select(s => (IReadOnlyList<double>)[.. Enumerable.Range(1, (int)r.Repeats).Select(i => readings.Value(s, $"{Mass}{i}")).OfType<double>()])
            .ToList();
        var failed = Enumerable.Range(0, n).Where(i => readings.Text(from + i, FlowTrial.Fault) is "tangle" or "piece lost")
            .ToDictionary(i => i, i => readings.Text(from + i, FlowTrial.Fault));
        var click = Enumerable.Range(0, n).Where(i => FlowTrial.Ends(readings.Text(from + i, FlowTrial.Fault))).Select(i => (int?)i).FirstOrDefault();
        return WeighedJudging.Judge(new()
        {
            StartFlowMm3PerS = (double)r.StartFlowMm3PerS * r.FlowFactor,
            StepMm3PerS = (double)r.StepMm3PerS * r.FlowFactor,
            MassesG = masses,
            ScaleResolutionG = readings.Resolution([.. Enumerable.Range(1, (int)r.Repeats).Select(i => $"{Mass}{i}")], (double)r.ScaleResolutionG),
            RecommendLossPercent = (double)r.RecommendLossPercent,
            LimitLossPercent = (double)r.LimitLossPercent,
            MarginPercent = (double)r.MarginPercent,
            ExtrudedLengthMm = (double)(r.ExtrudedLengthMm * r.ResidualFlowPercent / 100),
            FilamentDiameterMm = p.FilamentDiameterMm,
            DensityGPerCm3 = p.DensityGPerCm3,
            Failed = failed,
            ClickedAt = click,
            NozzleMm = p.NozzleMm,
            Seed = seed,
        }) with
        { NozzleTemperatureC = (double)p.Temperatures[temperature] };
    }

    /// <inheritdoc/>
    public override WeighedFlowVerdict Judge(WeighedPlan p, RunReadings readings, JudgeContext context)
    {
        var r = p.Request;
        WeighedFlowVerdict At(int temperature) =>
            Under(One(p, temperature, readings, context.Seed), r.ResidualFlowPercent, r.Override);
        return p.Temperatures.Count > 1 ? At(0) with { Other = At(1) } : At(0);
    }

    /// <inheritdoc/>
    public override double? FoundAtC(ITrialPlan plan, string key) => (double)((WeighedPlan)plan).Request.NozzleTemperatureC;

    /// <inheritdoc/>
    public override IReadOnlyList<FoundElsewhere> Elsewhere(TrialVerdict verdict) =>
        verdict is WeighedFlowVerdict { Other: { Advised: true, NozzleTemperatureC: { } atC } other }
            ? [.. other.Settings.Select(s => new FoundElsewhere(atC, s, other.Proves))] : [];

    /// <inheritdoc/>
    protected override TrialChart? Chart(WeighedPlan plan, WeighedFlowVerdict v)
    {
        var r = plan.Request;
        IReadOnlyList<(double X, double Y)> Line(WeighedFlowVerdict w) =>
            [.. w.FlowsMm3PerS.Zip(w.FittedLossPercent).Where(x => x.Second is not null).Select(x => (x.First, x.Second!.Value))];
        IEnumerable<ChartPoint> Points(WeighedFlowVerdict w, string mark) =>
            w.FlowsMm3PerS.Zip(w.LossPercent).Where(x => x.Second is not null)
                .Select(x => new ChartPoint(x.First, x.Second!.Value, x.Second - w.LossUncertaintyPoints, x.Second + w.LossUncertaintyPoints, mark));
        if (v.LossPercent.All(l => l is null))
            return null;
        return new("flow, mm³/s", "loss, %", [.. Points(v, "best"), .. v.Other is { } o ? Points(o, "") : []])
        {
            Line = Line(v),
            OtherLine = v.Other is { } other ? Line(other) : [],
            Legend = v.Other is { NozzleTemperatureC: { } c } ? [$"{Say.N(v.NozzleTemperatureC ?? 0)} °C, filled", $"{Say.N(c)} °C, open"] : [],
            Levels =
            [
                ((double)r.RecommendLossPercent, $"{Say.N(r.RecommendLossPercent)} % accepted"),
                ((double)r.LimitLossPercent, $"{Say.N(r.LimitLossPercent)} % limit"),
            ],
            Chosen = v.RecommendedFlowMm3PerS,
            Summary = v.Sentence,
        };
    }

    /// <inheritdoc/>
    protected override string FileWords(WeighedPlan plan) => $"{Say.N(plan.Temperatures.Max(), 0)} weighed";

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateRequest(
        double StartFlowMm3PerS, double StepMm3PerS, IReadOnlyList<double> MassesG, double ScaleResolutionG, double? RecommendLossPercent,
        double? LimitLossPercent, double? MarginPercent, double? ExtrudedLengthMm, double? FilamentDiameterMm, double? DensityGPerCm3,
        IReadOnlyList<FailedSample>? Failed, double? KnownGoodFlowMm3PerS, double? ResidualFlowPercent, bool? ResidualFlowStays);

    /// <summary>A sample that failed otherwise.</summary>
    public sealed record FailedSample(int Sample, string Reason);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(EvaluateRequest);

    /// <inheritdoc/>
    protected override WeighedFlowVerdict? Answer(JsonFields json)
    {
        var failed = new Dictionary<int, string>();
        foreach (var f in json.List("failed") ?? [])
        {
            if (f.Whole("sample", 0, 99) is { } i)
                failed[i] = f.Text("reason", 200) ?? "no reason given";
        }

        var r = new WeighedReadings
        {
            StartFlowMm3PerS = (double)(json.Number("startFlowMm3PerS", true) ?? 2),
            StepMm3PerS = (double)(json.Number("stepMm3PerS", true) ?? 2),
            MassesG = json.Rows("massesG"),
            ScaleResolutionG = (double)(json.Number("scaleResolutionG") ?? 0.01m),
            RecommendLossPercent = (double)(json.Number("recommendLossPercent") ?? 5),
            LimitLossPercent = (double)(json.Number("limitLossPercent") ?? 10),
            MarginPercent = (double)(json.Number("marginPercent") ?? FreeAirMargin),
            ExtrudedLengthMm = (double?)json.Number("extrudedLengthMm"),
            FilamentDiameterMm = (double?)json.Number("filamentDiameterMm"),
            DensityGPerCm3 = (double?)json.Number("densityGPerCm3"),
            Failed = failed,
            ClickedAt = json.Whole("clickedAt", 0, 99),
            Area = json.Word("area", Flows.Areas) ?? "rectangular",
            NozzleMm = (double)(json.Number("nozzleDiameterMm") ?? 0.4m),
            Seed = json.Whole("seed", 0, int.MaxValue) ?? 1,
        };
        var (practice, (percent, answer)) = (Flows.Practice(json), FlowOverride.Read(json));
        var factor = FlowOverride.FreeFactor(percent, answer);
        if (json.Errors.Count == 0)
            json.Take(WeighedJudging.Check(r));
        r = r with
        {
            StartFlowMm3PerS = r.StartFlowMm3PerS * factor,
            StepMm3PerS = r.StepMm3PerS * factor,
            ExtrudedLengthMm = r.ExtrudedLengthMm * (double)percent / 100,
        };
        return json.Errors.Count > 0 ? null : Under(WeighedJudging.Judge(r), percent, answer, practice);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"startFlowMm3PerS": 4, "stepMm3PerS": 2, "massesG": [0.895, 0.896, 0.894, 0.895, 0.88, 0.853, 0.81, 0.752],""" +
            """ "scaleResolutionG": 0.001, "extrudedLengthMm": 300, "filamentDiameterMm": 1.75, "densityGPerCm3": 1.24}""";
}
