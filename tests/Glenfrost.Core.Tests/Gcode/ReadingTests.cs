using System.Text;
using CsCheck;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>Lines as printers and slicing programs write them, and as they break.</summary>
public class ReadingTests
{
    private static (GcodeWords Words, byte[] Line) Read(string line)
    {
        var bytes = Encoding.Latin1.GetBytes(line);
        var padded = new byte[bytes.Length + 64];
        bytes.CopyTo(padded, 0);
        padded[bytes.Length] = (byte)'\n';
        var words = new GcodeWords();
        Assert.Equal(bytes.Length, words.Read(ref padded[0], bytes.Length + 1));
        return (words, bytes);
    }

    internal static FileFacts Inspect(string text, InspectionRequest? request = null) => Inspect(Encoding.Latin1.GetBytes(text), request);

    internal static FileFacts Inspect(byte[] bytes, InspectionRequest? request = null) => Inspector.Inspect(new MemoryStream(bytes), request ?? new());

    [Theory]
    [InlineData("G1 X10.5 Y-0.25 E.5 F1800", 10.5, -0.25, 0.5)]
    [InlineData("g1x10.5y-.25e0.5f1800", 10.5, -0.25, 0.5)]
    [InlineData("  G01 X+10.50 Y-0.250 E0.50000 ; outer", 10.5, -0.25, 0.5)]
    [InlineData("N12 G1 X10.5 Y-0.25 E0.5*71", 10.5, -0.25, 0.5)]
    [InlineData("G1 X 10.5 Y -0.25 E 0.5\r", 10.5, -0.25, 0.5)]
    [InlineData("G1 (here) X10.5 Y-0.25 (there) E0.5", 10.5, -0.25, 0.5)]
    [InlineData("G1\tX10.500000000000000000001\tY-0.25\tE0.5", 10.5, -0.25, 0.5)]
    [InlineData("G1 X0000000000000000010.5 Y-0.25 E00.5", 10.5, -0.25, 0.5)]
    public void The_same_move_in_all_its_spellings(string line, double x, double y, double e)
    {
        var (w, _) = Read(line);
        Assert.Equal((LineKind.Command, Codes.G1), (w.Kind, w.Code));
        Assert.Equal((x, y, e), (w['X'], w['Y'], w['E']));
    }

    [Theory]
    [InlineData("G1 X1.2.3", "two points")]
    [InlineData("G1 X1.2e-05 Y3", "exponent")]
    [InlineData("G1 X1 Y2 E1.5E-05", "exponent")]
    [InlineData("G1 X1 Y2 E3 E4", "twice")]
    [InlineData("G1 X1 X2", "twice")]
    [InlineData("G1 X- Y2", "without digits")]
    [InlineData("G1 X1\0Y2", "NUL")]
    [InlineData("G1 X99999999 Y2", "beyond every machine")]
    [InlineData("G1 X1 #Y2", "neither")]
    [InlineData("PK\u0003\u0004\u0014", "neither a letter")]
    [InlineData("\u0089PNG", "begins with no letter")]
    public void What_no_printer_understands_is_said(string line, string why)
    {
        var (w, _) = Read(line);
        Assert.Equal(LineKind.Unreadable, w.Kind);
        Assert.Contains(why, w.Wrong, StringComparison.Ordinal);
    }

