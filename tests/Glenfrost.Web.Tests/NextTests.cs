using Glenfrost.Application;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>What is next on a pairing: no trial that settled nothing is proposed for ever.</summary>
public class NextTests(House house) : IClassFixture<House>
{
    private readonly Visitor v = house.Visit();

    public static TheoryData<string> OnRoute => [.. TrialCatalogue.All.Where(t => t.IsOnRoute && t.Subject == TrialSubject.Pairing).Select(t => t.Kind)];

    [Theory]
    [MemberData(nameof(OnRoute))]
    public void A_trial_is_tried_until_its_value_is_copied_or_doubted_anew(string kind)
    {
        var (trial, day) = (TrialCatalogue.Get(kind), new DateTime(2026, 11, 1, 0, 0, 0, DateTimeKind.Utc));
        string Of(SettingState? s, int? since, int? decided) =>
            RouteStates.Of(trial, s, StoneState.Confirmed, since is { } a ? day.AddDays(a) : null, decided is { } b ? day.AddDays(b) : null);

        Assert.Equal("open", Of(null, null, null));
        Assert.Equal("tried", Of(null, null, 1));
        Assert.Equal("tried", Of(SettingState.Start, null, 1));
        Assert.Equal("tried", Of(SettingState.Inherited, 0, 1));
        Assert.Equal("inherited", Of(SettingState.Inherited, 2, 1));
        Assert.Equal("tried", Of(SettingState.Doubtful, 0, 1));
        Assert.Equal("doubtful", Of(SettingState.Doubtful, 2, 1));
        Assert.Equal("provisional", Of(SettingState.Provisional, 0, 1));
        Assert.Equal("settled", Of(SettingState.Confirmed, 0, 1));
    }

    [Fact]
    public async Task Every_trial_that_is_left_gives_way_to_the_next_and_at_the_end_nothing_is_proposed_again()
    {
        var pairing = await house.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Tarn" && p.Toolhead!.Printer!.Name == "Whimbrel 300"));
        await house.WithDb(db => db.Runs.Where(r => r.PairingId == pairing.Id && r.Stage != RunStages.Decided && r.Stage != RunStages.Left)
            .ExecuteUpdateAsync(s => s.SetProperty(r => r.RemovedAt, DateTime.UtcNow)));
        var seen = new List<string>();
        for (var turn = 0; turn < 20; turn++)
        {
            await v.Go($"/pairings/{pairing.Id}");
            if (v.Page.QuerySelector(".next a.btn.go")?.GetAttribute("href") is not { } link)
                break;
            var kind = link.Split('/')[^1];
            Assert.DoesNotContain(kind, seen);
            seen.Add(kind);
            await house.WithDb(db =>
            {
                db.Runs.Add(
                    new Run
                    {
                        Kind = kind, PairingId = pairing.Id, PlanJson = "{}", Number = 90, Stage = RunStages.Left, CreatedAt = DateTime.UtcNow,
                        PrintedAt = DateTime.UtcNow, ReadAt = DateTime.UtcNow, DecidedAt = DateTime.UtcNow,
                    });
                return db.SaveChangesAsync();
            });
            await v.Go("/");
            Assert.DoesNotContain($"/pairings/{pairing.Id}/{kind}", v.Page.Body!.InnerHtml);
        }

        Assert.Contains("temperature-tower", seen);
        Assert.True(seen.Count >= 2, string.Join(", ", seen));
        Assert.Contains("What was tried settled nothing more", v.Text(".next"));
        Assert.Contains("tried", v.Text(".waypoints"));
    }

    [Fact]
    public void Three_ways_of_a_flow_limit_stand_in_one_line_that_says_which_counts()
    {
        static OneWay Way(string kind, int n, double value, double half, bool counts = false) =>
            new(TrialCatalogue.Get(kind), Guid.NewGuid(), n, value, half, counts);
        const string limit = "maxVolumetricFlowMm3PerS";
        var kept = new WaysOf(
            limit, [Way("flow-limit-steps", 1, 11.2, 0), Way("flow-limit-rising", 2, 13.4, 0.5), Way("flow-limit-weighed", 1, 12.1, 0.4, true)], 12.1);
        Assert.StartsWith("Flow limit three ways, mm³/s: ", kept.Sentence);
        Assert.Contains("13.4 ± 0.5 (run 2)", kept.Sentence);
        Assert.Contains("counts: its value is kept.", kept.Sentence);
        Assert.Contains("free air loses less than a print does", kept.Sentence);
        var two = new WaysOf(limit, [Way("flow-limit-rising", 2, 19.1, 0.4), Way("flow-limit-weighed", 1, 11.2, 0.3)], null);
        Assert.DoesNotContain("steps only", two.Sentence);
        var open = new WaysOf(limit, [Way("flow-limit-rising", 2, 12.4, 0.6), Way("flow-limit-weighed", 1, 12.1, 0.6)], null);
        Assert.Contains("None is kept yet", open.Sentence);
        Assert.DoesNotContain("differ", open.Sentence);
        var own = new WaysOf("extrusionMultiplier", [Way("wall-flow", 1, 0.97, 0.004), Way("surface-flow", 2, 1.01, 0.01)], 0.99);
        Assert.Contains("0.990 stands in the profile from elsewhere", own.Sentence);
        Assert.Contains("a wall tells its width, a surface its looks", own.Sentence);
    }

