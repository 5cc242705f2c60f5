using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>Readings of counted lines or crooks.</summary>
public sealed record PressureReadings
{
    /// <summary>Factor of the first one, s.</summary>
    public double StartK { get; init; }

    /// <summary>Step, s.</summary>
    public double StepK { get; init; } = 0.01;

    /// <summary>How many.</summary>
    public int Count { get; init; }

    /// <summary>The best one, from 0, halves allowed; null where scores are given.</summary>
    public double? Best { get; init; }

    /// <summary>Scores 0–4 of each; null where one was not scored. Empty where the best is given.</summary>
    public IReadOnlyList<double?> Scores { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>direct or long-tube; null where nobody said.</summary>
    public string? Drive { get; init; }

    /// <summary>What it was found at; it belongs to it.</summary>
    public FoundAt? FoundAt { get; init; }
}

/// <summary>What a factor was found at.</summary>
/// <param name="NozzleTemperatureC">°C.</param>
/// <param name="SlowMmPerS">Slow speed, mm/s.</param>
/// <param name="FastMmPerS">Fast speed, mm/s.</param>
/// <param name="AccelerationMmPerS2">mm/s².</param>
public sealed record FoundAt(double NozzleTemperatureC, double SlowMmPerS, double FastMmPerS, double AccelerationMmPerS2);

/// <summary>Numbered lines that would tell finer.</summary>
public sealed record KRange(double StartK, double StepK, int Count);

/// <summary>How a factor is set.</summary>
/// <param name="Dialect">Key of the dialect.</param>
/// <param name="Command">Line of G-code.</param>
public sealed record KCommand(string Dialect, string Command);

/// <summary>What a row says.</summary>
public enum PressureOutcome
{
    /// <summary>Too little is read, or nothing reads as usable.</summary>
    Insufficient,

    /// <summary>A factor.</summary>
    Clear,

    /// <summary>A factor on a coarse row: a finer one tells closer.</summary>
    Finer,

    /// <summary>The best is the end of the row: it may lie beyond.</summary>
    Edge,

    /// <summary>Places far apart read alike.</summary>
    Noise,
}

/// <summary>The numbers between readings and verdict, for the words.</summary>
/// <param name="Best">Number of the best one, halves allowed.</param>
/// <param name="HalfSteps">95 % half-width in steps, not rounded.</param>
/// <param name="Read">Scores that it rests on; 0 where the best was named.</param>
/// <param name="Gain">What the next row would gain, in scores; null where that is not known.</param>
public sealed record PressureNumbers(double Best, double HalfSteps, int Read, double? Gain);

/// <summary>The verdict on pressure advance.</summary>
public sealed record PressureVerdict : TrialVerdict<PressureOutcome>
{
    /// <summary>What it was judged from; null where nothing is read.</summary>
    [JsonIgnore]
    public PressureReadings? From { get; init; }

    /// <summary>The numbers on the way; null where there is no factor.</summary>
    [JsonIgnore]
    public PressureNumbers? Numbers { get; init; }

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Factor, s; null where none is proposed.</summary>
    public double? K { get; init; }

    /// <summary>Half of its interval, s.</summary>
    public double? UncertaintyK { get; init; }

    /// <summary>The next range; null where nothing is left to tell.</summary>
    public KRange? NextRange { get; init; }

    /// <summary>Commands for each dialect.</summary>
    public IReadOnlyList<KCommand> Commands { get; init; } = [];

    /// <summary>What it was found at; null where nobody said.</summary>
    public FoundAt? FoundAt { get; init; }

    /// <summary>Factors, s, and scores; empty where the best was named.</summary>
    public IReadOnlyList<double> Ks { get; init; } = [];

    /// <summary>Score of each; null where one was not scored.</summary>
    public IReadOnlyList<double?> Scores { get; init; } = [];
}
