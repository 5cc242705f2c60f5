using System.Globalization;
using System.Text;

namespace Glenfrost.Samples;

/// <summary>
/// Writes files as slicing programs do, for tests and benchmarks: rings with walls and fill, written on its own arithmetic, so that what the reader finds can
/// be
/// compared with what was meant. It knows nothing of the application.
/// </summary>
public sealed record SlicedFile
{
    public int Layers { get; init; } = 20;
    public double LayerHeight { get; init; } = 0.2;
    public double FirstLayerHeight { get; init; } = 0.2;
    public double Width { get; init; } = 0.45;
    public double Radius { get; init; } = 15;

    /// <summary>Radius of a layer as a share of the file's: notches that repeat make sections.</summary>
    public Func<int, double> Notch { get; init; } = _ => 1;

    /// <summary>Sides of a ring: many make tiny segments.</summary>
    public int Sides { get; init; } = 48;
    public bool RelativeE { get; init; }
    public bool CrLf { get; init; }
    public bool Lower { get; init; }
    public bool NoSpaces { get; init; }
    public bool Numbered { get; init; }
    public bool Inches { get; init; }
    public bool Arcs { get; init; }
    public bool Spiral { get; init; }
    public bool Fill { get; init; } = true;
    public bool Features { get; init; } = true;
    public bool FirmwareRetraction { get; init; }
    public double Retraction { get; init; } = 0.8;
    public double RetractSpeed { get; init; } = 35;
    public double Hop { get; init; } = 0.2;

    /// <summary>E counts anew at each layer (absolute E only).</summary>
    public bool ResetsE { get; init; } = true;
    public int Objects { get; init; } = 1;
    public bool Prime { get; init; } = true;
    public double WallSpeed { get; init; } = 40;
    public double FillSpeed { get; init; } = 60;
    public double TravelSpeed { get; init; } = 150;

    /// <summary>Speed of a layer, as a share of the file's speeds.</summary>
    public Func<int, double> Slow { get; init; } = _ => 1;
    public double NozzleC { get; init; } = 210;
    public double BedC { get; init; } = 60;
    public string ExtraStart { get; init; } = "";

    /// <summary>Lines behind the print, in place of homing X.</summary>
    public string? EndCode { get; init; }

    /// <summary>Least time of a layer, s: lines of shorter ones are slowed to it as slicing programs do, by the speeds alone; 0 for none.</summary>
    public double LeastLayerTime { get; init; }

    /// <summary>Lines before a layer, from 1.</summary>
    public Func<int, string> Before { get; init; } = _ => "";
    public string Title { get; init; } = "gauge ring";
    public bool OuterFirst { get; init; }
    public Func<int, bool> FillFirst { get; init; } = _ => false;

    /// <summary>mm of filament that this file lays in each layer, as meant; index 0 is the first layer.</summary>
    public List<double> Laid { get; } = [];

    /// <summary>mm of filament in the priming line.</summary>
    public double Primed { get; private set; }

    private const double Area = Math.PI / 4 * 1.75 * 1.75;

    /// <summary>The file as bytes.</summary>
    public byte[] ToBytes()
    {
        var to = new MemoryStream();
        Write(to);
        return to.ToArray();
    }

    /// <summary>Writes the file.</summary>
    public void Write(Stream stream)
    {
        using var to = new StreamWriter(stream, new UTF8Encoding(false), 1 << 16, true) { NewLine = CrLf ? "\r\n" : "\n" };
        Laid.Clear();
        var pen = new Pen(this, to);
        pen.Line($"; {Title}");
        pen.Line($"M140 S{N(BedC)}");
        pen.Line($"M104 S{N(NozzleC)}");
        pen.Line("G28");
        pen.Line($"M190 S{N(BedC)}");
        pen.Line($"M109 S{N(NozzleC)}");
        pen.Line(Inches ? "G20" : "G21");
        pen.Line("G90");
        pen.Line(RelativeE ? "M83" : "M82");
        pen.Line("M107");
        foreach (var l in ExtraStart.Split('\n', StringSplitOptions.RemoveEmptyEntries))
            pen.Line(l);
        pen.Line("G92 E0");
        if (Prime)
        {
            pen.Travel(5, 2, 0.3);
            Primed = pen.Extrude(65, 2, 0.6 * 0.3, 20);
        }

        for (var part = 0; part < Objects; part++)
        {
            var cx = 60 + part * 70;
            pen.Retract();
            for (var n = 1; n <= Layers; n++)
                Layer(pen, n, cx, 60);
            if (Objects > 1)
                pen.Up(FirstLayerHeight + Layers * LayerHeight + 5);
        }

        pen.Retract();
        pen.Line("M107");
        pen.Line("M104 S0");
        if (EndCode is null)
            pen.Line("M140 S0");
        foreach (var l in (EndCode ?? "G28 X").Split('\n', StringSplitOptions.RemoveEmptyEntries))
            pen.Line(l);
    }