    [Fact]
    public void Other_lines_are_what_they_are()
    {
        Assert.Equal(LineKind.Blank, Read("").Words.Kind);
        Assert.Equal(LineKind.Blank, Read("  \r").Words.Kind);
        Assert.Equal(LineKind.Comment, Read("; feature outer wall").Words.Kind);
        Assert.Equal(LineKind.Comment, Read(" (a note)").Words.Kind);
        Assert.Equal("G92.1", Codes.Text(Read("G92.1").Words.Code));
        Assert.Equal((Codes.T | 3), Read("T3").Words.Code);
        Assert.Equal(GcodeWords.Bit('X') | GcodeWords.Bit('Y'), Read("G28 X Y").Words.Flags);
        // Text for the display is no word.
        Assert.Equal(LineKind.Command, Read("M117 Ring, 40% \u00fcber").Words.Kind);
        var (macro, line) = Read("set_pressure_advance ADVANCE=0.045 EXTRUDER=x ; k");
        Assert.Equal((LineKind.Macro, "SET_PRESSURE_ADVANCE", 0.045), (macro.Kind, macro.Name(line), macro.Parameter(line, "advance")));
        Assert.Null(macro.Parameter(line, "EXTRUDER"));
    }

    [Fact]
    public void Every_number_is_read_as_the_framework_reads_it() =>
        Gen.Select(Gen.Long[-9_999_999_999, 9_999_999_999], Gen.Int[0, 8], Gen.Bool)
            .Sample(
                (n, digits, plus) =>
                {
                    var v = n / (decimal)Math.Pow(10, digits + 3);
                    var text = v.ToString(System.Globalization.CultureInfo.InvariantCulture);
                    var (w, _) = Read($"G1 Y1 X{(plus && v >= 0 ? "+" : "")}{text} Z2");
                    Assert.Equal(double.Parse(text, System.Globalization.CultureInfo.InvariantCulture), w['X']);
                    Assert.Equal((1, 2), (w['Y'], w['Z']));
                    var (from, to) = w.PlaceOf('Z');
                    Assert.Equal(1, to - from);
                },
                iter: 5000);

    [Fact]
    public void Arcs_are_as_long_as_by_hand()
    {
        var lengths = new List<double>();
        var sink = new Moves(m => lengths.Add(Math.Round(m.Length, 6)));
        // A quarter of radius 10 counterclockwise; a whole turn; the same quarter by its radius; the long way round; half a helix of 10 mm pitch.
        new GcodeInterpreter(sink).Run(
            new MemoryStream("G90\nG3 X10 Y10 I0 J10\nG2 X10 Y10 I-5 J0\nG2 X0 Y0 R10\nG3 X10 Y10 R-10\nG0 X0 Y0\nG3 X0 Y20 Z5 I0 J10\n"u8.ToArray()));
        Assert.Equal(
            [
                Math.Round(5 * Math.PI, 6), Math.Round(10 * Math.PI, 6), Math.Round(5 * Math.PI, 6), Math.Round(15 * Math.PI, 6), Math.Round(Math.Sqrt(200), 6),
                Math.Round(Math.Sqrt(100 * Math.PI * Math.PI + 25), 6),
            ],
            lengths);
    }

    [Fact]
    public void Modes_units_and_offsets_move_the_machine()
    {
        var ends = new List<(double X, double Y, double Z, double E)>();
        var sink = new Moves(m => ends.Add((Math.Round(m.X1, 4), Math.Round(m.Y1, 4), Math.Round(m.Z1, 4), Math.Round(m.E, 4))));
        new GcodeInterpreter(sink).Run(new MemoryStream(Encoding.ASCII.GetBytes("""
            G28
            G90
            M82
            G1 X10 E1
            G1 X20 E2.5
            G92 E0
            G1 X30 E0.5
            M83
            G1 Y5 E0.5
            G91
            G1 X-5 Y1
            G90
            G92 X0 Y0
            G1 X1 Y1
            G20
            G1 X1 Z0.1 F60
            """)));
        Assert.Equal([(10, 0, 0, 1), (20, 0, 0, 1.5), (30, 0, 0, 0.5), (30, 5, 0, 0.5), (25, 6, 0, 0), (26, 7, 0, 0), (50.4, 7, 2.54, 0)], ends);
    }

    private sealed class Moves(Action<GcodeMove> told) : GcodeSink
    {
        public override void Move(ref readonly GcodeMove move, MachineState state) => told(move);
    }

