using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Text;
using CsCheck;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>Files stepped by height, read back by eye, by the reader and by a reader of the test's own.</summary>
public class SteppingTests
{
    private static (StepPlan? Plan, IReadOnlyList<FieldError> Errors) Plan(byte[] file, StepRequest request, Machine? machine = null) =>
        StepPlanning.Plan(request, ReadingTests.Inspect(file, new() { Motion = null }), machine);

    private static (string[] Lines, StepProof Proof, byte[] Bytes) Step(byte[] file, StepRequest request)
    {
        var facts = ReadingTests.Inspect(file, new() { Motion = null });
        var (plan, errors) = StepPlanning.Plan(request, facts);
        Assert.True(plan is not null, string.Join("; ", errors.Select(e => $"{e.Field}: {e.Message}")));
        var to = new MemoryStream();
        Stepper.Write(() => new MemoryStream(file), facts, plan, to);
        var bytes = to.ToArray();
        return (Encoding.Latin1.GetString(bytes).Split('\n'), StepProof.Read(() => new MemoryStream(file), facts, () => new MemoryStream(bytes), plan), bytes);
    }

    private static readonly StepRequest Tower = new() { What = "temperature", From = 230, To = 210, By = 10, BaseMm = 1, SectionMm = 2 };

    [Fact]
    public void A_temperature_tower_by_hand()
    {
        // Layers of 0.2 mm: the base is layers 1 to 5; sections begin with layers 6, 16 and 26.
        var file = new SlicedFile { Layers = 35, Features = false }.ToBytes();
        var (lines, proof, _) = Step(file, Tower);
        var before = Encoding.Latin1.GetString(file).Split('\n');
        var added = lines.Where(l => l.Contains("glenfrost", StringComparison.Ordinal)).ToList();
        Assert.Equal(
            ["; glenfrost step: temperature 230 to 210, 3 sections of 2 mm above 1 mm",
            "M104 S230 ; glenfrost step temperature 230, section 1 of 3, from z 1",
            "M104 S220 ; glenfrost step temperature 220, section 2 of 3, from z 3",
            "M104 S210 ; glenfrost step temperature 210, section 3 of 3, from z 5"], added);
        // All else stays, in its order.
        Assert.Equal(before, lines.Where(l => !l.Contains("glenfrost", StringComparison.Ordinal)));
        // Each stands right before the first extruding move of its layer: the file's lines above have lifted to its height.
        var at = Array.FindIndex(lines, l => l.StartsWith("M104 S220", StringComparison.Ordinal));
        Assert.StartsWith("G1 X", lines[at + 1], StringComparison.Ordinal);
        Assert.Contains(lines[(at - 6)..at], l => l.StartsWith("G0 Z3.2", StringComparison.Ordinal));
        Assert.True(proof.Holds, string.Join("; ", proof.Others));
        Assert.Equal([(230, 230), (220, 220), (210, 210)], proof.Sections.Select(s => (s.FoundMin, s.FoundMax)));
        Assert.Equal((4, 0, 0, 0), (proof.Diff.Added, proof.Diff.Off, proof.Diff.Moves, proof.Diff.Other));
    }

    [Fact]
    public void The_base_takes_the_first_section_s_value_from_the_first_layer_on_where_that_is_asked()
    {
        // Slicers set another temperature for the first layer and change it at the second: that change would undo the first section.
        var file = new SlicedFile { Layers = 35, Features = false, Before = n => n == 2 ? "M104 S205" : "" }.ToBytes();
        var (lines, proof, _) = Step(file, Tower with { BaseToo = true });
        Assert.True(proof.Holds, string.Join("; ", proof.Others));
        // The prime line is the first of the file's layers; the base's five and ten more are the first section.
        Assert.Equal([(1, 15), (16, 10), (26, 10)], proof.Sections.Select(s => (s.Section.Layer, s.Section.Layers)));
        Assert.Equal([(230, 230), (220, 220), (210, 210)], proof.Sections.Select(s => (s.FoundMin, s.FoundMax)));
        Assert.Contains(lines, l => l.EndsWith("above 1 mm, the base as the first of them", StringComparison.Ordinal));
        Assert.Contains("; glenfrost off: M104 S205", lines);
        // Not asked for, the base stays as the file has it.
        Assert.Contains("M104 S205", Step(file, Tower).Lines);
    }

