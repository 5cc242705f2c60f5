using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Core.Factors;

/// <summary>What a run was really made with: version 1 of the stored form, frozen when its print is reported ended. Fields are only added.</summary>
public sealed record FactorSet
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    };

    /// <summary>Version of the stored form.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.Never)]
    public int Version { get; init; } = 1;

    /// <summary>Factors whose values the run went through on purpose.</summary>
    public IReadOnlyList<string> Swept { get; init; } = [];

    /// <summary>Values by key of the factor; what is missing is unknown.</summary>
    public SortedDictionary<string, FactorValue> Values { get; init; } = new(StringComparer.Ordinal);

    /// <summary>When it was frozen, UTC; null while it is only planned.</summary>
    public DateTime? FrozenAt { get; init; }

    /// <summary>True where it was put together after the fact, from plan, file, conditions and part history.</summary>
    public bool Filled { get; init; }

    /// <summary>What was turned at the printer while it printed. Not stored with the set.</summary>
    [JsonIgnore]
    public IReadOnlyList<FactorEntryValue> Turned { get; init; } = [];

    /// <summary>The run that it is of. Not stored with the set.</summary>
    [JsonIgnore]
    public Guid RunId { get; init; }

    /// <summary>The value of a factor; null where it is unknown.</summary>
    public FactorValue? this[string key] => Values.GetValueOrDefault(key);

    /// <summary>The set with what was noted later laid over it, the latest of each factor on top; what was turned while it printed stands apart.</summary>
    public FactorSet WithEntries(IEnumerable<FactorEntryValue> entries)
    {
        var list = entries.OrderBy(e => e.At).ToList();
        if (list.Count == 0)
            return this;
        var values = new SortedDictionary<string, FactorValue>(Values, StringComparer.Ordinal);
        foreach (var e in list.Where(e => e.Section is null && e.Value.Source != FactorSource.Live))
            values[e.Factor] = e.Value;
        return this with { Values = values, Turned = [.. list.Where(e => e.Value.Source == FactorSource.Live)] };
    }

    /// <summary>The set with other values put in; those that are there already give way.</summary>
    public FactorSet With(IEnumerable<KeyValuePair<string, FactorValue>> values)
    {
        var all = new SortedDictionary<string, FactorValue>(Values, StringComparer.Ordinal);
        foreach (var (key, value) in values)
            all[key] = value;
        return this with { Values = all };
    }

    /// <summary>As it is stored.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, Options);

    /// <summary>Reads a stored set.</summary>
    /// <exception cref="JsonException">It is none, or of a newer version.</exception>
    public static FactorSet Read(string json)
    {
        var set = JsonSerializer.Deserialize<FactorSet>(json, Options) ?? throw new JsonException("The factors are empty.");
        if (set.Version != 1)
            throw new JsonException($"The factors are of version {set.Version}; version 1 is read here.");
        return set.Values.Comparer == StringComparer.Ordinal ? set : set with { Values = new(set.Values, StringComparer.Ordinal) };
    }
}
