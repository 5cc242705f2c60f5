using System.Diagnostics;
using System.Globalization;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Samples;

namespace Glenfrost.Bench;

/// <summary>
/// Reading, inspecting and stepping a 100 MB file that is written here: against a bare loop over its bytes that only splits lines and reads numbers, against
/// the npm package gcode-parser and against copying, all in one run on one core. Medians and the best of several rounds in turn.
/// </summary>
public static class GcodeBench
{
    public static void Run(int rounds, int fuzz)
    {
        var folder = Directory.CreateTempSubdirectory("glenfrost-gcode-bench-").FullName;
        try
        {
            var path = Path.Combine(folder, "large.gcode");
            using (var to = new FileStream(path, FileMode.Create, FileAccess.Write, FileShare.None, 1 << 18))
                new SlicedFile { Layers = 2000, LayerHeight = 0.1, Radius = 55, Sides = 720, WallSpeed = 60, FillSpeed = 90, Features = true }.Write(to);
            var mb = new FileInfo(path).Length / 1e6;
            using (var f = Open(path))
            {
                var facts = Inspector.Inspect(f, new());
                Console.WriteLine(
                    string.Create(CultureInfo.InvariantCulture, $"G-code: {mb:0} MB, {facts.Lines} lines, {facts.Moves} moves, {facts.Layers.Count} layers"));
            }

            var works = new (string Name, Action Work)[]
            {
                ("bare loop: lines and numbers", () => Bare(path)),
                ("inspection without the time estimate", () => Inspect(path, null)),
                ("inspection with it", () => Inspect(path, MotionLimits.Usual)),
            };
            var times = works.ToDictionary(w => w.Name, _ => new List<double>());
            for (var i = 0; i < rounds + 3; i++)
            {
                foreach (var (name, work) in works)
                {
                    var t = Stopwatch.GetTimestamp();
                    work();
                    if (i >= 3)
                        times[name].Add(mb / Stopwatch.GetElapsedTime(t).TotalSeconds);
                }
            }

            var npm = Npm(folder);
            Console.WriteLine($"{"",-40} {"median MB/s",12} {"best MB/s",12} {"to bare loop",13} {"to npm",8}");
            foreach (var (name, _) in works)
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{name,-40} {Median(times[name]),12:0} {times[name].Max(),12:0} {Median(times[name]) / Median(times[works[0].Name]),13:0.00} " +
                            $"{(npm > 0 ? Median(times[name]) / npm : double.NaN),8:0}"
                    ));
            Console.WriteLine(
                npm > 0
                    ? string.Create(CultureInfo.InvariantCulture, $"{"npm gcode-parser",-40} {npm,12:0.0}")
                    : "npm gcode-parser was not found: run ./glenfrost test once");

            Memory(path);
            Step(path, folder, Math.Max(3, rounds / 2));
            var clock = Stopwatch.StartNew();
            var one = new SlicedFile { Layers = 5, Sides = 10, Radius = 6, Numbered = true }.ToBytes();
            var two = new SlicedFile { Layers = 5, Sides = 10, Radius = 6, Spiral = true, RelativeE = true, NoSpaces = true, Lower = true }.ToBytes();
            var seed = Environment.TickCount;
            Console.WriteLine(
                $"fuzz: {Mutations.Run(one, two, fuzz, seed)} mutated files of seed {seed} read, judged and stepped in {clock.Elapsed.TotalSeconds:0} s: " +
                    $"every one got an answer"
            );
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    private static FileStream Open(string path) => new(path, FileMode.Open, FileAccess.Read, FileShare.Read, 1);

    private static void Inspect(string path, MotionLimits? motion)
    {
        using var f = Open(path);
        Inspector.Inspect(f, new() { Motion = motion });
    }

    /// <summary>The least that any reader must do: find the ends of lines, and the value of every number.</summary>
    private static void Bare(string path)
    {
        using var f = Open(path);
        var buffer = new byte[256 * 1024];
        double sum = 0, v = 0, scale = 0;
        var (lines, negative, number) = (0, false, false);
        int n;
        while ((n = f.Read(buffer)) > 0)
        {
            for (var i = 0; i < n; i++)
            {
                var c = buffer[i];
                if ((uint)(c - '0') <= 9)
                {
                    number = true;
                    if (scale == 0)
                    {
                        v = v * 10 + (c - '0');
                    }
                    else
                    {
                        v += (c - '0') * scale;
                        scale *= 0.1;
                    }
                }
                else if (c == '.')
                {
                    scale = 0.1;
                }
                else
                {
                    if (number)
                        sum += negative ? -v : v;
                    (number, v, scale, negative) = (false, 0, 0, c == '-');
                    if (c == '\n')
                        lines++;
                }
            }
        }

        if (lines == 0 || double.IsNaN(sum))
            throw new InvalidOperationException("the bare loop read nothing");
    }

