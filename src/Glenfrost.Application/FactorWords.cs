using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;

namespace Glenfrost.Application;

/// <summary>Factors, their differences and what may be concluded from them, in words.</summary>
public static class FactorWords
{
    private const int MostListed = 4;

    /// <summary>A value with its unit.</summary>
    public static string Value(FactorDefinition d, FactorValue? v) => v switch
    {
        null => "not known",
        { Applies: false } => "not applicable",
        { Number: { } n } => $"{Words.N(n, d.Digits)} {d.Unit}".TrimEnd(),
        { Text: { Length: > 0 } text } => text,
        _ => "not known",
    };

    /// <summary>A group's heading.</summary>
    public static string Group(FactorGroup group) => group switch
    {
        FactorGroup.Setting => "Settings",
        FactorGroup.Piece => "Piece",
        FactorGroup.Spool => "Spool",
        FactorGroup.Surroundings => "Surroundings",
        FactorGroup.Machine => "Machine",
        FactorGroup.Software => "Software",
        _ => "Reading",
    };

    /// <summary>Where a value is known from.</summary>
    public static string Source(FactorValue v) => v.Source switch
    {
        FactorSource.Plan => v.Proven ? "plan, proven by the file" : "plan",
        FactorSource.File => "file",
        FactorSource.Record => "record",
        FactorSource.Typed => "typed",
        FactorSource.Instrument => "instrument",
        FactorSource.Live => "turned while it printed",
        _ => "from memory",
    };

    /// <summary>A source behind a value, where it is no plain record: " (from memory)".</summary>
    public static string InBrackets(FactorValue v) => v.Source is FactorSource.Memory or FactorSource.Typed or FactorSource.Instrument ? $" ({Source(v)})" : "";

    /// <summary>A difference within a sentence: "room +2.5 °C", "fan 70, not 100 %", "chamber unknown in run 2".</summary>
    /// <param name="d">The difference.</param>
    /// <param name="now">How the run that is looked at is called: "run 3".</param>
    /// <param name="before">How the other one is called.</param>
    public static string Of(FactorDifference d, string now, string before)
    {
        if (d.Turned is { } turned)
            return $"{d.Factor.Label} turned to {Value(d.Factor, turned.Value)} while {(d.TurnedNow ? now : before)} " +
                $"printed{(turned.FromLayer is { } layer ? $", from layer {layer}" : "")}";
        if (d.State == Sameness.Unknown)
            return $"{d.Factor.Label} unknown in {(d.Now is null && d.Before is null ? "both" : d.Now is null ? now : before)}";
        if (d.State == Sameness.Same)
            return $"{d.Factor.Label} the same{(d.FromMemory ? ", from memory" : "")}";
        if (d.Factor.Group == FactorGroup.Surroundings && d.By is { } by)
            return $"{d.Factor.Label} {by.ToString("+0.#;−0.#", CultureInfo.InvariantCulture)} {d.Factor.Unit}";
        if (d.Factor.Key.StartsWith(FactorRegistry.PartPrefix, StringComparison.Ordinal))
            return $"{d.Factor.Label}: {Value(d.Factor, d.Now!.Thing is null ? d.Before : d.Now)}";
        if (d.Now?.Number is { } a && d.Before?.Number is { } b)
            return $"{d.Factor.Label} {Words.N(a, d.Factor.Digits)}, not {Words.N(b, d.Factor.Digits)} {d.Factor.Unit}".TrimEnd();
        return $"{d.Factor.Label} {Value(d.Factor, d.Now)}, not {Value(d.Factor, d.Before)}{(d.WouldJoin ? " (a quick check would join them)" : "")}";
    }

    /// <summary>Several of them in a row.</summary>
    public static string Of(IEnumerable<FactorDifference> list, string now, string before) => string.Join(", ", list.Select(d => Of(d, now, before)));

    /// <summary>Why two runs are not taken together; how they are called is left to the caller's sentence.</summary>
    public static string Apart(PoolingAnswer answer, string now, string before) => $"Not taken together with {before}: {Of(answer.Because, now, before)}.";

