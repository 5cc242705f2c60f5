using Glenfrost.Core.Gcode.Writing;
using System.Collections.Concurrent;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>A piece where it stands on the bed.</summary>
/// <param name="Piece">The piece.</param>
/// <param name="X">Where its own origin lies, mm from the bed's front left corner.</param>
/// <param name="Y">The same in y.</param>
public sealed record Placed(Piece Piece, double X, double Y);

/// <summary>Turns pieces into moves: one after another, each layer by layer.</summary>
/// <param name="s">What to print with.</param>
public sealed partial class Planner(PrintSettings s, PieceMemory memory)
{
    private readonly Dictionary<string, IslandLines> made = [];
    private readonly List<Move> moves = [];
    private Piece piece = null!;
    private double x, y, z, fan = -1, feed;
    // The start of a file, or its prime line, leaves the filament pulled back.
    private bool retracted = true;
    private PathLine? last;
    private Geometry? inside;
    private TravelWay way = new();
    // What was pulled back, so that as much is pushed forward: the start of a file pulls back what the settings say.
    private double pulled = s.RetractionLengthMm;

    private double RetractMm => way.LengthMm ?? s.RetractionLengthMm;

    private double RetractSpeed => way.SpeedMmPerS ?? s.RetractionSpeedMmPerS;

    private double UnretractSpeed => way.SpeedMmPerS is { } v ? Math.Min(v, s.UnretractSpeedMmPerS) : s.UnretractSpeedMmPerS;

    private double WipeMm => way.WipeMm ?? s.WipeMm;

    private double HopMm => way.HopMm ?? s.ZHopMm;

    private double TravelSpeed => way.TravelMmPerS ?? s.TravelSpeedMmPerS;

    /// <summary>Plans a plate. Between two pieces the nozzle rises above everything printed.</summary>
    /// <param name="plate">Pieces in the order of printing.</param>
    /// <param name="waits">Layers before which the print waits beside the piece for the nozzle's temperature.</param>
    public IReadOnlyList<MovedLayer> Plan(IReadOnlyList<Placed> plate, IReadOnlySet<(int Piece, int Layer)>? waits = null)
    {
        var layers = new List<MovedLayer>();
        var tallest = 0.0;
        // The file has brought the nozzle to the first layer's height.
        z = plate[0].Piece.Layers[0].TopMm;
        for (var i = 0; i < plate.Count; i++)
        {
            piece = plate[i].Piece;
            MakeLines();
            if (i > 0)
            {
                x += plate[i - 1].X - plate[i].X;
                y += plate[i - 1].Y - plate[i].Y;
            }

            foreach (var layer in piece.Layers)
                layers.Add(Layer(i, layer, i > 0 && layer.Number == 1 ? tallest + 2 : null, plate.Count == 1, waits?.Contains((i, layer.Number)) == true));
            tallest = Math.Max(tallest, piece.HeightMm);
            // The next piece is new ground: nothing laid before is near it.
            (last, inside) = (null, null);
        }

        return layers;
    }

    private MovedLayer Layer(int index, PieceLayer layer, double? over, bool skirt, bool wait)
    {
        moves.Clear();
        feed = 0;
        var (startX, startY, startZ) = (x, y, z);
        if (!retracted)
            Retract();
        way = layer.Way ?? new();
        if (over is { } height)
            Go(x, y, height);
        if (wait)
        {
            var e = piece.Footprint;
            Go(e.MinX - 3, e.MinY - 3, over ?? z);
            moves.Add(new(MoveKind.Wait, PathRole.Travel, x, y, z, 0, 0));
        }

        var first = layer.Number == 1;
        if (first || layer.Number == s.FanFirstLayers + 1)
            Fan(layer.Number <= s.FanFirstLayers ? 0 : layer.FanPercent ?? s.FanPercent);
        if (first)
            Around(layer, skirt);
        var (before, after) = (Below(layer.Number - 1), Above(layer.Number - 1));
        var waiting = layer.Islands.ToList();
        while (waiting.Count > 0)
        {
            var island = waiting.MinBy(i => i.Shape.EnvelopeInternal.Distance(new Envelope(x, x, y, y)))!;
            waiting.Remove(island);
            Lay(island, made[PlaceOf(island, layer, before, after).Key], layer);
        }

        foreach (var wall in layer.Walls)
            LayLine(Seamed(new(PathRole.OuterWall, wall.Centre.Coordinates, SpacingOf(layer.LineWidthMm, layer.HeightMm))), layer);
        var list = moves.ToArray();
        var (seconds, slowed, tooShort) = Slow(list, startX, startY, startZ, layer.LeastTimeS ?? s.MinLayerTimeS, layer.Speeds);
        return new(index, layer.Number, layer.TopMm, layer.HeightMm, layer.Section, list, seconds, feed, slowed, tooShort) { LeastTimeS = layer.LeastTimeS };
    }