    [Fact]
    public void Spellings_don_t_change_what_a_file_is()
    {
        var plain = new SlicedFile { Layers = 12 };
        var is_ = Inspect(plain.ToBytes());
        Assert.Equal(plain.Laid.Count, is_.Model.Count());
        Assert.Empty(is_.Unread);
        foreach (var other in new[]
            {
                plain with { CrLf = true }, plain with { Lower = true }, plain with { NoSpaces = true }, plain with { Numbered = true },
                plain with { RelativeE = true }, plain with { Inches = true }, plain with { ResetsE = false }, plain with { FirmwareRetraction = true },
                plain with { Title = "R\u00fchr \u00b5" },
            })
        {
            var f = Inspect(other.ToBytes());
            Assert.Equal(0, f.UnreadLines);
            Assert.Equal(is_.Layers.Count, f.Layers.Count);
            Assert.Equal(is_.Volume, f.Volume, is_.Volume * 2e-5);
            Assert.Equal(is_.Seconds, f.Seconds, is_.Seconds * 0.01);
            Assert.Equal(is_.Retraction.Count, f.Retraction.Count);
        }
    }

    [Fact]
    public void A_file_written_again_without_edits_is_the_same_to_the_byte() =>
        Gen.Select(Gen.Bool, Gen.Bool, Gen.Bool, Gen.Bool, Gen.Int[1, 5])
            .Sample(
                (crLf, relative, numbered, spiral, layers) =>
                {
                    var bytes = (byte[])
                        [
                            0xEF, 0xBB, 0xBF, .. new SlicedFile
                            {
                                CrLf = crLf, RelativeE = relative, Numbered = numbered, Spiral = spiral, Layers = layers, Sides = 12,
                            }.ToBytes(),
                            .. "; caf\u00e9 M104 without end"u8,
                        ];
                    var to = new MemoryStream();
                    EditedFile.Write(new MemoryStream(bytes), to, [], new Nothing());
                    Assert.True(bytes.AsSpan().SequenceEqual(to.ToArray()));
                    to = new MemoryStream();
                    EditedFile.Write(new Trickle(bytes), to, []);
                    Assert.True(bytes.AsSpan().SequenceEqual(to.ToArray()));
                },
                iter: 40);

    private sealed class Nothing : IMoveEdit
    {
        public long From => 0;

        public MoveChange Change(ref readonly GcodeMove move, MachineState state) => new(move.E, move.Feed);
    }

    /// <summary>A stream that gives a few bytes at a time, as networks do.</summary>
    internal sealed class Trickle(byte[] bytes) : MemoryStream(bytes)
    {
        private int n;

        public override int Read(byte[] buffer, int offset, int count) => base.Read(buffer, offset, Math.Min(count, 1 + n++ % 37));
    }

    [Fact]
    public void Reading_does_not_depend_on_how_the_bytes_come()
    {
        var bytes = new SlicedFile { Layers = 6, CrLf = true }.ToBytes();
        var (whole, parts) = (Inspect(bytes), Inspector.Inspect(new Trickle(bytes), new()));
        Assert.Equal(
            (whole.Lines, whole.Bytes, whole.Volume, whole.Seconds, whole.CarriageReturns),
            (parts.Lines, parts.Bytes, parts.Volume, parts.Seconds, parts.CarriageReturns));
        Assert.Equal(bytes.Length, whole.Bytes);
        Assert.Equal(bytes.Count(b => b == '\n'), whole.Lines);
        Assert.Equal(whole.Lines, whole.CarriageReturns);
    }

