using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Bench;

/// <summary>Plan, toolpaths and G-code of a nine-section tower, against writing the same bytes to a file.</summary>
public static class PieceBench
{
    public static void Run(int rounds)
    {
        var m = new Machine
        {
            Name = "Bench", BedXMm = 220, BedYMm = 220, HeightMm = 240, Limits = HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 3, null),
        };
        var s = PrintSettings.From(new Dictionary<string, double>(), m, Family.Find("PLA"));
        var request = new TowerRequest
        {
            HottestC = 230, CoolestC = 190, StepC = 5, SectionHeightMm = 10, BaseHeightMm = 1.2m, LayerHeightMm = 0.2m, FirstLayerHeightMm = 0.2m,
        };
        var path = Path.GetTempFileName();
        var (plans, writes, plain) = (new List<double>(), new List<double>(), new List<double>());
        var bytes = Array.Empty<byte>();
        for (var i = 0; i < rounds + 15; i++)
        {
            var clock = Stopwatch.StartNew();
            // Another depth each time, so that nothing is remembered from the round before.
            var plan = TowerPlanning.Plan(request with { PieceDepthMm = 14 + i * 0.01m }).Plan!;
            var job = TowerPiece.Make(plan, m, s, "bench").Job!;
            TowerPiece.WithFile(plan, job);
            var planned = clock.Elapsed.TotalMilliseconds;
            using (var to = new StreamWriter(path, false, Encoding.ASCII, 1 << 16))
                GcodeWriter.Write(job, new("bench", DateTime.UnixEpoch), to);
            var written = clock.Elapsed.TotalMilliseconds;
            bytes = File.ReadAllBytes(path);
            clock.Restart();
            File.WriteAllBytes(path, bytes);
            if (i < 15)
                continue;
            plans.Add(planned);
            writes.Add(written);
            plain.Add(clock.Elapsed.TotalMilliseconds);
        }

        File.Delete(path);
        var basis = plain.Order().ElementAt(plain.Count / 2);
        Console.WriteLine($"nine-section tower, {bytes.Length / 1e6:0.0} MB of G-code, {rounds} rounds");
        Console.WriteLine($"{"",-38} {"median ms",10} {"95 % ms",10} {"ratio to the bytes",20}");
        foreach (var (name, list) in new[]
            {
                ("writing the same bytes", plain), ("plan and toolpaths, as the preview", plans), ("plan, toolpaths and G-code in a file", writes),
            })
        {
            var sorted = list.Order().ToList();
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{name,-38} {sorted[sorted.Count / 2],10:0.00} {sorted[(int)(sorted.Count * 0.95)],10:0.00} {sorted[sorted.Count / 2] / basis,20:0.0}")
            );
        }
    }
}
