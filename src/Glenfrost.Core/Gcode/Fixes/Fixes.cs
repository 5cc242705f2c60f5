using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Fixes;

/// <summary>What a fix is asked to do.</summary>
public sealed record FixRequest
{
    /// <summary>flow-override, speed-override, temperature, layer-time, cool-down or trim.</summary>
    public string? Key { get; init; }

    /// <summary>Line whose temperature is corrected.</summary>
    public int? Line { get; init; }

    /// <summary>The right temperature, °C.</summary>
    public decimal? TemperatureC { get; init; }

    /// <summary>The minimum layer time to print with, s.</summary>
    public decimal? MinimumS { get; init; }

    /// <summary>End, step and hold of a cool-down.</summary>
    public decimal? ToC { get; init; }

    /// <summary>See <see cref="ToC"/>.</summary>
    public decimal? StepC { get; init; }

    /// <summary>See <see cref="ToC"/>.</summary>
    public decimal? HoldMinutes { get; init; }

    /// <summary>What a whole file is trimmed by; null for other fixes.</summary>
    public TrimRequest? Trim { get; init; }

    /// <summary>Steps of a cool-down as a pairing keeps them, in place of equal ones; null for none.</summary>
    public IReadOnlyList<RampStep>? Ramp { get; init; }

    /// <summary>The printer's dialect.</summary>
    public string? Dialect { get; init; }

    /// <summary>The warmer of room and chamber, °C.</summary>
    public double SurroundingsC { get; init; } = 22;
}

/// <summary>A fix that fits its file.</summary>
/// <param name="Title">What it does, in words.</param>
/// <param name="Edits">Lines to add, to change and to switch off.</param>
/// <param name="Moves">Changes of moves; null for none.</param>
/// <param name="Notes">What one should know.</param>
public sealed record Fix(string Title, IReadOnlyList<FileEdit> Edits, IMoveEdit? Moves, IReadOnlyList<string> Notes)
{
    /// <summary>Writes the mended file.</summary>
    public void Write(Func<Stream> file, Stream to, CancellationToken stop = default)
    {
        using var from = file();
        EditedFile.Write(from, to, Edits, Moves, stop);
    }
}

/// <summary>The usual hand fixes as rewrites.</summary>
public static class FixPlanning
{
    /// <summary>Keys of all fixes.</summary>
    public static IReadOnlyList<string> Keys { get; } = ["flow-override", "speed-override", "temperature", "layer-time", "cool-down", "trim"];

    /// <summary>Fits a fix to a file.</summary>
    public static (Fix? Fix, IReadOnlyList<FieldError> Errors) Plan(FixRequest r, FileFacts f, Func<Stream> file, Machine? machine = null) => r.Key switch
    {
        _ when f.Empty => (null, [new("", "Nothing is extruded in this file; there is nothing to mend.")]),
        "flow-override" => Override(SettingKind.FlowPercent, "flow", f, file),
        "speed-override" => Override(SettingKind.SpeedPercent, "speed", f, file),
        "temperature" => Temperature(r, f, file, machine),
        "layer-time" => LayerTime(r, f),
        "cool-down" => Cool(r, f, file, machine),
        "trim" => Trim.Plan(r.Trim ?? new(null, null, null, null, false), f, file, machine),
        _ => (null, [new("key", $"One of {string.Join(", ", Keys)} would be right.")]),
    };

    private static (Fix?, IReadOnlyList<FieldError>) Override(SettingKind kind, string what, FileFacts f, Func<Stream> file)
    {
        var lines = f.Settings.Where(s => s.Kind == kind && s.Line < f.LastExtrudeLine && Math.Abs(s.Value - 100) > 0.01).ToList();
        if (lines.Count == 0)
            return (null, [new("", $"The file has no {what} override.")]);
        using var read = file();
        return (new($"Drop the {what} override of {string.Join(", ", lines.Select(l => $"{Say.N(l.Value)} %").Distinct().Take(4))}",
            [.. lines.Select(l => new FileEdit(l.Offset, l.Length, Marks.Off + Stepper.Text(read, l.Offset, l.Length)))], null,
            ["What the printer itself still has set from an earlier print is not undone by this: switch it off and on, or set 100 % there."]), []);
    }

