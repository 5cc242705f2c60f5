using System.Text.Json;

namespace Glenfrost.Core.Trials;

/// <summary>Reads a JSON object field by field; what is wrong is collected by field with what would be right.</summary>
public sealed class JsonFields(JsonElement root, string path = "", Dictionary<string, List<string>>? errors = null)
{
    /// <summary>Messages by field path.</summary>
    public Dictionary<string, List<string>> Errors { get; } = errors ?? [];

    /// <summary>Refuses a field with a message.</summary>
    public void Refuse(string field, string message)
    {
        if (!Errors.TryGetValue(field, out var list))
            Errors[field] = list = [];
        list.Add(message);
    }

    /// <summary>Takes over refusals of the core.</summary>
    public void Take(IEnumerable<Settings.FieldError> refusals)
    {
        foreach (var e in refusals)
            Refuse(At(e.Field), e.Message);
    }

    private string At(string name) => path.Length == 0 ? name : $"{path}.{name}";

    private JsonElement? Get(string name) =>
        root.ValueKind == JsonValueKind.Object && root.TryGetProperty(name, out var e) && e.ValueKind is not (JsonValueKind.Null or JsonValueKind.Undefined)
            ? e
            : null;

    /// <summary>A number; null where it is missing or refused.</summary>
    public decimal? Number(string name, bool required = false)
    {
        if (Get(name) is not { } e)
        {
            if (required)
                Refuse(At(name), $"{name} is missing: a number would be right.");
            return null;
        }

        if (e.ValueKind == JsonValueKind.Number && e.TryGetDecimal(out var d) && Math.Abs(d) < 1e12m)
            return d;
        Refuse(At(name), $"{name} must be a number, without quotes or unit; {Short(e)} is not.");
        return null;
    }

    /// <summary>A whole number between two bounds; null where it is missing.</summary>
    public int? Whole(string name, int least, int most)
    {
        if (Number(name) is not { } d)
            return null;
        if (d == decimal.Truncate(d) && d >= least && d <= most)
            return (int)d;
        Refuse(At(name), $"{name} must be a whole number from {least} to {most}; {d} is not.");
        return null;
    }

    /// <summary>True or false; false where it is missing.</summary>
    public bool Flag(string name)
    {
        if (Get(name) is not { } e)
            return false;
        if (e.ValueKind is JsonValueKind.True or JsonValueKind.False)
            return e.GetBoolean();
        Refuse(At(name), $"{name} must be true or false; {Short(e)} is not.");
        return false;
    }

    /// <summary>True or false, or what stands where nothing is said.</summary>
    public bool FlagOr(string name, bool otherwise) => Get(name) is null ? otherwise : Flag(name);

    /// <summary>A list of numbers; empty where it is missing or refused.</summary>
    public IReadOnlyList<decimal> Values(string name, bool required = true)
    {
        if (Get(name) is not { } e)
        {
            if (required)
                Refuse(At(name), $"{name} is missing: a list of numbers would be right.");
            return [];
        }

        if (e.ValueKind != JsonValueKind.Array || e.GetArrayLength() > 10_000)
        {
            Refuse(At(name), $"{name} must be a list of at most 10,000 numbers; {Short(e)} is not.");
            return [];
        }

        var list = new List<decimal>();
        foreach (var (x, i) in e.EnumerateArray().Select((x, i) => (x, i)))
        {
            if (x.ValueKind == JsonValueKind.Number && x.TryGetDecimal(out var d) && Math.Abs(d) < 1e12m)
                list.Add(d);
            else
                Refuse($"{At(name)}[{i}]", $"{Short(x)} is no number: without quotes and unit it would be right.");
        }

        return list;
    }

    /// <summary>Gaps as a count, or as yes and no; 0 where nothing is said.</summary>
    public double Gaps(string name) =>
        Get(name) is { ValueKind: JsonValueKind.True or JsonValueKind.False } e
            ? e.GetBoolean()
                ? 1
                : 0
            : (double)(Number(name) ?? 0);

    /// <summary>A list whose entries are numbers or lists of numbers: repeats of one thing. Null stands for none.</summary>
    public IReadOnlyList<IReadOnlyList<double>> Rows(string name, bool required = true)
    {
        if (Get(name) is not { } e)
        {
            if (required)
                Refuse(At(name), $"{name} is missing: a list of numbers, or of lists of repeats, would be right.");
            return [];
        }

        if (e.ValueKind != JsonValueKind.Array || e.GetArrayLength() > 1000)
        {
            Refuse(At(name), $"{name} must be a list of at most 1,000 numbers, or of lists of repeats; {Short(e)} is not.");
            return [];
        }

        var rows = new List<IReadOnlyList<double>>();
        foreach (var (x, i) in e.EnumerateArray().Select((x, i) => (x, i)))
        {
            var row = new List<double>();
            foreach (var one in x.ValueKind == JsonValueKind.Array ? [.. x.EnumerateArray()] : new List<JsonElement> { x })
            {
                if (one.ValueKind == JsonValueKind.Number && one.TryGetDecimal(out var d) && Math.Abs(d) < 1e12m)
                    row.Add((double)d);
                else if (one.ValueKind != JsonValueKind.Null)
                    Refuse($"{At(name)}[{i}]", $"{Short(one)} is no number: without quotes and unit it would be right.");
            }

            rows.Add(row);
        }

        return rows;
    }

