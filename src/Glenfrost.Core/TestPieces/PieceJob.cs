using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.TestPieces;

/// <summary>A temperature from a layer on.</summary>
/// <param name="Piece">Piece of the plate, from 0.</param>
/// <param name="Layer">Layer of that piece, from 1.</param>
/// <param name="TemperatureC">Nozzle temperature.</param>
/// <param name="Note">What begins there, for the comment in the file.</param>
public sealed record TemperatureFrom(int Piece, int Layer, double TemperatureC, string Note);

/// <summary>What a piece is printed with besides settings.</summary>
public sealed record JobRequest
{
    /// <summary>Pieces in the order of printing; more than one are printed one after another.</summary>
    public required IReadOnlyList<Piece> Pieces { get; init; }

    /// <summary>Temperatures; the first one belongs to layer 1 of piece 0.</summary>
    public required IReadOnlyList<TemperatureFrom> Temperatures { get; init; }

    /// <summary>True where the print waits at each change until the nozzle is there; else it is reached while moving.</summary>
    public bool WaitAtChanges { get; init; }

    /// <summary>What would be right where the pieces don't all fit on the bed, as a sentence begins with it.</summary>
    public string Fewer { get; init; } = "Fewer sections or one tower";

    /// <summary>Lines for the head of the file: what was planned.</summary>
    public IReadOnlyList<string> PlanLines { get; init; } = [];
}

/// <summary>A piece that is ready to print: placed, turned into moves, timed and weighed.</summary>
public sealed record PieceJob
{
    /// <summary>What was asked.</summary>
    public required JobRequest Request { get; init; }
    /// <summary>The machine that it is for.</summary>
    public required Machine Machine { get; init; }
    /// <summary>Settings that it is laid with.</summary>
    public required PrintSettings Settings { get; init; }
    /// <summary>Where its pieces stand on the plate.</summary>
    public required PlateLayout Layout { get; init; }

    /// <summary>All layers in the order of printing.</summary>
    public required IReadOnlyList<MovedLayer> Layers { get; init; }

    /// <summary>Seconds from the first move to the beginning of each layer.</summary>
    public required IReadOnlyList<double> StartSeconds { get; init; }

    /// <summary>Filament of all of it with skirt, brim and prime line, mm.</summary>
    public required double FeedMm { get; init; }

    /// <summary>Start and end code with their placeholders filled.</summary>
    public required string StartCode { get; init; }

    /// <summary>End code.</summary>
    public required string EndCode { get; init; }

    /// <summary>What a tester should know before printing.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Seconds of printing, heating up not counted.</summary>
    public double Seconds => StartSeconds[^1] + Layers[^1].Seconds;

    /// <summary>Minutes with the bed's cooling in steps, where it does, rounded up.</summary>
    public int Minutes => (int)Math.Ceiling((Seconds + BedRamp.Seconds(Settings.CoolDown)) / 60);

    /// <summary>Plastic, mm³, as fed.</summary>
    public double VolumeMm3 => FeedMm * Settings.FilamentAreaMm2;

    /// <summary>Mass, g.</summary>
    public double MassG => VolumeMm3 / 1000 * Settings.DensityGPerCm3;

    /// <summary>Filament cost in minor units; null where the price is not known.</summary>
    public double? CostMinor => Settings.PriceMinorPerKg is { } p ? p * MassG / 1000 : null;

    /// <summary>Seconds from the first move to the beginning of a layer.</summary>
    public double SecondsAt(int piece, int layer)
    {
        for (var i = 0; i < Layers.Count; i++)
        {
            if (Layers[i].Piece == piece && Layers[i].Number == layer)
                return StartSeconds[i];
        }

        throw new ArgumentOutOfRangeException(nameof(layer), $"Piece {piece} has no layer {layer}.");
    }

