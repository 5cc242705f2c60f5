using Glenfrost.Application.Gcode;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Web.Gcode;

/// <summary>
/// An inspection as the API and the command line say it. Lengths in mm, volumes in mm³, times in s, temperatures in °C; layers and features count from 0, lines
/// from 1; NaN and what is not known is null.
/// </summary>
public sealed record GcodeReport
{
    public long Bytes { get; init; }
    public int Lines { get; init; }
    public int Moves { get; init; }
    public int Objects { get; init; }

    /// <summary>Time of all moves and waits; heating is not counted.</summary>
    public double Seconds { get; init; }

    /// <summary>trapezoid: with acceleration; asked: the speeds of the file alone.</summary>
    public string TimeFrom { get; init; } = "";
    public double ExtrudeSeconds { get; init; }
    public double TravelSeconds { get; init; }
    public double DwellSeconds { get; init; }
    public double FilamentMm { get; init; }
    public double VolumeMm3 { get; init; }
    public double PrimingMm3 { get; init; }
    public double StandingMm3 { get; init; }
    public double MassG { get; init; }
    public double? CostMinor { get; init; }
    public string? Currency { get; init; }
    public IReadOnlyList<double> BoxMm { get; init; } = [];
    public FlowReport Flow { get; init; } = new(null, null, null, 0, 0, -1, 0, []);
    public IReadOnlyList<ClassReport> Widths { get; init; } = [];
    public RetractionReport Retraction { get; init; } = new(0, 0, 0, null, null, null, 0);
    public IReadOnlyList<FeatureReport> Features { get; init; } = [];
    public IReadOnlyList<LayerReport> Layers { get; init; } = [];
    public IReadOnlyList<OddityReport> Odd { get; init; } = [];
    public IReadOnlyDictionary<string, int> Unknown { get; init; } = new Dictionary<string, int>();
    public IReadOnlyList<UnreadLine> Unreadable { get; init; } = [];
    public int UnreadableLines { get; init; }
    public SlowDowns? SlowedLayers { get; init; }

    /// <summary>What a least layer time does; null where no layer is slowed and the file states none.</summary>
    public SlowDownReport? SlowDown { get; init; }

    /// <summary>Sections that the model shows by itself; null where nothing repeats.</summary>
    public RepeatsReport? Repeats { get; init; }

    /// <param name="BaseMm">Height beneath the first section.</param>
    /// <param name="PitchMm">Height of a section, measured over all of them.</param>
    /// <param name="Sections">How many.</param>
    /// <param name="LayersPerSection">A fraction where the pitch is no whole number of layers.</param>
    /// <param name="Whole">True where it is one.</param>
    /// <param name="FittingLayerHeightsMm">Layer heights at which it comes out whole.</param>
    public sealed record RepeatsReport(
        double BaseMm, double PitchMm, int Sections, double LayersPerSection, bool Whole, IReadOnlyList<double> FittingLayerHeightsMm)
    {
        /// <summary>Says it.</summary>
        public static RepeatsReport? Of(Repeats? r) =>
            r is null ? null : new(r.BaseMm, r.SectionMm, r.Sections, r.LayersPerSection, r.Whole, [.. r.Fitting.Select(f => f.HeightMm)]);
    }

    public sealed record ClassReport(double From, double Weight);

    /// <param name="MedianMm3PerS">By time.</param>
    /// <param name="P95Mm3PerS">By time.</param>
    /// <param name="LimitMm3PerS">The limit asked about.</param>
    /// <param name="MaxMm3PerS">The fastest of a move.</param>
    /// <param name="MaxLine">Its line.</param>
    /// <param name="MaxLayer">Its layer.</param>
    /// <param name="SecondsAbove">Seconds above the limit.</param>
    /// <param name="Classes">Seconds in each class of 0.5 mm³/s.</param>
    public sealed record FlowReport(
        double? MedianMm3PerS, double? P95Mm3PerS, double? LimitMm3PerS, double MaxMm3PerS, int MaxLine, int MaxLayer, double SecondsAbove,
        IReadOnlyList<ClassReport> Classes);

    public sealed record RetractionReport(
        int Count, int Firmware, double LengthMm, double? SpeedMmPerS, double? ReturnSpeedMmPerS, double? HopMm, double WipeMm);

