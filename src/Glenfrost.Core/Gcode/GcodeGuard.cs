using Glenfrost.Core.Settings;
using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode;

/// <summary>Reads a finished file line by line and says where it leaves the machine's limits. The last gate before a file is handed out.</summary>
public static class GcodeGuard
{
    /// <summary>The comment that names the exception to the cold-extrusion guard.</summary>
    public const string RigComment = "; rig test, hotend off: cold filament is driven on purpose";

    /// <summary>A temperature in start or end code above a limit, in words; null where there is none.</summary>
    public static string? Temperatures(string code, Machine m)
    {
        foreach (var (line, number) in code.Split('\n').Select((l, i) => (l, i + 1)))
        {
            var words = Words(line);
            if (TooHot(words, m) is { } text)
                return $"line {number}, {line.Trim()}: {text}";
            if (Macro(line, m) is { } macro)
                return $"line {number}, {line.Trim()}: {macro}";
        }

        return null;
    }

    /// <summary>
    /// Checks a whole file, whoever wrote it, by the one interpreter: relative moves, arcs, inches and macros count as what they do. Temperatures, extrusion
    /// while cold, moves beside the bed or above the height. Where printing begins and ends is said by our own comments; in a file without them it is the
    /// first and the last line that is laid on the bed. Before and after it a machine may purge and park beside its bed, as far as <see cref="BesideMm"/>.
    /// </summary>
    /// <returns>What is wrong, with its line; empty where nothing is. At most ten.</returns>
    public static IReadOnlyList<string> Check(Stream file, Machine m)
    {
        var sink = new Gate(m);
        new GcodeInterpreter(sink).Run(file);
        return sink.Wrong;
    }

    /// <summary>The same of a text.</summary>
    public static IReadOnlyList<string> Check(TextReader file, Machine m)
    {
        using var bytes = new MemoryStream(System.Text.Encoding.Latin1.GetBytes(file.ReadToEnd()));
        return Check(bytes, m);
    }

    /// <summary>How far beside its bed a machine may purge, wipe or park before and after printing, mm.</summary>
    public const double BesideMm = 80;

    private const int Most = 10;

    /// <summary>What names of a macro's numbers say that it heats.</summary>
    private static readonly (string Part, string Command)[] Heats =
        [("BED", "M140"), ("CHAMBER", "M141"), ("NOZZLE", "M104"), ("EXTRUDER", "M104"), ("HOTEND", "M104"), ("TEMP", "M104")];

    /// <summary>Is told what a file does, and keeps what is wrong with it.</summary>
    private sealed class Gate(Machine m) : GcodeSink
    {
        private readonly double minX = m.OriginInMiddle ? -m.BedXMm / 2 : 0, minY = m.OriginInMiddle ? -m.BedYMm / 2 : 0;

        // What leaves the bed since the last line that was laid: wrong once another one is laid, a park where none is.
        private readonly List<string> waiting = [];
        private bool said, ours, rig, laid;

        public List<string> Wrong { get; } = [];

        public override bool Enough => Wrong.Count >= Most;

        private void Add(string what)
        {
            if (Wrong.Count < Most)
                Wrong.Add(what);
        }

        public override void Comment(ReadOnlySpan<byte> text, MachineState state, int number, long offset)
        {
            var line = System.Text.Encoding.Latin1.GetString(text).Trim().TrimStart(';').Trim();
            if (line.StartsWith("print begins", StringComparison.Ordinal))
                (said, ours) = (true, true);
            else if (line.StartsWith("print ends", StringComparison.Ordinal))
                ours = false;
            else if (line == RigComment.TrimStart(';').Trim())
                rig = true;
        }

        public override void Command(GcodeWords words, ReadOnlySpan<byte> line, MachineState state, int number, long offset)
        {
            var text = System.Text.Encoding.Latin1.GetString(line);
            var read = Words(text);
            // The one exception to cold extrusion is a rig test that heats nothing.
            if (rig && read.Command is "M104" or "M109" or "M140" or "M190" && (read.Of('S') ?? read.Of('R')) > 0)
                Add($"line {number}: heats, in a rig test with the hotend off");
            if (!rig && read.Command == "M302" && (read.Of('P') > 0 || read.Of('S') is { } cold && cold < m.Limits.MinC))
                Add($"line {number}: lets cold filament be fed");
            if (TooHot(read, m) is { } hot)
                Add($"line {number}: {hot}");
            else if (words.Kind == LineKind.Macro && Macro(text, m) is { } macro)
                Add($"line {number}: {macro}");
        }

        public override void Unreadable(string why, ReadOnlySpan<byte> line, int number, long offset)
        {
            if (said && ours)
                Add($"line {number}: can't be read ({why})");
        }

