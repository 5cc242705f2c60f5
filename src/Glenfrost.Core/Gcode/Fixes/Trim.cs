using System.Text;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Fixes;

/// <summary>A file trimmed as a whole, for a roll or a part: more or less flow, another fan, a few degrees. Nulls leave it as it is.</summary>
/// <param name="FlowPercent">Flow against the file's own, 50 to 150 %.</param>
/// <param name="FanPercent">Fan against the file's own, %; 0 switches it off.</param>
/// <param name="NozzleByC">Nozzle warmer by so much, below 0 colder, °C.</param>
/// <param name="BedByC">Bed warmer by so much, below 0 colder, °C.</param>
/// <param name="FirstLayerStays">True where the first layer keeps what it has.</param>
public sealed record TrimRequest(decimal? FlowPercent, decimal? FanPercent, decimal? NozzleByC, decimal? BedByC, bool FirstLayerStays)
{
    /// <summary>True where nothing is asked for.</summary>
    public bool IsEmpty => FlowPercent is null or 100 && FanPercent is null or 100 && NozzleByC is null or 0 && BedByC is null or 0;
}

/// <summary>One thing that was read back of a trimmed file.</summary>
/// <param name="What">In words.</param>
/// <param name="Found">As it was found.</param>
/// <param name="Holds">True where it is as it was asked.</param>
public sealed record TrimFinding(string What, string Found, bool Holds);

/// <summary>Trims of a whole file, and what is read back of them.</summary>
public static class Trim
{
    /// <summary>Begins what is said of a file that was made so.</summary>
    public const string Title = "Trimmed as a whole";

    private const double Everywhere = 0.002;

