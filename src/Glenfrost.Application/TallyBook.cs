using Glenfrost.Application.Trials;
using Glenfrost.Core.Costs;
using Glenfrost.Core.Statistics;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>Repeats of a part: how many were good, and what a good one costs.</summary>
/// <param name="Good">Prints that were good.</param>
/// <param name="Bad">Prints that were not.</param>
/// <param name="Presses">Each of them, the newest first.</param>
/// <param name="Print">What one print costs.</param>
/// <param name="Currency">Of its filament; null where none was typed.</param>
/// <param name="Lacks">What is not known of the cost, in words; null where all is.</param>
public sealed record Tally(int Good, int Bad, IReadOnlyList<Finding> Presses, PrintCost Print, string? Currency, string? Lacks)
{
    /// <summary>All prints that were told.</summary>
    public int Printed => Good + Bad;

    /// <summary>What a print costs, in a sentence; null where nobody knows.</summary>
    public string? CostSays => Print.SumMinor is not { } sum ? null
        : $"{Money(sum)} a print: filament {Money(Print.FilamentMinor!.Value)}{(Print.PrintingMinor is { } power ? $", electricity {Money(power)}" : "")}" +
            $"{(Print.DryingMinor > 0 ? $", drying {(Print.DryingMinor < 0.5 ? "under 0.01" : Money(Print.DryingMinor))}" : "")}" +
            $"{(PerCm3Minor is { } each ? $"; {Money(each, 3)} a cm³ {PerCm3Of}" : "")}.";

    /// <summary>What a cm³ of the part costs, in minor units, where its density is known; null elsewhere.</summary>
    public double? PerCm3Minor { get; init; }

    /// <summary>Of what that cm³ is, in words; empty where it is not known.</summary>
    public string PerCm3Of { get; init; } = "";

    /// <summary>How many are good, with the share's interval and what a good one costs, in a sentence; null where none was told.</summary>
    public string? Says
    {
        get
        {
            if (Printed == 0)
                return null;
            var (low, high) = Wilson.Interval(Good, Printed);
            var share = $"{Good} of {Printed} good ({Words.N(100 * low, 0)} to {Words.N(100 * high, 0)} % of all such prints, 19 in 20)";
            if (Print.SumMinor is not { } sum)
                return $"{share}.";
            var cost = new GoodPartCost(sum, Good, Printed);
            var (from, to) = cost.Between!.Value;
            return cost.EachMinor is { } each
                ? $"{share}: {Money(each)} a good part ({Number(from)} to {Number(to)})."
                : $"{share}: a good part costs {Money(from)} or more.";
        }
    }

    /// <summary>What a good one costs, with its 95 % interval, in minor units; an open end is infinite. Null where none was told or no price known.</summary>
    public (double? Each, double Low, double High)? GoodMinor => Printed > 0 && Print.SumMinor is { } sum && new GoodPartCost(sum, Good, Printed) is var cost
        ? (cost.EachMinor, cost.Between!.Value.LowMinor, cost.Between.Value.HighMinor) : null;

    /// <summary>The same in words; null where nobody knows.</summary>
    public string? GoodSays => GoodMinor is not { } g ? null
        : g.Each is { } each ? $"{Money(each)} ({Number(g.Low)} to {(double.IsInfinity(g.High) ? "any sum" : Number(g.High))})" : $"{Money(g.Low)} or more";

    /// <summary>What a print costs, in words; null where nobody knows.</summary>
    public string? PrintSays => Print.SumMinor is { } sum ? Money(sum) : null;

    private static string Number(double minor, int digits = 2) => (minor / 100).ToString($"F{digits}", System.Globalization.CultureInfo.InvariantCulture);

    private string Money(double minor, int digits = 2) => $"{Number(minor, digits)}{(Currency is { Length: > 0 } c ? $" {c}" : "")}";
}

/// <summary>Counts repeats of a part, one press each.</summary>
public sealed class TallyBook(Findings findings, DryerBook dryers)
{
    /// <summary>Tag of a good print.</summary>
    public const string Good = "good print";

    /// <summary>Tag of one that was not.</summary>
    public const string Bad = "bad print";

    /// <summary>Prints of a run that were counted one by one and stand, the newest first.</summary>
    public static IReadOnlyList<Finding> PressesOf(Run run) =>
        [.. run.Findings.Where(f => f.RemovedAt is null && IsPress(f)).OrderByDescending(f => f.At).ThenByDescending(f => f.Id)];

    /// <summary>True for a press of the tally.</summary>
    public static bool IsPress(Finding f) => f.Tag is Good or Bad;

    /// <summary>The tally of a run with its cost, its spool's drying too.</summary>
    /// <param name="v">The run of the part.</param>
    /// <param name="density">Of what is printed; null where it is not known, or nobody asks what a cm³ costs.</param>
    public async Task<Tally> OfAsync(TrialRunView v, PartDensity? density = null) =>
        Of(v, await dryers.MinorPerGramAsync(v.Run, v.Toolhead.Printer), density);

    private static Tally Of(TrialRunView v, double? dryingPerGram, PartDensity? density)
    {
        var presses = PressesOf(v.Run);
        var grams = v.Run.MassUg is { } mass ? mass / 1e6 : v.Plan.Estimate.MassG;
        var minutes = v.Run.ActualMinutes ?? v.Run.ReestimatedMinutes ?? v.Run.ForeseenMinutes
            ?? (v.Plan.Estimate.Minutes > 0 ? v.Plan.Estimate.Minutes : null);
        var print = v.Pairing is { } p ? Facts.PrintCost(p, grams, minutes, dryingPerGram) : new(null, null);
        string?[] lacks =
        [
            grams is null ? "its mass" : null, v.Pairing is { } of && Facts.MinorPerGram(of.Filament) is null ? "the filament's price" : null,
            minutes is null ? "how long it takes" : null, Facts.PowerOf(v.Toolhead.Printer).IsKnown ? null : "what the printer draws",
        ];
        return new(
            presses.Count(f => f.Tag == Good), presses.Count(f => f.Tag == Bad), presses, print, v.Pairing?.Filament?.Currency,
            lacks.Any(l => l is not null) ? string.Join(", ", lacks.OfType<string>()) : null)
        {
            PerCm3Minor = density is not null && grams is > 0 ? print.SumMinor / (grams / density.GPerCm3) : null, PerCm3Of = density?.Says ?? "",
        };
    }

    /// <summary>Counts a print; the same key counts once.</summary>
    /// <param name="v">The run of the part.</param>
    /// <param name="good">True where it was good.</param>
    /// <param name="why">What was wrong, or anything else to be noted; null for nothing.</param>
    /// <param name="key">Of the press, so that a second sending counts nothing.</param>
    public Task PressAsync(TrialRunView v, bool good, string? why, string key) =>
        findings.AddAsync(key, good ? Good : Bad, why, v.Run.Id, v.Pairing?.Id, null, null, $"{v.Called}, {v.Name}", $"/runs/{v.Run.Id}#tally");

    /// <summary>Takes a press back; false where there is none.</summary>
    public async Task<bool> TakeBackAsync(TrialRunView v, Guid id) =>
        await findings.RemoveAsync(id, f => f.RunId == v.Run.Id && (f.Tag == Good || f.Tag == Bad)) is not null;
}