    /// <summary>What a layer stands on; null on the bed.</summary>
    private PieceLayer? Below(int i) => i > 0 && !piece.Layers[i].OnBed ? piece.Layers[i - 1] : null;

    /// <summary>What covers a layer; null where nothing does.</summary>
    private PieceLayer? Above(int i) => i + 1 < piece.Layers.Count && !piece.Layers[i + 1].OnBed ? piece.Layers[i + 1] : null;

    /// <summary>What an island's lines depend on: its shape, the fill's direction, what it stands on and what covers it.</summary>
    private sealed record Place(
        Island Island, double HeightMm, double? WidthMm, double AngleDeg, IReadOnlyList<Island>? Below, IReadOnlyList<Island>? Above)
    {
        public string Key { get; } = $"{Island.Id}/{AngleDeg}/{HeightMm}/{WidthMm}/{Ids(Below)}/{Ids(Above)}";

        /// <summary>The same for any piece.</summary>
        public string Mark => $"{Island.Mark}/{Marks(Below)}/{Marks(Above)}";

        private static string Marks(IReadOnlyList<Island>? islands) => islands is null ? "=" : string.Join(',', islands.Select(i => i.Mark));

        private static string Ids(IReadOnlyList<Island>? islands) => islands is null ? "=" : string.Join(',', islands.Select(i => i.Id));
    }

    private static Place PlaceOf(Island island, PieceLayer layer, PieceLayer? before, PieceLayer? after) => new(
        island, layer.HeightMm, layer.LineWidthMm, layer.Number % 2 == 0 && !layer.OnBed ? 45 : 135,
        before is null || before.Islands.Contains(island) ? null : [.. before.Islands.Where(i => Near(i, island))],
        after is null ? [] : after.Islands.Contains(island) ? null : [.. after.Islands.Where(i => Near(i, island))]);

    /// <summary>Makes the lines of every different island of the piece, on all cores: layers repeat, so there are few.</summary>
    private void MakeLines()
    {
        made.Clear();
        var needed = new Dictionary<string, Place>();
        for (var i = 0; i < piece.Layers.Count; i++)
        {
            foreach (var island in piece.Layers[i].Islands)
            {
                var around = PlaceOf(island, piece.Layers[i], Below(i), Above(i));
                needed.TryAdd(around.Key, around);
            }
        }

        try
        {
            foreach (var (key, one) in needed.Values.AsParallel().Select(a => (a.Key, LinesOf(a))).ToList())
                made[key] = one;
        }
        catch (AggregateException e) when (e.Flatten().InnerExceptions.OfType<OperationCanceledException>().FirstOrDefault() is { } stopped)
        {
            // Whoever asked has left: told as that, whichever hand noticed it.
            System.Runtime.ExceptionServices.ExceptionDispatchInfo.Throw(stopped);
        }
    }

    /// <summary>Lines are a function of shapes and line settings alone. While a tester changes a plan, most shapes stay.</summary>
    private IslandLines LinesOf(Place a)
    {
        var lines = memory.Once($"lines/{a.Mark}/{LinesFor(a, a.AngleDeg)}", LinesWeight, () => IslandPaths.Fill(
            memory.Once($"walls/{a.Island.Mark}/{LinesFor(a, 0)}", LinesWeight, () => IslandPaths.Wall(a.Island.Shape, LinesFor(a, 0))),
            LinesFor(a, a.AngleDeg), a.Below is null ? null : Plane.Together(a.Below.Select(i => i.Shape)),
            a.Above is null ? null : Plane.Together(a.Above.Select(i => i.Shape))));
        return lines with { Walls = [.. lines.Walls.Select(Seamed)] };
    }

    /// <summary>What the lines of an island weigh in a memory.</summary>
    private const int LinesWeight = 15;

    private LineSettings LinesFor(Place a, double angle) =>
        new(SpacingOf(a.WidthMm, a.HeightMm), Bead.RoundEnds(s.Bead, a.HeightMm), s.Walls, angle);

    private double SpacingOf(double? width, double height) => Bead.Spacing(s.Bead, width ?? s.LineWidthMm, height);

    private static bool Near(Island a, Island b) => a.Shape.EnvelopeInternal.Intersects(b.Shape.EnvelopeInternal);

