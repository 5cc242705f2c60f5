using System.Text.Json;

namespace Glenfrost.Core.Guides;

/// <summary>An answer to a check.</summary>
/// <param name="Text">What was seen.</param>
/// <param name="RulesIn">Causes that it makes likely.</param>
/// <param name="RulesOut">Causes that it rules out.</param>
/// <param name="To">Next step; null where the guide ends here.</param>
/// <param name="Do">What to do where it ends.</param>
/// <param name="Run">Kind of trial that tells, or confirms; null for none.</param>
/// <param name="Change">Change of an ageing rule that the mending is, so that it is recorded; null for none.</param>
public sealed record GuideAnswer(
    string Text, IReadOnlyList<string>? RulesIn = null, IReadOnlyList<string>? RulesOut = null, string? To = null, string? Do = null, string? Run = null,
    string? Change = null)
{
    /// <summary>Kind of machine check that the mending is noted as; null for none.</summary>
    public string? Check { get; init; }

    /// <summary>True where what is left is cleaned by hand.</summary>
    public bool Clean { get; init; }
}

/// <summary>Cleaning by hand, the gentlest first: what a guide ends with where no setting helps any more.</summary>
public static class CleanUp
{
    /// <summary>Each way with what can hurt.</summary>
    public static IReadOnlyList<(string How, string Caution)> Ways { get; } =
    [
        ("Trim: flush cutters or a sharp blade, away from you, a little at a time.", "Blades slip: a glove on the other hand."),
        ("Warm air over fine strings, a second or two, from a hand's width.", "Hot air guns burn, and what is softened bends."),
        ("Fine grit, wet, 400 and finer, with little pressure.", "Wet, so that no dust is breathed; a mask where it can't be wet."),
        ("A flame for a moment, last and only where nothing else helps.",
            "Outdoors, nothing that burns near, water at hand; fumes of some families are harmful."),
    ];
}

/// <summary>A step: what to look at, and what may be seen.</summary>
/// <param name="Key">Fixed word.</param>
/// <param name="Check">What to do and what to watch.</param>
/// <param name="Why">Why, in a sentence.</param>
/// <param name="Answers">What may be seen, in the order of likelihood.</param>
/// <param name="Caution">What can hurt; null for nothing.</param>
/// <param name="Aspect">Kind of check or run of the record that may answer it already; null for none.</param>
public sealed record GuideStep(string Key, string Check, string Why, IReadOnlyList<GuideAnswer> Answers, string? Caution = null, string? Aspect = null)
{
    /// <summary>Causes that its answers make likely or rule out, in the order in which they are named.</summary>
    public IReadOnlyList<string> Causes => [.. Answers.SelectMany(a => (a.RulesIn ?? []).Concat(a.RulesOut ?? [])).Distinct()];

    /// <summary>What is done where a cause of this step is the one; null where more is asked first.</summary>
    public string? Remedy(string cause) => Answers.FirstOrDefault(a => a.RulesIn?.Contains(cause) == true && a.Do is not null)?.Do;
}

/// <summary>From a symptom by checks to what it is and what to do: data, not code.</summary>
/// <param name="Key">Fixed word.</param>
/// <param name="Title">What it finds out.</param>
/// <param name="Symptoms">What brings a tester here.</param>
/// <param name="Start">First step.</param>
/// <param name="Steps">All steps.</param>
public sealed record Guide(string Key, string Title, IReadOnlyList<string> Symptoms, string Start, IReadOnlyList<GuideStep> Steps)
{
    /// <summary>The step of a key, or null.</summary>
    public GuideStep? Step(string? key) => Steps.FirstOrDefault(s => s.Key == key);

    /// <summary>Follows answers from the start: the steps gone through with their answers, and where that leads.</summary>
    /// <param name="answers">Index of the answer at each step, from the start; it stops at the first that does not fit.</param>
    public (IReadOnlyList<(GuideStep Step, GuideAnswer Answer)> Path, GuideStep? Now, GuideAnswer? End) Follow(IEnumerable<int> answers)
    {
        var path = new List<(GuideStep, GuideAnswer)>();
        var now = Step(Start);
        foreach (var i in answers)
        {
            if (now is null || i < 0 || i >= now.Answers.Count || path.Count > 50)
                break;
            var answer = now.Answers[i];
            path.Add((now, answer));
            if (answer.To is null)
                return (path, null, answer);
            now = Step(answer.To);
        }

        return (path, now, null);
    }