    [Fact]
    public void The_file_s_own_changes_are_switched_off_and_can_be_read_still()
    {
        var file = new SlicedFile
        {
            Layers = 35, Before = n =>
                n switch
                {
                    2 => "M104 S205",
                    12 => "M104 S200 ; after the first layers",
                    20 => "M106 S80",
                    _ => "",
                },
            CrLf = true,
        }.ToBytes();
        var (lines, proof, bytes) = Step(file, Tower);
        Assert.True(proof.Holds);
        Assert.Equal(1, proof.Diff.Off);
        Assert.Contains("; glenfrost off: M104 S200 ; after the first layers\r", lines);
        Assert.Contains("M104 S205\r", lines);
        Assert.Contains("M104 S0\r", lines);
        Assert.Contains("M106 S80\r", lines);
        Assert.All(lines.SkipLast(1), l => Assert.EndsWith("\r", l, StringComparison.Ordinal));
        // A stepped fan holds its value through a section.
        var (fan, fanProof, _) = Step(file, Tower with { What = "fan", From = 0, To = 100, By = 50 });
        Assert.True(fanProof.Holds);
        Assert.Contains(fan, l => l.StartsWith("M107 ; glenfrost step fan 0", StringComparison.Ordinal));
        Assert.Contains(fan, l => l.StartsWith("M106 S128 ; glenfrost step fan 50", StringComparison.Ordinal));
        Assert.Contains("; glenfrost off: M106 S80\r", fan);
        // And the stepped file says so when it comes again.
        var again = Plan(bytes, Tower);
        Assert.Contains("stepped here before", again.Errors.Single(e => e.Field == "again").Message, StringComparison.Ordinal);
        Assert.NotNull(Plan(bytes, Tower with { Again = true }).Plan);
        Assert.Contains(Oddities.Of(ReadingTests.Inspect(bytes)), o => o.Key == "stepped");
    }

    [Fact]
    public void Every_factor_dialect_and_way_of_counting_gives_the_plan() =>
        Gen.Select(
                Gen.Int[0, 7].Select(i => Steppable.All[i]), Gen.Int[0, 2].Select(i => new[] { "m900", "m572", "macro" }[i]), Gen.Bool, Gen.Bool, Gen.Bool,
                Gen.Select(Gen.Bool, Gen.Bool, Gen.Bool, Gen.Int[1, 2], Gen.Bool))
            .Sample(
                (what, dialect, relative, resets, firmware, more) =>
                {
                    var (numbered, noSpaces, inches, objects, baseToo) = more;
                    var file = new SlicedFile
                    {
                        Layers = 34, RelativeE = relative, ResetsE = resets, FirmwareRetraction = firmware, Numbered = numbered, NoSpaces = noSpaces,
                        Inches = inches, Objects = objects, Sides = 16,
                    };
                    var bytes = file.ToBytes();
                    var (from, to, by) = what.Key switch
                    {
                        "temperature" => (230m, 210m, 10m),
                        "fan" => (100, 0, 50),
                        "flow" => (90, 110, 10),
                        "retraction-length" => (0.4m, 1.2m, 0.4m),
                        "retraction-speed" => (20, 40, 10),
                        "pressure-advance" => (0, 0.08m, 0.04m),
                        "speed" => (20, 60, 20),
                        _ => (50, 150, 50),
                    };
                    var (_, proof, stepped) = Step(
                        bytes,
                        new() { What = what.Key, From = from, To = to, By = by, BaseLayers = 4, BaseToo = baseToo, SectionLayers = 10, Dialect = dialect });
                    Assert.True(
                        proof.Holds,
                        $"{what.Key} {dialect} {file}: {string.Join("; ", proof.Sections.Select(s => $"{s.Section.Value}: {s.FoundMin} to {s.FoundMax}"))} " +
                            $"{string.Join("; ", proof.Others)}"
                    );
                    Assert.Equal(3 * objects, proof.Sections.Count);
                    Assert.Equal(0, proof.Diff.Other);
                    // A reader of the test's own sums up E: totals agree with what the factor should have made of them.
                    var (was, now) = (Fed(bytes, relative), Fed(stepped, relative));
                    if (what == Steppable.Flow)
                    {
                        var expected =
                            was
                            + Enumerable.Range(0, 3)
                                .Sum(k => (0.9 + k * 0.1 - 1) * Enumerable.Range(0, objects).Sum(o => (baseToo && k == 0
                                    ? file.Laid.Skip(o * 34).Take(14) : file.Laid.Skip(o * 34 + 4 + k * 10).Take(10)).Sum()));
                        Assert.Equal(expected, now, 0.05);
                    }
                    else
                    {
                        Assert.Equal(was, now, 0.02);
                    }

                    if (numbered)
                    {
                        foreach (var line in Encoding.Latin1.GetString(stepped).Split('\n').Where(l => l.StartsWith('N')))
                        {
                            var star = line.LastIndexOf('*');
                            Assert.Equal(int.Parse(line[(star + 1)..], CultureInfo.InvariantCulture), line[..star].Aggregate(0, (sum, c) => sum ^ c));
                        }
                    }
                }, iter: 110);