    [Fact]
    public async Task Two_ways_of_flow_stand_side_by_side_on_the_pairing_and_on_the_run()
    {
        var pairing = await house.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/pairings/{pairing.Id}");
        Assert.Contains("two ways: ", v.Text(".ways"));
        Assert.Contains("The surface flow counts: its value is kept.", v.Text(".ways"));
        var run = await house.WithDb(db => db.Runs.FirstAsync(r => r.PairingId == pairing.Id && r.Kind == "wall-flow"));
        await v.Go($"/runs/{run.Id}");
        Assert.Contains("The surface flow counts", v.Text(".judge-stage .ways"));
    }

    [Fact]
    public async Task The_second_temperature_of_a_weighed_run_has_its_arithmetic_its_speeds_and_its_own_keep()
    {
        var pairing = await house.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Sill" && p.Toolhead!.Printer!.Name == "Whimbrel 300"));
        await v.Go($"/pairings/{pairing.Id}/flow-limit-weighed");
        await v.Submit(
            "#plan", ("startFlowMm3PerS", "4"), ("stepMm3PerS", "2"), ("samples", "8"), ("repeats", "1"), ("nozzleTemperatureC", "231"),
            ("secondTemperatureC", "246"), ("scaleResolutionG", "0.001"));
        var run = v.Planned();
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Printed']");
        double[] cool = [0, 0, 0, 0, 3, 8, 14, 20], hot = [0, 0, 0, 0, 0, 3, 8, 14];
        await v.Submit(
            "#scores",
            [
                .. cool.Concat(hot).Select((loss, s) => ($"c.{s}.sampleG.1",
                    Math.Round(0.9 * (1 - loss / 100) + (s % 2 == 0 ? 0.001 : 0), 3).ToString(System.Globalization.CultureInfo.InvariantCulture))),
            ]);
        await v.Submit("form[action$='Finish']");
        Assert.Contains("at 246 °C:", v.Text(".judge-stage details"));
        Assert.Equal(2, v.Page.QuerySelectorAll(".judge-stage table.speeds").Length);
        // Either may be kept first; neither takes the other's place.
        var hotter = v.Text(".elsewhere p").Split(' ').First(w => double.TryParse(w, System.Globalization.CultureInfo.InvariantCulture, out _));
        await v.Submit("form[action$='KeepElsewhere']");
        Assert.Contains("246 °C is in the profile", v.Text(".told"));
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Keep']");
        Assert.Contains("in the profile", v.Text(".told"));
        var rows = await house.WithDb(db => db.Settings.Where(s => s.RevisionId == db.Pairings.First(p => p.Id == pairing.Id).NewestRevisionId
            && s.Key == "maxVolumetricFlowMm3PerS").OrderBy(s => s.AtC).ToListAsync());
        Assert.Contains(rows, r => r.AtC == 231);
        Assert.Equal(hotter, rows.Single(r => r.AtC == 246).Value.ToString("0.0", System.Globalization.CultureInfo.InvariantCulture));
        Assert.True(rows.Single(r => r.AtC == 246).Value > rows.Single(r => r.AtC == 231).Value);
        // Taken back, the run's own value stays and the run stays decided.
        await v.Go($"/runs/{run}");
        await v.Submit(".elsewhere form");
        await v.Go($"/runs/{run}");
        Assert.Contains("Keep it for 246 °C", v.Text(".elsewhere"));
        Assert.Contains("Decided", v.Text(".judge-stage aside"));
        Assert.DoesNotContain(
            await house.WithDb(db => db.Settings.Where(s => s.RevisionId == db.Pairings.First(p => p.Id == pairing.Id).NewestRevisionId).ToListAsync()),
            r => r.AtC == 246);
    }
}
