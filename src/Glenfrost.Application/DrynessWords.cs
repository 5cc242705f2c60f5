using Glenfrost.Core.Filaments;

namespace Glenfrost.Application;

/// <summary>What is said of a spool's dryness.</summary>
public static class DrynessWords
{
    /// <summary>The advice in one sentence.</summary>
    public static string Sentence(DrynessAdvice advice) => Sentence(advice.State, advice.Numbers);

    /// <summary>The same from what a plan stores of it.</summary>
    /// <param name="state">dry, drying, doubtful, damp or unknown.</param>
    /// <param name="numbers">As <see cref="DrynessAdvice.Numbers"/> gives them.</param>
    public static string Sentence(string state, IReadOnlyList<double> numbers)
    {
        if (numbers is not [var hours, var at, var loss, var open, var bears, var humidity, var logged, ..])
            return state;
        var usual = logged == 0 ? $" at the usual {Words.N(humidity, 0)} %RH, which nobody logged" : "";
        return state switch
        {
            "drying" => $"It still loses {Words.N(loss)} g an hour: {Words.N(hours, 0)} {(hours == 1 ? "hour" : "hours")} more at {Words.N(at, 0)} °C.",
            "unknown" => $"Nobody knows how long it stood open: {Words.N(hours, 1)} h at {Words.N(at, 0)} °C makes it sure.",
            "dry" => $"Dry enough: open for {Share(open, bears, "of the")} that it bears{usual}.",
            "doubtful" => $"Near its limit: open for {Share(open, bears, "of")}{usual}. {Words.N(hours, 1)} h at {Words.N(at, 0)} °C before " +
                "strings or flow limit costs little.",
            _ => $"Damp: open for {Time(open)}, {Time(open - bears)} more than it bears{usual}. Dry it for {Words.N(hours, 1)} h at " +
                $"{Words.N(at, 0)} °C first.",
        };
    }

    // From four days on nobody thinks in hours.
    private const double InDaysH = 96;

    /// <summary>A time that filament lies, in hours or in days.</summary>
    /// <param name="hours">h, from 0.</param>
    public static string Time(double hours) => hours < InDaysH ? $"{Words.N(hours, 0)} h" : $"{Words.N(hours / 24, hours < 240 ? 1 : 0)} days";

    private static string Share(double open, double bears, string of) => bears < InDaysH
        ? $"{Words.N(open, 0)} {of} {Words.N(bears, 0)} h" : $"{Words.N(open / 24, open < 240 ? 1 : 0)} {of} {Time(bears)}";

    /// <summary>Why, with the numbers of it.</summary>
    public static IReadOnlyList<string> Reasons(DrynessAdvice a)
    {
        var reasons = new List<string>();
        if (a.State == "drying")
            reasons.Add($"While it dried it still lost {Words.N(a.LossGPerH!.Value)} g an hour: below {Words.N(DrynessAdvice.StillG, 1)} it is dry.");
        if (a.TimesLonger > 1)
        {
            var at = Words.N(a.AllowedC, 0);
            reasons.Add(
                $"{Words.N(a.WantedC, 0)} °C would be right, but " +
                (a.ReelBounds ? $"the reel bears {at} °C{(a.ReelSaid ? "" : " as a rule")}" : $"the dryer reaches {at} °C") + ": " +
                $"{Words.N(a.TimesLonger, 1)} times as long at {at} °C.");
        }

        if (a.State == "drying")
            return reasons;
        if (a.OpenHours is null)
            return [.. reasons, "It was never noted when it was opened or dried."];
        reasons.Add(
            $"{a.FamilyName ?? "This filament"} bears {Time(a.BearsHours)} at {Words.N(a.HumidityPercent, 0)} " +
                $"%RH{(a.HumidityLogged ? "" : ", which is taken for usual: nobody logged the humidity")}.");
        if (a.LossGPerH is { } loss)
            reasons.Add($"When it was weighed last while drying it lost {Words.N(loss)} g an hour: that is dry.");
        return reasons;
    }
}
