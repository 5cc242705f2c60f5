using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using Glenfrost.Application;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Storage.Records;
using Glenfrost.Samples;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>One part twice: sliced otherwise, of another material, with a ramp behind it, of foam. What differs is read off the files, and what it costs with it.</summary>
public class PartsBesideTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private async Task<Guid> PrintedAsync(SlicedFile file, string name, Guid pairing)
    {
        await v.Go("/gcode");
        using var form = new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new StringContent(pairing.ToString()), "pairing" },
            { new ByteArrayContent(file.ToBytes()), "file", name },
        };
        await v.Take(await v.Client.PostAsync("/gcode/files", form));
        await v.Go(v.Page.QuerySelectorAll("a.btn").Single(a => a.TextContent == "Print this as a run").GetAttribute("href")!);
        await v.Submit("#plan");
        var run = v.Planned();
        await v.Go($"/runs/{run}");
        await v.Submit("form[action*='handler=Printed']", ("outcome", "whole"));
        Assert.True(v.Last.IsSuccessStatusCode, v.Text("main"));
        return run;
    }

    private List<(string Factor, string A, string B)> Differs() =>
    [
        .. v.Page.QuerySelectorAll("#differs > form > .scroll tbody tr").Select(r => (
            Text(r.QuerySelector("th")!), Text(r.QuerySelectorAll("td")[0]), Text(r.QuerySelectorAll("td")[1]))),
    ];

    private static string Text(IElement e) => Regex.Replace(e.TextContent, @"\s+", " ").Trim();

    private static decimal Money(string text, string before) =>
        decimal.Parse(Regex.Match(text, before + @" ([0-9.]+)").Groups[1].Value, CultureInfo.InvariantCulture);

    [Fact]
    public async Task Two_slicings_of_one_part_differ_in_what_was_changed_in_their_files_and_in_nothing_else_that_is_set()
    {
        var pairing = await site.PairingAsync("Heath", "Dunnock 180");
        var first = await PrintedAsync(new SlicedFile { Layers = 60 }, "ring-a.gcode", pairing);
        var second = await PrintedAsync(
            new SlicedFile { Layers = 60, Retraction = 1.2, WallSpeed = 30, TravelSpeed = 120, NozzleC = 215 }, "ring-b.gcode", pairing);
        await v.Go($"/runs/compare?id={first}&id={second}");
        var rows = Differs();
        (string Factor, string A, string B)[] changed =
            [("Retraction length", "0.8", "1.2"), ("Outer wall speed", "40", "30"), ("Travel speed", "150", "120"), ("Nozzle temperature", "210", "215")];
        foreach (var (factor, a, b) in changed)
            Assert.Contains(rows, r => r.Factor.StartsWith(factor, StringComparison.Ordinal) && r.A.StartsWith(a, StringComparison.Ordinal) && r.B.StartsWith(b, StringComparison.Ordinal));
        Assert.True(rows.Count <= 9, string.Join("; ", rows));
        var same = new[] { "Layer height", "Bed", "Line width", "Retraction speed", "Fill speed" };
        Assert.DoesNotContain(rows, r => same.Any(s => r.Factor.StartsWith(s, StringComparison.Ordinal)));
        var counted = Regex.Match(v.Text("#differs"), @"(\d+) things are known of all:\s*(\d+) differ, (\d+) the same");
        Assert.True(counted.Success, v.Text("#differs"));
        Assert.True(int.Parse(counted.Groups[1].ValueSpan, CultureInfo.InvariantCulture) >= 20, counted.Value);
        // The four, what follows from them, and the file itself.
        Assert.InRange(int.Parse(counted.Groups[2].ValueSpan, CultureInfo.InvariantCulture), 4, 9);
        // Five things changed at once: no one of them is blamed, and what would tell is said.
        Assert.DoesNotContain("is to blame", v.Text("main"));
    }

    [Fact]
    public async Task A_ramp_behind_the_print_is_paid_for_by_its_minutes()
    {
        var pairing = await site.PairingAsync("Heath", "Dunnock 180");
        await site.WithDb(db => db.Printers.Where(p => p.Name == "Dunnock 180")
            .ExecuteUpdateAsync(s => s.SetProperty(p => p.PowerW, 100.0).SetProperty(p => p.MinorPerKwh, 50.0)));
        const string End = "M104 S0\nG28 X\n";
        var ramp = string.Concat(Enumerable.Range(0, 6).Select(i => $"M140 S{55 - 5 * i}\nG4 S1200\n"));
        var plain = await PrintedAsync(new SlicedFile { Layers = 60, EndCode = End }, "plain.gcode", pairing);
        var ramped = await PrintedAsync(new SlicedFile { Layers = 60, EndCode = End + ramp + "M140 S0\n" }, "ramped.gcode", pairing);
        await v.Go($"/runs/{plain}");
        var without = Money(v.Text("#tally"), "electricity");
        await v.Go($"/runs/{ramped}");
        var with = Money(v.Text("#tally"), "electricity");
        // By hand: six steps of twenty minutes are two hours, 0.2 kWh at 100 W, 0.10 EUR at 0.50.
        Assert.InRange(with - without, 0.09m, 0.11m);
    }

    [Fact]
    public async Task Two_materials_of_one_part_stand_side_by_side_with_what_a_print_costs_of_each()
    {
        var runs = new List<Guid>();
        foreach (var line in new[] { "Heath", "Plain" })
            runs.Add(await PrintedAsync(new SlicedFile { Layers = 60, Title = line }, $"ring-{line}.gcode", await site.PairingAsync(line, "Dunnock 180")));
        foreach (var (run, bad) in runs.Zip([1, 12]))
        {
            for (var i = 0; i < 14; i++)
            {
                await v.Go($"/runs/{run}");
                await v.Press("form[method=post]", $"/runs/{run}?handler=Tally", ("good", i < bad ? "0" : "1"), ("key", $"{run}-{i}"), ("tallyWhy", ""));
            }
        }

        await v.Go($"/runs/compare?id={runs[0]}&id={runs[1]}");
        Assert.Contains(Differs(), r => r.Factor.StartsWith("Filament", StringComparison.Ordinal) && r.A.Contains("Heath") && r.B.Contains("Plain"));
        var costs = v.Text("#costs");
        Assert.Contains("13 of 14 good", costs);
        Assert.Contains("2 of 14 good", costs);
        // The cheaper reel makes the dearer part: 15.90 a kilogram and one in seven good against 21.90 and thirteen in fourteen.
        var print = v.Page.QuerySelectorAll("#costs tr").Single(r => Text(r).StartsWith("a print", StringComparison.OrdinalIgnoreCase)).QuerySelectorAll("td").Select(Text).ToList();
        Assert.True(decimal.Parse(print[0].Split(' ')[0], CultureInfo.InvariantCulture) > decimal.Parse(print[1].Split(' ')[0], CultureInfo.InvariantCulture), costs);
        Assert.Contains("A good part costs least as", costs);
        Assert.Contains("Heath", v.Page.QuerySelector("#costs > .sub")!.TextContent);
    }

    [Fact]
    public async Task A_cm3_of_foam_is_one_of_the_part_by_the_run_that_found_how_it_foams()
    {
        var pairing = await site.PairingAsync("Float", "Whimbrel 300");
        var run = await PrintedAsync(new SlicedFile { Layers = 60, NozzleC = 240 }, "float.gcode", pairing);
        await v.Go($"/runs/{run}");
        await using var scope = site.Services.CreateAsyncScope();
        var runs = scope.ServiceProvider.GetRequiredService<TrialRuns>();
        var kept = await site.WithDb(db => db.Runs.Where(r => db.Pairings.Where(p => p.Id == pairing)
            .SelectMany(p => db.Revisions.Where(x => x.Id == p.NewestRevisionId).SelectMany(x => x.Settings))
            .Any(s => s.Key == "extrusionMultiplier" && s.RunId == r.Id)).SingleAsync());
        var foam = ((FoamVerdict)(await runs.LoadAsync(kept.Id))!.Verdict).PredictedDensityGPerCm3!.Value;
        var density = await scope.ServiceProvider.GetRequiredService<PartDensities>().OfAsync((await runs.LoadAsync(run))!);
        Assert.Equal(foam, density!.GPerCm3);
        Assert.True(foam < 0.9 * 1.24);
        Assert.Contains($"a cm³ of foam of {Words.N(foam, 2)} g/cm³, as foaming filament {kept.Number} found it", v.Text("#tally"));
        // Where no run found it, nothing is said: the plastic's own density would be of another thing.
        await site.WithDb(db => db.Pairings.Where(p => p.Id == pairing).ExecuteUpdateAsync(s => s.SetProperty(p => p.NewestRevisionId, (Guid?)null)));
        await v.Go($"/runs/{run}");
        Assert.DoesNotContain("a cm³", v.Text("#tally"));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }
}