    /// <param name="LeastLayerTimeS">Time that layers are slowed to; null where slowed ones have none in common.</param>
    /// <param name="StatedInFile">True where the file states it in a comment.</param>
    /// <param name="Layers">Slowed layers.</param>
    /// <param name="CostSeconds">What the slowing costs.</param>
    /// <param name="CostIsAtLeast">True where it costs that much or more: no layer shows the file's own speeds, or ramps take much of the time.</param>
    public sealed record SlowDownReport(double? LeastLayerTimeS, bool StatedInFile, int Layers, double CostSeconds, bool CostIsAtLeast)
    {
        internal static SlowDownReport? Of(SlowDowns? s) =>
            s is null ? null : new(double.IsNaN(s.MinimumS) ? null : R(s.MinimumS, 2), s.Stated, s.Layers, R(s.CostS, 2), s.AtLeast);
    }

    public sealed record FeatureReport(string Name, double LengthMm, double VolumeMm3, double Seconds);

    public sealed record OddityReport(string Key, string Weight, string Text, string ToDo, int? Line, int? Layer, string? Fix);

    public sealed record LayerReport(
        int Layer, int Object, bool Priming, bool Spiral, double ZMm, double ThicknessMm, double Seconds, double FilamentMm, double MassG, double WidthMm,
        double FlowMm3PerS, double MaxFlowMm3PerS, int MaxFlowLine, double SecondsAbove, double? NozzleMinC, double? NozzleMaxC, double FanMinPercent,
        double FanMaxPercent, int Retractions, int FirstLine, IReadOnlyList<int> Features);

    /// <summary>Says it.</summary>
    public static GcodeReport Of(FileFacts f)
    {
        var slow = f.Empty ? null : SlowDowns.Of(f);
        return new()
        {
            Bytes = f.Bytes, Lines = f.Lines, Moves = f.Moves, Objects = f.Objects, Seconds = R(f.Seconds, 2),
            TimeFrom = f.Request.Motion is null ? "asked" : "trapezoid", ExtrudeSeconds = R(f.ExtrudeSeconds, 2), TravelSeconds = R(f.TravelSeconds, 2),
            DwellSeconds = R(f.DwellSeconds, 2), FilamentMm = R(f.FilamentMm, 3), VolumeMm3 = R(f.Volume, 3),
            PrimingMm3 = R(f.PrimingVolume + f.Layers.Where(l => l.Priming).Sum(l => l.Volume), 3), StandingMm3 = R(f.StandingVolume, 3), MassG = R(f.Grams, 3),
            CostMinor = f.Cost is { } cost ? R(cost, 2) : null, Currency = f.Cost is null ? null : f.Request.Currency,
            BoxMm = f.Empty ? [] : [R(f.Box.MinX, 3), R(f.Box.MinY, 3), R(f.Box.MaxX, 3), R(f.Box.MaxY, 3), R(f.Box.MaxZ, 3)],
            Flow = new(
                Q(f.Flow.Quantile(0.5)), Q(f.Flow.Quantile(0.95)), f.Request.FlowLimit, R(f.MaxFlow, 3), f.MaxFlowLine, f.MaxFlowLayer, R(f.SecondsAbove, 2),
                Classes(f.Flow, 5)),
            Widths = Classes(f.Width, 1),
            Retraction = new(
                f.Retraction.Count, f.Retraction.Firmware, R(f.Retraction.Usual, 3), Mode(f.Retraction.Speed), Mode(f.Retraction.ReturnSpeed),
                f.Retraction.Hop.Total > 0 ? R(f.Retraction.Hop.Mode - 0.005, 2) : null, R(f.Retraction.WipeLength, 1)),
            Features = [.. f.Features.Select(x => new FeatureReport(x.Name, R(x.Length, 1), R(x.Volume, 2), R(x.Seconds, 2)))],
            Layers = [.. f.Layers.Select(l => Layer(f, l))], Odd =
            [
                .. Oddities.Of(f)
                    .Select(o => new OddityReport(
                        o.Key, o.Weight.ToString().ToLowerInvariant(), o.Text, o.ToDo, o.Line > 0 ? o.Line : null, o.Layer >= 0 ? o.Layer : null, o.Fix)),
            ],
            Unknown = f.Unknown, Unreadable = f.Unread, UnreadableLines = f.UnreadLines,
            SlowedLayers = Finite(slow), SlowDown = SlowDownReport.Of(slow),
            Repeats = f.Empty ? null : RepeatsReport.Of(Core.Gcode.Inspection.Repeats.Of(f)),
        };
    }