    private void Lay(Island island, IslandLines lines, PieceLayer layer)
    {
        inside = island.Shape;
        var walls = s.WallOrder == WallOrder.OuterFirst ? lines.Walls : lines.Walls.Reverse();
        foreach (var wall in walls)
            LayLine(wall, layer);
        foreach (var group in lines.Rest)
        {
            var waiting = group.ToList();
            while (waiting.Count > 0)
            {
                var here = new Coordinate(x, y);
                var next = waiting.MinBy(l => Math.Min(l.Points[0].Distance(here), l.Points[^1].Distance(here)))!;
                waiting.Remove(next);
                LayLine(next.Points[0].Distance(here) <= next.Points[^1].Distance(here) ? next : next with { Points = [.. next.Points.Reverse()] }, layer);
            }
        }

        inside = null;
    }

    /// <summary>
    /// A closed line turned so that it begins where a seam spoils least: outside what is judged, furthest toward the side
    /// that the piece keeps for seams, and there in a corner rather than on a face.
    /// </summary>
    private PathLine Seamed(PathLine line)
    {
        if (!line.Closed)
            return line;
        var n = line.Points.Length - 1;
        var (dx, dy) = piece.SeamToward;
        var best = 0;
        var bestScore = double.MinValue;
        for (var i = 0; i < n; i++)
        {
            var p = line.Points[i];
            var (before, after) = (line.Points[(i + n - 1) % n], line.Points[i + 1]);
            var turn = Math.Abs(Angle(before, p, after));
            var judged = piece.Judged.Any(e => e.Contains(p));
            var score = p.X * dx + p.Y * dy + Math.Min(turn, 1) * 0.5 - (judged ? 1000 : 0);
            if (score > bestScore)
                (best, bestScore) = (i, score);
        }

        if (best == 0)
            return line;
        return line with
        {
            Points = [.. line.Points[best..n], .. line.Points[..(best + 1)]],
            OverAir = line.OverAir is { } o ? [.. o[best..], .. o[..best]] : null,
        };
    }

    private static double Angle(Coordinate a, Coordinate b, Coordinate c)
    {
        var (ux, uy, vx, vy) = (b.X - a.X, b.Y - a.Y, c.X - b.X, c.Y - b.Y);
        return Math.Atan2(ux * vy - uy * vx, ux * vx + uy * vy);
    }

    private void LayLine(PathLine line, PieceLayer layer)
    {
        Go(line.Points[0].X, line.Points[0].Y, layer.TopMm);
        Unretract();
        for (var i = 1; i < line.Points.Length; i++)
        {
            var role = line.OverAir is { } over && over[i - 1] ? PathRole.Bridge : line.Role;
            var wanted = layer.Number <= s.FanFirstLayers ? 0 : layer.FanPercent ?? (role == PathRole.Bridge ? s.BridgeFanPercent : s.FanPercent);
            if (wanted != fan)
                Fan(wanted);
            var p = line.Points[i];
            if (piece.Flows.Count == 0 || role is PathRole.Brim or PathRole.Skirt)
            {
                Extrude(p.X, p.Y, role, line, layer, 1);
                continue;
            }

            // Where the flow changes, the line is cut: each part is laid with its own.
            var (x0, y0) = (x, y);
            foreach (var t in piece.Cuts(x0, p.X))
            {
                var (mx, my) = (x0 + (p.X - x0) * t, y0 + (p.Y - y0) * t);
                Extrude(mx, my, role, line, layer, piece.FlowAt(layer, (mx + x) / 2, (my + y) / 2));
            }
        }

        last = line;
    }

    private void Extrude(double toX, double toY, PathRole role, PathLine line, PieceLayer layer, double factor)
    {
        var length = Math.Sqrt((toX - x) * (toX - x) + (toY - y) * (toY - y));
        if (length < 1e-6)
            return;
        var e = s.FeedMm(length, line.SpacingMm, layer.HeightMm) * factor;
        if (role is not (PathRole.Brim or PathRole.Skirt))
            feed += e;
        (x, y) = (toX, toY);
        var onBed = layer.Number == 1 || layer.OnBed;
        var speed = !onBed && layer.Speeds?.Of(role) is { } own ? Math.Min(own, s.MaxFlowMm3PerS / (line.SpacingMm * layer.HeightMm))
            : s.Speed(role, onBed, line.SpacingMm, layer.HeightMm);
        moves.Add(
            new(
                MoveKind.Extrude, role, x, y, z, e, factor > 1 ? Math.Min(speed, s.MaxFlowMm3PerS / (line.SpacingMm * layer.HeightMm * factor)) : speed,
                line.SpacingMm));
    }

