using Glenfrost.Application.Gcode;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Gcode;

/// <summary>
/// inspect and step from the command line. Exit codes: 0 done; 1 the file has something wrong, or the plan does not fit it; 2 the command is wrong;
/// 3 a file can't be read or written; 4 the written file did not prove to do what was planned.
/// </summary>
public static class GcodeCommands
{
    private const string InspectHelp =
        "./glenfrost inspect FILE [--json] [--no-time] [--max-speed MM/S] [--acceleration MM/S2] [--diameter MM] [--density G/CM3] [--flow-limit MM3/S]";

    private const string StepHelp =
        "./glenfrost step FILE --what WHAT --from N --to N --by N (--section MM | --section-layers N) [--base MM | --base-layers N] [--base-too] " +
            "[--dialect KEY] " +
            "[--again] [--json] [--force] -o OUT";

    /// <summary>Says what a file is.</summary>
    public static int Inspect(string[] args, TextWriter say, TextWriter complain)
    {
        if (Arguments.Of(args, ["--json", "--no-time"], ["--max-speed", "--acceleration", "--diameter", "--density", "--flow-limit"], out var a) is { } wrong)
            return Wrong(complain, wrong, InspectHelp);
        if (a.Files.Count != 1)
            return Wrong(complain, a.Files.Count == 0 ? "which file?" : "one file at a time.", InspectHelp);
        double? speed = null,
            acceleration = null, diameter = null, density = null,
            limit = null;
        if ((
                a.Number("--max-speed", 1, 5000, ref speed)
                ?? a.Number("--acceleration", 1, 200_000, ref acceleration)
                ?? a.Number("--diameter", 0.5, 10, ref diameter)
                ?? a.Number("--density", 0.1, 25, ref density)
                ?? a.Number("--flow-limit", 0.1, 500, ref limit)) is
            { } number)
            return Wrong(complain, number, InspectHelp);
        var motion =
            speed is null && acceleration is null
                ? MotionLimits.Usual
                : MotionLimits.Of(speed ?? MotionLimits.Usual.MaxX, acceleration ?? MotionLimits.Usual.AccelerationX);
        var request = new InspectionRequest
        {
            Name = Path.GetFileName(a.Files[0]), Motion = a.Has("--no-time") ? null : motion, FilamentDiameterMm = diameter ?? 1.75,
            DensityGPerCm3 = density ?? 1.24, FlowLimit = limit,
        };
        if (Read(a.Files[0], request, complain) is not { } f)
            return 3;
        var odd = Oddities.Of(f);
        if (a.Has("--json"))
            say.WriteLine(Json.Write(GcodeReport.Of(f)));
        else
            Text(f, odd, say);
        return odd.Any(o => o.Weight == Weight.Wrong) ? 1 : 0;
    }

