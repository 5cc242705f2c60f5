using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Statistics;

/// <summary>A picture in grey: rows from the top, values 0 (black) to 255.</summary>
/// <param name="Width">px.</param>
/// <param name="Height">px.</param>
/// <param name="Values">Width × height values.</param>
public sealed record GreyPicture(int Width, int Height, byte[] Values)
{
    /// <summary>Value between pixels (bilinear); the edge's value beyond it.</summary>
    public double At(double x, double y)
    {
        x = Math.Clamp(x, 0, Width - 1.001);
        y = Math.Clamp(y, 0, Height - 1.001);
        var (i, j) = ((int)x, (int)y);
        var (fx, fy) = (x - i, y - j);
        var at = j * Width + i;
        var (right, below) = (Width > 1 ? 1 : 0, Height > 1 ? Width : 0);
        return (Values[at] * (1 - fx) + Values[at + right] * fx) * (1 - fy) + (Values[at + below] * (1 - fx) + Values[at + below + right] * fx) * fy;
    }
}

/// <summary>Strings in the gap between two reeds, as a photo shows them.</summary>
/// <param name="Count">Strings that cross the gap.</param>
/// <param name="Low">Fewest that the photo may show.</param>
/// <param name="High">Most.</param>
/// <param name="CoveragePercent">Share of the gap's area that strings cover, %.</param>
/// <param name="Confidence">0 (a guess) to 1 (plain): contrast over noise, and how well places across the gap agree.</param>
/// <param name="GapPx">Width of the gap in the picture, px.</param>
/// <param name="HeightPx">Height along the reeds that was looked at, px.</param>
public sealed record StringsSeen(int Count, int Low, int High, double CoveragePercent, double Confidence, double GapPx, double HeightPx)
{
    /// <summary>In words.</summary>
    public string Sentence =>
        $"{Count} string{(Count == 1 ? "" : "s")}{(High > Low ? $" ({Low} to {High})" : "")}, " +
            $"{CoveragePercent.ToString("0.0", System.Globalization.CultureInfo.InvariantCulture)} % of the gap; confidence " +
            $"{(Confidence >= 0.75 ? "high" : Confidence >= 0.45 ? "fair" : "low")}, " +
            $"{(100 * Confidence).ToString("0", System.Globalization.CultureInfo.InvariantCulture)} %.";
}

/// <summary>
/// Measures strings between two reeds that somebody clicked. The picture is turned so that the reeds stand upright, the gap's edges are found where the light
/// changes half-way between
/// reed and ground, the ground is taken away as a running median along the reeds (strings are thin, light is smooth), and strings are counted at several places
/// across the gap as runs
/// that stand out of the noise. The median of the places is the count; what they differ by, and contrast over noise, is how sure it is.
/// </summary>
public static class StringsInGap
{
    /// <summary>Points nearer than this are no reeds, px.</summary>
    public const double LeastPx = 24;

    private const int Most = 640, Places = 11;

