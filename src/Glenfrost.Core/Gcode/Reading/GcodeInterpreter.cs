using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Glenfrost.Core.Gcode.Reading;

/// <summary>
/// Does to a <see cref="MachineState"/> what the lines of a file would do to a machine, and tells a <see cref="GcodeSink"/>. Works on bytes, in memory that
/// does not grow with the file. Comments may be UTF-8 or Latin-1: only their bytes are looked at.
/// </summary>
public sealed class GcodeInterpreter
{
    private const int BufferSize = 256 * 1024;

    private readonly GcodeSink sink;
    private readonly GcodeWords words = new();
    private readonly bool copies;
    private GcodeMove move;

    /// <summary>Begins with a state, or with that of a printer that was just switched on.</summary>
    public GcodeInterpreter(GcodeSink sink, MachineState? from = null)
    {
        this.sink = sink;
        copies = sink.WantsBytes;
        State = from ?? new();
    }

    /// <summary>The machine now.</summary>
    public MachineState State { get; }

    /// <summary>Lines read.</summary>
    public int Lines { get; private set; }

    /// <summary>Bytes read.</summary>
    public long Bytes { get; private set; }

    /// <summary>Lines of more than 256 KiB: only their beginning was read.</summary>
    public int LongLines { get; private set; }

    /// <summary>Lines that end in carriage return and line feed.</summary>
    public int CarriageReturns { get; private set; }

    /// <summary>Reads to the end.</summary>
    /// <param name="from">The file, at the byte that <paramref name="offset"/> says.</param>
    /// <param name="offset">Offset of the first byte.</param>
    /// <param name="line">Number of the first line.</param>
    /// <param name="stop">Asked once a buffer.</param>
    public void Run(Stream from, long offset = 0, int line = 1, CancellationToken stop = default)
    {
        var buffer = GC.AllocateUninitializedArray<byte>(BufferSize + 64);
        var (have, skipping) = (0, false);
        Lines = line - 1;
        Bytes = offset;
        while (true)
        {
            stop.ThrowIfCancellationRequested();
            var n = from.Read(buffer, have, BufferSize - have);
            var last = n <= 0;
            have += Math.Max(0, n);
            if (have == 0)
                return;
            var done = 0;
            if (skipping)
            {
                var end = buffer.AsSpan(0, have).IndexOf((byte)'\n');
                done = end < 0 ? have : end + 1;
                skipping = end < 0;
                if (copies)
                    sink.Whole(buffer.AsSpan(0, done), words);
            }

            done = Whole(buffer, done, have);
            if (sink.Enough)
                return;
            if (last)
            {
                if (done < have)
                {
                    buffer[have] = (byte)'\n';
                    One(buffer, done, have + 1, true);
                }

                Bytes += have;
                return;
            }

            if (done == 0 && have == BufferSize)
            {
                // A line without end: its beginning is read as one, the rest is passed over.
                LongLines++;
                buffer[have] = (byte)'\n';
                One(buffer, 0, have + 1, true);
                skipping = true;
                done = have;
            }

            Bytes += done;
            buffer.AsSpan(done, have - done).CopyTo(buffer);
            have -= done;
        }
    }

    private int Whole(byte[] buffer, int done, int have)
    {
        var last = buffer.AsSpan(done, have - done).LastIndexOf((byte)'\n');
        if (last < 0)
            return done;
        var end = done + last + 1;
        while (done < end)
        {
            done = One(buffer, done, end);
            if (sink.Enough)
                return done;
        }

        return done;
    }

