using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Core.Trials;

/// <summary>Stored plans as JSON: the same form everywhere, so that a plan of any age is read the same way.</summary>
public static class StoredPlan
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
    };

    /// <summary>Reads a stored plan.</summary>
    /// <exception cref="JsonException">It is none.</exception>
    public static T Read<T>(string json)
        where T : class => JsonSerializer.Deserialize<T>(json, Options) ?? throw new JsonException("The plan is empty.");
}