    /// <summary>Measures.</summary>
    /// <param name="picture">In grey.</param>
    /// <param name="left">A point on one reed, px.</param>
    /// <param name="right">A point on the other reed, px.</param>
    /// <returns>What is seen, or why nothing can be measured and what would be right.</returns>
    public static (StringsSeen? Seen, string? Refused) Measure(GreyPicture picture, (double X, double Y) left, (double X, double Y) right)
    {
        foreach (var (x, y) in new[] { left, right })
        {
            if (!(x >= 0 && y >= 0 && x < picture.Width && y < picture.Height))
                return (null, $"{x:0}, {y:0} lies beside the picture of {picture.Width} × {picture.Height} px: click on the reeds.");
        }

        if (left.X > right.X)
            (left, right) = (right, left);
        var (dx, dy) = (right.X - left.X, right.Y - left.Y);
        var span = Math.Sqrt(dx * dx + dy * dy);
        if (span < LeastPx)
            return (null, $"The two points are {span:0} px apart: click on two different reeds.");
        var (ux, uy) = (dx / span, dy / span);
        // Coarser where the picture is large: more than some hundred steps tell nothing more.
        var step = Math.Max(1, span / Most);
        double G(double along, double across) => picture.At(left.X + along * ux - across * uy, left.Y + along * uy + across * ux);
        var n = (int)(span / step) + 1;
        var (reedA, reedB) = (Patch(G, 0, 0), Patch(G, span, 0));
        // How far the reeds reach: while a place still looks like the clicked one and unlike the ground beside it.
        var profile = Enumerable.Range(0, n).Select(i => Enumerable.Range(-6, 13).Select(k => G(i * step, k * Math.Max(2, span / 40))).Median()).ToArray();
        var ground = profile.Skip(n / 3).Take(Math.Max(1, n / 3)).Median();
        var (halfA, halfB) = ((reedA + ground) / 2, (reedB + ground) / 2);
        if (Math.Min(Math.Abs(reedA - ground), Math.Abs(reedB - ground)) < 12)
            return (
                null,
                "There is no edge between these points and what lies between them: click on the middle of each reed, before a ground that is darker or " +
                    "lighter than they are."
            );
        var dark = reedA < ground;
        bool IsReed(double v, double half) => dark ? v < half : v > half;
        var from = Array.FindIndex(profile, v => !IsReed(v, halfA));
        var to = Array.FindLastIndex(profile, v => !IsReed(v, halfB));
        if (from < 0 || to - from < 8)
            return (null, "No gap was found between these points: they seem to lie on one reed.");
        var (up, down) = (Reach(-1), Reach(1));
        if (up + down < 10)
            return (null, "The reeds reach too short a way beside these points: click nearer their middle.");
        var margin = Math.Max(3, (to - from) / 14);
        (from, to) = (from + margin, to - margin);
        var rows = up + down + 1;
        var columns = to - from + 1;
        if (columns < 8)
            return (null, "The gap is too narrow in this picture: a closer photo would be right.");
        // Rows by columns of the gap, upright, with the ground taken away.
        var lines = new double[columns][];
        var window = Math.Max(9, Math.Min(61, rows / 5)) | 1;
        for (var c = 0; c < columns; c++)
        {
            var column = new double[rows];
            for (var r = 0; r < rows; r++)
                column[r] = G((from + c) * step, (r - up) * step);
            lines[c] = Above(column, window);
        }

        // A string is as dark, or as light, as the reeds are against the ground.
        var sign = dark ? -1 : 1;
        var width = Math.Max(3, columns / Places);
        var counts = new List<int>();
        double covered = 0, looked = 0, peaks = 0;
        var found = 0;
        var sigmas = new List<double>();
        for (var p = 0; p + width <= columns; p += width)
        {
            // Averaged over a short stretch of the gap: strings run along it, noise does not.
            var mean = new double[rows];
            for (var r = 0; r < rows; r++)
            {
                for (var c = p; c < p + width; c++)
                    mean[r] += sign * lines[c][r] / width;
            }

            var sigma = 1.4826 * mean.Select(Math.Abs).Median();
            sigmas.Add(sigma);
            var least = Math.Max(4.5 * sigma, 0.045 * Math.Abs(reedA - ground));
            var (count, inside, dip, top, low) = (0, false, false, 0.0, 0.0);
            for (var r = 0; r < rows; r++)
            {
                looked++;
                if (mean[r] > least)
                {
                    covered++;
                    // Two strings that touch are two where the light comes back between them by a third.
                    if (!inside || dip && mean[r] > 1.3 * low)
                        (count, dip, top) = (count + 1, false, 0);
                    top = Math.Max(top, mean[r]);
                    if (mean[r] < 0.6 * top)
                        (dip, low) = (true, dip ? Math.Min(low, mean[r]) : mean[r]);
                    inside = true;
                    peaks += mean[r];
                    found++;
                }
                else
                {
                    (inside, dip) = (false, false);
                }
            }

            counts.Add(count);
        }

        var sorted = counts.Select(x => (double)x).Order().ToArray();
        var median = (int)Math.Round(sorted.Median());
        var (q1, q3) = ((int)Math.Floor(sorted.Quantile(0.15)), (int)Math.Ceiling(sorted.Quantile(0.85)));
        var noise = Math.Max(0.3, sigmas.Median());
        var contrast = found > 0 ? peaks / found : Math.Abs(reedA - ground) * 0.3;
        var agree = 1 - Math.Min(1, (q3 - q1) / (1.0 + median));
        var confidence = Math.Clamp((0.35 + 0.65 * agree) * Math.Min(1, contrast / noise / 9) * Math.Min(1, columns * step / 60), 0, 1);
        return (
            new(
                median, Math.Min(median, q1), Math.Max(median, q3), looked > 0 ? 100 * covered / looked : 0, Math.Round(confidence, 3), columns * step,
                rows * step),
            null);

        int Reach(int way)
        {
            var reach = 0;
            var most = (int)(Math.Max(picture.Width, picture.Height) / step);
            while (reach < most)
            {
                var across = way * (reach + 1) * step;
                var (xa, ya) = (left.X - across * uy, left.Y + across * ux);
                var (xb, yb) = (right.X - across * uy, right.Y + across * ux);
                if (xa < 1
                    || ya < 1
                    || xb < 1
                    || yb < 1
                    || xa > picture.Width - 2
                    || ya > picture.Height - 2
                    || xb > picture.Width - 2
                    || yb > picture.Height - 2)
                    break;
                if (!IsReed(Patch(G, 0, across), halfA) || !IsReed(Patch(G, span, across), halfB))
                    break;
                reach++;
            }

            // The very ends are rounded by light and lens.
            return Math.Max(0, reach - Math.Max(2, (int)(4 / step)));
        }
    }

    private static double Patch(Func<double, double, double> g, double along, double across)
    {
        var list = new double[25];
        for (var i = 0; i < 25; i++)
            list[i] = g(along + i % 5 - 2, across + i / 5 - 2);
        return list.Median();
    }

    /// <summary>Values less their running median: what is thin stands out, light that changes slowly does not.</summary>
    private static double[] Above(double[] values, int window)
    {
        var (n, half) = (values.Length, window / 2);
        // Medians at every few places, straight lines between them.
        var every = Math.Max(1, window / 6);
        var at = new List<int>();
        var medians = new List<double>();
        for (var i = 0; ; i = Math.Min(n - 1, i + every))
        {
            var (a, b) = (Math.Max(0, i - half), Math.Min(n, i + half + 1));
            at.Add(i);
            medians.Add(values.AsSpan(a, b - a).ToArray().Median());
            if (i >= n - 1)
                break;
        }

        var result = new double[n];
        for (var (i, k) = (0, 0); i < n; i++)
        {
            while (k + 2 < at.Count && at[k + 1] <= i)
                k++;
            var share = at.Count < 2 || at[k + 1] == at[k] ? 0 : (i - at[k]) / (double)(at[k + 1] - at[k]);
            result[i] = values[i] - (at.Count < 2 ? medians[0] : medians[k] + (medians[k + 1] - medians[k]) * share);
        }

        return result;
    }
}