    /// <summary>Reads the line that begins at a place; somewhere before <paramref name="most"/> stands a line feed.</summary>
    /// <returns>Where the next line begins.</returns>
    private int One(byte[] buffer, int from, int most, bool open = false)
    {
        Lines++;
        var begin = from;
        if (Lines == 1 && most >= 3 && buffer[0] == 0xEF && buffer[1] == 0xBB && buffer[2] == 0xBF)
            from = 3;
        ref var s = ref Unsafe.Add(ref MemoryMarshal.GetArrayDataReference(buffer), from);
        var to = from + words.Read(ref s, most - from);
        if (to > from && buffer[to - 1] == '\r')
            CarriageReturns++;
        switch (words.Kind)
        {
            case LineKind.Command:
                if (words.Code is Codes.G1 or Codes.G0)
                    Straight(Bytes + from);
                else
                    Other(buffer.AsSpan(from, to - from), Bytes + from);
                break;
            case LineKind.Comment:
                sink.Comment(buffer.AsSpan(from + words.CommentAt, to - from - words.CommentAt), State, Lines, Bytes + from);
                break;
            case LineKind.Macro:
                Macro(buffer.AsSpan(from, to - from));
                sink.Command(words, buffer.AsSpan(from, to - from), State, Lines, Bytes + from);
                break;
            case LineKind.Unreadable:
                sink.Unreadable(words.Wrong!, buffer.AsSpan(from, to - from), Lines, Bytes + from);
                break;
        }

        // The line feed behind the last byte of a file or buffer is ours.
        if (copies)
            sink.Whole(buffer.AsSpan(begin, Math.Min(to + 1, most - (open ? 1 : 0)) - begin), words);
        return to + 1;
    }

    private const uint Axes = (1u << 4) | (7u << 23);

    private void Straight(long offset)
    {
        var s = State;
        var w = words;
        var has = w.Numbers;
        if ((w.Flags & (Axes | (1u << 5))) != 0)
        {
            sink.Unreadable("a letter stands without its number", [], Lines, offset);
            return;
        }

        if ((has & (1u << 5)) != 0)
            s.Feed = w['F'] * s.Unit / 60;
        if ((has & Axes) == 0)
            return;
        ref var m = ref move;
        m.X0 = s.X;
        m.Y0 = s.Y;
        m.Z0 = s.Z;
        Ends(ref m, has);
        var (dx, dy, dz) = (m.X1 - m.X0, m.Y1 - m.Y0, m.Z1 - m.Z0);
        m.Arc = 0;
        m.Length = Math.Sqrt(dx * dx + dy * dy + dz * dz);
        m.Feed = s.Feed * s.SpeedPercent * 0.01;
        m.Offset = offset;
        m.Line = Lines;
        sink.Move(in m, s);
        (s.X, s.Y, s.Z) = (m.X1, m.Y1, m.Z1);
    }

    /// <summary>Where the move ends, and what it feeds; the register of E is moved on.</summary>
    private void Ends(ref GcodeMove m, uint has)
    {
        var (s, w) = (State, words);
        if (s.RelativeXyz)
        {
            m.X1 = (has & (1u << 23)) != 0 ? s.X + w['X'] * s.Unit : s.X;
            m.Y1 = (has & (1u << 24)) != 0 ? s.Y + w['Y'] * s.Unit : s.Y;
            m.Z1 = (has & (1u << 25)) != 0 ? s.Z + w['Z'] * s.Unit : s.Z;
        }
        else
        {
            m.X1 = (has & (1u << 23)) != 0 ? w['X'] * s.Unit - s.OffsetX : s.X;
            m.Y1 = (has & (1u << 24)) != 0 ? w['Y'] * s.Unit - s.OffsetY : s.Y;
            m.Z1 = (has & (1u << 25)) != 0 ? w['Z'] * s.Unit - s.OffsetZ : s.Z;
        }

        if ((has & (1u << 4)) == 0)
        {
            m.E = 0;
            return;
        }

        var e = w['E'] * s.Unit;
        if (s.RelativeE)
        {
            m.E = e;
            s.E += e;
        }
        else
        {
            m.E = e - s.E;
            s.E = e;
        }
    }