    private static SlowDowns? Finite(SlowDowns? s) =>
        s is not { Layers: > 0 }
            ? null
            : s with
            {
                MinimumS = double.IsNaN(s.MinimumS) ? 0 : R(s.MinimumS, 2),
                CostS = R(s.CostS, 2),
                SlowestShare = R(s.SlowestShare, 3),
                Others = [.. s.Others.Select(o => o with { ChangeS = R(o.ChangeS, 1) })],
            };

    /// <summary>One layer.</summary>
    public static LayerReport Layer(FileFacts f, LayerFacts l) =>
        new(
            l.Index, l.Object, l.Priming, l.Spiral, R(l.Z, 4), R(l.Thickness, 4), R(l.Seconds, 2), R(l.Volume / f.FilamentArea, 3),
            R(l.Volume / 1000 * f.Request.DensityGPerCm3, 4), R(l.MeanWidth, 3), R(l.MeanFlow, 2), R(l.MaxFlow, 2), l.MaxFlowLine, R(l.SecondsAbove, 2),
            Q(l.NozzleMin), Q(l.NozzleMax), R(l.FanMin, 1), R(l.FanMax, 1), l.Retractions, l.FirstLine, [.. l.Features.Select(x => x.Feature)]);

    private static IReadOnlyList<ClassReport> Classes(Histogram h, int together) =>
        [
            .. h.Shown().GroupBy(c => Math.Floor(c.From / h.Width / together + 1e-6))
                .Select(g => new ClassReport(R(g.Key * h.Width * together, 3), R(g.Sum(c => c.Weight), 2))),
        ];

    private static double? Mode(Histogram h) => h.Total > 0 ? Math.Floor(h.Mode) : null;

    private static double? Q(double v) => double.IsFinite(v) ? R(v, 3) : null;

    private static double R(double v, int digits) => double.IsFinite(v) ? Math.Round(v, digits) : 0;
}

/// <summary>The proof of a stepped file as the API and the command line say it.</summary>
public sealed record ProofReport(
    bool Holds, string Plan, IReadOnlyList<ProofReport.Section> Sections, int Added, int SwitchedOff, int MovesChanged, int OtherLinesChanged,
    IReadOnlyList<string> Wrong, IReadOnlyList<string> Notes)
{
    /// <param name="Number">From 1.</param>
    /// <param name="Object">From 0.</param>
    /// <param name="Wanted">Value of the plan.</param>
    /// <param name="FoundMin">Least found in its layers; null where nothing can be found.</param>
    /// <param name="FoundMax">Most found.</param>
    /// <param name="FromMm">Its bottom.</param>
    /// <param name="ToMm">Its top.</param>
    /// <param name="Layers">How many.</param>
    /// <param name="Line">Line of the new file.</param>
    /// <param name="Holds">Wanted is found.</param>
    public sealed record Section(
        int Number, int Object, double Wanted, double? FoundMin, double? FoundMax, double FromMm, double ToMm, int Layers, int Line, bool Holds);

    /// <summary>Says it.</summary>
    public static ProofReport Of(StepPlan plan, StepProof p) =>
        new(
            p.Holds, plan.Line,
            [
                .. p.Sections.Select(s => new Section(
                    s.Section.Section + 1, s.Section.Object, s.Section.Value, double.IsNaN(s.FoundMin) ? null : Math.Round(s.FoundMin, 4),
                    double.IsNaN(s.FoundMax) ? null : Math.Round(s.FoundMax, 4), s.Section.FromMm, s.Section.ToMm, s.Section.Layers, s.Line, s.Holds)),
            ],
            p.Diff.Added, p.Diff.Off, p.Diff.Moves, p.Diff.Other, p.Others, plan.Notes);
}