    /// <summary>The fields of a plan, each checked at its own door.</summary>
    public PlanValues Fields(IReadOnlyDictionary<string, PlanField> fields, PlanValues proposal)
    {
        var values = proposal.With(null);
        foreach (var (name, field) in fields)
        {
            if (Get(name) is null)
                continue;
            if (field.Quantity is { } q)
            {
                if (Number(name) is { } d)
                {
                    if (q.Check(d).Error is { } wrong)
                        Refuse(At(name), wrong);
                    else
                        values[name] = d;
                }
            }
            else if (field.Words is { } words)
            {
                if (Word(name, [.. words]) is { } word)
                    values[name] = word;
            }
            else if (field.IsText)
            {
                if (Text(name, field.Longest) is { } text)
                    values[name] = text;
            }
            else
            {
                values[name] = Flag(name);
            }
        }

        return values;
    }

    /// <summary>One of some words; null where it is missing or refused.</summary>
    public string? Word(string name, IReadOnlyCollection<string> words, bool required = false)
    {
        if (Get(name) is not { } e)
        {
            if (required)
                Refuse(At(name), $"{name} is missing: one of {string.Join(", ", words)} would be right.");
            return null;
        }

        if (e.ValueKind == JsonValueKind.String && words.Contains(e.GetString()))
            return e.GetString();
        Refuse(At(name), $"{Short(e)} is not one of {string.Join(", ", words)}.");
        return null;
    }

    /// <summary>A text of at most <paramref name="longest"/> characters; null where it is missing.</summary>
    public string? Text(string name, int longest)
    {
        if (Get(name) is not { } e)
            return null;
        if (e.ValueKind == JsonValueKind.String && e.GetString() is { } text && text.Length <= longest)
            return text;
        Refuse(At(name), $"{name} must be a text of at most {longest} characters; {Short(e)} is not.");
        return null;
    }

    /// <summary>A list of texts; empty where it is missing or refused.</summary>
    public IReadOnlyList<string> TextList(string name, int most, int longest)
    {
        if (Get(name) is not { } e)
            return [];
        if (e.ValueKind == JsonValueKind.Array && e.GetArrayLength() <= most
            && e.EnumerateArray().All(x => x.ValueKind == JsonValueKind.String && x.GetString()!.Length <= longest))
            return [.. e.EnumerateArray().Select(x => x.GetString()!)];
        Refuse(At(name), $"{name} must be a list of at most {most} texts of up to {longest} characters; {Short(e)} is not.");
        return [];
    }

    /// <summary>An object's own fields; null where it is missing or refused.</summary>
    public JsonFields? Object(string name)
    {
        if (Get(name) is not { } e)
            return null;
        if (e.ValueKind == JsonValueKind.Object)
            return new JsonFields(e, At(name), Errors);
        Refuse(At(name), $"{name} must be an object; {Short(e)} is not.");
        return null;
    }

    /// <summary>A list of objects; null where it is missing or refused.</summary>
    public IReadOnlyList<JsonFields>? List(string name, bool required = false)
    {
        if (Get(name) is not { } e)
        {
            if (required)
                Refuse(At(name), $"{name} is missing: a list would be right.");
            return null;
        }

        if (e.ValueKind == JsonValueKind.Array)
            return [.. e.EnumerateArray().Select((x, i) => new JsonFields(x, $"{At(name)}[{i}]", Errors))];
        Refuse(At(name), $"{name} must be a list; {Short(e)} is not.");
        return null;
    }

    /// <summary>Name and number of every field of this object.</summary>
    public Dictionary<string, double> Numbers()
    {
        var result = new Dictionary<string, double>();
        if (root.ValueKind != JsonValueKind.Object)
        {
            Refuse(path, $"{Short(root)} must be an object.");
            return result;
        }

        foreach (var p in root.EnumerateObject())
        {
            if (p.Value.ValueKind == JsonValueKind.Null)
                continue;
            if (Number(p.Name) is { } d)
                result[p.Name] = (double)d;
        }

        return result;
    }

    /// <summary>Name and text of every field of this object.</summary>
    /// <param name="longest">Most characters of a name and of a text.</param>
    public Dictionary<string, string> Texts(int longest)
    {
        var result = new Dictionary<string, string>();
        if (root.ValueKind != JsonValueKind.Object)
        {
            Refuse(path, $"{Short(root)} must be an object.");
            return result;
        }

        foreach (var p in root.EnumerateObject())
        {
            if (p.Name.Length == 0 || p.Name.Length > longest)
                Refuse(path, $"A name of 1 to {longest} characters would be right.");
            else if (Text(p.Name, longest) is { } text)
                result[p.Name] = text.Trim();
        }

        return result;
    }

    private static string Short(JsonElement e)
    {
        var text = e.GetRawText();
        return text.Length > 40 ? text[..40] + "…" : text;
    }
}
