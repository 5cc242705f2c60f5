using Glenfrost.Core.Settings;
using System.Globalization;

namespace Glenfrost.Web.Drawing;

/// <summary>One scale and tick helper for every drawing, and the warm–cold ramp.</summary>
public static class Svg
{
    /// <summary>A number as SVG takes it.</summary>
    public static string F(double v) => Say.N(v);

    /// <summary>Maps a value linearly from one range to another.</summary>
    public static double Map(double v, double from, double to, double a, double b) => to == from ? (a + b) / 2 : a + (v - from) / (to - from) * (b - a);

    /// <summary>Round ticks that cover a range with about <paramref name="count"/> steps.</summary>
    public static IReadOnlyList<double> Ticks(double from, double to, int count)
    {
        var raw = Math.Max(1e-9, (to - from) / Math.Max(1, count));
        var power = Math.Pow(10, Math.Floor(Math.Log10(raw)));
        var step = new[] { 1, 2, 5, 10 }.Select(m => m * power).First(s => s >= raw - 1e-12);
        var list = new List<double>();
        for (var v = Math.Ceiling(from / step - 1e-9) * step; v <= to + 1e-9; v += step)
            list.Add(Math.Round(v, 9) + 0.0);
        return list;
    }

    /// <summary>Frost through birch to ember; 0 is the coolest, 1 the hottest.</summary>
    public static string Ramp(double k)
    {
        (int, int, int) frost = (0x3E, 0x7F, 0x9B), birch = (0xD9, 0xD2, 0xBE), ember = (0xC2, 0x51, 0x2E);
        k = Math.Clamp(k, 0, 1);
        var (a, b, t) = k < 0.5 ? (frost, birch, k * 2) : (birch, ember, k * 2 - 1);
        return $"#{Mix(a.Item1, b.Item1, t):X2}{Mix(a.Item2, b.Item2, t):X2}{Mix(a.Item3, b.Item3, t):X2}";
    }

    private static int Mix(int a, int b, double t) => (int)Math.Round(a + (b - a) * t);
}