    /// <summary>
    /// Places, plans and checks. Refused at a field: what does not fit the bed, the height or the limits, and start or end
    /// code with unknown placeholders or temperatures above a limit.
    /// </summary>
    public static (PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(JobRequest request, Machine m, PrintSettings s, PieceMemory? memory = null)
    {
        var errors = new List<FieldError>();
        var dialect = Dialect.Of(m.Dialect);
        var firstPiece = request.Pieces[0];
        var values = Placeholders.Values(
            m, s, request.Temperatures[0].TemperatureC, firstPiece.Layers[^1].HeightMm, firstPiece.Layers[0].HeightMm, request.Pieces.Sum(p => p.Layers.Count),
            request.Pieces.Max(p => p.HeightMm));
        var start = Code("startCode", "start code", m.StartCode, dialect.StartCode, values, m, errors);
        var end = Code("endCode", "end code", m.EndCode, dialect.EndCode, values, m, errors);
        foreach (var t in request.Temperatures.Where(t => t.TemperatureC > m.Limits.MaxC || t.TemperatureC < m.Limits.MinC).Take(1))
            errors.Add(
                new(
                    "nozzleTemperatureC",
                    $"{Say.N(t.TemperatureC)} °C is outside this machine's limits, {Say.N(m.Limits.MinC)} to {Say.N(m.Limits.MaxC)} °C " +
                    $"({m.Limits.MaxBecause})."));
        if (s.BedTemperatureC > m.BedMaxC || s.FirstLayerBedTemperatureC > m.BedMaxC)
            errors.Add(
                new("bedTemperatureC", $"{Say.N(Math.Max(s.BedTemperatureC, s.FirstLayerBedTemperatureC))} °C is above the bed's limit of " +
                    $"{Say.N(m.BedMaxC)} °C."));
        var thickest = request.Pieces.Max(p => p.Layers.Max(l => l.HeightMm));
        if (s.LineWidthMm < 0.6 * m.NozzleDiameterMm || s.LineWidthMm > 2 * m.NozzleDiameterMm)
            errors.Add(
                new(
                    "lineWidthMm",
                    $"The profile's line width of {Say.N(s.LineWidthMm)} mm is none for a {Say.N(m.NozzleDiameterMm)} mm nozzle: between " +
                        $"{Say.N(0.6 * m.NozzleDiameterMm)} and {Say.N(2 * m.NozzleDiameterMm)} mm would be right."
                ));
        else if (s.LineWidthMm < thickest)
            errors.Add(
                new(
                    "lineWidthMm",
                    $"Layers of {Say.N(thickest)} mm are higher than the profile's line is wide, {Say.N(s.LineWidthMm)} mm: thinner layers or a " +
                    $"wider line would " +
                        $"be right."
                ));
        if (errors.Count > 0)
            return (null, errors);
        var (layout, misfit) = Plate.Place(request.Pieces, m, s, request.Fewer);
        if (misfit is not null)
            errors.Add(misfit);
        if (layout is null || errors.Count > 0)
            return (null, errors);

        var waits = request.WaitAtChanges ? request.Temperatures.Skip(1).Select(t => (t.Piece, t.Layer)).ToHashSet() : [];
        // Temperatures move nothing: the same pieces in the same places with the same settings take the same moves.
        var known = memory ?? PieceMemory.None;
        var moving = s with { Sources = [], ByHand = [], CoolDown = null, PriceMinorPerKg = null, Currency = null };
        var layers = known.Once(new Moved(layout.Pieces, moving, waits), MovesWeight, () =>
            new Planner(s, known).Plan(layout.Pieces, waits));
        var starts = new List<double>(layers.Count);
        var seconds = 0.0;
        foreach (var layer in layers)
        {
            starts.Add(seconds);
            seconds += layer.Seconds;
        }

        var feed =
            layers.Sum(l => l.Moves.Where(x => x.Kind == MoveKind.Extrude).Sum(x => x.E))
            + (layout.PrimeFromX is null ? 0 : 2 * PrimeLineMm(layout, s, firstPiece.Layers[0].HeightMm));
        var warnings = new List<PlanWarning>();
        // Layers whose time is gone through on purpose are slowed by it, and need no word.
        warnings.AddRange(Slowed([.. layers.Where(l => l.LeastTimeS is null)], s));
        if (request.WaitAtChanges)
            warnings.Add(new(PlanWarningKind.WaitsAtChanges));
        if (layout.PrimeFromX is null)
            warnings.Add(new(PlanWarningKind.NoPrimeLine));
        warnings.AddRange(ShrinkCautions.Of(s, m, request.Pieces.Any(p => p.HeightMm > 0.8)));
        return (new PieceJob
        {
            Request = request,
            Machine = m,
            Settings = s,
            Layout = layout,
            Layers = layers,
            StartSeconds = starts,
            FeedMm = feed,
            StartCode = start!,
            EndCode = end!,
            Warnings = warnings,
        }, []);
    }

    /// <summary>A layer whose lines are laid at this share of their speed, or more, is not called slowed.</summary>
    public const double NotSlowed = 0.995;

    /// <summary>What slows a piece: its least layer time, where it does so to half of the layers or more, and what would not.</summary>
    private static IEnumerable<PlanWarning> Slowed(IReadOnlyList<MovedLayer> layers, PrintSettings s)
    {
        var slow = layers.Where(l => l.Slowed < NotSlowed).ToList();
        if (slow.Count > 0 && 2 * slow.Count >= layers.Count)
        {
            var speeds = slow.Select(l => l.SlowestMmPerS).OfType<double>().ToList();
            var from = s.Sources.FirstOrDefault(x => x.Key == "minLayerTimeS")?.From;
            yield return new(
                PlanWarningKind.Slowed, [slow.Count, layers.Count, Math.Round(speeds.Min()), Math.Round(speeds.Max()), s.MinLayerTimeS],
                from is null ? [] : [from]);
        }

        if (layers.Where(l => l.TooShort).ToList() is { Count: > 0 } small)
        {
            var shortest = small.Min(l => l.Seconds);
            yield return new(
                PlanWarningKind.TooShort, small.Count, s.MinLayerTimeS, s.MinPrintSpeedMmPerS,
                shortest < 1 ? Math.Floor(shortest * 10) / 10 : Math.Floor(shortest));
        }
    }

    private sealed class ByReference : IEqualityComparer<Piece>
    {
        public static readonly ByReference Instance = new();

        public bool Equals(Piece? a, Piece? b) => ReferenceEquals(a, b);

        public int GetHashCode(Piece p) => 0;
    }

    /// <summary>What the moves of a plate weigh in a memory.</summary>
    private const int MovesWeight = 6000;

    /// <summary>What moves depend on; pieces by reference.</summary>
    private sealed class Moved(IReadOnlyList<Placed> pieces, PrintSettings settings, HashSet<(int, int)> waits) : IEquatable<Moved>
    {
        private readonly string same = $"{settings}|{string.Join(',', waits.Order())}|{string.Join(',', pieces.Select(p => $"{p.X:R} {p.Y:R}"))}";
        private readonly Piece[] pieces = [.. pieces.Select(p => p.Piece)];

        public bool Equals(Moved? other) => other is not null && same == other.same && pieces.AsSpan().SequenceEqual(other.pieces, ByReference.Instance);

        public override bool Equals(object? obj) => Equals(obj as Moved);

        public override int GetHashCode() => same.GetHashCode(StringComparison.Ordinal);
    }

    /// <summary>Filament of one pass of the prime line, mm: a line and a fifth wide.</summary>
    internal static double PrimeLineMm(PlateLayout layout, PrintSettings s, double height) =>
        s.FeedMm(layout.PrimeToX - layout.PrimeFromX!.Value, 1.2 * s.SpacingMm(height), height);

    private static string? Code(
        string field, string name, string? own, string usual, IReadOnlyDictionary<string, double> values, Machine m, List<FieldError> errors)
    {
        var code = string.IsNullOrWhiteSpace(own) ? usual : own;
        if (Placeholders.Check(code) is { } wrong)
        {
            errors.Add(new(field, $"The {name} of {m.Name} can't be filled: {wrong}"));
            return null;
        }

        var filled = Placeholders.Fill(code, values);
        if (GcodeGuard.Temperatures(filled, m) is { } hot)
        {
            errors.Add(new(field, $"The {name} of {m.Name}: {hot}"));
            return null;
        }

        return filled;
    }

}
