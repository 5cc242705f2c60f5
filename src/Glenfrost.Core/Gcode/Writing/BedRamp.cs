using System.Globalization;
using System.Text.RegularExpressions;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Writing;

/// <summary>A step of a bed that cools slowly behind a print.</summary>
/// <param name="C">Bed, °C.</param>
/// <param name="Minutes">How long it is held.</param>
public sealed record RampStep(double C, double Minutes);

/// <summary>
/// A bed that cools in steps behind a print, so that a part does not let go at a corner while it shrinks: how it is said in a profile, and its lines. A wait is
/// counted out, since waiting for a falling temperature can't be relied on.
/// </summary>
public static partial class BedRamp
{
    /// <summary>Marks each of its lines; with "begins" behind it the line before them.</summary>
    public const string Mark = "; glenfrost cool-down";

    /// <summary>Longest single wait, s: the printer answers to a stop between two of them.</summary>
    public const int LongestDwellS = 30;

    /// <summary>How far above its surroundings a bed gets in any bearable time, °C.</summary>
    public const double AboveSurroundingsC = 5;

    /// <summary>Steps of a ramp that is said to end at the release temperature.</summary>
    private const double UsualStepC = 5, UsualMinutes = 3;

    private const int MostSteps = 60;

    private const double MostMinutes = 24 * 60;

    /// <summary>
    /// Reads what a profile keeps: temperatures with their minutes ("90 °C 10 min, 70 °C 10 min"), equal steps ("5 °C every 3 min to 50 °C"), or "to release",
    /// in usual steps to the temperature at which parts let go.
    /// </summary>
    /// <param name="text">As kept.</param>
    /// <param name="bedC">Bed while printing, °C.</param>
    /// <param name="surroundingsC">Air around the part, °C.</param>
    /// <param name="releaseC">Where parts let go, °C; null where nobody found it.</param>
    /// <returns>The steps, or why no file can hold them; both null where nothing is kept.</returns>
    public static (IReadOnlyList<RampStep>? Steps, string? Why) Read(string? text, double bedC, double surroundingsC, double? releaseC)
    {
        if (string.IsNullOrWhiteSpace(text))
            return (null, null);
        List<RampStep> steps;
        if (ToRelease().IsMatch(text))
        {
            if (releaseC is null)
                return (null, "no release temperature is kept");
            steps = Even(bedC, releaseC.Value, UsualStepC, UsualMinutes);
        }
        else if (Every().Match(text) is { Success: true } every)
        {
            steps = Even(bedC, Number(every, "to"), Number(every, "step"), Number(every, "min"));
        }
        else
        {
            var pairs = text.Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => Held().Match(t)).ToList();
            if (pairs.Count == 0 || pairs.Exists(p => !p.Success))
                return (null, "it is said in words that no file can hold");
            steps = [.. pairs.Select(p => new RampStep(Number(p, "c"), Number(p, "min")))];
            // The first may be the bed's own temperature, held on.
            if (steps.Zip(steps.Skip(1)).Any(s => s.Second.C >= s.First.C))
                return (null, "its temperatures do not fall");
        }

