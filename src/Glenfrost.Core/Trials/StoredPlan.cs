using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace Glenfrost.Core.Trials;

/// <summary>Marks what a plan has while it is made and nobody needs of it later: what a button says that would change it.</summary>
[AttributeUsage(AttributeTargets.Property)]
internal sealed class NotStoredAttribute : Attribute;

/// <summary>Marks what plans store since a later version only: an older one has it not, and is read with its usual value.</summary>
[AttributeUsage(AttributeTargets.Property)]
internal sealed class AddedLaterAttribute : Attribute;

/// <summary>
/// Stored plans as JSON: the same form everywhere, so that a plan of any age is read the same way. Version 1 held sentences: warnings in words, and what
/// buttons would say. Version 2 holds kinds with their numbers; what version 1 said is read as it was said.
/// </summary>
public static class StoredPlan
{
    /// <summary>Version of the form that is written.</summary>
    public const int Version = 2;

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        TypeInfoResolver = new DefaultJsonTypeInfoResolver { Modifiers = { LeaveOut } },
    };

    /// <summary>Reads a stored plan of any version.</summary>
    /// <exception cref="JsonException">It is none.</exception>
    public static T Read<T>(string json)
        where T : class => JsonSerializer.Deserialize<T>(json, Options) ?? throw new JsonException("The plan is empty.");

    /// <summary>A plan as it is stored: all that it has but for what the next form would say anew.</summary>
    public static string Write(ITrialPlan plan) => JsonSerializer.Serialize(plan, plan.GetType(), Options);

    private static void LeaveOut(JsonTypeInfo type)
    {
        foreach (var property in type.Properties)
        {
            if (property.AttributeProvider?.IsDefined(typeof(NotStoredAttribute), false) == true)
                property.ShouldSerialize = (_, _) => false;
        }
    }
}
