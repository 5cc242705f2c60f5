using System.Text.Json.Serialization;

namespace Glenfrost.Core.Factors;

/// <summary>Where it is known from what a factor was.</summary>
public enum FactorSource
{
    /// <summary>What our writer used.</summary>
    Plan,

    /// <summary>Read off the file that was printed.</summary>
    File,

    /// <summary>Log, spool book, printer and part history at that moment.</summary>
    Record,

    /// <summary>Somebody typed or confirmed it.</summary>
    Typed,

    /// <summary>An instrument sent it.</summary>
    Instrument,

    /// <summary>Turned at the printer while it printed.</summary>
    Live,

    /// <summary>"Probably the same": nobody noted it, somebody remembers.</summary>
    Memory,
}

/// <summary>What one factor was in a run. A factor without a value is not in the set: missing is unknown, and blank never equals blank.</summary>
/// <param name="Number">In the factor's unit; null for words and things.</param>
/// <param name="Text">A word, or the name of a thing; null for numbers.</param>
/// <param name="Source">Where it is known from.</param>
public sealed record FactorValue(double? Number, string? Text, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] FactorSource Source)
{
    /// <summary>
    /// The thing itself (spool, part, file, person): names may change, it does not. For <see cref="FactorSource.Memory"/> the run that it is remembered to be
    /// like.
    /// </summary>
    public Guid? Thing { get; init; }

    /// <summary>True where the factor cannot be in such a run: an open printer has no chamber.</summary>
    public bool Absent { get; init; }

    /// <summary>False where the factor cannot be in such a run.</summary>
    [JsonIgnore]
    public bool Applies => !Absent;

    /// <summary>True where the printed file, read back, says the same.</summary>
    public bool Proven { get; init; }

    /// <summary>A factor that cannot be in such a run.</summary>
    public static FactorValue NotApplicable { get; } = new(null, null, FactorSource.Record) { Absent = true };

    /// <summary>A number.</summary>
    public static FactorValue Of(double number, FactorSource source) => new(number, null, source);

    /// <summary>A word.</summary>
    public static FactorValue Of(string word, FactorSource source) => new(null, word, source);

    /// <summary>A thing with its name at the time.</summary>
    public static FactorValue Of(Guid? thing, string name, FactorSource source) => new(null, name, source) { Thing = thing };
}

/// <summary>
/// A value that was typed or learned after the print, or turned while it printed. Entries are only added; a later one of the same factor stands.
/// </summary>
/// <param name="Factor">Key of the factor.</param>
/// <param name="Value">What it was.</param>
/// <param name="At">When it was noted, UTC.</param>
/// <param name="Section">Part of the piece that it is of, from 0; null for all of it.</param>
/// <param name="FromLayer">Layer from which on it was turned; null where nobody said.</param>
public sealed record FactorEntryValue(string Factor, FactorValue Value, DateTime At, int? Section = null, int? FromLayer = null);
