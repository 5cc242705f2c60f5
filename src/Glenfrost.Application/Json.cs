using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Application;

/// <summary>How Glenfrost writes JSON: camelCase, words for enumerations.</summary>
public static class Json
{
    /// <summary>As records are stored: camel case, enums as words, null left out.</summary>
    public static JsonSerializerOptions Options { get; } = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    /// <summary>Writes a record.</summary>
    public static string Write<T>(T value) => JsonSerializer.Serialize(value, Options);

    /// <summary>Writes all that a record has, not only what its variable's type knows.</summary>
    public static string WriteAsIs(object value) => JsonSerializer.Serialize(value, value.GetType(), Options);

    /// <summary>Reads a record; throws where it is none.</summary>
    public static T Read<T>(string json) => JsonSerializer.Deserialize<T>(json, Options)!;
}
