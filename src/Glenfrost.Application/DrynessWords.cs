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
            "dry" => $"Dry enough: open for {Words.N(open, 0)} of the {Words.N(bears, 0)} h that it bears{usual}.",
            "doubtful" => $"Near its limit: open for {Words.N(open, 0)} of {Words.N(bears, 0)} h{usual}. {Words.N(hours, 1)} h at {Words.N(at, 0)} °C before " +
                "strings or flow limit costs little.",
            _ => $"Damp: open for {Words.N(open, 0)} h, {Words.N(open - bears, 0)} h more than it bears{usual}. Dry it for {Words.N(hours, 1)} h at " +
                $"{Words.N(at, 0)} °C first.",
        };
    }

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
        if (a.OpenHours is not { } open)
            return [.. reasons, "It was never noted when it was opened or dried."];
        reasons.Add(
            $"Open for {Words.N(open, 0)} h; {a.FamilyName ?? "this filament"} bears {Words.N(a.BearsHours, 0)} h at {Words.N(a.HumidityPercent, 0)} " +
                $"%RH{(a.HumidityLogged ? "" : ", which is taken for usual: nobody logged the humidity")}.");
        if (a.LossGPerH is { } loss)
            reasons.Add($"When it was weighed last while drying it lost {Words.N(loss)} g an hour: that is dry.");
        return reasons;
    }
}
