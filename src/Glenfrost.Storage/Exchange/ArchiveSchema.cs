using System.Text.Json;
using System.Text.Json.Nodes;

namespace Glenfrost.Storage.Exchange;

/// <summary>The JSON Schema (draft 2020-12) of an archive, made from the columns that are written.</summary>
public static class ArchiveSchema
{
    private static readonly (string Suffix, string Says)[] Units =
    [
        ("C", "°C"), ("MmPerS2", "mm/s²"), ("MmPerS", "mm/s"), ("Mm3PerS", "mm³/s"), ("Mm", "mm"), ("GPerCm3", "g/cm³"), ("Ug", "micrograms"),
        ("Minor", "minor units of the currency"), ("Percent", "0–100"), ("Minutes", "minutes"), ("Hours", "hours"), ("Px", "pixels"),
        ("sha256", "SHA-256, 64 small hexadecimal digits; the file stands in the zip as files/HASH"),
    ];

    private static readonly Dictionary<string, string> Words = new()
    {
        ["settings.key"] = "key of the settings dictionary, for example nozzleTemperatureC",
        ["settings.value"] = "in the unit that the key names",
        ["settings.uncertainty"] = "95 % half-width in the unit that the key names",
        ["readings.section"] = "from 0, lowest first",
        ["readings.aspect"] = "bridge, overhang, strings, surface, bond (0–4), observedC or state",
        ["readings.supersedesId"] = "the reading that this one corrects; readings are never overwritten",
        ["photos.section"] = "from 0, lowest first; missing for the whole piece",
        ["runs.stage"] = "planned, printed, read, decided or left",
        ["runs.plan"] = "the frozen plan, form as in planVersion",
        ["findings.tag"] = "any word; \"tried: helped\", \"tried: no difference\" and \"tried: worse\" are the diary",
        ["decisions.verdict"] = "the verdict as it was shown",
        ["decisions.readingIds"] = "the readings that it was shown for",
        ["printers.world"] = "real or practice; runs never mix worlds",
    };

    /// <summary>The schema as text.</summary>
    public static string Text()
    {
        var tables = new JsonObject();
        foreach (var table in ArchiveTables.All)
        {
            var fields = new JsonObject();
            foreach (var c in table.Columns)
                fields[c.Name] = Field(table, c);
            tables[table.Name] = new JsonObject
            {
                ["type"] = "array",
                ["items"] = new JsonObject
                {
                    ["type"] = "object",
                    ["properties"] = fields,
                    ["required"] = new JsonArray([.. table.Columns.Where(c => !c.Nullable).Select(c => (JsonNode)c.Name)]),
                    ["additionalProperties"] = false,
                },
            };
        }

        var schema = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["$id"] = "urn:glenfrost:archive:1",
            ["title"] = "Archive of Glenfrost",
            ["description"] =
                "A run, a profile, a pairing or the whole archive. Rows stand by table and name each other by id. Fields without a value are left out. " +
                    "Fields and tables are only added within a version.",
            ["type"] = "object",
            ["properties"] = new JsonObject
            {
                ["format"] = new JsonObject { ["const"] = ArchiveWriter.Format },
                ["version"] = new JsonObject { ["const"] = ArchiveWriter.Version },
                ["scope"] = new JsonObject { ["enum"] = new JsonArray("run", "profile", "pairing", "archive") },
                ["title"] = new JsonObject { ["type"] = "string" },
                ["exportedAt"] = new JsonObject { ["type"] = "string", ["format"] = "date-time" },
                ["engine"] = new JsonObject { ["type"] = "string", ["description"] = "version of the rules that wrote it" },
                ["readable"] = new JsonObject
                {
                    ["type"] = "object", ["description"] = "the profile with labels and units, for people and other programs; the import reads the rows only",
                },
                ["rows"] = new JsonObject { ["type"] = "object", ["properties"] = tables, ["additionalProperties"] = false },
            },
            ["required"] = new JsonArray("format", "version", "scope", "title", "exportedAt", "engine", "rows"),
            ["additionalProperties"] = false,
        };
        return schema.ToJsonString(
                new JsonSerializerOptions { WriteIndented = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }) + "\n";
    }

    private static JsonObject Field(ArchiveTable table, Column c)
    {
        var field = c.Kind switch
        {
            ColumnKind.Id => new JsonObject { ["type"] = "string", ["format"] = "uuid" },
            ColumnKind.Time => new JsonObject { ["type"] = "string", ["format"] = "date-time" },
            ColumnKind.Flag => new JsonObject { ["type"] = "boolean" },
            ColumnKind.Whole => new JsonObject { ["type"] = "integer" },
            ColumnKind.Number => new JsonObject { ["type"] = "number" },
            ColumnKind.Word => new JsonObject
            {
                ["enum"] = new JsonArray([.. Enum.GetNames(c.Type).Select(n => (JsonNode)(char.ToLowerInvariant(n[0]) + n[1..]))]),
            },
            ColumnKind.Json => new JsonObject(),
            _ => new JsonObject { ["type"] = "string" },
        };
        var says = Words.GetValueOrDefault($"{table.Name}.{c.Name}")
            ?? (
                c.Kind is ColumnKind.Number or ColumnKind.Whole or ColumnKind.Text
                    ? Units.FirstOrDefault(u => c.Name.EndsWith(u.Suffix, StringComparison.Ordinal) && c.Name.Length > u.Suffix.Length || c.Name == u.Suffix)
                        .Says
                    : null);
        if (says is not null)
            field["description"] = says;
        if (c.Name is "sha256" or "smallSha256")
            field["pattern"] = "^[0-9a-f]{64}$";
        return field;
    }
}