        return steps.Count == 0 || steps[0].C > bedC ? (null, $"the bed has {Say.N(bedC)} °C while it prints: there is nothing to cool down from")
            : steps[^1].C < surroundingsC + AboveSurroundingsC ? (null, $"{Say.N(steps[^1].C)} °C may never be reached: the air has {Say.N(surroundingsC)} °C")
            : steps.Count > MostSteps || steps.Sum(s => s.Minutes) > MostMinutes || steps.Exists(s => s.Minutes <= 0)
                ? (null, "it lasts more than a day, or no time")
            : (steps, null);
    }

    /// <summary>How long they are held together, s; 0 for none.</summary>
    /// <param name="steps">The steps; null for none.</param>
    public static double Seconds(IReadOnlyList<RampStep>? steps) => steps?.Sum(s => s.Minutes) * 60 ?? 0;

    /// <summary>In words: "90 °C 10 min, 70 °C 10 min".</summary>
    public static string Of(IReadOnlyList<RampStep> steps) =>
        steps.Count > 4 ? $"{Say.N(steps[0].C)} to {Say.N(steps[^1].C)} °C in {steps.Count} steps, {Say.N(steps.Sum(s => s.Minutes))} min"
            : string.Join(", ", steps.Select(s => $"{Say.N(s.C)} °C {Say.N(s.Minutes)} min"));

    /// <summary>Its lines: nozzle and fan off, then each step set and waited for by time; the bed off at the end.</summary>
    /// <param name="steps">The steps.</param>
    /// <param name="fromC">Bed while printing, °C.</param>
    /// <param name="dialect">Tells the unit of a wait.</param>
    /// <param name="liftToMm">Height to rise to first; null where the nozzle is clear already, or its place is not known.</param>
    /// <param name="parkMm">Where it goes then, mm; null where it is clear of the part already, or nothing is known of the bed.</param>
    public static IEnumerable<string> Lines(
        IReadOnlyList<RampStep> steps, double fromC, Dialect dialect, double? liftToMm, (double X, double Y)? parkMm = null)
    {
        yield return $"{Mark} begins: {Say.N(fromC, 4)} to {Say.N(steps[^1].C, 4)} C";
        if (liftToMm is not null || parkMm is not null)
            yield return $"G90 {Mark}";
        if (liftToMm is { } z)
            yield return $"G0 Z{Say.N(z, 4)} F600 {Mark}: straight up, clear of the part";
        if (parkMm is { } park)
            yield return $"G0 X{Say.N(park.X, 4)} Y{Say.N(park.Y, 4)} F3000 {Mark}: beside the part";
        yield return $"M104 S0 {Mark}: nozzle off";
        yield return $"M107 {Mark}: fan off";
        foreach (var step in steps)
        {
            yield return $"M140 S{Say.N(step.C, 4)} {Mark}: {Say.N(step.C, 4)} C for {Say.N(step.Minutes, 4)} min";
            for (var left = step.Minutes * 60; left > 1e-6; left -= LongestDwellS)
                yield return $"{dialect.Dwell(Math.Min(left, LongestDwellS))} {Mark}";
        }

        yield return $"M140 S0 {Mark}: bed off";
    }

    /// <summary>Equal steps, none larger than asked for, the last one where it ends; none where it ends no colder, or a step is none.</summary>
    /// <param name="fromC">Bed while printing, °C.</param>
    /// <param name="toC">Where it ends, °C.</param>
    /// <param name="stepC">Largest step, °C; above 0.</param>
    /// <param name="minutes">How long each is held.</param>
    public static List<RampStep> Even(double fromC, double toC, double stepC, double minutes)
    {
        if (!(stepC > 0) || toC >= fromC || (fromC - toC) / stepC > MostMinutes)
            return [];
        var count = Math.Max(1, (int)Math.Ceiling((fromC - toC) / stepC - 1e-9));
        return [.. Enumerable.Range(1, count).Select(i => new RampStep(i == count ? toC : Math.Round(fromC - i * (fromC - toC) / count, 1), minutes))];
    }

    private static double Number(Match m, string group) => double.Parse(m.Groups[group].ValueSpan, CultureInfo.InvariantCulture);

    [GeneratedRegex(@"^(?<c>\d+(\.\d+)?)\s*(°\s*C|C|degrees)?\s*(for\s+)?(?<min>\d+(\.\d+)?)\s*min(utes)?$", RegexOptions.IgnoreCase)]
    private static partial Regex Held();

    [GeneratedRegex(
        @"^(?<step>\d+(\.\d+)?)\s*(°\s*C|C|degrees)?\s*(every|each|per|in)\s*(?<min>\d+(\.\d+)?)\s*min(utes)?,?\s*" +
            @"(down\s+)?to\s*(?<to>\d+(\.\d+)?)\s*(°\s*C|C|degrees)?$",
        RegexOptions.IgnoreCase)]
    private static partial Regex Every();

    [GeneratedRegex(@"^((in\s+steps|down)\s+)?to\s+(the\s+)?release(\s+temperature)?$", RegexOptions.IgnoreCase)]
    private static partial Regex ToRelease();
}
