using Glenfrost.Core.Settings;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.TestPieces;

/// <summary>Who writes a file and when; the core has no clock of its own.</summary>
/// <param name="Version">Version of Glenfrost.</param>
/// <param name="At">When, UTC.</param>
public sealed record Imprint(string Version, DateTime At);

/// <summary>
/// Writes a job as G-code. Lengths in mm to 0.001, feed to 0.00001, speeds in whole mm/min and never rounded up. Comments in
/// plain ASCII tell layer, height, section, temperature and what each line is for.
/// </summary>
public sealed class GcodeWriter
{
    /// <summary>A move that is rounded to nothing lays less than this, mm of filament.</summary>
    private const double LeastInPlace = 0.001;

    private readonly TextWriter to;
    private readonly PieceJob job;
    private readonly Dialect dialect;
    private readonly char[] line = new char[96];
    private double x = double.NaN, y = double.NaN, z = double.NaN, fed, owed, pulled;
    private int speed;
    private PathRole role;

    private GcodeWriter(PieceJob job, TextWriter to)
    {
        (this.job, this.to) = (job, to);
        dialect = Dialect.Of(job.Machine.Dialect);
    }

    /// <summary>Writes the whole file.</summary>
    public static void Write(PieceJob job, Imprint imprint, TextWriter to)
    {
        var w = new GcodeWriter(job, to);
        w.Head(imprint);
        w.Start();
        w.Body();
        w.End();
    }

    private void Head(Imprint imprint)
    {
        var (m, s) = (job.Machine, job.Settings);
        Comment($"Glenfrost {imprint.Version}, {imprint.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)} UTC");
        Comment($"piece: {string.Join(", ", job.Request.Pieces.Select(p => p.Name).Distinct())}");
        foreach (var text in job.Request.PlanLines)
            Comment($"plan: {text}");
        Comment(
            $"printer: {m.Name}{(m.Tools > 1 ? $", toolhead {m.Tool}" : "")}, nozzle {Say.N(m.NozzleDiameterMm, 4)} mm, dialect {m.Dialect}, E " +
                $"{(m.RelativeE ? "relative" : "absolute")}"
        );
        Comment(
            $"limits: nozzle {Say.N(m.Limits.MinC, 4)} to {Say.N(m.Limits.MaxC, 4)} C ({m.Limits.MaxBecause}), bed {Say.N(m.BedMaxC, 4)} C, " +
            $"{Say.N(m.BedXMm, 4)} x {Say.N(m.BedYMm, 4)} x " +
                $"{Say.N(m.HeightMm, 4)} mm, {Say.N(m.MaxSpeedMmPerS, 4)} mm/s, {Say.N(m.MaxAccelerationMmPerS2, 4)} mm/s2"
        );
        Comment(
            $"bead: {(s.Bead == BeadModel.Rectangular ? "rectangular, width x height" : "stadium, (w - h) x h + pi (h/2)^2")}, line " +
            $"{Say.N(s.LineWidthMm, 4)} mm, " +
                $"{s.Walls} walls, {(s.WallOrder == WallOrder.InnerFirst ? "inner" : "outer")} first"
        );
        Comment($"filament: {Say.N(s.FilamentDiameterMm, 4)} mm, multiplier {Say.N(s.ExtrusionMultiplier, 4)}, flow at most " +
            $"{Say.N(s.MaxFlowMm3PerS, 4)} mm3/s");
        Comment($"retraction: {Say.N(s.RetractionLengthMm, 4)} mm at {Say.N(s.RetractionSpeedMmPerS, 4)} mm/s, wipe {Say.N(s.WipeMm, 4)} mm, hop " +
            $"{Say.N(s.ZHopMm, 4)} mm");
        // A file that goes through layer times states none for all of it: its plan's lines say which stands where.
        if (s.MinLayerTimeS > 0 && job.Layers.All(l => l.LeastTimeS is null))
            Comment($"least layer time: {Say.N(s.MinLayerTimeS, 4)} s, at {Say.N(s.MinPrintSpeedMmPerS, 4)} mm/s or more");
        Comment($"foreseen: {job.Minutes} min after heating, {Say.N(Math.Round(job.MassG, 1), 4)} g, {Say.N(Math.Round(job.FeedMm / 1000, 2), 4)} m " +
            $"of filament");
        foreach (var t in job.Request.Temperatures)
            Comment(
                $"checkpoint: {(job.Request.Pieces.Count > 1 ? $"piece {t.Piece + 1} " : "")}layer {t.Layer}, {Clock(job.SecondsAt(t.Piece, t.Layer))}: " +
                    $"{Say.N(t.TemperatureC, 4)} C, {t.Note}"
            );
        Comment("nozzle and bed burn, moving axes pinch, hot plastic gives off fumes: ventilate and stand by");
    }