    /// <summary>Steps a file by height.</summary>
    public static int Step(string[] args, TextWriter say, TextWriter complain)
    {
        if (Arguments.Of(
                args, ["--json", "--again", "--force", "--base-too"],
                ["--what", "--from", "--to", "--by", "--base", "--base-layers", "--section", "--section-layers", "--dialect", "-o", "--out"], out var a) is
            { } wrong)
            return Wrong(complain, wrong, StepHelp);
        if (a.Files.Count != 1)
            return Wrong(complain, a.Files.Count == 0 ? "which file?" : "one file at a time.", StepHelp);
        if ((a.Text("-o") ?? a.Text("--out")) is not { } target)
            return Wrong(complain, "where to? -o OUT names the new file.", StepHelp);
        if (Steppable.Find(a.Text("--what")) is not { } what)
            return Wrong(complain, $"--what is one of {string.Join(", ", Steppable.All.Select(s => s.Key))}.", StepHelp);
        if (a.Text("--dialect") is { } dialect && Dialect.All.All(d => d.Key != dialect))
            return Wrong(complain, $"--dialect is one of {string.Join(", ", Dialect.All.Select(d => d.Key))}.", StepHelp);
        double? from = null,
            to = null, by = null, baseMm = null, baseLayers = null, section = null,
            sectionLayers = null;
        if ((
                a.Number("--from", what.Min, what.Max, ref from)
                ?? a.Number("--to", what.Min, what.Max, ref to)
                ?? a.Number("--by", -1000, 1000, ref by)
                ?? a.Number("--base", 0, 1000, ref baseMm)
                ?? a.Number("--base-layers", 0, 1e6, ref baseLayers)
                ?? a.Number("--section", 0, 1000, ref section)
                ?? a.Number("--section-layers", 1, 1e6, ref sectionLayers)) is
            { } number)
            return Wrong(complain, number, StepHelp);
        var missing = new[] { ("--from", from), ("--to", to), ("--by", by) }.FirstOrDefault(x => x.Item2 is null).Item1;
        if (missing is not null)
            return Wrong(complain, $"{missing} is missing.", StepHelp);
        var source = a.Files[0];
        if (Path.GetFullPath(source) == Path.GetFullPath(target))
            return Wrong(complain, "the new file would replace the old one; name another.", StepHelp);
        if (File.Exists(target) && !a.Has("--force"))
            return Fail(complain, 3, $"{target} exists already; --force replaces it.");
        if (!File.Exists(source))
            return Fail(complain, 3, $"{source} does not exist.");
        var request = new StepRequest
        {
            What = what.Key,
            From = (decimal?)from,
            To = (decimal?)to,
            By = (decimal?)by,
            BaseMm = (decimal?)baseMm,
            BaseLayers = (int?)baseLayers,
            SectionMm = (decimal?)section,
            SectionLayers = (int?)sectionLayers,
            Dialect = a.Text("--dialect"),
            Again = a.Has("--again"),
            BaseToo = a.Has("--base-too"),
        };
        var part = target + ".part";
        try
        {
            var (plan, proof, errors) = StepFile(source, part, request, Path.GetFileName(source));
            if (plan is null)
            {
                foreach (var e in errors)
                    complain.WriteLine($"{e.Field}: {e.Message}");
                return 1;
            }

            if (a.Has("--json"))
                say.WriteLine(Json.Write(ProofReport.Of(plan, proof!)));
            else
                Text(plan, proof!, say);
            if (!proof!.Holds)
                return Fail(complain, 4, "the new file was read back and does not do what was planned; it was not kept.");
            File.Move(part, target, true);
            if (!a.Has("--json"))
                say.WriteLine($"Written: {target}");
            return 0;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return Fail(complain, 3, e.Message);
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>Steps a file into another one and reads that back.</summary>
    internal static (StepPlan? Plan, StepProof? Proof, IReadOnlyList<FieldError> Errors) StepFile(
        string source, string target, StepRequest request, string name, CancellationToken stop = default)
    {
        FileFacts facts;
        using (var from = Open(source))
            facts = Inspector.Inspect(from, new() { Name = name, Motion = null }, stop);
        var (plan, errors) = StepPlanning.Plan(request, facts);
        if (plan is null)
            return (null, null, errors);
        using (var to = new FileStream(target, FileMode.Create, FileAccess.Write, FileShare.None, 1))
        {
            Stepper.Write(() => Open(source), facts, plan, to, stop);
            to.Flush(true);
        }

        return (plan, StepProof.Read(() => Open(source), facts, () => Open(target), plan, stop), []);
    }

    private static FileStream Open(string path) => new(path, FileMode.Open, FileAccess.Read, FileShare.Read, 1);

    private static FileFacts? Read(string path, InspectionRequest request, TextWriter complain)
    {
        try
        {
            using var from = Open(path);
            return Inspector.Inspect(from, request);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Fail(complain, 3, e is FileNotFoundException or DirectoryNotFoundException ? $"{path} does not exist." : e.Message);
            return null;
        }
    }

    private static void Text(FileFacts f, IReadOnlyList<Oddity> odd, TextWriter say)
    {
        if (!f.Empty)
        {
            var model = f.Model.ToList();
            say.WriteLine(
                $"{f.Request.Name}: {Words.Plural(model.Count, "layer")}{(f.Objects > 1 ? $" in {f.Objects} objects" : "")}, {f.Box.MaxZ:0.##} mm high, " +
                        $"{f.Bytes / 1e6:0.0} MB, {f.Lines} lines");
            say.WriteLine(
                $"time      {Words.Clock(f.Seconds)} {(f.Request.Motion is null ? "at the speeds of the file" : "with acceleration")}, heating not counted");
            say.WriteLine($"filament  {f.FilamentMm / 1000:0.00} m, {f.Volume / 1000:0.00} cm3, {f.Grams:0.0} g");
            say.WriteLine(
                $"flow      median {f.Flow.Quantile(0.5):0.0}, 95 % below {f.Flow.Quantile(0.95):0.0}, most {f.MaxFlow:0.0} mm3/s in line {f.MaxFlowLine}");
            say.WriteLine($"width     median {f.Width.Quantile(0.5):0.00} mm, layers of {StepPlanning.Usual(model):0.###} mm");
            var (low, high) = (model.Min(l => l.NozzleMin), model.Max(l => l.NozzleMax));
            say.WriteLine($"nozzle    {(double.IsNaN(low) ? "not set" : low == high ? $"{low:0.#} C" : $"{low:0.#} to {high:0.#} C")}");
            if (f.Retraction.Count > 0)
                say.WriteLine($"retracts  {f.Retraction.Count} times {f.Retraction.Usual:0.##} mm{(f.Retraction.Firmware > 0 ? " in firmware" : "")}");
        }

        foreach (var o in odd)
            say.WriteLine($"{o.Weight.ToString().ToLowerInvariant(),-5} {(o.Line > 0 ? $"line {o.Line}: " : "")}{o.Text} {o.ToDo}");
    }

    private static void Text(StepPlan plan, StepProof proof, TextWriter say)
    {
        say.WriteLine(plan.Line);
        foreach (var s in proof.Sections)
            say.WriteLine(
                $"section {s.Section.Section + 1,3}  z {s.Section.FromMm,7:0.###} to {s.Section.ToMm,7:0.###}  {s.Section.Layers,4} layers  wanted {s.Section.Value,7:0.####}  found {(double.IsNaN(s.FoundMin) ? "-" : s.FoundMin == s.FoundMax ? $"{s.FoundMin:0.####}" : $"{s.FoundMin:0.####} to {s.FoundMax:0.####}"),12}  {(s.Holds ? "ok" : "NOT SO")}");
        say.WriteLine(
                $"{proof.Diff.Added} lines added, {proof.Diff.Off} switched off, {proof.Diff.Moves} moves rewritten, {proof.Diff.Other} others changed");
        foreach (var text in plan.Notes.Concat(proof.Others))
            say.WriteLine(text);
    }

    private static int Wrong(TextWriter complain, string what, string help)
    {
        complain.WriteLine($"Glenfrost: {what}");
        complain.WriteLine(help);
        return 2;
    }

    private static int Fail(TextWriter complain, int code, string what)
    {
        complain.WriteLine($"Glenfrost: {what}");
        return code;
    }

    private sealed class Arguments
    {
        private readonly Dictionary<string, string> options = [];

        public List<string> Files { get; } = [];

        public static string? Of(string[] args, string[] flags, string[] valued, out Arguments a)
        {
            a = new();
            for (var i = 0; i < args.Length; i++)
            {
                if (flags.Contains(args[i]))
                    a.options[args[i]] = "";
                else if (valued.Contains(args[i]))
                {
                    if (i + 1 >= args.Length)
                        return $"{args[i]} needs a value.";
                    a.options[args[i]] = args[++i];
                }
                else if (args[i].Length > 1 && args[i][0] == '-')
                    return $"there is no option {args[i]}.";
                else
                    a.Files.Add(args[i]);
            }

            return null;
        }

        public bool Has(string option) => options.ContainsKey(option);

        public string? Text(string option) => options.GetValueOrDefault(option);

        public string? Number(string option, double min, double max, ref double? value)
        {
            if (Text(option) is not { } text)
                return null;
            if (!double.TryParse(
                    text.Replace(',', '.'), NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var v)
                || v < min
                || v > max)
                return FormattableString.Invariant($"{option} {text}: a number from {min} to {max} would be right.");
            value = v;
            return null;
        }
    }
}