    /// <summary>mm of filament laid for good: the highest that the sum of all E ever was.</summary>
    private static double Fed(byte[] file, bool relative)
    {
        double sum = 0, most = 0, at = 0;
        var unit = Encoding.ASCII.GetString(file).Contains("G20", StringComparison.Ordinal) ? 25.4 : 1;
        foreach (var raw in Encoding.ASCII.GetString(file).Split('\n'))
        {
            var line = raw.Split(';', '*')[0];
            var e = System.Text.RegularExpressions.Regex.Match(line, @"E(-?[0-9.]+)");
            if (!e.Success || line.Contains('_'))
                continue;
            var v = double.Parse(e.Groups[1].Value, CultureInfo.InvariantCulture) * unit;
            if (line.Contains("G92", StringComparison.Ordinal))
                at = v;
            else
                (sum, at) = (sum + (relative ? v : v - at), v);
            most = Math.Max(most, sum);
        }

        return most;
    }

    [Fact]
    public void Speeds_are_taken_back_where_the_next_move_inherits_them()
    {
        // The travel after the line has no F of its own: it had 1800 from the line before, and must not go on with the stepped one.
        var file =
            "M104 S200\nM109 S200\nG28\nM83\nG0 Z0.2 F600\nG1 X20 E1 F1800\nG0 Z0.4 F600\nG1 X0 E1 F1800\nG0 X10\nG1 X20 E0.5 ; x\nM104 S0\n"u8.ToArray();
        var (lines, proof, _) = Step(file, new() { What = "speed-percent", From = 100, To = 50, By = 50, BaseMm = 0, SectionMm = 0.2m });
        Assert.True(proof.Holds);
        Assert.Equal(
            ["G1 X0 E1 F900", "G0 X10 F1800", "G1 X20 E0.5 F900 ; x"],
            lines.Where(l =>
                l.StartsWith("G1 X0", StringComparison.Ordinal)
                || l.StartsWith("G0 X10", StringComparison.Ordinal)
                || l.StartsWith("G1 X20 E0.5", StringComparison.Ordinal)));
    }

    [Fact]
    public void Retractions_that_come_in_parts_stay_in_proportion()
    {
        // 1 mm back in two parts, wiping; returned with 0.05 mm more.
        var file = Encoding.ASCII.GetBytes(
            "M104 S200\nM109 S200\nG28\nM83\n"
                + string.Concat(
                    Enumerable.Range(1, 40)
                        .Select(n =>
                            $"G1 Z{(n * 0.2m).ToString(CultureInfo.InvariantCulture)} F600\nG1 X20 E1 F1800\nG1 X18 E-0.4\nG1 E-0.6 F2400\nG0 X0 F6000\nG1 " +
                                $"E1.05 F2400\n"
                        ))
                + "M104 S0\n");
        var (lines, proof, _) = Step(file, new() { What = "retraction-length", From = 0.5m, To = 2, By = 1.5m, BaseMm = 0, SectionLayers = 20 });
        Assert.True(proof.Holds, string.Join("; ", proof.Sections.Select(s => $"{s.Section.Value}: {s.FoundMin} to {s.FoundMax}")));
        Assert.Contains("G1 X18 E-0.2", lines);
        Assert.Contains("G1 E-0.3 F2400", lines);
        Assert.Contains("G1 E0.55 F2400", lines);
        Assert.Contains("G1 X18 E-0.8", lines);
        Assert.Contains("G1 E2.05 F2400", lines);
    }

