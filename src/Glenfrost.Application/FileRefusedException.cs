using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Application;

/// <summary>A written file, read back, would leave the machine's limits: it is neither kept nor handed out.</summary>
/// <param name="wrong">What is wrong, each with its line.</param>
public sealed class FileRefusedException(IReadOnlyList<string> wrong)
    : Exception($"The file is not handed out, since it would leave the machine's limits: {string.Join("; ", wrong)}.")
{
    /// <summary>The same at the field of a form: what our writer lays keeps the limits, so it is the printer's own start or end code.</summary>
    public IReadOnlyList<FieldError> Errors => [new("startCode", $"{Message} Change start or end code on the printer's page, or its limits.")];

    /// <summary>Reads a file against a machine's limits; null where it keeps them.</summary>
    public static FileRefusedException? Of(string text, Machine machine) =>
        GcodeGuard.Check(new StringReader(text), machine) is { Count: > 0 } wrong ? new(wrong) : null;
}