    public static TheoryData<string, byte[]> Broken => new()
    {
        { "empty", [] },
        { "binary", [.. Enumerable.Range(0, 300_000).Select(i => (byte)(i * 7919 >> 3))] },
        { "half a line", "G28\nG1 X10 Y"u8.ToArray() },
        { "a line of 10 MB", [.. "G28\n"u8, .. Enumerable.Repeat((byte)'A', 10_000_000), .. "\nG1 X1 E1 F600\n"u8] },
        { "10 MB of comment", [(byte)';', .. Enumerable.Repeat((byte)'x', 10_000_000)] },
        { "NUL bytes", [.. "G28\nG1 X1"u8, 0, 0, .. " E1\n"u8, .. new byte[200_000]] },
        { "not a number", "M104 S200\nG1 XNaN YInfinity E1\n"u8.ToArray() },
        { "exponents", "M104 S200\nG1 X1e3 Y1E-05 E1\n"u8.ToArray() },
        { "a zip", [(byte)'P', (byte)'K', 3, 4, .. Enumerable.Range(0, 5000).Select(i => (byte)(i * 31))] },
        { "only carriage returns", Encoding.ASCII.GetBytes("G28\rG1 X1 E1\r") },
    };

    [Theory]
    [MemberData(nameof(Broken))]
    public void Broken_files_get_an_answer(string name, byte[] bytes)
    {
        var f = Inspect(bytes);
        Assert.Equal(bytes.Length, f.Bytes);
        var odd = Oddities.Of(f);
        Assert.NotEmpty(odd);
        Assert.True(odd[0].Weight == Weight.Wrong || f.LongLines > 0 || f.UnreadLines > 0, name);
        Assert.All(odd, o => Assert.True(o.Text.Length > 5 && o.ToDo.Length > 5));
    }

    [Fact]
    public void Thousands_of_mutated_files_are_read_and_rewritten()
    {
        var seed = new SlicedFile { Layers = 4, Sides = 10, Radius = 6, Numbered = true }.ToBytes();
        var other = new SlicedFile { Layers = 4, Sides = 10, Radius = 6, Spiral = true, RelativeE = true, NoSpaces = true, Lower = true }.ToBytes();
        Mutations.Run(seed, other, 1600, 1);
    }
}

/// <summary>Tests that look at the memory of the whole process: nothing else runs beside them.</summary>
[CollectionDefinition(Alone, DisableParallelization = true)]
public sealed class ProcessMemory
{
    /// <summary>Its name.</summary>
    public const string Alone = "alone";
}

/// <summary>What reading a file costs in memory.</summary>
[Collection(ProcessMemory.Alone)]
public class ReadingMemoryTests
{
    [Fact]
    public void Memory_stays_flat()
    {
        static long After(int layers)
        {
            using var file = new Endless(layers);
            var f = Inspector.Inspect(file, new());
            Assert.Equal(layers, f.Layers.Count);
            GC.Collect();
            return GC.GetTotalMemory(true);
        }

        After(5);
        var small = After(5);
        // The same few heights again and again: 200 times as many bytes.
        Assert.InRange(After(1000) - small, -64_000_000, 4_000_000);
    }

    /// <summary>Layers of 500 moves each, made while they are read.</summary>
    private sealed class Endless(int layers) : Stream
    {
        private readonly Queue<byte> waiting = new(Encoding.ASCII.GetBytes("M104 S200\nM109 S200\nG28\nM83\n"));
        private int layer;

        public override int Read(byte[] buffer, int offset, int count)
        {
            if (waiting.Count == 0 && layer < layers)
            {
                layer++;
                var b = new StringBuilder($"G1 Z{layer * 0.2m} F600\n");
                for (var i = 0; i < 500; i++)
                    b.Append(System.Globalization.CultureInfo.InvariantCulture, $"G1 X{i % 90} Y{i % 70} E0.05 F1800\n");
                foreach (var c in Encoding.ASCII.GetBytes(b.ToString()))
                    waiting.Enqueue(c);
            }

            var n = 0;
            while (n < count && waiting.TryDequeue(out var c))
                buffer[offset + n++] = c;
            return n;
        }

        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => throw new NotSupportedException();
        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }
        public override void Flush() { }
        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();
        public override void SetLength(long value) => throw new NotSupportedException();
        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
