namespace Glenfrost.Simulation.Printer;

/// <summary>A move that waits for its turn. Lengths mm, speeds mm/s.</summary>
public struct Motion
{
    /// <summary>Beginning and end of the move, mm.</summary>
    public double X0, Y0, Z0, X1, Y1, Z1;

    /// <summary>Filament asked for, mm; below 0 is drawn back.</summary>
    public double E;

    /// <summary>Speed asked for along the path (or of the filament, where it alone moves).</summary>
    public double Speed;

    /// <summary>What the printer does as it comes to this move, for example another fan; null for nothing.</summary>
    public Action? Before;

    internal double Length, Top, Rate, EnterMost, Enter;

    /// <summary>The file's line that asked for it.</summary>
    public long Line;

    /// <summary>True where the nozzle moves.</summary>
    public readonly bool Moves => X0 != X1 || Y0 != Y1 || Z0 != Z1;
}

/// <summary>
/// The printer's own clock: moves are kept until enough follow to know how fast each may be left, then run with speeds that change evenly. A corner is
/// rounded in thought by a circle that stays within a small distance of it; its speed is what that circle bears sideways.
/// </summary>
public sealed class MotionQueue
{
    private const int Depth = 400;
    private readonly List<Motion> waiting = new(Depth + 1);
    private double leaving;

    /// <summary>Takes each move with the seconds that it takes, in order.</summary>
    public required Action<Motion, double> Run { get; init; }

    /// <summary>Adds a move with the limits that hold now.</summary>
    public void Add(Motion m, PrinterSettings s)
    {
        var (dx, dy, dz) = (m.X1 - m.X0, m.Y1 - m.Y0, m.Z1 - m.Z0);
        var way = Math.Sqrt(dx * dx + dy * dy + dz * dz);
        m.Length = way > 0 ? way : Math.Abs(m.E);
        if (m.Length <= 0)
            return;
        m.Rate = way > 0 ? m.E > 0 ? s.Print : s.Travel : s.Retract;
        m.Top = Math.Max(0.01, m.Speed);
        void Bound(double share, double speed, double rate)
        {
            if (share <= 0)
                return;
            m.Top = Math.Min(m.Top, speed / share);
            m.Rate = Math.Min(m.Rate, rate / share);
        }

        Bound(Math.Abs(dx) / m.Length, s.MaxX, s.AccelerationX);
        Bound(Math.Abs(dy) / m.Length, s.MaxY, s.AccelerationY);
        Bound(Math.Abs(dz) / m.Length, s.MaxZ, s.AccelerationZ);
        Bound(Math.Abs(m.E) / m.Length, s.MaxE, s.AccelerationE);
        m.EnterMost = 0;
        if (waiting.Count > 0)
        {
            var before = waiting[^1];
            if (before.Moves && way > 0)
            {
                var cos = ((before.X1 - before.X0) * dx + (before.Y1 - before.Y0) * dy + (before.Z1 - before.Z0) * dz) / (before.Length * m.Length);
                var most = Math.Min(before.Top, m.Top);
                if (cos < 0.999999)
                {
                    // r = δ·cos(φ/2)/(1 − cos(φ/2)) for a turn by φ; v² = a·r.
                    var half = Math.Sqrt(Math.Max(0, (1 + cos) / 2));
                    most = Math.Min(most, Math.Sqrt(Math.Min(before.Rate, m.Rate) * s.CornerMm * half / Math.Max(1e-9, 1 - half)));
                }

                m.EnterMost = most;
            }
        }

        waiting.Add(m);
        if (waiting.Count >= Depth)
            Go(Depth / 2);
    }

    /// <summary>True where no move waits.</summary>
    public bool Empty => waiting.Count == 0;

    /// <summary>Runs all that waits, to a stop.</summary>
    public void Drain() => Go(waiting.Count);

    /// <summary>Forgets what waits: an emergency stop.</summary>
    public void Drop()
    {
        waiting.Clear();
        leaving = 0;
    }

    private void Go(int count)
    {
        if (waiting.Count == 0)
            return;
        var moves = System.Runtime.InteropServices.CollectionsMarshal.AsSpan(waiting);
        // Backwards: no faster into a move than can be braked within it. Forwards: no faster than was reached before it.
        var next = 0.0;
        for (var i = moves.Length - 1; i >= 0; i--)
        {
            moves[i].Enter = Math.Min(moves[i].EnterMost, Math.Sqrt(next * next + 2 * moves[i].Rate * moves[i].Length));
            next = moves[i].Enter;
        }

        var speed = leaving;
        for (var i = 0; i < moves.Length; i++)
        {
            moves[i].Enter = i == 0 ? leaving : Math.Min(moves[i].Enter, speed);
            speed = Math.Sqrt(moves[i].Enter * moves[i].Enter + 2 * moves[i].Rate * moves[i].Length);
        }

        for (var i = 0; i < count; i++)
        {
            ref var m = ref moves[i];
            var (into, from) = (m.Enter, i + 1 < moves.Length ? moves[i + 1].Enter : 0);
            Run(m, Seconds(m.Length, into, from, m.Top, m.Rate));
            // An emergency stop on the way has thrown all away.
            if (waiting.Count == 0)
                return;
        }

        leaving = count < moves.Length ? moves[count].Enter : 0;
        waiting.RemoveRange(0, count);
        if (waiting.Count > 0)
        {
            var first = waiting[0];
            first.EnterMost = leaving;
            waiting[0] = first;
        }
    }

    /// <summary>Speeding up, cruising, braking.</summary>
    private static double Seconds(double length, double into, double from, double top, double rate)
    {
        top = Math.Max(top, Math.Max(into, from));
        var (up, down) = ((top * top - into * into) / (2 * rate), (top * top - from * from) / (2 * rate));
        if (up + down <= length)
            return (top - into) / rate + (top - from) / rate + (length - up - down) / top;
        var peak = Math.Sqrt(Math.Max(0, (2 * rate * length + into * into + from * from) / 2));
        return Math.Max(0, (peak - into) / rate) + Math.Max(0, (peak - from) / rate);
    }
}
