using System.Net;
using System.Net.Http.Headers;
using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>Towers and sweeps on a tester's own model: dropped in plan or ledger, stepped, printed on the simulated bench, read, judged.</summary>
public class OwnSweepTests(QuickApp site) : IClassFixture<QuickApp>
{
    private readonly Visitor v = site.Visit();

    private static byte[] File(string name) => System.IO.File.ReadAllBytes(Path.Combine(TestApp.Root, "demo/gcode", name));

    /// <summary>
    /// Two posts 25 mm apart on a common foot of 6 layers, with a notch in each of 7 sections of 24: a travel over the gap in each layer, with a retraction.
    /// </summary>
    private static byte[] Posts()
    {
        var g = new System.Text.StringBuilder("M140 S60\nM104 S215\nM190 S60\nM109 S215\nG28\nG90\nM83\nM107\n");
        void Say(FormattableString line) => g.Append(line.ToString(System.Globalization.CultureInfo.InvariantCulture)).Append('\n');
        for (var i = 0; i < 174; i++)
        {
            double z = (i + 1) * 0.25, a = i < 6 ? 12 : (i - 6) % 24 < 12 ? 10 : 8, e = a * 0.045;
            Say($"G1 Z{z:0.###} F600");
            foreach (var x in new[] { 60.0, 95 })
            {
                Say($"G1 E-4 F1800");
                Say($"G0 X{x:0.###} Y80 F7200");
                Say($"G1 E4 F1800");
                Say($"G1 X{x + a:0.###} Y80 E{e:0.####} F1800");
                Say($"G1 X{x + a:0.###} Y{80 + a:0.###} E{e:0.####}");
                Say($"G1 X{x:0.###} Y{80 + a:0.###} E{e:0.####}");
                Say($"G1 X{x:0.###} Y80 E{e:0.####}");
            }
        }

        return System.Text.Encoding.ASCII.GetBytes(g.ToString());
    }