    [Fact]
    public void Sections_that_are_no_whole_layers_are_said_and_fall_nearest()
    {
        var file = new SlicedFile { Layers = 60 }.ToBytes();
        var (plan, _) = Plan(file, Tower with { SectionMm = 3.1m });
        // 15.5 layers: bottoms nearest to 1, 4.1 and 7.2 mm.
        Assert.Equal([1, 4, 7.2], plan!.Sections.Select(s => s.FromMm));
        Assert.Equal([15, 16], plan.Sections.Take(2).Select(s => s.Layers));
        Assert.Contains(plan.Notes, n =>
            n.Contains("15.5 layers", StringComparison.Ordinal)
            && n.Contains("3 or 3.2 mm would be whole", StringComparison.Ordinal)
            && n.Contains("0.1 mm away", StringComparison.Ordinal));
        Assert.DoesNotContain(Plan(file, Tower).Plan!.Notes, n => n.Contains("whole", StringComparison.Ordinal));
        Assert.Contains(Plan(file, Tower).Plan!.Notes, n => n.Contains("goes on for 5 mm", StringComparison.Ordinal));
    }

    [Fact]
    public void Any_section_height_begins_within_half_a_layer_of_its_mark() => Gen.Select(Gen.Int[5, 40], Gen.Int[0, 30]).Sample((tenths, baseTenths) =>
    {
        var file = new SlicedFile { Layers = 70, LayerHeight = 0.25, FirstLayerHeight = 0.3, Sides = 4, Fill = false };
        var (plan, _) = Plan(file.ToBytes(), Tower with { SectionMm = tenths / 10m, BaseMm = baseTenths / 10m });
        Assert.All(plan!.Sections, s => Assert.InRange(Math.Abs(s.FromMm - s.MarkMm), 0, 0.15 + 1e-6));
        Assert.All(plan.Sections.Zip(plan.Sections.Skip(1)), p => Assert.Equal(p.First.ToMm, p.Second.FromMm, 6));
    }, iter: 40);

    [Theory]
    [InlineData("what", "Choose what", "wings", 230, 210, 10, 2)]
    [InlineData("from", "outside 150", "temperature", 30, 210, 10, 2)]
    [InlineData("to", "outside 0 to 100", "fan", 50, 120, 10, 2)]
    [InlineData("by", "whole number of steps", "temperature", 230, 211, 10, 2)]
    [InlineData("by", "above 0", "temperature", 230, 210, 0, 2)]
    [InlineData("to", "single section", "temperature", 230, 230, 10, 2)]
    [InlineData("by", "at most 100", "temperature", 400, 160, 1, 2)]
    [InlineData("section", "would hold", "temperature", 230, 190, 5, 2)]
    [InlineData("sectionMm", "less than a layer", "temperature", 230, 210, 10, 0.1)]
    [InlineData("dialect", "Choose the printer", "pressure-advance", 0, 0.1, 0.05, 2)]
    public void What_can_t_be_is_said_at_its_field(string field, string says, string what, double from, double to, double by, double section)
    {
        var (plan, errors) = Plan(
            new SlicedFile { Layers = 35 }.ToBytes(),
            new() { What = what, From = (decimal)from, To = (decimal)to, By = (decimal)by, BaseMm = 1, SectionMm = (decimal)section });
        Assert.Null(plan);
        Assert.Contains(errors, e => e.Field == field && e.Message.Contains(says, StringComparison.Ordinal));
    }

