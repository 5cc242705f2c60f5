using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Application;

/// <summary>How Glenfrost writes JSON: camelCase, words for enumerations.</summary>
public static class Json
{
    public static JsonSerializerOptions Options { get; } = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    /// <summary>Writes all that a record has, not only what its variable's type knows.</summary>
    public static string WriteAsIs(object value) => JsonSerializer.Serialize(value, value.GetType(), Options);

    public static T Read<T>(string json) => JsonSerializer.Deserialize<T>(json, Options)!;
}
