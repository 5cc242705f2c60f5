using System.Text;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Samples;

/// <summary>
/// Spoils files at random and has them read, judged and stepped: whatever comes, there must be an answer, and a rewritten file must keep its lines.
/// </summary>
public static class Mutations
{
    private static readonly string[] Nasty =
    [
        "NaN", "1e9", "-", ".", "..", "\0", "\n", "\r\n", ";",
        "(",
        "*", "G91\n", "M82\n", "M83\n", "G92 E-5\n", "G2 X1 Y1 R0\n", "G3 X5 Y5 I0 J0\n", "T99\n", "M221 S0\n", "G20\n", "9999999999999999999999", "\u00ff",
        "G1 Z-3 E9\n", "M600\n", "SET_PRESSURE_ADVANCE ADVANCE=x\n", "; feature \n", "; glenfrost step",
    ];

    /// <summary>Runs so many of them.</summary>
    /// <returns>How many were run.</returns>
    public static int Run(byte[] one, byte[] two, int count, int seed)
    {
        var random = new Random(seed);
        for (var i = 0; i < count; i++)
        {
            var bytes = Spoil(random, i % 2 == 0 ? one : two, i % 2 == 0 ? two : one);
            var f = Inspector.Inspect(new MemoryStream(bytes), new() { Motion = i % 3 == 0 ? null : MotionLimits.Usual, FlowLimit = 5 });
            if (f.Bytes != bytes.Length
                || !double.IsFinite(f.Seconds)
                || f.Seconds < 0
                || !double.IsFinite(f.Volume)
                || f.Layers.Any(l => !double.IsFinite(l.Z) || !double.IsFinite(l.Volume)))
                throw new InvalidOperationException($"mutation {i} of seed {seed}: {f.Bytes} of {bytes.Length} bytes, {f.Seconds} s, {f.Volume} mm3");
            _ = Oddities.Of(f).Count;
            var what = Steppable.All[i % Steppable.All.Count];
            var (plan, _) = StepPlanning.Plan(
                new()
                {
                    What = what.Key, From = 200, To = what == Steppable.Temperature ? 210 : 50, By = 50, SectionLayers = 1, BaseMm = 0, Dialect = "m900",
                    Again = true,
                },
                f);
            if (plan is null)
                continue;
            var to = new MemoryStream();
            Stepper.Write(() => new MemoryStream(bytes), f, plan, to);
            var lines = to.ToArray().Count(b => b == '\n') - bytes.Count(b => b == '\n');
            var proof = StepProof.Read(() => new MemoryStream(bytes), f, () => new MemoryStream(to.ToArray()), plan);
            if (lines < plan.Sections.Count || proof.Diff.Other > 0)
                throw new InvalidOperationException(
                    $"mutation {i} of seed {seed}: {lines} lines more, {proof.Diff.Other} others changed, {plan.What.Key}: " +
                        $"{proof.Diff.Shown.FirstOrDefault(s => s.Change == LineChange.Other)}"
                );
        }

        return count;
    }

    /// <summary>A file with one to seven places spoilt.</summary>
    /// <param name="random">What decides.</param>
    /// <param name="file">At least one byte.</param>
    /// <param name="other">Pieces of this one are put in.</param>
    public static byte[] Spoil(Random random, byte[] file, byte[] other)
    {
        var bytes = file.ToList();
        for (var n = random.Next(1, 8); n > 0; n--)
        {
            var at = random.Next(bytes.Count);
            switch (random.Next(7))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes.RemoveRange(at, Math.Min(random.Next(1, 200), bytes.Count - at));
                    break;
                case 2:
                    bytes.InsertRange(at, Encoding.Latin1.GetBytes(Nasty[random.Next(Nasty.Length)]));
                    break;
                case 3:
                    var from = random.Next(other.Length);
                    bytes.InsertRange(at, other[from..Math.Min(other.Length, from + random.Next(1, 400))]);
                    break;
                case 4:
                    bytes[at] ^= (byte)(1 << random.Next(8));
                    break;
                case 5:
                    bytes.InsertRange(at, Enumerable.Repeat((byte)random.Next(256), random.Next(1, 50)));
                    break;
                default:
                    if (bytes.Count > 200)
                        bytes.RemoveRange(bytes.Count - random.Next(1, 100), 0);
                    bytes.Reverse(at, Math.Min(random.Next(2, 30), bytes.Count - at));
                    break;
            }

            if (bytes.Count < 50)
                bytes.AddRange(file);
        }

        return [.. bytes];
    }
}
