using System.Runtime.CompilerServices;

namespace Glenfrost.Core.Gcode.Motion;

/// <summary>Is told how long each move takes, in order, as soon as no later move can change it.</summary>
/// <typeparam name="TTag">What the caller wants to know of the move.</typeparam>
public interface IMoveTimes<TTag>
    where TTag : struct
{
    /// <summary>A move is planned.</summary>
    /// <param name="tag">What was given with it.</param>
    /// <param name="seconds">How long it takes.</param>
    /// <param name="peak">The fastest that it gets, mm/s.</param>
    void Timed(ref readonly TTag tag, double seconds, double peak);
}

/// <summary>
/// How long moves take on a machine with limited acceleration, move by move, in memory that does not grow. Every move is a trapezoid of speed. Corners are
/// taken at the speed at which a circle that strays by the junction deviation δ keeps within the acceleration a: v² = a·δ·sin(θ/2) / (1 − sin(θ/2)), θ the
/// angle between the two moves, as is usual for firmware planners. Speeds look ahead over a bounded number of moves, behind which a stop is assumed.
/// </summary>
public sealed class MotionPlanner<TTag>(MotionLimits limits, IMoveTimes<TTag> to)
    where TTag : struct
{
    private struct Block
    {
        public double Length, Nominal2, Entry2, Acceleration;
        public TTag Tag;
    }

    private readonly Block[] blocks = new Block[Math.Max(4, limits.LookAhead)];
    private int count;
    private double speedInto2;
    private double lastX, lastY, lastZ, lastNominal2 = -1;

    /// <summary>Acceleration of moves that extrude, of those that don't, and of filament alone, mm/s²; files change them.</summary>
    public double Print = limits.Print, Travel = limits.Travel, Retract = limits.Retract;

    /// <summary>mm.</summary>
    public double JunctionDeviation = limits.JunctionDeviationMm;

    /// <summary>Fastest per axis, mm/s.</summary>
    public double MaxX = limits.MaxX, MaxY = limits.MaxY, MaxZ = limits.MaxZ, MaxE = limits.MaxE;

    /// <summary>Acceleration per axis, mm/s².</summary>
    public double AccelerationX = limits.AccelerationX,
        AccelerationY = limits.AccelerationY, AccelerationZ = limits.AccelerationZ,
        AccelerationE = limits.AccelerationE;

    /// <summary>Adds a straight move.</summary>
    /// <param name="dx">mm.</param>
    /// <param name="dy">mm.</param>
    /// <param name="dz">mm.</param>
    /// <param name="length">Of the three together, mm, above 0.</param>
    /// <param name="de">mm of filament.</param>
    /// <param name="speed">mm/s along the path; 20 is taken where none is known.</param>
    /// <param name="tag">Comes back with its time.</param>
    public void Add(double dx, double dy, double dz, double length, double de, double speed, in TTag tag)
    {
        var acceleration = de > 0 ? Print : Travel;
        if (!(speed > 0))
            speed = 20;
        var (ax, ay, az, ae) = (Math.Abs(dx), Math.Abs(dy), Math.Abs(dz), Math.Abs(de));
        if (ax * speed > MaxX * length)
            speed = MaxX * length / ax;
        if (ay * speed > MaxY * length)
            speed = MaxY * length / ay;
        if (ax * acceleration > AccelerationX * length)
            acceleration = AccelerationX * length / ax;
        if (ay * acceleration > AccelerationY * length)
            acceleration = AccelerationY * length / ay;
        if (az > 0)
        {
            if (az * speed > MaxZ * length)
                speed = MaxZ * length / az;
            if (az * acceleration > AccelerationZ * length)
                acceleration = AccelerationZ * length / az;
        }

        if (ae * speed > MaxE * length)
            speed = MaxE * length / ae;
        if (ae * acceleration > AccelerationE * length)
            acceleration = AccelerationE * length / ae;
        var inverse = 1 / length;
        Put(dx * inverse, dy * inverse, dz * inverse, length, speed, acceleration, in tag);
        (lastX, lastY, lastZ) = (dx * inverse, dy * inverse, dz * inverse);
    }

    /// <summary>Adds an arc: it begins in one direction and ends in another, and is no faster than its acceleration lets it turn: v² = a·r.</summary>
    public void AddArc(double inX, double inY, double outX, double outY, double radius, double length, double de, double speed, in TTag tag)
    {
        var acceleration = Math.Min(de > 0 ? Print : Travel, Math.Min(AccelerationX, AccelerationY));
        if (!(speed > 0))
            speed = 20;
        speed = Math.Min(Math.Min(speed, Math.Min(MaxX, MaxY)), Math.Sqrt(acceleration * radius));
        var ae = Math.Abs(de);
        if (ae * speed > MaxE * length)
            speed = MaxE * length / ae;
        Put(inX, inY, 0, length, speed, acceleration, in tag);
        (lastX, lastY, lastZ) = (outX, outY, 0);
    }

    /// <summary>Adds filament that is fed or pulled back while nothing else moves: the axes stand before and after.</summary>
    /// <param name="de">mm of filament.</param>
    /// <param name="speed">mm/s of the filament.</param>
    /// <param name="tag">Comes back with its time.</param>
    public void AddFilament(double de, double speed, in TTag tag)
    {
        var length = Math.Abs(de);
        if (length < 1e-9)
            return;
        if (count == blocks.Length)
            Commit(count / 2);
        ref var b = ref blocks[count++];
        speed = Math.Min(speed > 0 ? speed : 20, MaxE);
        b.Length = length;
        b.Nominal2 = speed * speed;
        b.Acceleration = Math.Min(Retract, AccelerationE);
        b.Entry2 = 0;
        b.Tag = tag;
        lastNominal2 = -1;
    }

    /// <summary>Comes to a stop: all moves so far are told.</summary>
    public void Stop()
    {
        Commit(count);
        (speedInto2, lastNominal2) = (0, -1);
    }

    private void Put(double x, double y, double z, double length, double speed, double acceleration, in TTag tag)
    {
        if (count == blocks.Length)
            Commit(count / 2);
        var nominal2 = speed * speed;
        var entry2 = 0.0;
        if (lastNominal2 > 0)
        {
            // dot = 1 goes straight on, -1 turns back; sin(θ/2) = √((1 + dot)/2).
            var half2 = (1 + x * lastX + y * lastY + z * lastZ) * 0.5;
            entry2 = Math.Min(nominal2, lastNominal2);
            if (half2 < 0.9998)
            {
                var sin = half2 <= 0 ? 0 : Math.Sqrt(half2);
                entry2 = Math.Min(entry2, acceleration * JunctionDeviation * sin / (1 - sin));
            }
        }

        ref var b = ref blocks[count++];
        b.Length = length;
        b.Nominal2 = nominal2;
        b.Acceleration = acceleration;
        b.Entry2 = entry2;
        b.Tag = tag;
        lastNominal2 = nominal2;
    }

    /// <summary>Plans all that waits towards a stop behind it and tells the first ones.</summary>
    private void Commit(int first)
    {
        var all = blocks.AsSpan(0, count);
        var next2 = 0.0;
        for (var i = all.Length - 1; i >= 0; i--)
        {
            ref var b = ref all[i];
            // What is told now keeps this plan; what stays is planned again with what follows, from its own limit.
            next2 = Math.Min(b.Entry2, next2 + 2 * b.Acceleration * b.Length);
            if (i <= first)
                b.Entry2 = next2;
        }

        var into2 = speedInto2;
        var into = Math.Sqrt(into2);
        for (var i = 0; i < first; i++)
        {
            ref var b = ref all[i];
            var out2 = i + 1 < all.Length ? all[i + 1].Entry2 : 0;
            var (seconds, peak) = Trapezoid(ref b, into, into2, ref out2, out var outSpeed);
            to.Timed(in b.Tag, seconds, peak);
            (into2, into) = (out2, outSpeed);
        }

        all[first..].CopyTo(all);
        count -= first;
        speedInto2 = into2;
        if (count > 0)
            blocks[0].Entry2 = into2;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static (double Seconds, double Peak) Trapezoid(ref Block b, double into, double into2, ref double out2, out double outSpeed)
    {
        var a = b.Acceleration;
        var reach2 = into2 + 2 * a * b.Length;
        if (out2 > reach2)
            out2 = reach2;
        outSpeed = Math.Sqrt(out2);
        var peak2 = (reach2 + out2) * 0.5;
        if (peak2 <= b.Nominal2)
        {
            var top = Math.Sqrt(peak2);
            return ((top - into + top - outSpeed) / a, top);
        }

        // At or above the nominal speed already only where rounding has it so.
        var peak = Math.Max(Math.Sqrt(b.Nominal2), Math.Max(into, outSpeed));
        var ramps = (2 * peak * peak - into2 - out2) / (2 * a);
        return ((2 * peak - into - outSpeed) / a + Math.Max(0, b.Length - ramps) / peak, peak);
    }
}

/// <summary>A planner for paths with one acceleration that only counts time.</summary>
public sealed class MotionClock : IMoveTimes<byte>
{
    private readonly MotionPlanner<byte> planner;

    /// <param name="acceleration">mm/s².</param>
    /// <param name="junctionDeviation">mm; 0.02 is a usual value.</param>
    public MotionClock(double acceleration, double junctionDeviation = 0.02) =>
        planner = new(
            MotionLimits.Free with
            {
                Print = acceleration,
                Travel = acceleration,
                Retract = acceleration,
                JunctionDeviationMm = junctionDeviation,
                LookAhead = 4096,
            },
            this);

    /// <summary>Seconds so far; all of them only after <see cref="Stop"/>.</summary>
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
            planner.AddFilament(de, speed, 0);
        else
            planner.Add(dx, dy, dz, length, de, speed, 0);
    }

    /// <summary>Waits without moving, s.</summary>
    public void Wait(double seconds)
    {
        Stop();
        Seconds += seconds;
    }

    /// <summary>Comes to a stop.</summary>
    public void Stop() => planner.Stop();

    /// <summary>Stands, at no time: what it timed so far is forgotten, its memory is used again.</summary>
    public void Restart()
    {
        Stop();
        Seconds = 0;
    }

    void IMoveTimes<byte>.Timed(ref readonly byte tag, double seconds, double peak) => Seconds += seconds;
}
