using System.Text.Json;

namespace Glenfrost.Core.Trials;

/// <summary>Values of a plan's fields by name: decimals, words, text, ticks.</summary>
public sealed class PlanValues : Dictionary<string, object>
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web);

    /// <summary>The values as a trial's own record; missing ones keep the record's.</summary>
    public T To<T>() => JsonSerializer.Deserialize<T>(JsonSerializer.SerializeToUtf8Bytes<Dictionary<string, object>>(this, Options), Options)!;

    /// <summary>The values of a record, for a form.</summary>
    public static PlanValues Of<T>(T record)
    {
        var values = new PlanValues();
        foreach (var p in JsonSerializer.SerializeToElement(record, Options).EnumerateObject())
        {
            if (p.Value.ValueKind == JsonValueKind.Number)
                values[p.Name] = p.Value.GetDecimal();
            else if (p.Value.ValueKind == JsonValueKind.String)
                values[p.Name] = p.Value.GetString()!;
            else if (p.Value.ValueKind is JsonValueKind.True or JsonValueKind.False)
                values[p.Name] = p.Value.GetBoolean();
        }

        return values;
    }

    /// <summary>A number; null where it is not given.</summary>
    public decimal? Number(string name) => TryGetValue(name, out var v) && v is decimal d ? d : null;

    /// <summary>A word; empty where it is not given.</summary>
    public string Word(string name) => TryGetValue(name, out var v) && v is string s ? s : "";

    /// <summary>A tick.</summary>
    public bool Flag(string name) => TryGetValue(name, out var v) && v is true;

    /// <summary>The same values with some changed.</summary>
    public PlanValues With(IReadOnlyDictionary<string, decimal>? changes)
    {
        var copy = new PlanValues();
        foreach (var (k, v) in this)
            copy[k] = v;
        foreach (var (k, v) in changes ?? new Dictionary<string, decimal>())
            copy[k] = v;
        return copy;
    }
}