    [Fact]
    public void Limits_of_the_machine_and_of_the_file_are_kept()
    {
        var file = new SlicedFile { Layers = 35 }.ToBytes();
        Assert.Contains("limit of Dunnock 180", Plan(file, Tower with { From = 270, To = 250 }, Machines.Dunnock).Errors[0].Message, StringComparison.Ordinal);
        Assert.Contains("cold-extrusion", Plan(file, Tower with { From = 170, To = 150 }, Machines.Dunnock).Errors[0].Message, StringComparison.Ordinal);
        Assert.Contains(
            "no retraction", Plan(new SlicedFile { Layers = 35, Retraction = 0 }.ToBytes(), Tower with { What = "retraction-length", From = 1, To = 3, By = 1 })
                .Errors[0].Message,
            StringComparison.Ordinal);
        var offer = Plan(file, Tower with { To = 190 }).Errors.Single(e => e.Field == "section").Offers.Single();
        Assert.Equal(1.2m, offer.Changes["sectionMm"]);
        Assert.NotNull(Plan(file, Tower with { To = 190, SectionMm = 1.2m }).Plan);
    }

    [Fact]
    public void The_proof_fails_where_the_file_does_not_do_what_was_planned()
    {
        var file = new SlicedFile { Layers = 35 }.ToBytes();
        var facts = ReadingTests.Inspect(file, new() { Motion = null });
        var plan = StepPlanning.Plan(Tower, facts).Plan!;
        var to = new MemoryStream();
        Stepper.Write(() => new MemoryStream(file), facts, plan, to);
        StepProof Read(string from, string by) =>
            StepProof.Read(
                () => new MemoryStream(file),
                facts, () => new MemoryStream(Encoding.Latin1.GetBytes(Encoding.Latin1.GetString(to.ToArray()).Replace(from, by, StringComparison.Ordinal))),
                plan);
        Assert.True(Read("#", "#").Holds);
        Assert.False(Read("M104 S220", "M104 S225").Holds);
        Assert.False(Read("M104 S220 ; glenfrost", "; glenfrost").Holds);
        Assert.False(Read("G28\n", "\n").Holds);
        Assert.False(Read("M140 S0\n", "").Holds);
    }

    [Fact]
    public void A_plan_to_begin_with_always_fits_its_file() =>
        Gen.Select(Gen.Int[9, 120], Gen.Bool, Gen.Int[180, 210], Gen.Int[215, 260])
            .Sample(
                (layers, notched, min, max) =>
                {
                    var f = ReadingTests.Inspect(
                        new SlicedFile
                        {
                            Layers = layers, Fill = false, Sides = 6, Prime = false,
                            Notch = n => notched && n > 6 && (n - 7) % 12 < 3 ? 0.8 : 1,
                        }.ToBytes(),
                        new() { Motion = null });
                    var request = StepPlanning.Suggest(f, Repeats.Of(f), (min, max));
                    Assert.InRange(request.From!.Value, request.To!.Value, max);
                    Assert.Equal(0, request.From % 5);
                    // A file with fewer layers than sections can't hold them; any other one can.
                    Assert.Equal(layers >= (request.From - request.To) / 5 + 1, StepPlanning.Plan(request, f).Plan is not null);
                },
                iter: 40);

    [Fact]
    public void A_disk_that_is_full_is_told_and_nothing_hangs()
    {
        var file = new SlicedFile { Layers = 60, Sides = 400 }.ToBytes();
        var facts = ReadingTests.Inspect(file, new() { Motion = null });
        var plan = StepPlanning.Plan(Tower with { What = "flow", From = 90, To = 110, By = 10 }, facts).Plan!;
        var told = Assert.Throws<IOException>(() => Stepper.Write(() => new MemoryStream(file), facts, plan, new Full()));
        Assert.Contains("no space left", told.Message, StringComparison.Ordinal);
        Assert.Throws<IOException>(() => Stepper.Write(() => new MemoryStream(file), facts, StepPlanning.Plan(Tower, facts).Plan!, new Full()));
    }

    /// <summary>A disk with room for a megabyte.</summary>
    private sealed class Full : MemoryStream
    {
        public override void Write(byte[] buffer, int offset, int count)
        {
            if (Length + count > 600_000)
                throw new IOException("no space left");
            base.Write(buffer, offset, count);
        }

        public override void Write(ReadOnlySpan<byte> buffer) => Write(buffer.ToArray(), 0, buffer.Length);
    }
}
