using Glenfrost.Core.Settings;
using System.Globalization;
using System.Text;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;

namespace Glenfrost.Core.Gcode.Stepping;

/// <summary>Writes a stepped file. Everything that the plan does not speak of stays byte for byte as it was.</summary>
public static class Stepper
{
    /// <summary>Writes it.</summary>
    /// <param name="file">The file, opened anew each time it is asked for.</param>
    /// <param name="facts">Its inspection.</param>
    /// <param name="plan">Fitted to it.</param>
    /// <param name="to">Where it goes.</param>
    /// <param name="stop">Asked often.</param>
    public static void Write(Func<Stream> file, FileFacts facts, StepPlan plan, Stream to, CancellationToken stop = default)
    {
        using var from = file();
        EditedFile.Write(from, to, Edits(file, facts, plan), Moves(facts, plan), stop);
    }

    /// <summary>Lines to add and to switch off.</summary>
    internal static IReadOnlyList<FileEdit> Edits(Func<Stream> file, FileFacts facts, StepPlan plan)
    {
        var end = LineEnd(facts);
        var edits = new List<FileEdit>();
        var number = plan.Values.Count;
        var tools = facts.Settings.Any(s => s.Kind == SettingKind.Tool);
        foreach (var s in plan.Sections)
        {
            var layer = facts.Layers[s.Layer];
            var mark = string.Create(CultureInfo.InvariantCulture, $"section {s.Section + 1} of {number}, from z {s.FromMm:0.###}");
            var text = new StringBuilder();
            if (edits.Count == 0)
                text.Append(CultureInfo.InvariantCulture, $"; {StepMark.Text}: {plan.Line}{end}");
            var command = Command(plan, s.Value, facts, tools ? layer.Before.Tool : null, layer.Before.Unit);
            text.Append(
                CultureInfo.InvariantCulture, $"{(command is null ? "" : command + " ")}; {StepMark.Text} {plan.What.Key} {Value(s.Value)}, {mark}{end}");
            edits.Add(new(layer.FirstOffset, 0, text.ToString()));
        }

        var own = Own(facts, plan).ToList();
        if (own.Count > 0)
        {
            using var read = file();
            foreach (var line in own)
                edits.Add(new(line.Offset, line.Length, Marks.Off + Text(read, line.Offset, line.Length)));
        }

        return [.. edits.OrderBy(e => e.Offset).ThenBy(e => e.Length)];
    }

    /// <summary>The file's own lines that would undo the steps: between the first step and the last extrusion.</summary>
    public static IEnumerable<SettingLine> Own(FileFacts facts, StepPlan plan)
    {
        var from = facts.Layers[plan.Sections[0].Layer].FirstLine;
        SettingKind[] kinds =
            plan.What == Steppable.Temperature ? [SettingKind.Nozzle, SettingKind.NozzleAndWait]
            : plan.What == Steppable.Fan ? [SettingKind.Fan]
            : plan.What == Steppable.PressureAdvance ? [SettingKind.PressureAdvance]
            : (plan.What == Steppable.RetractionLength || plan.What == Steppable.RetractionSpeed) && facts.Retraction.Firmware > 0 ? [SettingKind.RetractLength]
            : [];
        // A macro that heats may do more than that: it stays.
        return facts.Settings.Where(s =>
            kinds.Contains(s.Kind) && s.Line > from && s.Line < facts.LastExtrudeLine && (plan.What != Steppable.Temperature || s.Value > 0));
    }

    private static StepMoves? Moves(FileFacts facts, StepPlan plan)
    {
        var firmware = facts.Retraction.Firmware > 0;
        if (plan.What == Steppable.Temperature
            || plan.What == Steppable.Fan
            || plan.What == Steppable.PressureAdvance
            || firmware && (plan.What == Steppable.RetractionLength || plan.What == Steppable.RetractionSpeed))
            return null;
        var values = new List<ValueFrom>();
        for (var i = 0; i < plan.Sections.Count; i++)
        {
            var s = plan.Sections[i];
            // Another object begins below its first section: there the file's own values hold again.
            if (i > 0 && s.Object != plan.Sections[i - 1].Object)
            {
                var begin = facts.Layers.First(l => l.Object == s.Object && !l.Priming);
                if (begin.Index < s.Layer)
                    values.Add(new(begin.FirstOffset, double.NaN));
            }

            values.Add(new(facts.Layers[s.Layer].FirstOffset, s.Value));
        }

        return new(plan.What, values, facts.Retraction.Usual);
    }

    private static string? Command(StepPlan plan, double value, FileFacts facts, int? tool, double unit)
    {
        var t = tool is { } n ? $" T{n}" : "";
        if (plan.What == Steppable.Temperature)
            return $"M104{t} S{Value(value)}";
        if (plan.What == Steppable.Fan)
            return value <= 0
                ? "M107"
                : $"M106 S{Math.Max(1, Math.Round(value * 255 / 100, MidpointRounding.AwayFromZero)).ToString(CultureInfo.InvariantCulture)}";
        if (plan.What == Steppable.PressureAdvance)
            return plan.Dialect.PressureAdvance(value);
        if (facts.Retraction.Firmware == 0)
            return null;
        // In a file of inches M207 counts inches too; words such as SET_RETRACTION always count mm.
        unit = plan.Dialect.Key == "macro" ? 1 : unit;
        if (plan.What == Steppable.RetractionLength)
            return plan.Dialect.FirmwareRetraction(value / unit, null);
        return plan.What == Steppable.RetractionSpeed ? plan.Dialect.FirmwareRetraction(null, value / unit) : null;
    }

    internal static string LineEnd(FileFacts facts) => facts.CarriageReturns > facts.Lines / 2 ? "\r\n" : "\n";

    internal static string Text(Stream file, long offset, int length)
    {
        file.Position = offset;
        var bytes = new byte[Math.Min(length, 4000)];
        file.ReadExactly(bytes);
        return Encoding.Latin1.GetString(bytes);
    }

    private static string Value(double v) => Say.N(v, 4);
}
