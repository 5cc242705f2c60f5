using System.Text.Json;
using Glenfrost.Application;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What is next on a pairing: no trial that settled nothing is proposed for ever.</summary>
public class NextTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    [Theory]
    [InlineData(null, null, null, false)]
    [InlineData(null, null, 1, true)]
    [InlineData(SettingState.Start, null, 1, true)]
    [InlineData(SettingState.Inherited, 0, 1, true)]
    [InlineData(SettingState.Inherited, 2, 1, false)]
    [InlineData(SettingState.Doubtful, 0, 1, true)]
    [InlineData(SettingState.Doubtful, 2, 1, false)]
    [InlineData(SettingState.Provisional, 0, 1, false)]
    [InlineData(SettingState.Confirmed, 0, 1, false)]
    public void A_trial_is_tried_until_its_value_is_copied_or_doubted_anew(SettingState? state, int? since, int? decided, bool tried)
    {
        var day = new DateTime(2026, 11, 1, 0, 0, 0, DateTimeKind.Utc);
        Assert.Equal(tried, RouteStates.IsTried(state, since is { } a ? day.AddDays(a) : null, decided is { } b ? day.AddDays(b) : null));
    }

    [Theory]
    [InlineData("multiplier", "0.9", "0.95", "0.05")]
    [InlineData("fan", "40", "60", "20")]
    [InlineData("temperature", "200", "210", "10")]
    [InlineData("length", "3", "4", "1")]
    public async Task What_is_asked_for_again_opens_as_a_plan_that_fits_a_small_bed(string factor, string from, string to, string step)
    {
        var p = await site.WithDb(db =>
            db.Pairings.AsNoTracking().FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
        // Two values twice, on pieces as long as the run before had them: too long to stand behind each other.
        var asked = $"/pairings/{p.Id}/retraction-sweep?mode=plate&factor={factor}&from={from}&to={to}&step={step}&repeats=2&rows=4";
        await v.Go(asked);
        Assert.Equal("", string.Concat(v.Page.QuerySelectorAll("#plan .err").Select(e => e.TextContent.Trim())));
        Assert.Contains("To make it fit: rows together 3 instead of 4.", v.Text("#notice"));
        Assert.Equal("3", v.Value("rows"));
        await v.Submit("#plan");
        v.Planned();
        // What fits is left as it was asked for, and what nothing makes fit is said at its field with what was typed.
        await v.Go(asked.Replace("rows=4", "rows=1"));
        Assert.Null(v.Page.QuerySelector("#notice"));
        await v.Go(asked.Replace("repeats=2", "repeats=6"));
        Assert.Equal("4", v.Value("rows"));
        Assert.Contains("don't fit on the bed", v.Text("#plan"));
        Assert.Null(v.Page.QuerySelector("#notice"));
    }

    [Fact]
    public async Task Two_tabs_that_save_in_the_same_moment_are_told_and_saving_again_is_taken()
    {
        var p = await site.WithDb(db =>
            db.Pairings.AsNoTracking().FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan");
        var change = $"/pairings/{p.Id}/temperature-tower?run={v.Planned()}";
        for (var round = 0; round < 6; round++)
        {
            Visitor[] tabs = [site.Visit(), site.Visit()];
            foreach (var tab in tabs)
                await tab.Go(change);
            await Task.WhenAll(tabs.Select((tab, i) => tab.Submit("#plan", ("baseHeightMm", $"1.{4 + 2 * i}"))));
            // One of them is first; the other one is told, whether it came a moment later or in the very same one, and has its say by saving again.
            var second = Assert.Single(tabs, tab => (int)tab.Last.StatusCode == 409);
            Assert.Contains("in another tab", second.Text("#notice"));
            await second.Submit("#plan");
            second.Planned();
        }
    }

    [Fact]
    public async Task Many_routes_at_once_are_what_each_is_by_itself()
    {
        await using var scope = site.Services.CreateAsyncScope();
        var (routes, db) = (scope.ServiceProvider.GetRequiredService<PairingRoutes>(), scope.ServiceProvider.GetRequiredService<Glenfrost.Storage.GlenfrostDb>());
        var all = await db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null).ToListAsync();
        var many = await routes.OfManyAsync(all);
        Assert.True(many.Count > 10);
        for (var i = 0; i < all.Count; i++)
        {
            var alone = (await routes.OfAsync(all[i].Id))!;
            Assert.Equal(alone.Next(), many[i].Next());
            Assert.Equal(
                alone.Route.Steps.Select(s => (s.Key, s.State, s.Why)), many[i].Route.Steps.Select(s => (s.Key, s.State, s.Why)));
        }
    }

    [Fact]
    public async Task What_today_proposes_is_what_the_pairings_page_proposes()
    {
        await using var scope = site.Services.CreateAsyncScope();
        var (today, routes) = (scope.ServiceProvider.GetRequiredService<Today>(), scope.ServiceProvider.GetRequiredService<PairingRoutes>());
        var names = (await site.WithDb(db => db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null).ToListAsync()))
            .GroupBy(Facts.NameOf).Where(g => g.Count() == 1).ToDictionary(g => g.Key, g => g.Single());
        var proposed = (await today.ListAsync(60)).Rows.Where(r => r.Action is "Plan" or "Check" && names.ContainsKey(r.Where)).ToList();
        Assert.NotEmpty(proposed);
        foreach (var row in proposed)
        {
            var next = (await routes.OfAsync(names[row.Where].Id))!.Next();
            Assert.Equal((row.Where, next.Link), (row.Where, row.Link));
            if (row.Kind is "Print" or "Check")
                Assert.Equal(next.Why, row.Reason);
        }
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task The_last_checks_are_those_that_a_walk_over_all_of_them_finds(int seed)
    {
        using var empty = new EmptyApp();
        var random = new Random(seed);
        var day = new DateTime(2026, 3, 1, 8, 0, 0, DateTimeKind.Utc);
        var printers = Enumerable.Range(0, 3)
            .Select(i => new Printer { Name = $"Dunnock {i}", ChangedAt = day, Toolheads = [new() { ChangedAt = day }, new() { ChangedAt = day }] }).ToList();
        var checks = Enumerable.Range(0, 120)
            .Select(i =>
            {
                var p = printers[random.Next(printers.Count)];
                return new MachineCheck
                {
                    PrinterId = p.Id, ToolheadId = random.Next(3) is var t and < 2 ? p.Toolheads[t].Id : null, Kind = new[] { "feed", "level", "pid" }[random.Next(3)],
                    // Written in any order, as an import does; some taken back.
                    At = day.AddHours(random.Next(2000)).AddMilliseconds(i), RemovedAt = random.Next(4) == 0 ? day : null, ValuesJson = "{}", Passed = i % 2 == 0,
                };
            }).ToList();
        await empty.WithDb(db =>
        {
            db.AddRange(printers);
            db.AddRange(checks);
            return db.SaveChangesAsync();
        });
        Guid[] asked = [printers[0].Id, printers[2].Id];
        var wanted = checks.Where(c => c.RemovedAt is null && asked.Contains(c.PrinterId)).GroupBy(c => (c.PrinterId, c.ToolheadId, c.Kind))
            .Select(g => g.MaxBy(c => c.At)!.Id).Order().ToList();
        Assert.True(wanted.Count > 12);
        Assert.Equal(wanted, (await empty.WithDb(db => db.LastChecksAsync(asked))).Select(c => c.Id).Order());
        Assert.Empty(await empty.WithDb(db => db.LastChecksAsync([Guid.NewGuid()])));
    }

    [Fact]
    public async Task The_day_of_a_house2record_shows_what_is_doubtful_and_what_waits_and_opens_no_more_than_it_shows()
    {
        using var house2 = new TestApp();
        await using var scope = house2.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<Glenfrost.Storage.GlenfrostDb>();
        var before = await scope.ServiceProvider.GetRequiredService<Today>().ListAsync(200);
        // Forty more pairings, all doubtful, and one run that waits on one that was taken away.
        var (like, now) = (await db.Pairings.AsNoTracking().FirstAsync(p => p.RemovedAt == null, TestContext.Current.CancellationToken), DateTime.UtcNow);
        var more = Enumerable.Range(0, 40)
            .Select(i => new Pairing
            {
                FilamentId = like.FilamentId, ToolheadId = like.ToolheadId, NozzleDiameterMm = 0.25 + i * 0.01, CreatedAt = now.AddMinutes(-i), ChangedAt = now,
            }).ToList();
        db.AddRange(more);
        db.AddRange(more.Select(p => new EvidenceStanding
        {
            PairingId = p.Id, Area = "temperature", Key = "nozzleTemperatureC", State = Core.Evidence.EvidenceState.Doubtful, Why = "the nozzle was changed",
            At = now,
        }));
        var gone = new Pairing { FilamentId = like.FilamentId, ToolheadId = like.ToolheadId, NozzleDiameterMm = 1.2, CreatedAt = now, ChangedAt = now, RemovedAt = now };
        db.Add(gone);
        db.Add(new Run { PairingId = gone.Id, Kind = "retraction", PlanJson = "{}", Number = 1, Stage = RunStages.Planned, CreatedAt = now });
        await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        var today = scope.ServiceProvider.GetRequiredService<Today>();
        var whole = await today.ListAsync(200);
        Assert.Equal(before.Rows.Count(r => r.Kind == "Doubtful") + 40, whole.Rows.Count(r => r.Kind == "Doubtful"));
        Assert.DoesNotContain(whole.Rows, r => r.Where.Contains("1.2 mm", StringComparison.Ordinal));
        Assert.All(whole.Rows.Where(r => r.Where.Contains("0.3 mm", StringComparison.Ordinal)), r => Assert.StartsWith("The nozzle was changed", r.Reason));
        // What waits to be read or decided stays, however much is doubtful.
        var shown = await today.ListAsync();
        Assert.Equal(12, shown.Rows.Count);
        foreach (var kind in new[] { "Read", "Decide", "Doubtful" })
            Assert.Equal(whole.Rows.Any(r => r.Kind == kind), shown.Rows.Any(r => r.Kind == kind));
    }

    [Fact]
    public async Task A_step_that_is_left_out_never_comes_back_by_itself_and_another_order_keeps_what_is_done()
    {
        // One with something open that is not the feed's.
        var page = "";
        foreach (var id in await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line != "Tarn" && p.RemovedAt == null).Select(p => p.Id).ToListAsync()))
        {
            page = $"/pairings/{id}";
            if (!await HasOpen())
                continue;
            break;
        }

        async Task<bool> HasOpen() => (await Api()).GetProperty("steps").EnumerateArray().Any(IsOpen);
        static bool IsOpen(System.Text.Json.JsonElement s) =>
            s.GetProperty("state").GetString() == "open" && s.GetProperty("kind").GetString() == "station" && s.GetProperty("key").GetString() != "feed";
        async Task<System.Text.Json.JsonElement> Api() =>
            System.Text.Json.JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1{page}/route")).RootElement;
        async Task<string> StateOf(string key) =>
            (await Api()).GetProperty("steps").EnumerateArray().Single(s => s.GetProperty("key").GetString() == key).GetProperty("state").GetString()!;
        await v.Go(page);
        // The page and the API say the same, from one function.
        Assert.Equal((await Api()).GetProperty("next").GetProperty("title").GetString(), v.Page.QuerySelector(".next p b")!.TextContent);
        Assert.All(
            (await Api()).GetProperty("steps").EnumerateArray().Select(s => s.GetProperty("label").GetString()!),
            label => Assert.Contains(label, v.Text(".waypoints"), StringComparison.Ordinal));
        var before = (await Api()).GetProperty("rest").GetProperty("minutes").GetInt32();
        var open = (await Api()).GetProperty("steps").EnumerateArray()
            .First(IsOpen).GetProperty("key").GetString()!;
        await v.Press(".waypoints form", $"{page}?handler=Step", ("step", open), ("what", "skipped"), ("stepWhy", "small parts only"));
        await v.Go(page);
        Assert.Contains("small parts only", v.Text(".waypoints"));
        Assert.Contains("left out on purpose: small parts only", v.Text("[aria-label=Profile]"));
        Assert.Equal("skipped", await StateOf(open));
        Assert.True((await Api()).GetProperty("rest").GetProperty("minutes").GetInt32() < before);
        foreach (var school in new[] { "speed-first", "temperature-first", "machine-first" })
        {
            await v.Press(".waypoints form", $"{page}?handler=School", ("school", school));
            Assert.Equal("skipped", await StateOf(open));
            Assert.Equal(school.Replace("-f", "F", StringComparison.Ordinal), (await Api()).GetProperty("school").GetString());
            var feed = (await Api()).GetProperty("steps").EnumerateArray().Select(s => s.GetProperty("key").GetString()).ToList();
            Assert.True(feed.IndexOf("feed") < feed.IndexOf("flow"));
        }

        await v.Press(".waypoints form", $"{page}?handler=School", ("school", "own"), ("order", "flow, nonsense"));
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("Name steps with commas", v.Text(".route"));
        await v.Press(".waypoints form", $"{page}?handler=School", ("school", "own"), ("order", "pressure, flow"));
        Assert.Equal("own", (await Api()).GetProperty("school").GetString());
        await v.Go(page);
        await v.Press(".waypoints form", $"{page}?handler=Step", ("step", open), ("what", "resumed"));
        Assert.Equal("open", await StateOf(open));
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await v.Client.GetAsync($"/api/v1/pairings/{Guid.NewGuid()}/route")).StatusCode);
    }

    [Fact]
    public async Task Every_trial_that_is_left_gives_way_to_the_next_and_at_the_end_nothing_is_proposed_again()
    {
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Tarn" && p.Toolhead!.Printer!.Name == "Whimbrel 300"));
        await site.WithDb(db => db.Runs.Where(r => r.PairingId == pairing.Id && r.Stage != RunStages.Decided && r.Stage != RunStages.Left)
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
            await site.WithDb(db =>
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

        // A tower whose verdict said that another one would hardly gain anything is not proposed once more.
        using var route = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/pairings/{pairing.Id}/route"));
        var temperature = route.RootElement.GetProperty("steps").EnumerateArray().First(s => s.GetProperty("key").GetString() == "temperature");
        Assert.Equal(temperature.GetProperty("gain") is not { ValueKind: JsonValueKind.Number } gain || gain.GetDouble() >= 0.1, seen.Contains("temperature-tower"));
        Assert.Contains("retraction-sweep", seen);
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
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/pairings/{pairing.Id}");
        Assert.Contains("two ways: ", v.Text(".ways"));
        Assert.Contains("The surface flow counts: its value is kept.", v.Text(".ways"));
        var run = await site.WithDb(db => db.Runs.FirstAsync(r => r.PairingId == pairing.Id && r.Kind == "wall-flow"));
        await v.Go($"/runs/{run.Id}");
        Assert.Contains("The surface flow counts", v.Text(".judge-stage .ways"));
    }

    [Fact]
    public async Task The_second_temperature_of_a_weighed_run_has_its_arithmetic_its_speeds_and_its_own_keep()
    {
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Sill" && p.Toolhead!.Printer!.Name == "Whimbrel 300"));
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
        var rows = await site.WithDb(db => db.Settings.Where(s => s.RevisionId == db.Pairings.First(p => p.Id == pairing.Id).NewestRevisionId
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
            await site.WithDb(db => db.Settings.Where(s => s.RevisionId == db.Pairings.First(p => p.Id == pairing.Id).NewestRevisionId).ToListAsync()),
            r => r.AtC == 246);
    }
}

/// <summary>The route of a pairing, without a page: what is next follows from runs, profile and evidence alone.</summary>
public class PairingRouteTests
{
    private static readonly DateTime Day = new(2026, 11, 1, 0, 0, 0, DateTimeKind.Utc);

    private static ProfileSetting Setting(string key, SettingState state, string? why = null) =>
        new(key, key == "nozzleTemperatureC" ? 215 : 1, null, SettingOrigin.Run, "run 1", state, why);

    private static PairingNext Next(IReadOnlyList<ProfileSetting> settings, params IReadOnlyList<Run> runs) => Next(settings, null, runs);

    private static PairingNext Next(IReadOnlyList<ProfileSetting> settings, EvidenceStanding? verification, IReadOnlyList<Run> runs) =>
        PairingRoute.Of(
            new Pairing { Filament = new Filament { Maker = "Brackenfell", Line = "Heath", Family = "PLA" }, Runs = [.. runs] }, settings,
            [
                .. settings.Select(s => new EvidenceStanding
                {
                    Area = "x", Key = s.Key, At = Day, State = s.State == SettingState.Doubtful ? EvidenceState.Doubtful
                        : s.State == SettingState.Confirmed ? EvidenceState.Confirmed : EvidenceState.Provisional,
                }),
                .. new[] { verification }.OfType<EvidenceStanding>(),
            ], new(StoneState.Confirmed)).Next();

    private static EvidenceStanding Verified(EvidenceState state, double days, Guid? run = null) =>
        new() { Area = "verification", State = state, At = Day.AddDays(days), RunId = run };

    private static Run Decided(string kind, double days, string stage = RunStages.Decided) =>
        new() { Kind = kind, PlanJson = "{}", Number = 1, Stage = stage, CreatedAt = Day, DecidedAt = stage == RunStages.Decided ? Day.AddDays(days) : null };

    [Theory]
    [InlineData(RunStages.Planned, "Print retraction 1", "#print")]
    [InlineData(RunStages.Printed, "Read retraction 1", "#read")]
    [InlineData(RunStages.Read, "Decide on retraction 1", "#judge")]
    public void What_is_begun_is_finished_first(string stage, string title, string link)
    {
        var next = Next([], Decided("retraction-sweep", 0, stage));
        Assert.Equal(title, next.Title);
        Assert.EndsWith(link, next.Link);
        // What was removed is not begun.
        var removed = Decided("retraction-sweep", 0, stage);
        removed.RemovedAt = Day;
        Assert.Equal("First layer", Next([], removed).Title);
    }

    [Theory]
    [InlineData(null, "Print a temperature tower")]
    [InlineData(SettingState.Start, "Print a temperature tower")]
    [InlineData(SettingState.Inherited, "Print a temperature tower")]
    [InlineData(SettingState.Doubtful, "Print the temperature tower again")]
    public void Temperature_is_settled_right_after_the_first_layer(SettingState? state, string title)
    {
        var layer = Setting("nozzleOffsetMm", SettingState.Provisional);
        var next = Next(state is { } s ? [layer, Setting("nozzleTemperatureC", s, "another nozzle")] : [layer]);
        Assert.Equal(title, next.Title);
        Assert.EndsWith("/temperature-tower", next.Link);
        if (state == SettingState.Doubtful)
            Assert.Equal("215 °C is doubtful: another nozzle.", next.Why);
    }

    [Fact]
    public void A_doubt_comes_before_what_is_open_and_what_is_open_before_what_is_only_provisional()
    {
        var nozzle = Setting("nozzleTemperatureC", SettingState.Provisional, "one run");
        var open = Next([nozzle]);
        Assert.DoesNotContain("tower", open.Link, StringComparison.Ordinal);
        var doubtful = Next([nozzle, Setting("retractionLengthMm", SettingState.Doubtful, "temperature moved by 10 °C")]);
        Assert.Equal("Retraction again", doubtful.Title);
        Assert.EndsWith("is doubtful: temperature moved by 10 °C.", doubtful.Why);
        var all = TrialCatalogue.All.Where(t => t.IsOnRoute && t.Settles.Count > 0).Select(t => Setting(t.Settles[0], SettingState.Confirmed))
            .Where(s => s.Key != "nozzleTemperatureC").DistinctBy(s => s.Key).ToList();
        // A piece at the kept profile confirms it for less than another tower.
        Assert.Equal("Verification print", Next([nozzle, .. all]).Title);
        var without = Verified(EvidenceState.Skipped, 0);
        Assert.Equal("Repeat the tower, or confirm it at production speed", Next([nozzle, .. all], without, []).Title);
        // The second tower was decided upon and did not confirm it: no third is asked for.
        Assert.Equal("Nothing more is proposed", Next([nozzle, .. all], without, [Decided("temperature-tower", 3)]).Title);
        Assert.Equal("What can be measured here is settled", Next([Setting("nozzleTemperatureC", SettingState.Confirmed), .. all]).Title);
    }

    [Fact]
    public void A_verification_speaks_for_the_values_of_its_day()
    {
        ProfileSetting[] rest =
        [
            .. TrialCatalogue.All.Where(t => t.IsOnRoute && t.Settles.Count > 0).Select(t => Setting(t.Settles[0], SettingState.Confirmed))
                .Where(s => s.Key != "nozzleTemperatureC").DistinctBy(s => s.Key),
        ];
        ProfileSetting[] all = [Setting("nozzleTemperatureC", SettingState.Provisional, "one run"), .. rest];
        var run = Guid.NewGuid();
        // It passed after the value was kept, and did not confirm it: it is not asked for once more.
        Assert.NotEqual("Verification print", Next(all, Verified(EvidenceState.Provisional, 1, run), []).Title);
        // The value was kept after it passed.
        var again = Next(all, Verified(EvidenceState.Provisional, -1, run), []);
        Assert.Equal("Verification print again", again.Title);
        Assert.Equal("It passed, and nozzle temperature changed since.", again.Why);
        // It failed, and nothing changed since; then something did.
        Assert.Equal("The verification print did not pass", Next(all, Verified(EvidenceState.Open, 1, run), [Decided("verification", 1)]).Title);
        // Left without a word it is proposed no more; a value kept since asks for it again.
        Assert.NotEqual("Verification print", Next(all, null, [Decided("verification", 1)]).Title);
        Assert.Equal("Verification print", Next(all, null, [Decided("verification", -1)]).Title);
        Assert.Equal("Verification print", Next(all, Verified(EvidenceState.Open, -1, run), []).Title);
        // With all of it confirmed nothing is asked.
        Assert.Equal("What can be measured here is settled", Next([Setting("nozzleTemperatureC", SettingState.Confirmed), .. rest]).Title);
    }

    [Fact]
    public void What_was_tried_and_settled_nothing_gives_way()
    {
        var nozzle = Setting("nozzleTemperatureC", SettingState.Confirmed);
        var first = Next([nozzle]);
        var kind = first.Link!.Split('/')[^1];
        var second = Next([nozzle], Decided(kind, 3));
        Assert.NotEqual(first.Title, second.Title);
        var tried = TrialCatalogue.All.Where(t => t.IsOnRoute).Select(t => Decided(t.Kind, 3)).ToList();
        var last = Next([nozzle], tried);
        Assert.Equal(("What was tried settled nothing more", null), (last.Title, last.Link));
        Assert.Contains("as open as before", last.Why, StringComparison.Ordinal);
    }
}