    private static double Npm(string folder)
    {
        var path = Path.Combine(folder, "small.gcode");
        using (var to = File.Create(path))
            new SlicedFile { Layers = 150, LayerHeight = 0.1, Radius = 55, Sides = 720 }.Write(to);
        var script =
            $"const g=require('gcode-parser');const fs=require('fs');const s=fs.readFileSync({System.Text.Json.JsonSerializer.Serialize(path)},'utf8');let " +
                $"best=0;for(let k=0;k<3;k++){{const t=process.hrtime.bigint();const r=g.parseStringSync(s);const " +
                $"n=s.length/1e6/(Number(process.hrtime.bigint()-t)/1e9);if(r.length>1000&&n>best)best=n}}console.log(best)";
        try
        {
            using var node = Process.Start(new ProcessStartInfo("node", ["-e", script]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
            var text = node.StandardOutput.ReadToEnd();
            node.WaitForExit();
            return double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v : 0;
        }
        catch (System.ComponentModel.Win32Exception)
        {
            return 0;
        }
    }

    /// <summary>The same print again and again, one object after another, as one file of that size.</summary>
    private static void Memory(string path)
    {
        double After(double megabytes)
        {
            using (var f = new Again(path, (long)(megabytes * 1e6)))
            {
                var facts = Inspector.Inspect(f, new());
                GC.KeepAlive(facts);
                GC.Collect();
                using var me = Process.GetCurrentProcess();
                return me.WorkingSet64 / 1e6;
            }
        }

        After(1);
        var (small, large) = (After(1), After(1000));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture, $"memory with the inspection in hand: {small:0} MB after 1 MB, {large:0} MB after 1 GB: {large - small:0} MB more"
            ));
    }

    private sealed class Again(string path, long most) : Stream
    {
        private FileStream file = Open(path);
        private long read;

        public override int Read(byte[] buffer, int offset, int count)
        {
            if (read >= most)
                return 0;
            var n = file.Read(buffer, offset, (int)Math.Min(count, most - read));
            if (n == 0)
            {
                file.Dispose();
                file = Open(path);
                n = file.Read(buffer, offset, (int)Math.Min(count, most - read));
            }

            read += n;
            return n;
        }

        protected override void Dispose(bool disposing)
        {
            file.Dispose();
            base.Dispose(disposing);
        }

        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => most;
        public override long Position { get => read; set => throw new NotSupportedException(); }

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();
        public override void SetLength(long value) => throw new NotSupportedException();
        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }

    private static void Step(string path, string folder, int rounds)
    {
        FileFacts facts;
        using (var f = Open(path))
            facts = Inspector.Inspect(f, new() { Motion = null });
        StepPlan Plan(string what, decimal from, decimal to, decimal by) =>
            StepPlanning.Plan(new() { What = what, From = from, To = to, By = by, BaseMm = 10, SectionMm = 20 }, facts).Plan!;
        var target = Path.Combine(folder, "to.gcode");
        void Write(Action<FileStream> write)
        {
            File.Delete(target);
            using var to = new FileStream(target, FileMode.Create, FileAccess.Write, FileShare.None, 1);
            write(to);
            to.Flush(true);
        }

        var (temperature, flow) = (Plan("temperature", 230, 190, 5), Plan("flow", 80, 120, 5));
        var works = new (string Name, Action Work)[]
        {
            ("copying the file, to the disk", () => Write(to =>
            {
                using var from = Open(path);
                from.CopyTo(to, 256 * 1024);
            })),
            ("stepping temperature", () => Write(to => Stepper.Write(() => Open(path), facts, temperature, to))),
            ("stepping flow: every E rewritten", () => Write(to => Stepper.Write(() => Open(path), facts, flow, to))),
            ("reading it back with the proof", () => StepProof.Read(() => Open(path), facts, () => Open(target), flow)),
        };
        var times = works.ToDictionary(w => w.Name, _ => new List<double>());
        for (var i = 0; i < rounds + 1; i++)
        {
            foreach (var (name, work) in works)
            {
                var t = Stopwatch.GetTimestamp();
                work();
                if (i > 0)
                    times[name].Add(Stopwatch.GetElapsedTime(t).TotalMilliseconds);
            }
        }

        Console.WriteLine($"{"",-40} {"median ms",12} {"best ms",12} {"to copying",13}");
        foreach (var (name, _) in works)
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{name,-40} {Median(times[name]),12:0} {times[name].Min(),12:0} {Median(times[name]) / Median(times[works[0].Name]),13:0.0}"));
    }

    private static double Median(List<double> list) => list.Order().ElementAt(list.Count / 2);
}
