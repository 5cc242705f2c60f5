using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials;

/// <summary>
/// A field of a plan, declared once: pages draw it, the API takes it, both check it at its door, and runs are compared by it.
/// </summary>
/// <param name="Quantity">Unit, range and reason of a number; null for words, text and ticks.</param>
/// <param name="Words">Words to choose from; the first one stands where nothing is said.</param>
/// <param name="Needed">True where it must be given.</param>
public sealed record PlanField(Quantity? Quantity, IReadOnlyList<string>? Words = null, bool Needed = true)
{
    /// <summary>As JSON, forms and addresses call it; empty where its trial keeps it by name itself.</summary>
    public string Name { get; init; } = "";

    /// <summary>As people call it.</summary>
    public string Label { get; init; } = Quantity?.Name ?? "";

    /// <summary>Head of the fields that it stands with; empty where its trial draws its fields itself.</summary>
    public string Group { get; init; } = "";

    /// <summary>What helps beside it; empty for nothing.</summary>
    public string Help { get; init; } = "";

    /// <summary>The words as people read them, in the order of <see cref="Words"/>; empty where they read the words themselves.</summary>
    public IReadOnlyList<string> WordLabels { get; init; } = [];

    /// <summary>A number.</summary>
    public static PlanField Number(string name, string unit, decimal min, decimal max, string why, bool needed = true, bool whole = false) =>
        new(new(name, unit, min, max, why, whole), null, needed);

    /// <summary>One of some words.</summary>
    public static PlanField OneOf(params string[] words) => new(null, words, false);

    /// <summary>Yes or no.</summary>
    public static PlanField Tick { get; } = new(null, null, false);

    /// <summary>Longest text that it takes; 0 where it takes none.</summary>
    public int Longest { get; init; }

    /// <summary>True for words of the tester's own.</summary>
    public bool IsText => Longest > 0;

    /// <summary>True for yes or no.</summary>
    public bool IsTick => Quantity is null && Words is null && !IsText;

    /// <summary>The words with their labels.</summary>
    public IEnumerable<KeyValuePair<string, string>> Choices =>
        (Words ?? []).Select((w, i) => KeyValuePair.Create(w, i < WordLabels.Count ? WordLabels[i] : w));
}
