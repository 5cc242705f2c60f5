using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.FlexCompression;

/// <summary>Lengths of cut pieces, mm.</summary>
public sealed record FlexReadings
{
    /// <summary>Pushed by hand to the stop and cut flush.</summary>
    public IReadOnlyList<double> HandLengthsMm { get; init; } = [];

    /// <summary>Driven by the motor until it slipped and cut flush.</summary>
    public IReadOnlyList<double> DrivenLengthsMm { get; init; } = [];

    /// <summary>Smallest step of the calliper or ruler.</summary>
    public double ResolutionMm { get; init; } = 0.05;

    /// <summary>Length of the blocked stub; null where nobody said.</summary>
    public double? StubLengthMm { get; init; }

    /// <summary>Length from the gear to the nozzle's melt; null where nobody said.</summary>
    public double? PathLengthMm { get; init; }
}

/// <summary>What cut pieces say.</summary>
public enum FlexOutcome
{
    /// <summary>Too few pieces.</summary>
    Insufficient,

    /// <summary>Pieces pushed by hand are too far apart: cutting or stop, not compression.</summary>
    Repeat,

    /// <summary>It packs no more than cutting and measuring scatter.</summary>
    NoCompression,

    /// <summary>It packs: a ceiling for the sweep of retraction.</summary>
    Compression,
}

/// <summary>The numbers between readings and verdict, for the words. Lengths in mm.</summary>
/// <param name="Hand">Mean and scatter of the pieces pushed by hand.</param>
/// <param name="Driven">Mean and scatter of the driven ones.</param>
/// <param name="CompressionMm">Mean driven less mean hand.</param>
/// <param name="HalfWidthMm">95 % half-width of it, by Welch's interval.</param>
/// <param name="Freedom">Degrees of freedom of that interval.</param>
/// <param name="PathOverStub">Length of the path over that of the stub; 1 where one of them is not known.</param>
public sealed record FlexNumbers(Measured Hand, Measured Driven, double CompressionMm, double HalfWidthMm, double Freedom, double PathOverStub)
{
    /// <summary>Where a sweep begins, mm.</summary>
    public double StartMm => Math.Round(CompressionMm * PathOverStub, 2);
}

/// <summary>The verdict on a compression.</summary>
public sealed record FlexVerdict : TrialVerdict<FlexOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public FlexReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where it can't be said.</summary>
    [JsonIgnore]
    public FlexNumbers? Numbers { get; init; }

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Mean driven less mean hand, mm; null where it can't be said.</summary>
    public double? CompressionMm { get; init; }

    /// <summary>Half of its 95 % interval, mm.</summary>
    public double? UncertaintyMm { get; init; }

    /// <summary>Compression as a share of the stub, %; null where its length is not known.</summary>
    public double? CompressionPercent { get; init; }

    /// <summary>Where a sweep begins, mm: a ceiling; null where there is none.</summary>
    public double? StartRetractionMm { get; init; }
}