    /// <summary>A run within a sentence: "temperature tower 2".</summary>
    public static string RunName(Trial trial, int number) => $"{Words.Lower(trial.Name)} {number}";

    /// <summary>What a trial's pieces are compared by: the setting that it settles; null where it settles none.</summary>
    public static SettingDefinition? ComparedBy(Trial trial) => trial.Settles is [var key, ..] ? SettingRegistry.Find(key) : null;

    /// <summary>What may be concluded from two runs and their repeats, in a sentence or two.</summary>
    /// <param name="a">The conclusion.</param>
    /// <param name="now">How the run that is looked at is called.</param>
    /// <param name="before">How the other one is called.</param>
    /// <param name="of">What the effect is on, with the unit: the setting that the trial settles; null where there is none.</param>
    public static string Conclude(Attribution a, string now, string before, SettingDefinition? of = null)
    {
        var unit = of is null ? "" : $" {of.Quantity.Unit}".TrimEnd();
        var on = of is null ? "" : $" in the advised {of.Label.InSentence()}";
        // Many that nobody knows make no sentence; Compare lists them.
        string List(IReadOnlyList<FactorDifference> list) => list.Count <= MostListed ? string.Join(" and ", list.Select(d => d.Factor.Label))
            : $"{string.Join(", ", list.Take(MostListed - 1).Select(d => d.Factor.Label))} and {list.Count - MostListed + 1} more";
        var digits = new string('0', Math.Max(2, of?.Digits ?? 2));
        string N(double? v) => (v ?? 0).ToString($"+0.{digits};−0.{digits};0.{digits}", CultureInfo.InvariantCulture);
        var beside =
            a.Unknown.Count == 0
                ? ""
                : $" {Capital(List(a.Unknown))} of {(a.Unknown.All(u => u.Now is null && u.Before is null) ? "both" : a.Unknown.All(u => u.Now is null) ? now : before)} {(a.Unknown.Count == 1 ? "is" : "are")} not known.";
        var what = a.Differs.Count == 0 ? "" : Capital(of is null ? a.Differs[0].Factor.Label : Of(a.Differs[0], now, before));
        return a.Verdict switch
        {
            Conclusion.NothingDiffers => $"Nothing that is known differs from {before}.",
            Conclusion.OnlyUnknown => $"Nothing that is known differs from {before}.{beside}",
            Conclusion.OnlyDifference =>
                $"{Capital(Of(a.Differs[0], now, before))}: the only thing that differs from {before}. One piece each shows no effect yet: one more of " +
                    $"each would.",
            Conclusion.Effect => $"{what}: {N(a.Effect)}{unit}{on} ({N(a.Low)} to {N(a.High)}).",
            Conclusion.NotShown => $"{what}: {N(a.Effect)}{unit}{on} ({N(a.Low)} to {N(a.High)}): not shown.",
            Conclusion.UnknownBeside => $"{Capital(Of(a.Differs[0], now, before))}.{beside}",
            Conclusion.NotAttributed =>
                $"{Capital(List(a.Differs))} {(a.Differs.Count == 2 ? "both" : "all")} changed: the effect cannot be attributed. Print it like {now} once " +
                    $"more with {Back(a, before)}, to learn which.{beside}",
            _ => $"The pieces themselves differ ({Of(a.Differs.Where(d => d.Factor.Group == FactorGroup.Piece), now, before)}): they have no common number.",
        };
    }

    private static string Back(Attribution a, string before) =>
        a.Differs.First(d => d.Factor.Key == a.Separate[0]) is var d
            ? $"{d.Factor.Label} as in {before}{(d.Before is { Applies: true } was && d.Turned is null ? $" ({Value(d.Factor, was)})" : "")}"
            : "";

    private static string Capital(string s) => s.Length == 0 ? s : char.ToUpperInvariant(s[0]) + s[1..];

    /// <summary>A trial's factor by key, with its own measures.</summary>
    public static FactorDefinition Define(Trial trial, string key) =>
        FactorRegistry.Find(key) ?? trial.Define(key) ?? FactorRegistry.OfPiece(key, FactorKind.Word);
}
