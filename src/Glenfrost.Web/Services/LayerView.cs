using Glenfrost.Core.Gcode.Writing;
using System.Globalization;
using System.Text;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Web.Drawing;

namespace Glenfrost.Web.Services;

/// <summary>One layer of a job as its drawing needs it.</summary>
public sealed class LayerView(PieceJob job, int index)
{
    public PieceJob Job => job;

    public MovedLayer Layer => job.Layers[index];

    /// <summary>Layer of the whole job, from 1.</summary>
    public int Number => index + 1;

    /// <summary>Nozzle temperature in force, °C.</summary>
    public double TemperatureC => job.Request.Temperatures.Last(t => t.Piece < Layer.Piece || (t.Piece == Layer.Piece && t.Layer <= Layer.Number)).TemperatureC;

    /// <summary>Seconds from the first move.</summary>
    public double AtSeconds => job.StartSeconds[index];

    public int Retractions =>
        Layer.Moves.Zip(Layer.Moves.Skip(1)).Count(m => m.First.Kind != MoveKind.Retract && m.Second.Kind == MoveKind.Retract)
        + (Layer.Moves.FirstOrDefault().Kind == MoveKind.Retract ? 1 : 0);

    public double TravelMm { get; private set; }

    /// <summary>The class of a role's line.</summary>
    public static string Class(PathRole role) => role switch
    {
        PathRole.OuterWall => "outer",
        PathRole.InnerWall => "inner",
        PathRole.ThinLine => "thin",
        PathRole.Bridge => "span",
        PathRole.Top => "top",
        PathRole.Skirt or PathRole.Brim => "rim",
        _ => "solid",
    };

    /// <summary>The letter that stands in the margin for a role.</summary>
    public static string Letter(PathRole role) => role switch
    {
        PathRole.OuterWall => "w",
        PathRole.InnerWall => "i",
        PathRole.ThinLine => "n",
        PathRole.Bridge => "b",
        PathRole.Top => "t",
        PathRole.Skirt => "s",
        PathRole.Brim => "r",
        _ => "f",
    };

    /// <summary>Where each role lies farthest to the right, mm, the uppermost first: its letter's leader begins there.</summary>
    public IReadOnlyList<(PathRole Role, double X, double Y)> Marks()
    {
        var made = new Dictionary<PathRole, (double X, double Y)>();
        var (x, y) = From;
        foreach (var m in Layer.Moves)
        {
            var middle = ((x + m.X) / 2, (y + m.Y) / 2);
            if (m.Kind == MoveKind.Extrude && (!made.TryGetValue(m.Role, out var best) || middle.Item1 > best.X + 0.5))
                made[m.Role] = middle;
            if (m.Kind != MoveKind.Fan)
                (x, y) = (m.X, m.Y);
        }

        return [.. made.Select(r => (r.Key, r.Value.X, r.Value.Y)).OrderByDescending(r => r.Y)];
    }

    /// <summary>Lines by role: SVG path and width, mm.</summary>
    public IEnumerable<(PathRole Role, string D, double Width)> Paths()
    {
        var made = new SortedDictionary<PathRole, (StringBuilder D, double Width)>(Comparer<PathRole>.Create((a, b) => Depth(a).CompareTo(Depth(b))));
        var (x, y) = From;
        var before = PathRole.Travel;
        foreach (var m in Layer.Moves)
        {
            if (m.Kind == MoveKind.Extrude)
            {
                if (!made.TryGetValue(m.Role, out var line))
                    made[m.Role] = line = (new(), m.Spacing * 0.86);
                if (before != m.Role)
                    line.D.Append('M').Append(P(x, y));
                line.D.Append('L').Append(P(m.X, m.Y));
                before = m.Role;
            }
            else if (m.Kind != MoveKind.Fan && (m.X != x || m.Y != y))
            {
                before = PathRole.Travel;
            }

            (x, y) = (m.X, m.Y);
        }

        return made.Select(r => (r.Key, r.Value.D.ToString(), r.Value.Width));
    }

    /// <summary>Travel as an SVG path.</summary>
    public string Travel()
    {
        var d = new StringBuilder();
        var (x, y) = From;
        var going = false;
        TravelMm = 0;
        foreach (var m in Layer.Moves)
        {
            if (m.Kind == MoveKind.Travel && (m.X != x || m.Y != y))
            {
                if (!going)
                    d.Append('M').Append(P(x, y));
                d.Append('L').Append(P(m.X, m.Y));
                TravelMm += Math.Sqrt((m.X - x) * (m.X - x) + (m.Y - y) * (m.Y - y));
                going = true;
            }
            else if (m.Kind == MoveKind.Extrude)
            {
                going = false;
            }

            (x, y) = (m.X, m.Y);
        }

        return d.Length == 0 ? "M0 0" : d.ToString();
    }

    /// <summary>Where outer walls begin.</summary>
    public IEnumerable<(double X, double Y)> Seams()
    {
        var (x, y) = From;
        var before = MoveKind.Travel;
        var role = PathRole.Travel;
        foreach (var m in Layer.Moves)
        {
            if (m is { Kind: MoveKind.Extrude, Role: PathRole.OuterWall }
                && (before != MoveKind.Extrude || role is not (PathRole.OuterWall or PathRole.Bridge)))
                yield return (x, y);
            if (m.Kind != MoveKind.Fan)
                (before, role, x, y) = (m.Kind, m.Role, m.X, m.Y);
        }
    }

    /// <summary>Length and greatest speed by role, as printed.</summary>
    public IEnumerable<(PathRole Role, double Mm, double Speed)> Lengths()
    {
        var sums = new SortedDictionary<PathRole, (double Mm, double Speed)>();
        var (x, y) = From;
        foreach (var m in Layer.Moves)
        {
            if (m.Kind == MoveKind.Extrude)
            {
                var (mm, speed) = sums.GetValueOrDefault(m.Role);
                sums[m.Role] = (mm + Math.Sqrt((m.X - x) * (m.X - x) + (m.Y - y) * (m.Y - y)), Math.Max(speed, m.Speed));
            }

            (x, y) = (m.X, m.Y);
        }

        return sums.Select(s => (s.Key, s.Value.Mm, s.Value.Speed));
    }

    /// <summary>Where the layer before ended; the layer's own first point where it is the first of its piece.</summary>
    private (double X, double Y) From => index > 0 && job.Layers[index - 1].Piece == Layer.Piece && job.Layers[index - 1].Moves.Count > 0
        ? (job.Layers[index - 1].Moves[^1].X, job.Layers[index - 1].Moves[^1].Y)
        : Layer.Moves.Where(m => m.Kind == MoveKind.Travel).Select(m => (m.X, m.Y)).FirstOrDefault();

    private static int Depth(PathRole role) =>
        role switch
        {
            PathRole.Fill => 0,
            PathRole.Top => 1,
            PathRole.Bridge => 2,
            PathRole.InnerWall => 3,
            PathRole.ThinLine => 4,
            PathRole.OuterWall => 5,
            _ => 6,
        };

    private static string P(double x, double y) => string.Create(CultureInfo.InvariantCulture, $"{Math.Round(x, 2):0.##} {Math.Round(-y, 2):0.##}");
}