    private void Start()
    {
        var (m, s) = (job.Machine, job.Settings);
        var c = job.Request.Temperatures[0].TemperatureC;
        Comment("start code of the printer");
        if (m.Tools > 1)
            Line($"T{m.Tool}");
        foreach (var text in job.StartCode.Split('\n'))
            to.Write(text.TrimEnd() + "\n");
        Comment("print begins");
        if (s.ChamberTemperatureC is > 0 and var chamber)
            Line(dialect.Chamber(chamber));
        Line($"M140 S{Say.N(s.FirstLayerBedTemperatureC, 4)}");
        Line($"M104 S{Say.N(c, 4)}");
        Line($"M190 S{Say.N(s.FirstLayerBedTemperatureC, 4)}");
        Line($"M109 S{Say.N(c, 4)}");
        Line("G21");
        Line("G90");
        Line(m.RelativeE ? "M83" : "M82");
        Line("G92 E0");
        Line(dialect.Acceleration(s.AccelerationMmPerS2));
        if (s.PressureAdvance is { } k)
            Line(dialect.PressureAdvance(k));
        Prime();
    }

    /// <summary>Two passes along the front edge, then the filament is pulled back: the first line of the piece begins with pushing it forward.</summary>
    private void Prime()
    {
        var s = job.Settings;
        var h = job.Layers[0].HeightMm;
        Line($"G0 Z{Say.N(h, 4)} F{MmPerMin(Math.Min(10, s.TravelSpeedMmPerS))}");
        z = h;
        if (job.Layout.PrimeFromX is { } from)
        {
            var e = PieceJob.PrimeLineMm(job.Layout, s, h);
            var travel = MmPerMin(s.TravelSpeedMmPerS);
            var slow = MmPerMin(Math.Min(s.FirstLayerSpeedMmPerS, s.MaxFlowMm3PerS / (1.2 * s.SpacingMm(h) * h)));
            Comment("prime line");
            Line($"G0 X{Say.N(Bx(from), 4)} Y{Say.N(By(job.Layout.PrimeY), 4)} F{travel}");
            Line($"G1 X{Say.N(Bx(job.Layout.PrimeToX), 4)} E{E(e)} F{slow}");
            Line($"G0 Y{Say.N(By(job.Layout.PrimeY + s.LineWidthMm), 4)} F{travel}");
            Line($"G1 X{Say.N(Bx(from), 4)} E{E(e)} F{slow}");
            (x, y) = (Bx(from), By(job.Layout.PrimeY + s.LineWidthMm));
        }

        if (s.RetractionLengthMm > 0)
            Line($"G1 E{PullBack(s.RetractionLengthMm)} F{MmPerMin(s.RetractionSpeedMmPerS)}");
    }

    private void Body()
    {
        var temperatures = job.Request.Temperatures.Skip(1).ToDictionary(t => (t.Piece, t.Layer));
        var now = job.Request.Temperatures[0].TemperatureC;
        var bed = job.Settings.FirstLayerBedTemperatureC;
        foreach (var layer in job.Layers)
        {
            if (layer.Number == 1 && job.Request.Pieces.Count > 1)
                Comment($"piece {layer.Piece + 1} of {job.Request.Pieces.Count}: {job.Request.Pieces[layer.Piece].Name}");
            Comment($"layer {layer.Number}, z {Say.N(layer.TopMm, 4)}{(layer.Section is { } section ? $", section {section + 1}" : ", base")}");
            if (!job.Machine.RelativeE && fed != 0)
            {
                Line("G92 E0");
                fed = 0;
            }

            if (temperatures.TryGetValue((layer.Piece, layer.Number), out var t))
            {
                now = t.TemperatureC;
                Line($"M104 S{Say.N(now, 4)} ; {t.Note} from layer {t.Layer}, z {Say.N(layer.TopMm - layer.HeightMm, 4)} up: {Say.N(now, 4)} C");
            }

            if (layer is { Piece: 0, Number: 2 } && bed != job.Settings.BedTemperatureC)
                Line($"M140 S{Say.N(job.Settings.BedTemperatureC, 4)}");
            role = PathRole.Travel;
            var placed = job.Layout.Pieces[layer.Piece];
            foreach (var m in layer.Moves)
                One(m, placed, now);
        }
    }

    private void One(Move m, Placed placed, double now)
    {
        if (m.Kind == MoveKind.Fan)
        {
            Line(m.E <= 0 ? "M107" : $"M106 S{Say.N(Math.Round(m.E * 2.55), 4)}");
            return;
        }

        if (m.Kind == MoveKind.Wait)
        {
            Line(dialect.WaitForNozzle(now));
            return;
        }

        var (nx, ny, nz) = (Math.Round(Bx(m.X + placed.X), 3), Math.Round(By(m.Y + placed.Y), 3), Math.Round(m.Z, 3));
        if (m.Kind == MoveKind.Extrude && Math.Abs(m.E) < LeastInPlace && nx == x && ny == y && nz == z)
        {
            // Shorter than the file can say: what it would lay goes into the next line, and is no push in place.
            owed += m.E;
            return;
        }

        if (m.Kind == MoveKind.Extrude && m.Role != role)
        {
            role = m.Role;
            Comment(role.Name());
        }

        var n = 0;
        Put("G");
        line[n++] = m.Kind == MoveKind.Travel ? '0' : '1';
        if (nx != x)
            Number(" X", x = nx, 3);
        if (ny != y)
            Number(" Y", y = ny, 3);
        if (nz != z)
            Number(" Z", z = nz, 3);
        if (m.E != 0)
        {
            var e = m.Kind is MoveKind.Retract or MoveKind.Unretract ? Owed(m.E, ref pulled) : Owed(m.E, ref owed);
            Number(" E", job.Machine.RelativeE ? e : fed, 5);
        }

        if (n == 2)
            return;
        var f = MmPerMin(m.Speed);
        if (f != speed)
            Number(" F", speed = f, 0);
        line[n++] = '\n';
        to.Write(line, 0, n);

        void Put(string text)
        {
            text.CopyTo(line.AsSpan(n));
            n += text.Length;
        }

        void Number(string letter, double value, int digits)
        {
            Put(letter);
            n += Fixed(value, digits, line.AsSpan(n));
        }
    }