    /// <summary>Steps that may still be asked after one, nearest first, as the guide's file has them where they are as near.</summary>
    public IReadOnlyList<GuideStep> After(GuideStep now)
    {
        var ahead = new List<GuideStep> { now };
        for (var i = 0; i < ahead.Count; i++)
            ahead.AddRange(Steps.Where(s => ahead[i].Answers.Any(a => a.To == s.Key)).Except(ahead));
        return ahead[1..];
    }

    /// <summary>
    /// What is wrong with a guide: steps that nothing leads to, answers that lead nowhere, loops without an end, runs or changes that nobody knows. Empty where
    /// it is sound.
    /// </summary>
    /// <param name="runs">Kinds of trial that exist.</param>
    /// <param name="changes">Changes that ageing rules know.</param>
    public IReadOnlyList<string> Faults(IReadOnlyCollection<string> runs, IReadOnlyCollection<string> changes)
    {
        var faults = new List<string>();
        if (Step(Start) is null)
            faults.Add($"{Key}: it starts at \"{Start}\", which is no step");
        foreach (var twice in Steps.GroupBy(s => s.Key).Where(g => g.Count() > 1))
            faults.Add($"{Key}: step \"{twice.Key}\" stands twice");
        foreach (var s in Steps)
        {
            if (s.Answers.Count < 2)
                faults.Add($"{Key}/{s.Key}: a check with fewer than two answers tells nothing");
            foreach (var a in s.Answers)
            {
                if (a.To is null == a.Do is null)
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" must lead on or end with what to do, one of the two");
                if (a.To is not null && Step(a.To) is null)
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" leads to \"{a.To}\", which is no step");
                if (a.Run is not null && !runs.Contains(a.Run))
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" asks for the run \"{a.Run}\", which nobody knows");
                if (a.Do is not null && a is { Run: null, Change: null, Check: null, Clean: false })
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" ends without a run, a check, a change or cleaning up");
                if (a.Check is not null && Equipment.CheckKind.Find(a.Check) is null)
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" asks for the check \"{a.Check}\", which nobody knows");
                if (a.Change is not null && !changes.Contains(a.Change))
                    faults.Add($"{Key}/{s.Key}: \"{a.Text}\" records the change \"{a.Change}\", which no rule knows");
            }
        }

        var reached = new HashSet<string>();
        var ends = new HashSet<string>();
        void Go(string key, IReadOnlyList<string> way)
        {
            if (way.Contains(key))
            {
                faults.Add($"{Key}: {string.Join(" → ", way.Append(key))} goes round in a circle");
                return;
            }

            if (!reached.Add(key) || Step(key) is not { } s)
                return;
            foreach (var a in s.Answers.Where(a => a.To is not null))
                Go(a.To!, [.. way, key]);
        }

        Go(Start, []);
        foreach (var s in Steps.Where(s => !reached.Contains(s.Key)))
            faults.Add($"{Key}: nothing leads to \"{s.Key}\"");
        return faults;
    }
}

/// <summary>All guides, read from the open files that ship with the core.</summary>
public static class GuideCatalogue
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        UnmappedMemberHandling = System.Text.Json.Serialization.JsonUnmappedMemberHandling.Disallow,
    };

    /// <summary>All guides.</summary>
    public static IReadOnlyList<Guide> All { get; } =
    [
        .. typeof(GuideCatalogue).Assembly.GetManifestResourceNames()
            .Where(n => n.Contains(".Guides.", StringComparison.Ordinal) && n.EndsWith(".json", StringComparison.Ordinal)).Order(StringComparer.Ordinal)
            .Select(n =>
            {
                using var stream = typeof(GuideCatalogue).Assembly.GetManifestResourceStream(n)!;
                return Read(stream);
            }),
    ];

    /// <summary>The guide of a key, or null.</summary>
    public static Guide? Find(string? key) => All.FirstOrDefault(g => g.Key == key);

    /// <summary>Reads a guide.</summary>
    /// <exception cref="JsonException">It is none.</exception>
    public static Guide Read(Stream json) => JsonSerializer.Deserialize<Guide>(json, Options) ?? throw new JsonException("The guide is empty.");
}