    private static (Fix?, IReadOnlyList<FieldError>) Temperature(FixRequest r, FileFacts f, Func<Stream> file, Machine? machine)
    {
        var at = f.Settings.FirstOrDefault(s =>
            s.Line == r.Line && s.Kind is SettingKind.Nozzle or SettingKind.NozzleAndWait or SettingKind.Bed or SettingKind.BedAndWait or SettingKind.Chamber);
        if (at is null)
            return (null, [new("line", r.Line is null ? "Which line?" : $"Line {r.Line} sets no temperature.")]);
        var nozzle = at.Kind is SettingKind.Nozzle or SettingKind.NozzleAndWait;
        var limit =
            machine is null ? (nozzle ? 500 : 200)
            : nozzle ? machine.Limits.MaxC
            : at.Kind == SettingKind.Chamber ? machine.ChamberMaxC
            : machine.BedMaxC;
        if (r.TemperatureC is not { } c || c < 0 || (double)c > limit)
            return (null, [new("temperatureC", $"0 to {Say.N(limit)} °C would be right{(machine is null ? "" : $" on {machine.Name}")}.")]);
        using var read = file();
        var text = Stepper.Text(read, at.Offset, at.Length);
        var padded = System.Text.Encoding.Latin1.GetBytes(text + "\n" + new string('\0', 40));
        var words = new GcodeWords();
        words.Read(ref padded[0], text.Length + 1);
        var letter = words.Has('S') ? 'S' : 'R';
        if (words.Kind != LineKind.Command || !words.Has(letter) || words.ChecksumAt >= 0)
            return (null, [new("line", $"Line {r.Line} is written in a way that is not changed here: {text.Trim()}")]);
        var (from, to) = words.PlaceOf(letter);
        return (
            new(
                $"Set {Say.N((double)c)} °C instead of {Say.N(at.Value)} °C in line " +
                $"{at.Line}", [new(at.Offset, at.Length, text[..from] + Say.N((double)c) + text[to..])],
                null, ["Only this line changes; look whether another one sets the same again."]),
            []);
    }

    private static (Fix?, IReadOnlyList<FieldError>) LayerTime(FixRequest r, FileFacts f)
    {
        if (r.MinimumS is not { } minimum || minimum < 0 || minimum > 300)
            return (null, [new("minimumS", "0 to 300 s would be right; 0 takes all slowing away.")]);
        var shares = SpeedShares(f, (double)minimum);
        if (shares.All(s => Math.Abs(s.Share - 1) < 0.01))
            return (null, [new("minimumS", $"Every layer takes {Say.N((double)minimum)} s or more already, and none is slowed: nothing would change.")]);
        var values = new List<ValueFrom>();
        foreach (var (layer, share) in shares)
        {
            var value = Math.Abs(share - 1) < 0.01 ? double.NaN : share * 100;
            values.Add(new(layer.FirstOffset, value));
        }

        var atLeast = SlowDowns.Of(f) is { AtLeast: true };
        var change = SlowDowns.ChangeS(SlowDowns.Natural(f), (double)minimum, atLeast);
        var bound = atLeast && change < 0 ? "at least " : "";
        var slowest = shares.Where(s => s.Layer.AskedSeconds > 0).Min(s => s.Share * s.Layer.MinSpeed);
        return (
            new(
                $"Minimum layer time of {Say.N((double)minimum)} s: {bound}{Oddities.Time(Math.Abs(change))} {(change < 0 ? "less" : "more")}", [],
                new StepMoves(Steppable.SpeedPercent, values, 0),
                [
                    $"Speeds of {shares.Count(s => Math.Abs(s.Share - 1) >= 0.01)} layers change; no feature gets faster than it usually is in this file. " +
                        $"The slowest line is then {Say.N(slowest)} mm/s.",
                    .. slowest < 8
                        ? new[] { "Below about 8 mm/s the nozzle's heat stays on the line: printing two pieces at once does the same without." }
                        : [],
                ]),
            []);
    }

    /// <summary>For each layer in the order of the file how its speeds change, 1 for not at all.</summary>
    private static List<(LayerFacts Layer, double Share)> SpeedShares(FileFacts f, double minimumS)
    {
        var natural = SlowDowns.Natural(f).ToDictionary(n => n.Layer.Index);
        return
        [
            .. f.Layers.Select(l =>
                natural.TryGetValue(l.Index, out var own) && l.AskedSeconds > 0
                    ? (l, Math.Min(SlowDowns.SpeedFor(l, Math.Max(own.NaturalS, minimumS)), Math.Max(1, 1 / own.Share)))
                    : (l, 1.0)),
        ];
    }