    private void Arc(long offset)
    {
        var (s, w) = (State, words);
        if (w.Has('F'))
            s.Feed = w['F'] * s.Unit / 60;
        ref var m = ref move;
        m.X0 = s.X;
        m.Y0 = s.Y;
        m.Z0 = s.Z;
        Ends(ref m, w.Numbers);
        var clockwise = w.Code == Codes.G2;
        m.Feed = s.Feed * s.SpeedPercent * 0.01;
        m.Offset = offset;
        m.Line = Lines;
        if (!ArcOf(ref m, clockwise, w.Has('R') ? w['R'] * s.Unit : 0, (w.Of('I') ?? 0) * s.Unit, (w.Of('J') ?? 0) * s.Unit))
        {
            sink.Unreadable("an arc without a centre (I, J) or with a radius that can't reach", [], Lines, offset);
            m.Arc = 0;
            m.Length = Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0) + (m.Z1 - m.Z0) * (m.Z1 - m.Z0));
        }

        sink.Move(in m, s);
        (s.X, s.Y, s.Z) = (m.X1, m.Y1, m.Z1);
    }

    private static bool ArcOf(ref GcodeMove m, bool clockwise, double r, double i, double j)
    {
        var (dx, dy) = (m.X1 - m.X0, m.Y1 - m.Y0);
        if (r != 0)
        {
            var half = (dx * dx + dy * dy) / 4;
            if (half == 0 || r * r < half * 0.9999)
                return false;
            // The shorter arc for a positive radius, the longer one for a negative.
            var h = Math.Sqrt(Math.Max(0, r * r / half - 1)) / 2 * (clockwise == r > 0 ? -1 : 1);
            (i, j) = (dx / 2 - dy * h, dy / 2 + dx * h);
        }

        var radius = Math.Sqrt(i * i + j * j);
        if (radius < 1e-9)
            return false;
        (m.CentreX, m.CentreY) = (m.X0 + i, m.Y0 + j);
        var angle = Math.Atan2(m.Y1 - m.CentreY, m.X1 - m.CentreX) - Math.Atan2(-j, -i);
        if (clockwise)
            angle = angle >= -1e-9 ? angle - 2 * Math.PI : angle;
        else
            angle = angle <= 1e-9 ? angle + 2 * Math.PI : angle;
        // A whole turn only where it comes back to where it began.
        if (Math.Abs(angle) > 2 * Math.PI - 1e-6 && dx * dx + dy * dy > 1e-6)
            angle -= Math.CopySign(2 * Math.PI, angle);
        if (Math.Abs(angle) > 2 * Math.PI)
            angle -= Math.CopySign(2 * Math.PI, angle);
        m.Arc = angle == 0 ? 1e-12 : angle;
        var (flat, dz) = (Math.Abs(angle) * radius, m.Z1 - m.Z0);
        m.Length = Math.Sqrt(flat * flat + dz * dz);
        return true;
    }

    private void Other(ReadOnlySpan<byte> line, long offset)
    {
        var (s, w) = (State, words);
        switch (w.Code)
        {
            case Codes.G2 or Codes.G3:
                if ((w.Flags & (Axes | GcodeWords.Bit('F') | GcodeWords.Bit('I') | GcodeWords.Bit('J'))) != 0)
                    sink.Unreadable("a letter stands without its number", line, Lines, offset);
                else
                    Arc(offset);
                return;
            case Codes.G4:
                // S counts seconds, P milliseconds.
                sink.Dwell(Math.Clamp(w.Has('S') ? w['S'] : (w.Of('P') ?? 0) / 1000, 0, 1e6));
                break;
            case Codes.G10 when !w.Has('P') && !w.Has('L'):
                s.Retracted = true;
                break;
            case Codes.G10 when w.Has('P') && w.Has('S'):
                s.Nozzles[Index(w['P'])] = w['S'];
                break;
            case Codes.G11:
                s.Retracted = false;
                break;
            case Codes.G20:
                s.Unit = 25.4;
                break;
            case Codes.G21:
                s.Unit = 1;
                break;
            case Codes.G28:
                Home();
                break;
            case Codes.G90:
                s.RelativeXyz = false;
                if (!s.EModeSaid)
                    s.RelativeE = false;
                break;
            case Codes.G91:
                s.RelativeXyz = true;
                if (!s.EModeSaid)
                    s.RelativeE = true;
                break;
            case Codes.G92:
                if (w.Has('X'))
                    s.OffsetX = w['X'] * s.Unit - s.X;
                if (w.Has('Y'))
                    s.OffsetY = w['Y'] * s.Unit - s.Y;
                if (w.Has('Z'))
                    s.OffsetZ = w['Z'] * s.Unit - s.Z;
                if (w.Has('E'))
                    s.E = w['E'] * s.Unit;
                else if ((w.Numbers & Axes) == 0)
                    s.E = 0;
                break;
            case Codes.M82 or Codes.M83:
                (s.RelativeE, s.EModeSaid) = (w.Code == Codes.M83, true);
                break;
            case Codes.M104 or Codes.M109:
                if ((w.Of('S') ?? w.Of('R')) is { } c)
                    s.Nozzles[w.Has('T') ? Index(w['T']) : s.Tool] = c;
                break;
            case Codes.M106:
                // The part fan is P0; S counts 0 to 255, and 0 to 1 where it is a fraction.
                if ((w.Of('P') ?? 0) == 0)
                    s.Fan = w.Of('S') is not { } fan ? 100 : Math.Clamp(fan is > 0 and < 1 ? fan * 100 : fan / 2.55, 0, 100);
                break;
            case Codes.M107:
                if ((w.Of('P') ?? 0) == 0)
                    s.Fan = 0;
                break;
            case Codes.M140 or Codes.M190:
                s.Bed = w.Of('S') ?? w.Of('R') ?? s.Bed;
                break;
            case Codes.M141 or Codes.M191:
                s.Chamber = w.Of('S') ?? w.Of('R') ?? s.Chamber;
                break;
            case Codes.M200 when w.Has('D'):
                s.VolumetricE = w['D'] > 0;
                break;
            case Codes.M207:
                s.RetractLength = w.Of('S') is { } mm ? mm * s.Unit : s.RetractLength;
                s.RetractSpeed = w.Of('F') is { } f ? f * s.Unit / 60 : s.RetractSpeed;
                break;
            case Codes.M220 when w.Of('S') is { } speed:
                s.SpeedPercent = speed > 0 ? speed : s.SpeedPercent;
                break;
            case Codes.M221 when w.Of('S') is { } flow:
                s.FlowPercent = flow > 0 ? flow : s.FlowPercent;
                break;
            case Codes.M572 when w.Of('S') is { } pa:
                s.PressureAdvance = pa;
                break;
            case Codes.M900 when w.Of('K') is { } k:
                s.PressureAdvance = k;
                break;
            default:
                if ((w.Code & Codes.LetterMask) == Codes.T)
                    s.Tool = Math.Clamp(w.Code & 0xFFFF, 0, MachineState.MostTools - 1);
                break;
        }

        sink.Command(w, line, s, Lines, offset);
    }

    private void Home()
    {
        var (s, which) = (State, words.Numbers | words.Flags);
        var all = (which & (7u << 23)) == 0;
        if (all || (which & GcodeWords.Bit('X')) != 0)
            (s.X, s.OffsetX) = (0, 0);
        if (all || (which & GcodeWords.Bit('Y')) != 0)
            (s.Y, s.OffsetY) = (0, 0);
        if (all || (which & GcodeWords.Bit('Z')) != 0)
            (s.Z, s.OffsetZ) = (0, 0);
    }

    private void Macro(ReadOnlySpan<byte> line)
    {
        switch (words.Name(line))
        {
            case "SET_PRESSURE_ADVANCE":
                State.PressureAdvance = words.Parameter(line, "ADVANCE") ?? State.PressureAdvance;
                break;
            case "SET_RETRACTION":
                State.RetractLength = words.Parameter(line, "RETRACT_LENGTH") ?? State.RetractLength;
                State.RetractSpeed = words.Parameter(line, "RETRACT_SPEED") ?? State.RetractSpeed;
                break;
            case "SET_HEATER_TEMPERATURE":
                if (words.Parameter(line, "TARGET") is { } c)
                {
                    var heater = System.Text.Encoding.Latin1.GetString(line);
                    if (heater.Contains("bed", StringComparison.OrdinalIgnoreCase))
                        State.Bed = c;
                    else if (heater.Contains("chamber", StringComparison.OrdinalIgnoreCase))
                        State.Chamber = c;
                    else
                        State.Nozzles[State.Tool] = c;
                }

                break;
        }
    }

    private static int Index(double t) => (int)Math.Clamp(t, 0, MachineState.MostTools - 1);
}
