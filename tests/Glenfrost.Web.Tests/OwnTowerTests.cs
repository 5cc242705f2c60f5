using System.Net;
using System.Net.Http.Headers;
using System.Text;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A tower on a tester's own model: dropped in the plan, stepped as the plan says, kept with the run.</summary>
public class OwnTowerTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private static byte[] Tower => File.ReadAllBytes(Path.Combine(TestApp.Root, "demo/gcode/notched-temperature-tower.gcode"));

    private async Task<Guid> Heath() =>
        (await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"
            && p.World == Worlds.Real))).Id;

    private async Task Drop(Guid pairing, byte[] bytes, string name)
    {
        await v.Go($"/pairings/{pairing}/temperature-tower?mode=own");
        var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("text/plain");
        await v.Take(await v.Client.PostAsync("/gcode/files", new MultipartFormDataContent
        {
            { new StringContent(v.Page.QuerySelector("#drop-file [name=__RequestVerificationToken]")!.GetAttribute("value")!), "__RequestVerificationToken" },
            { new StringContent(pairing.ToString()), "pairing" },
            { new StringContent("temperature-tower"), "plan" },
            { content, "file", name },
        }));
    }

    [Fact]
    public async Task A_file_that_is_dropped_in_the_plan_is_stepped_and_printed_as_a_run()
    {
        var pairing = await Heath();
        await Drop(pairing, Tower, "my notches.gcode");
        Assert.StartsWith($"/pairings/{pairing}/temperature-tower?mode=own&file=", v.Path);
        Assert.Contains("my notches.gcode", v.Text("#dropped"));
        // What the file says is not typed: 174 layers of 0.25 mm, a base of 6, seven notches of 24.
        Assert.Equal(("174", "6", "7"), (v.Value("totalLayers"), v.Value("baseLayers"), v.Value("sections")));
        Assert.Equal("0.25", v.Value("layerHeightMm"));
        // A range that does not fit its sections is told at its field, and the file is still there.
        await v.Submit("#plan", ("hottestC", "225"), ("coolestC", "215"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.NotEqual("", v.Text(".err:not(:empty)"));
        Assert.Contains("my notches.gcode", v.Text("#dropped"));
        await v.Submit("#plan", ("hottestC", "225"), ("coolestC", "195"), ("stepC", "5"));
        var id = v.Planned();
        Assert.Contains("Download the G-code", v.Text(".print-stage"));
        var run = await site.WithDb(db => db.Runs.Include(r => r.Files).FirstAsync(r => r.Id == id));
        var file = Assert.Single(run.Files);
        Assert.Equal("my notches-temperature-225-195.gcode", file.Name);
        // Read back by a program of its own: seven temperatures at the heights of the plan, every other byte as it came.
        var text = await v.Client.GetStringAsync($"/runs/{id}/files/{file.Id}");
        var set = text.Split('\n').Where(l => l.Contains("glenfrost step") && l.StartsWith("M104 S", StringComparison.Ordinal))
            .Select(l => l[6..9]).Distinct().ToList();
        Assert.Equal(["225", "220", "215", "210", "205", "200", "195"], set);
        const string off = "; glenfrost off: ";
        Assert.Equal(
            Encoding.UTF8.GetString(Tower), string.Join(
                '\n', text.Split('\n').Select(l => l.StartsWith(off, StringComparison.Ordinal) ? l[off.Length..] : l).Where(l => !l.Contains("glenfrost"))));
        var plan = (TowerPlan)TrialCatalogue.Get("temperature-tower").ReadPlan(run.PlanJson);
        Assert.Equal("my notches.gcode", plan.OwnFileName);
        Assert.Equal([225m, 220, 215, 210, 205, 200, 195], plan.Sections.Select(s => s.TemperatureC));
        Assert.InRange(plan.Estimate.Minutes, 10, 13);

        // Opened again it goes on from the same file; another range takes the old file's place.
        await v.Go($"/pairings/{pairing}/temperature-tower?run={id}");
        Assert.Contains("my notches.gcode", v.Text("#dropped"));
        Assert.Equal("225", v.Value("hottestC"));
        await v.Submit("#plan", ("hottestC", "230"), ("coolestC", "200"));
        Assert.Equal(id, v.Planned());
        var files = await site.WithDb(db => db.RunFiles.Where(f => f.RunId == id).OrderBy(f => f.CreatedAt).ToListAsync());
        Assert.Equal(2, files.Count);
        Assert.NotNull(files[0].RetiredAt);
        Assert.Contains("S230", await v.Client.GetStringAsync($"/runs/{id}/files/{files[1].Id}"));

        // It is read and judged like any tower, and nothing of it was typed twice.
        await v.Go($"/runs/{id}");
        await v.Submit("form[action*='Printed']", ("minutes", "12"));
        Assert.Equal(7 * Aspects.All.Count, v.Page.QuerySelectorAll("input[data-aspect]").Count(i => Aspects.All.Contains(i.GetAttribute("data-aspect")!)));
    }

    [Fact]
    public async Task What_can_not_be_stepped_is_said_in_the_plan()
    {
        var pairing = await Heath();
        await Drop(pairing, "PK\u0003\u0004 zip"u8.ToArray(), "clip.gcode");
        Assert.EndsWith("temperature-tower?mode=own", v.Path);
        Assert.Contains("clip.gcode is a zip", v.Text(".notice"));
        // A block in which nothing repeats: base and sections are asked for.
        var g = new StringBuilder("M104 S200\nM109 S200\nG28\nG90\nM83\n");
        for (var i = 1; i <= 60; i++)
            g.Append(System.Globalization.CultureInfo.InvariantCulture,
                $"G0 Z{i * 0.2:0.##} F600\nG0 X60 Y60 F6000\nG1 X90 Y60 E1 F1800\nG1 X90 Y90 E1 F1800\nG1 X60 Y60 E1 F1800\n");
        await Drop(pairing, Encoding.ASCII.GetBytes(g.ToString()), "block.gcode");
        Assert.Contains("Nothing repeats in it", v.Text("#dropped"));
        Assert.Equal(("60", "", ""), (v.Value("totalLayers"), v.Value("baseLayers"), v.Value("sections")));
        await v.Submit("#plan", ("hottestC", "220"), ("coolestC", "210"), ("stepC", "5"), ("baseLayers", "6"), ("sections", "3"));
        v.Planned();
        // A file that is gone, or another's id, is told and nothing is planned from it.
        await v.Go($"/pairings/{pairing}/temperature-tower?mode=own&file={Guid.NewGuid()}");
        Assert.Contains("not there any more", v.Text(".notice"));
        Assert.Null(v.Page.QuerySelector("#dropped"));
    }

    [Theory]
    [InlineData(0.2, 6, 5, 40)]
    [InlineData(0.25, 4, 8, 28)]
    [InlineData(0.16, 10, 3, 62)]
    public void The_steps_of_a_plan_from_a_file_are_the_plan(double layerMm, int baseLayers, int sections, int each)
    {
        var g = new StringBuilder("M104 S200\nM109 S200\nG28\nG90\nM83\n");
        for (var i = 0; i < baseLayers + sections * each; i++)
        {
            // Each section is narrower in its upper half: that is what repeats.
            var wide = i < baseLayers || (i - baseLayers) % each < each / 2 ? 30 : 24;
            g.Append(System.Globalization.CultureInfo.InvariantCulture,
                $"G0 Z{(i + 1) * layerMm:0.###} F600\nG0 X60 Y60 F6000\nG1 X{60 + wide} Y60 E{wide * layerMm / 6:0.####} F1800\n");
        }

        var facts = Inspector.Inspect(new MemoryStream(Encoding.ASCII.GetBytes(g.ToString())), new() { Name = "x.gcode" });
        var trial = new TemperatureTowerTrial();
        var values = trial.FromFile(trial.InMode("own", trial.Propose(new()), new()), facts);
        var (plan, errors) = trial.Plan(values, new());
        Assert.Empty(errors);
        var tower = (TowerPlan)plan!;
        Assert.Equal((sections, each, baseLayers), (tower.Sections.Count, tower.LayersPerSection, tower.BaseLayers));
        var (steps, wrong) = StepPlanning.Plan(trial.StepsOf(tower), facts, null);
        Assert.Empty(wrong);
        Assert.Equal(tower.Sections.Select(s => (double)s.TemperatureC), steps!.Values);
        // The base takes the first section's temperature, from the first layer on.
        Assert.Equal(tower.Sections.Skip(1).Select(s => s.FirstLayer - 1).Prepend(0), steps.Sections.Select(s => s.Layer));
        // The plan with its file keeps it when it is stored and read again.
        var named = (TowerPlan)trial.With(tower, facts, "x.gcode");
        Assert.True(((ITrialPlan)named).HasOwnFile);
        Assert.Equal("x.gcode", ((TowerPlan)trial.ReadPlan(StoredPlan.Write(named))).OwnFileName);
        Assert.False(((ITrialPlan)tower).HasOwnFile);
    }
}