    private async Task<Guid> Heath() =>
        (await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"
            && p.World == Worlds.Real))).Id;

    /// <summary>What is read off somebody's own file is a fact: a link's first offer is taken where the piece is ours, and only offered where it is not.</summary>
    [Theory]
    [InlineData("tower", "12", true)]
    [InlineData("own", "15", false)]
    public async Task A_link_takes_no_offer_on_somebodys_own_model(string mode, string to, bool taken)
    {
        await v.Go($"/pairings/{await Heath()}/retraction-sweep?mode={mode}&factor=length&from=1&to=15&step=2&totalLayers=174&baseLayers=6&layerHeightMm=0.25");
        Assert.Equal(to, v.Value("to"));
        Assert.Equal(taken, v.Page.QuerySelector("#notice") is not null);
        Assert.Equal(!taken, v.Text("#err-to").Contains("at most 12 mm", StringComparison.Ordinal));
    }

    /// <summary>Sends a file by the form that stands on the page.</summary>
    private async Task Drop(byte[] bytes, string name)
    {
        var form = v.Page.QuerySelector("#drop-file")!;
        var content = new MultipartFormDataContent();
        foreach (var hidden in form.QuerySelectorAll("input[type=hidden]"))
            content.Add(new StringContent(hidden.GetAttribute("value")!), hidden.GetAttribute("name")!);
        var file = new ByteArrayContent(bytes);
        file.Headers.ContentType = new MediaTypeHeaderValue("text/plain");
        content.Add(file, "file", name);
        await v.Take(await v.Client.PostAsync("/gcode/files", content));
    }

    private async Task<string> Text(Guid run) =>
        await v.Client.GetStringAsync($"/runs/{run}/files/{(await site.WithDb(db => db.RunFiles.FirstAsync(f => f.RunId == run && f.RetiredAt == null))).Id}");

    private async Task Until(Func<bool> there, string what)
    {
        for (var i = 0; i < 1200 && !there(); i++)
            await Task.Delay(50);
        Assert.True(there(), $"never came: {what}");
    }

    /// <summary>Printed and read on the simulated bench, from the run's own page, and judged there.</summary>
    private async Task<Run> Simulated(Guid run)
    {
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='handler=Try']");
        var id = Guid.Parse(v.Path.Split('#')[0].Split('/')[2]);
        Assert.NotEqual(run, id);
        var jobs = site.Services.GetRequiredService<PrintJobs>();
        await v.Submit("form[action$='handler=Print']", ("speed", "2000"), ("fault", ""), ("at", "5"));
        await Until(() => jobs.PrintOf(id) is null, "the end of the print");
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='handler=Read']");
        await Until(() => jobs.ReadingOf(id) is null, "the end of the reading");
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='Finish']");
        return await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Readings).FirstAsync(r => r.Id == id));
    }

    [Fact]
    public void Only_plans_of_one_piece_are_read_together()
    {
        // Ours and somebody's own, two files of theirs, and one that is only counted: of every trial that takes one.
        var facts = Core.Gcode.Inspection.Inspector.Inspect(new MemoryStream(Posts()), new() { Name = "posts.gcode" });
        foreach (var trial in TrialCatalogue.All.Where(t => t is IStepsOwnFile))
        {
            ITrialPlan Of(string mode, string? file)
            {
                var values = trial.InMode(mode, trial.Propose(new()), new());
                (string, decimal)[] said = mode == trial.Modes[0] ? []
                    : [("totalLayers", 174), ("baseLayers", 6), ("sections", 7), ("coolestC", 190), ("hottestC", 220), ("stepC", 5)];
                foreach (var (key, value) in said)
                    values[key] = value;
                var (plan, errors) = trial.Plan(values, new());
                Assert.True(plan is not null, $"{trial.Kind}: {string.Join(" ", errors.Select(e => e.Field + " " + e.Message))}");
                return file is null ? plan : ((IStepsOwnFile)trial).With(plan, facts, file);
            }

            var own = ((IStepsOwnFile)trial).OwnMode;
            ITrialPlan[] plans = [Of(trial.Modes[0], null), Of(own, null), Of(own, "a.gcode"), Of(own, "b.gcode")];
            for (var i = 0; i < plans.Length; i++)
                for (var k = 0; k < plans.Length; k++)
                    Assert.Equal(i == k, plans[i].IsOfSamePiece(plans[k]));
        }
    }

    public static TheoryData<string, (string, string)[], string[], string> Kinds() => new()
    {
        { "temperature-tower", [("hottestC", "225"), ("coolestC", "195"), ("stepC", "5")], ["225 °C", "210 °C", "195 °C"], "bridge" },
        { "retraction-sweep", [("factor", "length"), ("from", "1"), ("to", "4"), ("step", "0.5")], ["1 mm", "2.5 mm", "4 mm"], "narrow" },
        { "retraction-sweep", [("factor", "speed"), ("from", "15"), ("to", "45"), ("step", "5")], ["15 mm/s", "30 mm/s", "45 mm/s"], "narrow" },
        { "fan-steps", [("fanToPercent", "100"), ("fanFromPercent", "40"), ("fanStepPercent", "10")], ["100 %", "70 %", "40 %"], "bridge" },
    };

    [Theory]
    [MemberData(nameof(Kinds))]
    public async Task A_dropped_model_is_stepped_printed_read_and_judged(string kind, (string, string)[] fields, string[] labels, string aspect)
    {
        var pairing = await Heath();
        await v.Go($"/pairings/{pairing}/{kind}?mode=own");
        await Drop(kind == "retraction-sweep" ? Posts() : File("notched-temperature-tower.gcode"), "my notches.gcode");
        Assert.StartsWith($"/pairings/{pairing}/{kind}?mode=own&file=", v.Path);
        Assert.Contains("my notches.gcode", v.Text("#dropped"));
        Assert.Equal(("174", "6", "0.25"), (v.Value("totalLayers"), v.Value("baseLayers"), v.Value("layerHeightMm")));
        // As the file came it makes a plan: nothing is asked that the file says.
        await v.Submit("#plan");
        v.Planned();
        await v.Go($"/pairings/{pairing}/{kind}?mode=own&file={await LastFile()}");
        await v.Submit("#plan", fields);
        var id = v.Planned();
        var run = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Id == id));
        var plan = TrialCatalogue.Get(kind).ReadPlan(run.PlanJson);
        Assert.True(plan is { HasOwnFile: true, WritesFile: false, TotalLayers: 174 });
        Assert.Equal(7, plan.Parts.Count);
        Assert.Equal([labels[0], labels[1], labels[2]], new[] { 0, 3, 6 }.Select(i => plan.Parts[i].Label));
        // Sections of 24 layers above a base of 6, where the model has them.
        Assert.All(plan.Parts, p => Assert.Equal((7 + 24 * p.Index, 30 + 24 * p.Index), (p.FirstLayer, p.LastLayer)));
        Assert.InRange(plan.Estimate.Minutes, 5, 60);
        Assert.Contains("glenfrost step", await Text(id));
        // Opened again, it is the same plan on the same file.
        await v.Go($"/pairings/{pairing}/{kind}?run={id}");
        Assert.Contains("my notches.gcode", v.Text("#dropped"));
        foreach (var (name, value) in fields)
            Assert.Equal(value, v.Page.QuerySelector($"#{name}, [name={name}]") is AngleSharp.Html.Dom.IHtmlSelectElement s ? s.Value : v.Value(name));
        var read = await Simulated(id);
        Assert.Equal(RunStages.Read, read.Stage);
        Assert.True(read.Readings.Select(r => (r.Section, r.Aspect)).Distinct().Count(r => r.Aspect == aspect) >= 5, string.Join(", ",
            read.Readings.Select(r => r.Aspect).Distinct()));
    }

    private async Task<Guid> LastFile() => (await site.WithDb(db => db.GcodeFiles.Where(f => f.Name == "my notches.gcode").OrderBy(f => f.At).LastAsync())).Id;

    [Fact]
    public async Task What_a_finished_file_can_not_be_swept_by_is_said_at_its_field()
    {
        var pairing = await Heath();
        await v.Go($"/pairings/{pairing}/retraction-sweep?mode=own");
        await Drop(File("notched-temperature-tower.gcode"), "n.gcode");
        await v.Submit("#plan", ("factor", "wipe"), ("from", "0"), ("to", "3"), ("step", "0.5"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("can't be stepped through a finished file", v.Text("#err-factor"));
        Assert.Contains("n.gcode", v.Text("#dropped"));
        // No retraction at all can't be written into a file that retracts.
        await v.Submit("#plan", ("factor", "length"), ("from", "0"), ("to", "3"), ("step", "0.5"));
        Assert.Contains("0.02 to 15 mm", v.Text("#err-from"));
        await v.Submit("#plan", ("from", "0.5"), ("to", "3.5"), ("step", "0.5"), ("baseLayers", "174"));
        Assert.Contains("174", v.Text("#err-baseLayers"));
        await v.Submit("#plan", ("baseLayers", "6"), ("totalLayers", ""));
        Assert.NotEqual("", v.Text("#err-totalLayers"));
        // What stepping leaves as it is, is said as the file has it: nobody prints at what only the form says.
        Assert.Equal(("215", "35"), (v.Value("nozzleTemperatureC"), v.Value("retractionSpeedMmPerS")));
        await v.Submit("#plan", ("totalLayers", "174"), ("nozzleTemperatureC", "225"), ("retractionSpeedMmPerS", "55"));
        Assert.Contains("The nozzle is 215 °C in the file", v.Text("#err-nozzleTemperatureC"));
        Assert.Contains("Its speed is 35 mm/s in the file", v.Text("#err-retractionSpeedMmPerS"));
        Assert.Equal("225", v.Value("nozzleTemperatureC"));
        // A file that never retracts has nothing to step.
        await v.Go($"/pairings/{pairing}/retraction-sweep?mode=own");
        var g = new System.Text.StringBuilder("M104 S200\nM109 S200\nG28\nG90\nM83\n");
        for (var i = 1; i <= 60; i++)
            g.Append(System.Globalization.CultureInfo.InvariantCulture, $"G0 Z{i * 0.2:0.##} F600\nG0 X60 Y60 F6000\nG1 X90 Y60 E1 F1800\n");
        await Drop(System.Text.Encoding.ASCII.GetBytes(g.ToString()), "flat.gcode");
        await v.Submit("#plan", ("baseLayers", "6"), ("from", "1"), ("to", "3"), ("step", "0.5"));
        Assert.Contains("no retraction that could be stepped", v.Text("#err-factor"));
    }

    [Theory]
    [InlineData("/pairings/{0}")]
    [InlineData("/ledger?id={0}")]
    [InlineData("/pairings/{0}/part")]
    public async Task A_file_dropped_in_the_ledger_or_in_a_parts_plan_is_a_run_of_a_part(string from)
    {
        var pairing = await Heath();
        await v.Go(string.Format(System.Globalization.CultureInfo.InvariantCulture, from, pairing));
        await Drop(File("gauge-ring.gcode"), "my ring.gcode");
        Assert.StartsWith($"/pairings/{pairing}/part?mode=&file=", v.Path);
        Assert.Equal(("7.2", "0.2", "210"), (v.Value("heightMm"), v.Value("layerHeightMm"), v.Value("nozzleTemperatureC")));
        // Its shape is drawn as the file lies: wider at the foot than at the mast.
        var shape = v.Page.QuerySelector("svg[data-part]")!;
        Assert.Contains("as its file lies", shape.GetAttribute("aria-label"));
        await v.Submit("#plan");
        var id = v.Planned();
        var plan = (Core.Trials.Part.PartPlan)TrialCatalogue.Get("part").ReadPlan((await site.WithDb(db => db.Runs.FirstAsync(r => r.Id == id))).PlanJson);
        Assert.Equal("my ring.gcode", plan.FileName);
        Assert.Equal(7.2, plan.Outline![^1].TopMm, 3);
        Assert.Equal(0, plan.Outline.Min(b => b.FromMm), 3);
        Assert.InRange(plan.Outline.Max(b => b.ToMm), 10, 100);
        // What is no G-code goes back to where it came from, and says why.
        await v.Go($"/pairings/{pairing}/part");
        await Drop("PK\u0003\u0004 zip"u8.ToArray(), "ring.gcode");
        Assert.StartsWith($"/pairings/{pairing}/part", v.Path);
        Assert.Contains("ring.gcode is a zip", v.Text(".notice"));
    }
}