    /// <summary>Goes there without extruding: retracted, unless it only steps to a neighbouring line of the same island.</summary>
    private void Go(double toX, double toY, double toZ)
    {
        var distance = Math.Sqrt((toX - x) * (toX - x) + (toY - y) * (toY - y));
        if (distance < 1e-6 && Math.Abs(toZ - z) < 1e-9)
            return;

        var step = distance <= 2 * s.LineWidthMm && toZ == z && !retracted && inside is not null && last is not null;
        if (!step && !retracted && last is not null)
            Retract();
        if (!step && HopMm > 0 && toZ <= z && retracted)
        {
            z = toZ + HopMm;
            moves.Add(new(MoveKind.Travel, PathRole.Travel, x, y, z, 0, TravelSpeed));
        }

        if (toZ > z)
        {
            z = toZ;
            moves.Add(new(MoveKind.Travel, PathRole.Travel, x, y, z, 0, TravelSpeed));
        }

        if (distance >= 1e-6)
        {
            (x, y) = (toX, toY);
            moves.Add(new(MoveKind.Travel, PathRole.Travel, x, y, z, 0, TravelSpeed));
        }

        if (z > toZ)
        {
            z = toZ;
            moves.Add(new(MoveKind.Travel, PathRole.Travel, x, y, z, 0, TravelSpeed));
        }
    }

    /// <summary>Pulls back, on the way over what was just laid: forward on a closed line, back on an open one.</summary>
    private void Retract()
    {
        retracted = true;
        Coast();
        pulled = RetractMm;
        if (RetractMm <= 0)
            return;
        var left = RetractMm;
        if (last is { } line && WipeMm > 0)
        {
            var points = line.Closed ? line.Points.Skip(1) : line.Points.Reverse().Skip(1);
            var path = new List<(double X, double Y, double Length)>();
            var (px, py, sum) = (x, y, 0.0);
            foreach (var p in points)
            {
                var length = Math.Sqrt((p.X - px) * (p.X - px) + (p.Y - py) * (p.Y - py));
                if (length < 1e-6)
                    continue;
                var part = Math.Min(1, (WipeMm - sum) / length);
                path.Add((px + (p.X - px) * part, py + (p.Y - py) * part, length * part));
                (px, py) = path[^1] is var (ex, ey, _) ? (ex, ey) : (px, py);
                sum += length * part;
                if (sum >= WipeMm - 1e-9)
                    break;
            }

            var speed = Math.Min(TravelSpeed, sum / (left / RetractSpeed));
            foreach (var (wx, wy, length) in path.Where(_ => sum > 0.2))
            {
                var part = RetractMm * length / sum;
                left -= part;
                (x, y) = (wx, wy);
                moves.Add(new(MoveKind.Retract, PathRole.Travel, x, y, z, -part, speed));
            }
        }

        if (left > 1e-9)
            moves.Add(new(MoveKind.Retract, PathRole.Travel, x, y, z, -left, RetractSpeed));
    }

    /// <summary>Takes the plastic from the end of the line that was just laid: its pressure prints it.</summary>
    private void Coast()
    {
        var left = way.CoastMm ?? 0;
        for (var i = moves.Count - 1; i > 0 && left > 1e-6 && moves[i].Kind == MoveKind.Extrude; i--)
        {
            var (m, before) = (moves[i], moves[i - 1]);
            var length = Math.Sqrt((m.X - before.X) * (m.X - before.X) + (m.Y - before.Y) * (m.Y - before.Y));
            if (length <= left + 1e-9)
            {
                moves[i] = m with { Kind = MoveKind.Travel, E = 0 };
                feed -= m.E;
                left -= length;
                continue;
            }

            var share = 1 - left / length;
            moves[i] = m with { X = before.X + (m.X - before.X) * share, Y = before.Y + (m.Y - before.Y) * share, E = m.E * share };
            moves.Insert(i + 1, m with { Kind = MoveKind.Travel, E = 0 });
            feed -= m.E * (1 - share);
            left = 0;
        }
    }

    private void Unretract()
    {
        if (!retracted)
            return;
        retracted = false;
        if (pulled > 0)
            moves.Add(new(MoveKind.Unretract, PathRole.Travel, x, y, z, pulled + s.RetractExtraMm, UnretractSpeed));
    }

    private void Fan(double percent)
    {
        fan = percent;
        moves.Add(new(MoveKind.Fan, PathRole.Travel, x, y, z, percent, 0));
    }
}