    private static (Fix?, IReadOnlyList<FieldError>) Cool(FixRequest r, FileFacts f, Func<Stream> file, Machine? machine)
    {
        if (r.Dialect is null)
            return (null, [new("dialect", "Choose the printer or its dialect: a wait counts seconds on one and milliseconds on another.")]);
        if (f.CoolDownLine > f.LastExtrudeLine)
            return (null, [new("", "The file has a cool-down already. Take the file that it was made from.")]);
        var hand = HandRamp.Of(f);
        if (hand is not null && f.OwnMacros.FirstOrDefault(m => m.Line > hand.FirstLine && m.Line < hand.LastLine) is { Name.Length: > 0 } macro)
            return (
                null,
                [
                    new(
                        "",
                        $"A ramp by hand stands in lines {hand.FirstLine} to {hand.LastLine}, with {macro.Name} in line {macro.Line} in it, and what that " +
                            "does is not known here: half of the ramp would stay in force. Take the ramp out of the slicer's end code first."),
                ]);
        var from = f.BedC;
        var (even, errors) = r.Ramp is null ? CoolDown.Of(from, r.ToC, r.StepC, r.HoldMinutes, r.SurroundingsC) : (null, []);
        if ((r.Ramp ?? even?.Held) is not { Count: > 0 } steps)
            return (null, errors.Count > 0 ? errors : [new("", "No cool-down is kept that this file could hold.")]);
        if (steps[0].C > from)
            return (null, [new("", $"The bed has {Say.N(from)} °C in this file: {Say.N(steps[0].C)} °C is nothing to cool down to.")]);
        var end = Stepper.LineEnd(f);
        var edits = new List<FileEdit>();
        using (var read = file())
        {
            FileEdit Off(long offset, int length) => new(offset, length, Marks.Off + Stepper.Text(read, offset, length));
            edits.AddRange(
                f.Settings.Where(s => s.Line > f.LastExtrudeLine && s.Kind is SettingKind.Bed or SettingKind.BedAndWait)
                    .Select(s => Off(s.Offset, s.Length)));
            edits.AddRange((hand?.Waits ?? []).Select(w => Off(w.Offset, w.Length)));
            var (lift, park) = Clear(f, machine);
            var lines = string.Join(end, BedRamp.Lines(steps, from, Dialect.Of(r.Dialect), lift, park)) + end;
            // While the motors still hold what is lifted.
            if (f.MotorsOff.FirstOrDefault(m => m.Line > f.LastExtrudeLine) is { Line: > 0 } motors)
            {
                edits.Add(new(motors.Offset, 0, lines));
            }
            else
            {
                read.Position = f.Bytes - 1;
                edits.Add(new(f.Bytes, 0, (read.ReadByte() != '\n' ? end : "") + lines));
            }

            edits.Sort((a, b) => a.Offset.CompareTo(b.Offset));
        }

        var replaced = hand is null ? "" : $" The ramp by hand in lines {hand.FirstLine} to {hand.LastLine} is switched off as a whole.";
        var minutes = Say.N(BedRamp.Seconds(steps) / 60);
        return (new($"Cool the bed from {Say.N(from)} to {Say.N(steps[^1].C)} °C in {steps.Count} steps, at least {minutes} min", edits, null,
            [$"At least {minutes} min longer: an insulated bed may cool more slowly than its steps, and none of them waits for " +
                $"it.{replaced}",
            "Nozzle and fan are off meanwhile; the bed stays hot. Don't leave a hot machine alone, and let the part go by itself."]), []);
    }

    /// <summary>
    /// Where the nozzle goes before the bed cools: up, never down, and beside the part; nulls where its place is not known or it is clear already.
    /// </summary>
    private static (double? LiftMm, (double X, double Y)? ParkMm) Clear(FileFacts f, Machine? machine)
    {
        // Heights here are mm; a file that counts inches would take them for inches.
        if (f.HomedZLine > f.LastExtrudeLine || f.End.Unit != 1)
            return (null, null);
        var top = f.Box.MaxZ + 5;
        if (machine is not null)
            top = Math.Min(top, machine.HeightMm);
        double? lift = f.End.Z >= top - 1 ? null : top;
        var beside = f.End.X < f.Box.MinX - 5 || f.End.X > f.Box.MaxX + 5 || f.End.Y < f.Box.MinY - 5 || f.End.Y > f.Box.MaxY + 5;
        // Without room above the part it goes nowhere: it could meet it.
        if (machine is null || beside || Math.Max(top, f.End.Z) < f.Box.MaxZ + 1)
            return (lift, null);
        var (x, y) = machine.OriginInMiddle ? (-machine.BedXMm / 2, -machine.BedYMm / 2) : (0, 0);
        var left = f.Box.MinX - x > x + machine.BedXMm - f.Box.MaxX;
        return (lift, (left ? x + 2 : x + machine.BedXMm - 2, y + machine.BedYMm - 2));
    }

}