    private void Layer(Pen pen, int n, double cx, double cy)
    {
        var z = FirstLayerHeight + (n - 1) * LayerHeight;
        var h = n == 1 ? FirstLayerHeight : LayerHeight;
        foreach (var l in Before(n).Split('\n', StringSplitOptions.RemoveEmptyEntries))
            pen.Line(l);
        if (!RelativeE && ResetsE)
            pen.Reset();
        if (n == 2)
            pen.Line("M106 S255");
        var radius = Radius * Notch(n);
        var slow = n == 1 ? 0.5 : Slow(n) * Math.Min(1, LeastLayerTime > 0 ? OwnTime(radius) / LeastLayerTime : 1);
        var laid = 0.0;
        if (Spiral && n > 2)
        {
            laid += pen.Ring(cx, cy, radius, z - h, z, Width * h, WallSpeed * slow);
            Laid.Add(laid);
            return;
        }

        var fill = Fill && FillFirst(n) ? FillOf(pen, cx, cy, z, h, slow, radius) : 0;
        foreach (var inner in OuterFirst ? [false, true] : new[] { true, false })
        {
            pen.Feature(inner ? "inner wall" : "outer wall");
            var r = inner ? radius - Width : radius;
            pen.Retract();
            pen.Travel(cx + r, cy, z);
            pen.Unretract();
            laid += pen.Ring(cx, cy, r, z, z, Width * h, (inner ? WallSpeed * 1.5 : WallSpeed) * slow);
        }

        laid += fill;
        if (Fill && !FillFirst(n))
            laid += FillOf(pen, cx, cy, z, h, slow, radius);
        Laid.Add(laid);
    }

    /// <summary>Seconds of a layer's walls at the file's own speeds; fill is left out, for files without any.</summary>
    public double OwnTime(double radius) => 2 * Math.PI * radius / WallSpeed + 2 * Math.PI * (radius - Width) / (WallSpeed * 1.5);

    private double FillOf(Pen pen, double cx, double cy, double z, double h, double slow, double radius)
    {
        var laid = 0.0;
        pen.Feature("solid fill");
        pen.Retract();
        var r = radius - 2 * Width;
        var right = true;
        var first = true;
        for (var y = -r + Width; y < r - Width / 2; y += Width)
        {
            var half = Math.Sqrt(r * r - y * y) - Width / 2;
            if (half < 0.5)
                continue;
            var (from, to) = right ? (cx - half, cx + half) : (cx + half, cx - half);
            if (first)
            {
                pen.Travel(from, cy + y, z);
                pen.Unretract();
            }
            else
            {
                laid += pen.Extrude(from, cy + y, Width * h, FillSpeed * slow);
            }

            laid += pen.Extrude(to, cy + y, Width * h, FillSpeed * slow);
            (right, first) = (!right, false);
        }

        return laid;
    }

    private static string N(double v) => v.ToString("0.###", CultureInfo.InvariantCulture);

    private sealed class Pen(SlicedFile file, StreamWriter to)
    {
        private double x, y, z, e, f = -1;
        private bool back;
        private int number;

        public void Line(string text)
        {
            if (text.Length > 0 && text[0] != ';')
            {
                if (file.Lower)
                    text = text.ToLowerInvariant();
                if (file.NoSpaces && !text.Contains('_') && !text.Contains(';'))
                    text = text.Replace(" ", "", StringComparison.Ordinal);
                if (file.Numbered)
                {
                    text = $"N{++number} {text}";
                    text += "*" + text.Aggregate(0, (sum, c) => sum ^ c);
                }
            }

            to.WriteLine(text);
        }

