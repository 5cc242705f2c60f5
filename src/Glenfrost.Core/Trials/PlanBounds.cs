using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Core.Trials;

/// <summary>
/// What a plan that came from elsewhere must keep to, so that every page can draw it and no piece of it outgrows a machine: every member there, every list and
/// number bounded, and its fields within the trial's own ranges.
/// </summary>
public static class PlanBounds
{
    /// <summary>Most layers of all pieces together.</summary>
    public const int MostLayers = TestPieces.PieceSize.MostLayers;

    private const int MostOfAList = 2_000;

    private const int MostValues = 40_000;

    private const double MostNumber = 1e7;

    private const int MostText = 4_000;

    /// <summary>What is wrong with a stored plan; null where nothing is.</summary>
    /// <param name="trial">Its trial.</param>
    /// <param name="json">The plan as it is stored.</param>
    public static string? Of(Trial trial, string json)
    {
        try
        {
            using var document = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 24 });
            var left = MostValues;
            if (Of(document.RootElement, "plan", ref left) is { } beyond)
                return beyond;
            var plan = trial.ReadPlan(json);
            return MissingNumber(document.RootElement, plan.GetType(), "plan") ?? new Members().Missing(plan, "plan", 0)
                ?? trial.Faults(plan) ?? Fields(trial, plan) ?? Layers(plan) ?? Drawn(trial, plan);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return $"plan can't be read: {(e.Message.Length > 160 ? e.Message[..160] + "…" : e.Message)}";
        }
    }

    /// <summary>Numbers, texts and lists as such; counts of layers by their names.</summary>
    private static string? Of(JsonElement e, string at, ref int left)
    {
        if (--left < 0)
            return $"plan holds more than {MostValues} values";
        switch (e.ValueKind)
        {
            case JsonValueKind.Number:
                var counts = at[(at.LastIndexOf('.') + 1)..] is var name && name.Contains("ayer", StringComparison.Ordinal)
                    && !name.Contains("mm", StringComparison.OrdinalIgnoreCase);
                var most = counts ? MostLayers : MostNumber;
                return !e.TryGetDouble(out var d) || !double.IsFinite(d) || Math.Abs(d) > most ? $"{at} is beyond ±{most:0}" : null;
            case JsonValueKind.String:
                return e.GetString()!.Length > MostText ? $"{at} is longer than {MostText} characters" : null;
            case JsonValueKind.Array:
                if (e.GetArrayLength() > MostOfAList)
                    return $"{at} holds more than {MostOfAList} entries";
                foreach (var x in e.EnumerateArray())
                {
                    if (Of(x, at, ref left) is { } wrong)
                        return wrong;
                }

                return null;
            case JsonValueKind.Object:
                foreach (var p in e.EnumerateObject())
                {
                    if (Of(p.Value, $"{at}.{(p.Name.Length > 40 ? p.Name[..40] : p.Name)}", ref left) is { } wrong)
                        return wrong;
                }

                return null;
            default:
                return null;
        }
    }

    /// <summary>Members of a plan's types, and which of them may be empty; looked up once for one plan.</summary>
    private sealed class Members
    {
        private readonly NullabilityInfoContext context = new();

        private readonly Dictionary<Type, List<(PropertyInfo Property, bool Optional)>> of = [];

        /// <summary>The first member that must be there and is not; null where all are.</summary>
        public string? Missing(object o, string at, int depth)
        {
            if (depth > 12 || o.GetType().Namespace?.StartsWith("Glenfrost", StringComparison.Ordinal) != true || o.GetType().IsEnum)
                return null;
            foreach (var (p, optional) in Of(o.GetType()))
            {
                var name = $"{at}.{JsonNamingPolicy.CamelCase.ConvertName(p.Name)}";
                var wrong = p.GetValue(o) switch
                {
                    null => optional ? null : $"{name} is missing",
                    string => null,
                    IEnumerable list => Entries(list, name, depth),
                    var value => Missing(value, name, depth + 1),
                };
                if (wrong is not null)
                    return wrong;
            }

            return null;
        }

        private string? Entries(IEnumerable list, string name, int depth)
        {
            foreach (var x in list)
            {
                if (x is null)
                    return $"{name} holds an empty entry";
                if (Missing(x, name, depth + 1) is { } wrong)
                    return wrong;
            }

            return null;
        }

        private List<(PropertyInfo Property, bool Optional)> Of(Type type)
        {
            if (!of.TryGetValue(type, out var members))
                of[type] = members =
                [
                    .. type.GetProperties().Where(p => p.GetIndexParameters().Length == 0 && p.SetMethod is not null && !p.PropertyType.IsValueType)
                        .Select(p => (p, context.Create(p).ReadState == NullabilityState.Nullable)),
                ];
            return members;
        }
    }

    /// <summary>
    /// Numbers, words of a choice and ticks that each plan of a type has stored since its first version: one that is not there would be read as 0, and the
    /// piece drawn from it. What came later is marked, and may be missing. Null where all are there.
    /// </summary>
    private static string? MissingNumber(JsonElement e, Type type, string at)
    {
        type = Nullable.GetUnderlyingType(type) ?? type;
        if (e.ValueKind == JsonValueKind.Array && EntryOf(type) is { } entry)
            return e.EnumerateArray().Select(x => MissingNumber(x, entry, at)).FirstOrDefault(m => m is not null);
        if (e.ValueKind != JsonValueKind.Object || type.Namespace?.StartsWith("Glenfrost", StringComparison.Ordinal) != true
            || type.IsDefined(typeof(JsonConverterAttribute), true))
            return null;
        foreach (var p in type.GetProperties().Where(p => p.GetIndexParameters().Length == 0 && p.SetMethod is not null))
        {
            var name = JsonNamingPolicy.CamelCase.ConvertName(p.Name);
            var wrong = e.TryGetProperty(name, out var stored) ? MissingNumber(stored, p.PropertyType, $"{at}.{name}")
                : MayBeMissing(type, p) ? null : $"{at}.{name} is missing";
            if (wrong is not null)
                return wrong;
        }

        return null;
    }

    // What may be empty, what came later, and what its record has a usual value for.
    private static bool MayBeMissing(Type type, PropertyInfo p) => !p.PropertyType.IsValueType
        || Nullable.GetUnderlyingType(p.PropertyType) is not null
        || p.IsDefined(typeof(AddedLaterAttribute), true)
        || type.GetConstructors().SelectMany(c => c.GetParameters()).Any(a => a.Name == p.Name && a.HasDefaultValue);

    private static Type? EntryOf(Type list) => list.IsArray ? list.GetElementType()
        : list.GetInterfaces().Append(list).FirstOrDefault(i => i.IsGenericType && i.GetGenericTypeDefinition() == typeof(IEnumerable<>))
            ?.GetGenericArguments()[0];

    /// <summary>The first field outside its own range.</summary>
    private static string? Fields(Trial trial, ITrialPlan plan)
    {
        foreach (var (name, value) in trial.ValuesOf(plan))
        {
            if (!trial.Fields.TryGetValue(name, out var field))
                continue;
            if (value is decimal number && field.Quantity?.Check(number).Error is { } beyond)
                return $"plan: {beyond}";
            if (value is string text && field.IsText && text.Length > field.Longest)
                return $"plan: {name} is longer than {field.Longest} characters";
            if (value is string { Length: > 0 } word && field.Words is { } words && !words.Contains(word))
                return $"plan: {name} is \"{(word.Length > 40 ? word[..40] + "…" : word)}\", which is no choice of this trial";
        }

        return null;
    }

    private static string? Layers(ITrialPlan plan) =>
        plan.TotalLayers is < 0 or > MostLayers ? $"plan has {plan.TotalLayers} layers; at most {MostLayers} are printed"
        : plan.LayersPerPiece is { } each && (each < 1 || plan.TotalLayers / each > 200) ? "plan has pieces without layers, or more than 200"
        : plan.Parts.Any(p => p.FirstLayer < 0 || p.LastLayer < 0 || p.LastLayer > plan.TotalLayers) ? "plan has parts outside its layers"
        : plan.Checkpoints.Any(c => c.Layer < 0 || c.Layer > MostLayers) ? "plan has checkpoints outside its layers"
        : null;

    /// <summary>What every page asks of a plan is asked once here.</summary>
    private static string? Drawn(Trial trial, ITrialPlan plan)
    {
        // Whatever one of them stumbles over is caught and told by the caller.
        _ = (plan.Summary, plan.PieceLabels.Count, trial.SheetParts(plan).Count);
        return trial.Grid(plan).Rows.Any(r => r.Section < 0 || r.Section >= plan.Parts.Count) ? "plan is read in rows that it has no part for" : null;
    }
}
