namespace Glenfrost.Core.Gcode;

/// <summary>
/// How long moves take on a machine with limited acceleration: every move is a trapezoid of speed, corners are taken at
/// the speed at which a circle that strays by the junction deviation keeps within the acceleration, and speeds look
/// ahead to the next stop. v² = a·δ·sin(θ/2) / (1 − sin(θ/2)) with θ the angle between the two moves.
/// </summary>
/// <param name="acceleration">mm/s².</param>
/// <param name="junctionDeviation">mm; 0.02 is a usual value.</param>
public sealed class MotionClock(double acceleration, double junctionDeviation = 0.02)
{
    private struct Block
    {
        public double Length, Nominal, Entry, Dx, Dy, Dz;
        public bool Alone;
    }

    private Block[] blocks = new Block[64];
    private int count;

    /// <summary>Seconds so far; moves that wait for their next stop are not in it before <see cref="Stop"/>.</summary>
    public double Seconds { get; private set; }

    /// <summary>Adds a move. Feeding without movement stops the axes before and after.</summary>
    /// <param name="dx">mm.</param>
    /// <param name="dy">mm.</param>
    /// <param name="dz">mm.</param>
    /// <param name="de">mm of filament.</param>
    /// <param name="speed">mm/s along the path, or of the filament where nothing else moves.</param>
    public void Add(double dx, double dy, double dz, double de, double speed)
    {
        var length = Math.Sqrt(dx * dx + dy * dy + dz * dz);
        if (length < 1e-9)
        {
            Stop();
            if (Math.Abs(de) > 1e-9)
                Seconds += Trapezoid(Math.Abs(de), 0, speed, 0);
            return;
        }

        if (count == blocks.Length)
            Array.Resize(ref blocks, count * 2);
        var b = new Block { Length = length, Nominal = speed, Dx = dx / length, Dy = dy / length, Dz = dz / length };
        if (count > 0)
        {
            ref var before = ref blocks[count - 1];
            var dot = before.Dx * b.Dx + before.Dy * b.Dy + before.Dz * b.Dz;
            b.Entry = Math.Min(Math.Min(before.Nominal, speed), Corner(dot));
        }

        blocks[count++] = b;
    }

    /// <summary>Waits without moving, s.</summary>
    public void Wait(double seconds)
    {
        Stop();
        Seconds += seconds;
    }

    /// <summary>Comes to a stop.</summary>
    public void Stop()
    {
        var next = 0.0;
        for (var i = count - 1; i >= 0; i--)
        {
            ref var b = ref blocks[i];
            b.Entry = Math.Min(b.Entry, Math.Sqrt(next * next + 2 * acceleration * b.Length));
            next = b.Entry;
        }

        var entry = 0.0;
        for (var i = 0; i < count; i++)
        {
            ref var b = ref blocks[i];
            var exit = i + 1 < count ? blocks[i + 1].Entry : 0;
            exit = Math.Min(exit, Math.Sqrt(entry * entry + 2 * acceleration * b.Length));
            Seconds += Trapezoid(b.Length, entry, b.Nominal, exit);
            entry = exit;
        }

        count = 0;
    }

    private double Corner(double dot)
    {
        // dot = 1 goes straight on, -1 turns back.
        var sinHalf = Math.Sqrt(Math.Max(0, (1 + dot) / 2));
        return sinHalf > 0.9999 ? double.MaxValue : Math.Sqrt(acceleration * junctionDeviation * sinHalf / (1 - sinHalf));
    }

    private double Trapezoid(double length, double entry, double nominal, double exit)
    {
        var peak = Math.Min(nominal, Math.Sqrt(acceleration * length + (entry * entry + exit * exit) / 2));
        peak = Math.Max(peak, Math.Max(entry, exit));
        var up = (peak * peak - entry * entry) / (2 * acceleration);
        var down = (peak * peak - exit * exit) / (2 * acceleration);
        return (peak - entry) / acceleration + (peak - exit) / acceleration + Math.Max(0, length - up - down) / peak;
    }
}