    private void End()
    {
        var s = job.Settings;
        var top = job.Request.Pieces.Max(p => p.HeightMm);
        Comment("away from the piece");
        if (s.RetractionLengthMm > 0)
            Line($"G1 E{PullBack(s.RetractionLengthMm)} F{MmPerMin(s.RetractionSpeedMmPerS)}");
        var clear = Math.Min(job.Machine.HeightMm, top + 5);
        if (clear > top)
            Line($"G0 Z{Say.N(clear, 4)} F{MmPerMin(Math.Min(10, s.TravelSpeedMmPerS))}");
        // While the motors hold, and before anything else that the end code does.
        if (s.CoolDown is { Count: > 0 } ramp)
        {
            foreach (var text in BedRamp.Lines(ramp, s.BedTemperatureC, Dialect.Of(job.Machine.Dialect), null, Beside(clear > top)))
                to.Write(text + "\n");
        }

        Comment("print ends; end code of the printer");
        foreach (var text in job.EndCode.Split('\n'))
            to.Write(text.TrimEnd() + "\n");
        if (job.Machine.Tools > 1)
            Line($"M104 T{job.Machine.Tool} S0");
        else
            Line("M104 S0");
        Line("M140 S0");
    }

    /// <summary>A back corner of the bed away from all pieces; null where nothing is clear of them.</summary>
    private (double X, double Y)? Beside(bool isLifted)
    {
        var m = job.Machine;
        return isLifted ? (Math.Round(Bx(m.BedXMm - 2), 3), Math.Round(By(m.BedYMm - 2), 3)) : null;
    }

    /// <summary>Writes a number with at most the given decimals, without trailing zeros.</summary>
    internal static int Fixed(double value, int digits, Span<char> to)
    {
        long scale = digits switch { 0 => 1, 3 => 1000, _ => 100_000 };
        var whole = (long)Math.Round(value * scale);
        var n = 0;
        if (whole < 0)
        {
            to[n++] = '-';
            whole = -whole;
        }

        (whole / scale).TryFormat(to[n..], out var written, default, CultureInfo.InvariantCulture);
        n += written;
        var rest = whole % scale;
        if (rest == 0)
            return n;
        to[n++] = '.';
        while (rest > 0)
        {
            scale /= 10;
            to[n++] = (char)('0' + rest / scale);
            rest %= scale;
        }

        return n;
    }

    private double Bx(double v) => job.Machine.OriginInMiddle ? v - job.Machine.BedXMm / 2 : v;

    private double By(double v) => job.Machine.OriginInMiddle ? v - job.Machine.BedYMm / 2 : v;

    private string E(double e) => Fed(Owed(e, ref owed));

    private string PullBack(double mm) => Fed(Owed(-mm, ref pulled));

    private string Fed(double e) => (job.Machine.RelativeE ? e : fed).ToString("0.#####", CultureInfo.InvariantCulture);

    /// <summary>The feed to write for a wanted one: what rounding left over before is carried on, so that a thousand short moves don't drift. Lines carry
    /// theirs, and pulling back and pushing forward its own: what is pulled back comes forward again to the last digit.</summary>
    private double Owed(double e, ref double left)
    {
        left += e;
        e = Math.Round(left, 5);
        left -= e;
        fed = Math.Round(fed + e, 5);
        return e;
    }

    private static int MmPerMin(double mmPerS) => Math.Max(1, (int)Math.Floor(mmPerS * 60 + 1e-6));

    private static string Clock(double seconds) => TimeSpan.FromSeconds(Math.Round(seconds)).ToString(@"h\:mm\:ss", CultureInfo.InvariantCulture);

    private void Comment(string text) => to.Write("; " + Ascii(text) + "\n");

    private void Line(string text) => to.Write(Ascii(text) + "\n");

    /// <summary>Plain ASCII on one line: printers with a display of their own choke on the rest.</summary>
    private static string Ascii(string text)
    {
        var plain = text.Replace(" °C", " C", StringComparison.Ordinal).ToCharArray();
        for (var i = 0; i < plain.Length; i++)
        {
            if (plain[i] is < ' ' or > '~')
                plain[i] = char.IsWhiteSpace(plain[i]) || char.IsControl(plain[i]) ? ' ' : '?';
        }

        return new(plain);
    }

}