        public override void Move(ref readonly GcodeMove move, MachineState state)
        {
            var printing = said ? ours : laid;
            var set = state.Nozzle;
            if (move.E > 0 && !rig && (said ? ours && !(set >= m.Limits.MinC) : set < m.Limits.MinC))
                Add($"line {move.Line}: extrudes at {Say.N(double.IsNaN(set) ? 0 : set)} °C, below the cold-extrusion limit of {Say.N(m.Limits.MinC)} °C");
            var (beside, far) = Beside(in move);
            if (beside is null)
            {
                if (!said && move.E > 0 && (move.X1 != move.X0 || move.Y1 != move.Y0))
                {
                    // Here a line is laid on the bed: what left it since the line before did so in the middle of the print.
                    if (laid)
                        waiting.ForEach(Add);
                    waiting.Clear();
                    laid = true;
                }

                return;
            }

            if (said && printing || far)
                Add($"line {move.Line}: {beside}");
            else if (!said && printing && waiting.Count < Most)
                waiting.Add($"line {move.Line}: {beside}");
        }

        /// <summary>Where a move leaves the bed or the height, in words; and whether farther than a machine purges or parks.</summary>
        private (string? Words, bool Far) Beside(ref readonly GcodeMove move)
        {
            (string?, bool) worst = (null, false);
            var steps = move.Arc == 0 ? 1 : 16;
            for (var i = 1; i <= steps; i++)
            {
                var (x, y) = (move.X1, move.Y1);
                if (i < steps)
                {
                    var angle = move.Arc * i / steps;
                    var (dx, dy) = (move.X0 - move.CentreX, move.Y0 - move.CentreY);
                    (x, y) = (move.CentreX + dx * Math.Cos(angle) - dy * Math.Sin(angle), move.CentreY + dx * Math.Sin(angle) + dy * Math.Cos(angle));
                }

                var off = Math.Max(Math.Max(minX - x, x - minX - m.BedXMm), Math.Max(minY - y, y - minY - m.BedYMm));
                if (off > 1e-6 && (worst.Item1 is null || off > BesideMm))
                    worst = ($"moves to {Say.N(x)}, {Say.N(y)}, beside the bed", off > BesideMm);
            }

            if (worst.Item1 is null && (move.Z1 > m.HeightMm + 1e-6 || move.Z1 < -1e-6))
                worst = ($"moves to {Say.N(move.Z1)} mm, beyond the height of {Say.N(m.HeightMm)} mm", move.Z1 > m.HeightMm + BesideMm || move.Z1 < -2);
            return worst;
        }
    }

    /// <summary>A macro that is told a temperature above a limit, whatever it is called: KEY=number, the key naming what it heats.</summary>
    private static string? Macro(string line, Machine m)
    {
        bool Says(string heater) => line.Contains(heater, StringComparison.OrdinalIgnoreCase);
        var target = Says("bed") ? "M140" : Says("chamber") ? "M141" : "M104";
        foreach (var part in line.Split(';')[0].Split([' ', '\t', '\r'], StringSplitOptions.RemoveEmptyEntries).Skip(1))
        {
            if (part.IndexOf('=') is not (> 0 and var at)
                || !double.TryParse(part.AsSpan(at + 1), NumberStyles.Float, CultureInfo.InvariantCulture, out var value))
                continue;
            var key = part[..at].ToUpperInvariant();
            var command = key == "TARGET" ? target : Heats.FirstOrDefault(h => key.Contains(h.Part, StringComparison.Ordinal)).Command;
            if (command is not null && TooHot(new(command, $"S{Say.N(value, 3)}"), m) is { } hot)
                return hot;
        }

        return null;
    }

    private static string? TooHot(LineWords words, Machine m)
    {
        var value = words.Of('S') ?? words.Of('R');
        var (limit, what) = words.Command switch
        {
            "M104" or "M109" => (m.Limits.MaxC, $"the nozzle's limit of {Say.N(m.Limits.MaxC)} °C ({m.Limits.MaxBecause})"),
            "M140" or "M190" => (m.BedMaxC, $"the bed's limit of {Say.N(m.BedMaxC)} °C"),
            "M141" or "M191" => (m.ChamberMaxC, $"the chamber's limit of {Say.N(m.ChamberMaxC)} °C"),
            _ => (double.MaxValue, ""),
        };
        return value > limit ? $"sets {Say.N(value.Value)} °C, above {what}" : null;
    }

    private readonly record struct LineWords(string Command, string Rest)
    {
        /// <summary>The number behind a letter; null where it does not stand there.</summary>
        public double? Of(char letter)
        {
            for (var i = 0; i < Rest.Length; i++)
            {
                if (char.ToUpperInvariant(Rest[i]) != letter || (i > 0 && char.IsLetter(Rest[i - 1])))
                    continue;
                var end = i + 1;
                while (end < Rest.Length && (char.IsDigit(Rest[end]) || Rest[end] is '.' or '-' or '+'))
                    end++;
                if (double.TryParse(Rest.AsSpan(i + 1, end - i - 1), NumberStyles.Float, CultureInfo.InvariantCulture, out var v))
                    return v;
            }

            return null;
        }
    }

    private static LineWords Words(string line)
    {
        var end = line.IndexOf(';');
        var code = (end < 0 ? line : line[..end]).Trim();
        if (code.Length < 2 || !char.IsLetter(code[0]))
            return new("", "");
        var i = 1;
        while (i < code.Length && (char.IsDigit(code[i]) || code[i] == ' ' && i == 1))
            i++;
        var digits = code[1..i].Trim().TrimStart('0');
        return new(char.ToUpperInvariant(code[0]) + (digits.Length == 0 ? "0" : digits), code[i..]);
    }

}
