using System.Globalization;
using System.Text.RegularExpressions;

namespace Glenfrost.Core.Settings;

/// <summary>What a person may type into a number field: a name, a unit, a range and the reason for the range.</summary>
/// <param name="Name">The field's name as a sentence begins with it, for example "Nozzle temperature".</param>
/// <param name="Unit">The unit, written as shown beside the field; empty for a bare number.</param>
/// <param name="Min">Smallest value accepted, in <paramref name="Unit"/>.</param>
/// <param name="Max">Largest value accepted, in <paramref name="Unit"/>.</param>
/// <param name="Why">Why the range is what it is; shown when a value is refused.</param>
/// <param name="WholeNumber">True where only whole numbers make sense (layers, sections).</param>
/// <param name="AcceptsFahrenheit">True where °F may be typed and is converted (room and chamber).</param>
public sealed partial record Quantity(
    string Name, string Unit, decimal Min, decimal Max, string Why, bool WholeNumber = false, bool AcceptsFahrenheit = false)
{
    /// <summary>Factors from a unit that people type by mistake to the field's own unit.</summary>
    private static readonly Dictionary<(string Typed, string Wanted), decimal> Conversions = new()
    {
        [("m", "mm")] = 1000m,
        [("cm", "mm")] = 10m,
        [("um", "mm")] = 0.001m,
        [("µm", "mm")] = 0.001m,
        [("in", "mm")] = 25.4m,
        [("\"", "mm")] = 25.4m,
        [("mm/min", "mm/s")] = 1m / 60m,
        [("kg", "g")] = 1000m,
        [("mg", "g")] = 0.001m,
        [("min", "h")] = 1m / 60m,
        [("s", "min")] = 1m / 60m,
        [("h", "min")] = 60m,
        [("kg/m3", "g/cm³")] = 0.001m,
        [("kg/m³", "g/cm³")] = 0.001m,
    };

    /// <summary>Reads a typed text. Comma or point as decimal sign; the field's own unit may follow.</summary>
    /// <returns>The value in <see cref="Unit"/>, or a message that says what is wrong and what would be right.</returns>
    public Parsed Parse(string? text)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Parsed.Refused($"{Name} is empty. Type a number{InUnit()}, {RangeText()}.");
        if (typed.Length > 40)
            return Parsed.Refused($"{Name} is {typed.Length} characters long. Type a number{InUnit()}, {RangeText()}.");
        if (AcceptsFahrenheit && Between().Match(typed.Replace('−', '-').Replace('–', '-').Replace('\u00a0', ' ')) is { Success: true } between)
            return ParseBetween(between);
        // As Glenfrost itself writes a time: 2 h 15.
        if (Unit is "h" or "min" && HoursAndMinutes().Match(typed) is { Success: true } clock)
        {
            decimal Part(string of) => int.Parse(clock.Groups[of].Value, CultureInfo.InvariantCulture);
            if (Part("m") < 60)
                return Check(Unit == "h" ? Math.Round(Part("h") + Part("m") / 60, 4) : 60 * Part("h") + Part("m"));
        }

        var match = NumberAndUnit().Match(typed.Replace('−', '-').Replace(' ', ' '));
        if (!match.Success)
            return Parsed.Refused($"\"{typed}\" is not a number. Type {Name.ToLowerInvariant()}{InUnit()}, {RangeText()}.");
        var digits = match.Groups["n"].Value;
        if (digits.Contains(',') && digits.Contains('.'))
            return Parsed.Refused($"\"{typed}\" holds both a comma and a point. Use one of them as the decimal sign.");
        if (!decimal.TryParse(digits.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value))
            return Parsed.Refused($"\"{typed}\" is not a number that fits here. Type {Name.ToLowerInvariant()}{InUnit()}, {RangeText()}.");
        var unit = NormaliseUnit(match.Groups["u"].Value);
        var own = NormaliseUnit(Unit);
        if (unit.Length > 0 && unit != own)
        {
            if (own == "°c" && unit == "°f")
            {
                var celsius = Math.Round((value - 32m) / 1.8m, 1);
                if (!AcceptsFahrenheit)
                    return Parsed.Refused($"Type {Name.ToLowerInvariant()} in °C: {Say.N(value, 4)} °F is {Say.N(celsius, 4)} °C.");
                value = celsius;
            }
            else if (Conversions.TryGetValue((unit, Unit), out var factor))
            {
                return Parsed.Refused(
                    $"Type {Name.ToLowerInvariant()} in {Unit}: {Say.N(value, 4)} {match.Groups["u"].Value.Trim()} is {Say.N(value * factor, 4)} {Unit}.");
            }
            else
            {
                return Parsed.Refused($"\"{match.Groups["u"].Value.Trim()}\" is not a unit for {Name.ToLowerInvariant()}. Type a number{InUnit()}.");
            }
        }

        return Check(value);
    }

    /// <summary>"80–85 °F" is a reading too: its middle, since a thermometer that wavers was read twice.</summary>
    private Parsed ParseBetween(Match between)
    {
        decimal Number(string of) => decimal.Parse(between.Groups[of].Value.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture);
        var unit = between.Groups["u"].Value;
        var (low, high) = (Parse(between.Groups["a"].Value + unit), Parse(between.Groups["b"].Value + unit));
        if (low.Error is not null || high.Error is not null)
            return Parsed.Refused(low.Error ?? high.Error!);
        return low.Value <= high.Value
            ? Parse(Say.N((Number("a") + Number("b")) / 2, 4) + unit)
            : Parsed.Refused($"\"{between.Value.Trim()}\" goes from more to less: the lower number first would be right.");
    }

    /// <summary>Checks a number that is already in <see cref="Unit"/>.</summary>
    public Parsed Check(decimal value)
    {
        if (WholeNumber && value != decimal.Truncate(value))
            return Parsed.Refused($"{Name} must be a whole number; {Say.N(value, 4)} is not. {Say.N(Math.Round(value), 4)} would be right.");
        if (value >= Min && value <= Max)
            return Parsed.Good(value);
        return Parsed.Refused(
            $"{Say.N(value, 4)}{(Unit.Length > 0 ? " " + Unit : "")} is not {RangeText()}: {Why}." +
                Guess(value));
    }

    /// <summary>What a number above the range may have been meant as: a speed by the minute, or a slipped digit.</summary>
    private string Guess(decimal value)
    {
        bool Fits(decimal x) => value > Max && x >= Min && x <= Max;
        return Unit == "mm/s" && value >= 600 && value % 60 == 0 && Fits(value / 60) ? $" Per minute? {Say.N(value, 4)} mm/min is {Say.N(value / 60, 4)} mm/s."
            : Fits(value / 10) ? $" Did you mean {Say.N(value / 10, 4)}?" : "";
    }

    /// <summary>The range as words, for example "between 150 and 500 °C".</summary>
    public string RangeText() => $"between {Say.N(Min, 4)} and {Say.N(Max, 4)}{(Unit.Length > 0 ? " " + Unit : "")}";

    private string InUnit() => Unit.Length > 0 ? " in " + Unit : "";

    private static string NormaliseUnit(string unit)
    {
        var u = unit.Trim().ToLowerInvariant();
        return u switch
        {
            "c" or "degc" or "deg c" or "deg" or "°" => "°c",
            "f" or "degf" or "deg f" => "°f",
            "%rh" or "% rh" or "percent" => "%",
            "mm3/s" => "mm³/s",
            "g/cm3" or "g/cc" => "g/cm³",
            "hours" or "hour" => "h",
            "minutes" => "min",
            _ => u,
        };
    }

    [GeneratedRegex(@"^\s*(?<a>[+-]?\d+([.,]\d+)?)\s*(-|to)\s*(?<b>[+-]?\d+([.,]\d+)?)\s*(?<u>[^\d\s].*)?$", RegexOptions.CultureInvariant)]
    private static partial Regex Between();

    [GeneratedRegex(@"^(?<h>\d{1,4})\s*(h|:)\s*(?<m>\d{1,2})\s*(min|m)?$", RegexOptions.CultureInvariant | RegexOptions.IgnoreCase)]
    private static partial Regex HoursAndMinutes();

    [GeneratedRegex(@"^(?<n>[+-]?(\d+([.,]\d+)*|[.,]\d+))\s*(?<u>[^\d\s].*)?$", RegexOptions.CultureInvariant)]
    private static partial Regex NumberAndUnit();
}

/// <summary>The result of reading a typed number: a value, or the message to show at the field.</summary>
public sealed record Parsed(decimal? Value, string? Error)
{
    /// <summary>A value that was accepted.</summary>
    public static Parsed Good(decimal value) => new(value, null);

    /// <summary>A refusal with its message.</summary>
    public static Parsed Refused(string message) => new(null, message);
}
