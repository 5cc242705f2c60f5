using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Equipment;

/// <summary>A value that a check notes.</summary>
/// <param name="Key">Fixed word.</param>
/// <param name="Quantity">Name, unit, range and reason.</param>
/// <param name="Needed">True where the check is none without it.</param>
public sealed record CheckField(string Key, Quantity Quantity, bool Needed = true);

/// <summary>A short dated check of a machine.</summary>
/// <param name="Key">Stored word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="OnToolhead">True for a toolhead's, false for the whole printer's.</param>
/// <param name="How">How it is done, in a sentence or two.</param>
/// <param name="Fields">Values that are noted with it.</param>
public sealed record CheckKind(string Key, string Label, bool OnToolhead, string How, IReadOnlyList<CheckField> Fields)
{
    /// <summary>After so many days it is old; null for what the rule of its kind says.</summary>
    public int? EveryDays { get; init; }

    /// <summary>Keys of areas that it makes doubtful when it is found wanting.</summary>
    public IReadOnlyList<string> Doubts { get; init; } = [];

    /// <summary>True for one that a tester added.</summary>
    public bool IsOwn => Key.StartsWith(OwnCheck.Prefix, StringComparison.Ordinal);

    /// <summary>All kinds in the order in which they are done.</summary>
    public static IReadOnlyList<CheckKind> All { get; } =
    [
        new(
            "nozzle", "Nozzle clear", true,
            "Heat it, feed 20 mm into the air: the strand falls straight down and is round. Curling to one side is a coated or half-blocked nozzle.", []),
        new("grip", "Idler grip", true, "Hold the filament while it feeds: it pulls through steadily, the gear leaves even marks and no dust.", []),
        new(
            "pid", "Heater tuned (PID)", true, "Tuned at the temperature that will be printed at, with the part fan as it will run.",
            [
                new("temperatureC", new("Tuned at", "°C", 30, 500, "the temperature that will be printed at")),
                new("p", new("P", "", 0, 5000, "as the printer reports it"), false), new("i", new("I", "", 0, 5000, "as the printer reports it"), false),
                new("d", new("D", "", 0, 50000, "as the printer reports it"), false),
            ]),
        new(
            "level", "Bed level and mesh", false, "Bed and nozzle hot, clean nozzle. Note the largest difference that the mesh shows.",
            [new("rangeMm", new("Mesh range", "mm", 0, 5, "above 5 mm a bed is bent, not uneven"), false)]),
        new("mechanics", "Mechanics", false, "Belts even, nothing loose, axes move freely with the motors off.", []),
        new("versions", "Firmware and slicer versions", false, "Note both: defaults and width models change with them.", []),
        new(
            "feed", "Extruder feed", true, "Comes from the extruder feed run.",
            [new("value", new("Value", "", 0.1m, 20000, "steps per mm, or rotation distance"))]),
    ];

    /// <summary>Kinds that are typed on the printer's page; the feed comes from its run.</summary>
    public static IReadOnlyList<CheckKind> Typed { get; } = [.. All.Where(k => k.Key != "feed")];

    /// <summary>The kind of that word, or null.</summary>
    public static CheckKind? Find(string? key) => All.FirstOrDefault(k => k.Key == key);

}

/// <summary>A check as it was made.</summary>
/// <param name="Kind">Word of the kind.</param>
/// <param name="At">UTC.</param>
/// <param name="Passed">True where it was found in order.</param>
/// <param name="Values">Numbers by name.</param>
public sealed record CheckMade(string Kind, DateTime At, bool Passed, IReadOnlyDictionary<string, double> Values);

/// <summary>How a check of a route stands.</summary>
/// <param name="Kind">The check.</param>
/// <param name="State">good, bad, missing or doubtful.</param>
/// <param name="Text">In words, with the reason.</param>
public sealed record CheckStanding(CheckKind Kind, string State, string Text);

/// <summary>
/// What a route asks of the machine before the first trial: nozzle clear, grip, heater tuned near the temperature, bed level, versions noted, feed measured.
/// </summary>
public static class MachineReadiness
{
    /// <summary>How far from the temperature a heater may have been tuned, °C.</summary>
    public const double NearC = 20;

    /// <summary>Days after which a check of what fouls and loosens is old.</summary>
    public const int OldDays = 90;

    private static readonly string[] Fouling = ["nozzle", "grip", "level", "mechanics"];

    /// <summary>How each check stands.</summary>
    /// <param name="checks">Made so far, of this toolhead and of its printer.</param>
    /// <param name="changes">What was changed since when: change of an ageing rule, UTC.</param>
    /// <param name="temperatureC">The temperature that will be printed at; null where it is not known.</param>
    /// <param name="now">UTC.</param>
    /// <param name="own">What the tester added to the printer.</param>
    public static IReadOnlyList<CheckStanding> Of(
        IReadOnlyCollection<CheckMade> checks, IReadOnlyCollection<(string Change, string Label, DateTime At)> changes, double? temperatureC, DateTime now,
        IEnumerable<OwnCheck>? own = null
    ) => [.. CheckKind.All.Concat((own ?? []).Select(o => o.Kind)).Select(k => Of(k, checks.Where(c => c.Kind == k.Key).MaxBy(c => c.At), changes,
        temperatureC, now))];

    private static CheckStanding Of(
        CheckKind k, CheckMade? last, IReadOnlyCollection<(string Change, string Label, DateTime At)> changes, double? temperatureC, DateTime now)
    {
        static string Day(DateTime t) => t.ToString("d MMM", System.Globalization.CultureInfo.InvariantCulture);
        if (last is null)
            return new(k, "missing", "not done yet");
        if (!last.Passed)
            return new(k, "bad", $"found wanting on {Day(last.At)}: mend it, then check again");
        if (changes.Where(c => c.At > last.At && Ageing.AgeingRules.MakesDoubtful(c.Change, k.Key)).OrderByDescending(c => c.At).FirstOrDefault() is
            { Label: { } label, At: var at })
            return new(k, "doubtful", $"done {Day(last.At)}; {label} changed {Day(at)}");
        if (k.Key == "pid" && temperatureC is { } t && last.Values.TryGetValue("temperatureC", out var tuned) && Math.Abs(tuned - t) > NearC)
            return new(k, "doubtful", $"tuned at {tuned:0} °C on {Day(last.At)}; {t:0} °C is more than {NearC:0} away");
        if (k.EveryDays is { } every && (now - last.At).TotalDays > every)
            return new(k, "doubtful", $"{(now - last.At).TotalDays:0} days ago; due every {every}");
        if (Fouling.Contains(k.Key) && (now - last.At).TotalDays > OldDays)
            return new(k, "doubtful", $"{(now - last.At).TotalDays:0} days ago");
        return new(
            k, "good",
            $"{Day(last.At)}{(k.Key == "pid" && last.Values.TryGetValue("temperatureC", out var c2) ? string.Create(System.Globalization.CultureInfo.InvariantCulture, $", at {c2:0} °C") : "")}"
        );
    }
}