    /// <summary>Fits a trim to a file, or says at which fields it does not.</summary>
    /// <param name="r">What is asked for.</param>
    /// <param name="f">The file's facts.</param>
    /// <param name="file">Opens it.</param>
    /// <param name="machine">Its machine; null where nobody said.</param>
    public static (Fix? Fix, IReadOnlyList<FieldError> Errors) Plan(TrimRequest r, FileFacts f, Func<Stream> file, Machine? machine)
    {
        var errors = new List<FieldError>();
        void Within(string field, decimal? v, decimal least, decimal most, string unit, string why)
        {
            if (v is { } x && (x < least || x > most))
                errors.Add(new(field, $"{Say.N(x)} {unit} is outside {Say.N(least)} to {Say.N(most)}: {why}."));
        }

        Within("flowPercent", r.FlowPercent, 50, 150, "%", "more is no trim, the file is wrong");
        Within("fanShare", r.FanPercent, 0, 300, "%", "0 switches it off, 100 leaves it");
        Within("nozzleBy", r.NozzleByC, -40, 40, "°C", "more is another profile");
        Within("bedBy", r.BedByC, -40, 40, "°C", "more is another profile");
        if (errors.Count == 0 && r.IsEmpty)
            errors.Add(new("flowPercent", "Nothing is trimmed yet: say flow, fan or a temperature."));
        var second = f.Layers.Count > 1 ? f.Layers[1].FirstOffset : long.MaxValue;
        if (r.FirstLayerStays && f.Layers.Count < 2)
            errors.Add(new("firstLayerStays", "The file has one layer: nothing would be trimmed."));
        if (errors.Count > 0)
            return (null, errors);
        var (edits, notes, parts) = (new List<FileEdit>(), new List<string>(), new List<string>());
        using var read = file();
        var printing = f.Settings.Where(s => s.Line < f.LastExtrudeLine).ToList();
        var changed = printing.Where(s => !r.FirstLayerStays || s.Offset >= second).ToList();
        foreach (var (by, field, kinds, code, least, most, what) in Heats(r, machine))
        {
            // What only warms up or stands by, below what anything is laid at, is left alone.
            bool Lays(SettingLine s) => kinds.Contains(s.Kind) && s.Value > 0 && s.Value >= least;
            var lines = changed.Where(Lays).ToList();
            foreach (var s in lines)
            {
                if (s.Value + by < least || s.Value + by > most)
                {
                    return (null,
                    [
                        new(field, $"Line {s.Line} sets {Say.N(s.Value)} °C: {Say.N(s.Value + by)} °C would be outside {Say.N(least)} to {Say.N(most)} °C" +
                            $"{(machine is null ? "" : $", the limits of {machine.Name}")}."),
                    ]);
                }

                if (Edit(read, s, (words, _) => words.Has('S') ? 'S' : 'R', v => v + by) is not { } edit)
                    return (null, [new(field, $"Line {s.Line} is written in a way that is not changed here.")]);
                edits.Add(edit);
            }

            // What was set before the first layer and never again is set anew where the trim begins.
            var before = printing.LastOrDefault(s => Lays(s) && s.Offset < second);
            if (r.FirstLayerStays && before is not null)
            {
                if (before.Value + by < least || before.Value + by > most)
                    return (null, [new(field, $"{Say.N(before.Value + by)} °C would be outside {Say.N(least)} to {Say.N(most)} °C.")]);
                edits.Add(new(second, 0, $"{code} S{Say.N(before.Value + by)} {Marks.Added}trim{Stepper.LineEnd(f)}"));
            }
            else if (lines.Count == 0)
            {
                return (null,
                    [new(field, $"The file sets no {what} of its own{(f.OwnMacros.Count > 0 ? ": the printer's macros do" : "")}; nothing would change.")]);
            }

            parts.Add($"{what} {Say.Signed(by)} °C");
        }

        if (r.FanPercent is { } share and not 100)
        {
            var lines = changed.Where(s => s.Kind == SettingKind.Fan && s.Value > 0).ToList();
            // What runs when the trim begins is set anew there.
            var before = !r.FirstLayerStays ? null : printing.LastOrDefault(s => s.Kind == SettingKind.Fan && s.Offset < second);
            if (before is { Value: > 0 })
                edits.Add(new(second, 0,
                    $"M106 S{Say.N(Math.Clamp(Math.Round(before.Value * 2.55 * (double)share / 100), 0, 255))} {Marks.Added}trim{Stepper.LineEnd(f)}"));
            else if (lines.Count == 0)
                return (null, [new("fanShare", "The file runs no fan there; nothing would change.")]);
            foreach (var s in lines)
            {
                // A bare M106 is full on.
                if (Edit(read, s, (words, _) => words.Has('S') ? 'S' : null, v => Math.Clamp(Math.Round(v * (double)share / 100), 0, 255), 255) is not { } edit)
                    return (null, [new("fanShare", $"Line {s.Line} is written in a way that is not changed here.")]);
                edits.Add(edit);
            }

            parts.Add(share == 0 ? "fan off" : $"fan × {Say.N(share / 100)}");
            if (share > 100)
                notes.Add("Where the file's fan is near full already, it is full: more is not to be had.");
            if (share == 0)
                notes.Add("Bridges are without fan too.");
        }

        IMoveEdit? moves = null;
        if (r.FlowPercent is { } flow and not 100)
        {
            moves = new StepMoves(Steppable.Flow, [new(r.FirstLayerStays ? second : f.Layers[0].FirstOffset, (double)flow)], 0);
            parts.Add($"flow {Say.N(flow)} %");
        }

        if (f.OwnMacros.Count > 0 && (r.NozzleByC ?? 0) + (r.BedByC ?? 0) != 0)
            notes.Add($"What the printer's own macros set ({string.Join(", ", f.OwnMacros.Select(m => m.Name).Distinct().Take(3))}) is not changed.");
        notes.Add(r.FirstLayerStays ? "The first layer keeps what it had." : "The first layer is trimmed too.");
        edits.Sort((a, b) => a.Offset.CompareTo(b.Offset));
        return (new($"{Title}: {string.Join(", ", parts)}", edits, moves, notes), []);
    }

    private static IEnumerable<(double By, string Field, SettingKind[] Kinds, string Code, double Least, double Most, string What)> Heats(
        TrimRequest r, Machine? machine)
    {
        if (r.NozzleByC is { } nozzle and not 0)
        {
            yield return (
                (double)nozzle, "nozzleBy", [SettingKind.Nozzle, SettingKind.NozzleAndWait], "M104", machine?.Limits.MinC ?? 0, machine?.Limits.MaxC ?? 500,
                    "nozzle");
        }

        if (r.BedByC is { } bed and not 0)
            yield return ((double)bed, "bedBy", [SettingKind.Bed, SettingKind.BedAndWait], "M140", 0, machine?.BedMaxC ?? 200, "bed");
    }

    /// <summary>The line of a setting with another number behind its letter; null where it can't be changed.</summary>
    private static FileEdit? Edit(Stream read, SettingLine s, Func<GcodeWords, string, char?> letterOf, Func<double, double> to, double? bare = null)
    {
        var text = Stepper.Text(read, s.Offset, s.Length);
        var padded = Encoding.Latin1.GetBytes(text + "\n" + new string('\0', 40));
        var words = new GcodeWords();
        words.Read(ref padded[0], text.Length + 1);
        if (words.Kind != LineKind.Command || words.ChecksumAt >= 0)
            return null;
        if (letterOf(words, text) is not { } letter)
        {
            var code = text.TrimEnd();
            return bare is { } full ? new(s.Offset, s.Length, $"{code} S{Say.N(to(full))}{text[code.Length..]}") : null;
        }

        if (!words.Has(letter))
            return null;
        var (from, until) = words.PlaceOf(letter);
        return new(s.Offset, s.Length, text[..from] + Say.N(to(words[letter])) + text[until..]);
    }

    /// <summary>Reads a trimmed file back: plastic, layers, fan and temperatures against the file that it was made from.</summary>
    /// <param name="r">What was asked for.</param>
    /// <param name="before">The file that it was made from.</param>
    /// <param name="after">The trimmed one.</param>
    public static IReadOnlyList<TrimFinding> ReadBack(TrimRequest r, FileFacts before, FileFacts after)
    {
        var list = new List<TrimFinding> { new("layers", $"{after.Layers.Count}", after.Layers.Count == before.Layers.Count) };
        List<(LayerFacts Was, LayerFacts Is)> pairs = [.. before.Layers.Zip(after.Layers).Skip(r.FirstLayerStays ? 1 : 0)];
        var flow = (double)(r.FlowPercent ?? 100) / 100;
        var ratio = pairs.Sum(p => p.Is.Volume) / Math.Max(1e-9, pairs.Sum(p => p.Was.Volume));
        list.Add(new("plastic", $"× {Say.N(ratio, 4)}", Math.Abs(ratio - flow) < Everywhere));
        if (r.FirstLayerStays && before.Layers.Count > 0 && after.Layers.Count > 0)
        {
            var first = after.Layers[0].Volume / Math.Max(1e-9, before.Layers[0].Volume);
            list.Add(new("plastic of the first layer", $"× {Say.N(first, 4)}", Math.Abs(first - 1) < Everywhere));
        }

        if (r.NozzleByC is { } by and not 0)
        {
            // Warm by what was asked at each layer, as far as both files say it.
            var off = pairs.Where(p => p.Was.NozzleMax > 0 && p.Is.NozzleMax > 0).Select(p => p.Is.NozzleMax - p.Was.NozzleMax
                - (double)by).Select(Math.Abs).ToList();
            list.Add(new("nozzle at each layer", off.Count == 0 ? "not set in the file" : $"off by {Say.N(off.Max(), 1)} °C at most", off.Count > 0
                && off.Max() < 0.6));
        }

        if (r.FanPercent is { } share and not 100)
        {
            var off = pairs.Select(p => Math.Abs(p.Is.FanMax - Math.Min(100, p.Was.FanMax * (double)share / 100))).DefaultIfEmpty(0).Max();
            list.Add(new("fan at each layer", $"off by {Say.N(off, 1)} % at most", off < 1));
        }

        return list;
    }
}