        public void Feature(string name)
        {
            if (file.Features)
                Line($"; feature {name}");
        }

        public void Reset()
        {
            Line("G92 E0");
            e = 0;
        }

        public void Retract()
        {
            if (back || file.Retraction <= 0)
                return;
            if (file.FirmwareRetraction)
                Line("G10");
            else
                Filament(-file.Retraction);
            back = true;
        }

        public void Unretract()
        {
            if (!back)
                return;
            if (file.FirmwareRetraction)
                Line("G11");
            else
                Filament(file.Retraction);
            back = false;
        }

        private void Filament(double mm)
        {
            e = Math.Round(e + mm, 5);
            f = file.RetractSpeed * 60;
            Line($"G1 E{E(file.RelativeE ? mm : e)} F{F(f)}");
        }

        public void Up(double to)
        {
            Line($"G0 Z{L(to)} F600");
            (z, f) = (to, 600);
        }

        public void Travel(double toX, double toY, double toZ)
        {
            if (file.Hop > 0 && back)
                Up(Math.Max(z, toZ) + file.Hop);
            f = file.TravelSpeed * 60;
            Line($"G0 X{L(toX)} Y{L(toY)} F{F(f)}");
            (x, y) = (toX, toY);
            if (z != toZ)
            {
                Line($"G0 Z{L(toZ)}");
                z = toZ;
            }
        }

        public double Extrude(double toX, double toY, double square, double speed) => Line(toX, toY, z, square, speed);

        private double Line(double toX, double toY, double toZ, double square, double speed)
        {
            var (dx, dy) = (Math.Round(toX, 3) - Math.Round(x, 3), Math.Round(toY, 3) - Math.Round(y, 3));
            var feed = Math.Round(Math.Sqrt(dx * dx + dy * dy) * square / Area, 5);
            e = Math.Round(e + feed, 5);
            var text = $"G1 X{L(toX)} Y{L(toY)}{(toZ != z ? $" Z{L(toZ)}" : "")} E{E(file.RelativeE ? feed : e)}";
            if (speed * 60 != f)
            {
                f = speed * 60;
                text += $" F{F(f)}";
            }

            Line(text);
            (x, y, z) = (toX, toY, toZ);
            return feed;
        }

        public double Ring(double cx, double cy, double r, double fromZ, double toZ, double square, double speed)
        {
            if (file.Arcs && fromZ == toZ)
                return Half(cx, cy, r, square, speed, -1) + Half(cx, cy, r, square, speed, 1);
            var laid = 0.0;
            for (var i = 1; i <= file.Sides; i++)
            {
                var a = 2 * Math.PI * i / file.Sides;
                laid += Line(
                    cx + r * Math.Cos(a), cy + r * Math.Sin(a), fromZ == toZ ? z : Math.Round(fromZ + (toZ - fromZ) * i / file.Sides, 5), square, speed);
            }

            return laid;
        }

        private double Half(double cx, double cy, double r, double square, double speed, int side)
        {
            var feed = Math.Round(Math.PI * r * square / Area, 5);
            e = Math.Round(e + feed, 5);
            f = speed * 60;
            Line($"G3 X{L(cx + side * r)} Y{L(cy)} I{L(side * r)} J0 E{E(file.RelativeE ? feed : e)} F{F(f)}");
            (x, y) = (cx + side * r, cy);
            return feed;
        }

        private string L(double v) =>
            file.Inches
                ? (v / 25.4).ToString("0.#####", CultureInfo.InvariantCulture)
                : v.ToString(file.Spiral ? "0.####" : "0.###", CultureInfo.InvariantCulture);

        private string F(double v) => (file.Inches ? v / 25.4 : v).ToString("0.###", CultureInfo.InvariantCulture);

        private string E(double v) => (file.Inches ? v / 25.4 : v).ToString(file.Inches ? "0.#######" : "0.#####", CultureInfo.InvariantCulture);
    }
}
