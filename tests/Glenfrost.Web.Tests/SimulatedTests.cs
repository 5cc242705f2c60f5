using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Hosting;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>An application whose instruments don't dawdle.</summary>
public class QuickApp : TestApp
{
    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        base.ConfigureWebHost(builder);
        builder.UseSetting("reading-ms", "0");
    }
}

/// <summary>The same place, started again.</summary>
public sealed class AgainApp : QuickApp
{
    protected override bool WithDemo => false;
}

public class SimulatedTests(QuickApp site) : IClassFixture<QuickApp>
{
    private readonly Visitor v = site.Visit();

    private PrintJobs Hall => site.Services.GetRequiredService<PrintJobs>();

    private static async Task Until(Func<Task<bool>> there, string what)
    {
        for (var i = 0; i < 600; i++)
        {
            if (await there())
                return;
            await Task.Delay(50);
        }

        Assert.Fail($"never came: {what}");
    }

    private static Guid IdOf(string path) => Guid.Parse(path.Split('#')[0].Split('?')[0].Split('/')[2]);

    private Task<Run> RunOf(Guid id) =>
        site.WithDb(db =>
            db.Runs.AsNoTracking().Include(r => r.Readings).Include(r => r.Files).Include(r => r.Photos).Include(r => r.Pairing!.Toolhead!.Printer)
                .FirstAsync(r => r.Id == id));

    /// <summary>Plans a small tower on a real pairing and goes to its simulated twin.</summary>
    private async Task<Guid> Twin(string filament, string printer, string hot = "225", string cool = "215", params (string, string)[] more)
    {
        var p = await site.WithDb(db => db.Pairings.AsNoTracking().Include(x => x.Filament).Include(x => x.Toolhead!.Printer).ToListAsync());
        var id = p.First(x => x.World == Worlds.Real && x.Filament!.Line == filament && x.Toolhead!.Printer!.Name == printer).Id;
        await v.Go($"/pairings/{id}/temperature-tower");
        await v.Submit("#plan", [("hottestC", hot), ("coolestC", cool), ("stepC", "5"), ("sectionHeightMm", "6"), .. more]);
        v.Planned();
        await v.Submit("form[action$='handler=Try']");
        var run = await RunOf(IdOf(v.Path));
        Assert.Equal((Worlds.Practice, Worlds.Practice), (run.World, run.Pairing!.World));
        return run.Id;
    }

    private async Task Print(Guid run, string speed = "2000", string fault = "", string at = "5")
    {
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='handler=Print']", ("speed", speed), ("fault", fault), ("at", at));
    }

    private Task Ended(Guid run) => Until(() => Task.FromResult(Hall.PrintOf(run) is null), "the end of the print");

    [Fact]
    public async Task From_a_plan_to_a_profile_without_a_printer_and_nothing_of_it_reaches_the_real_one()
    {
        var before = await site.WithDb(db => db.Revisions.CountAsync(r => db.Pairings.Any(p => p.Id == r.PairingId && p.World == Worlds.Real)));
        var id = await Twin("Sill", "Dunnock 180", "235", "220");
        Assert.Contains("simulated", v.Text(".run-head"));
        await Print(id);
        Assert.Equal($"/runs/{id}", v.Path.Split('#')[0]);
        await Ended(id);
        var run = await RunOf(id);
        Assert.Equal((RunStages.Printed, "whole"), (run.Stage, run.Outcome));
        Assert.InRange((double)run.ActualMinutes! / run.ForeseenMinutes!.Value, 0.95, 1.05);
        Assert.NotNull(run.ReestimatedMinutes);
        Assert.True(run.DisplayFollowed);
        Assert.Equal(4, run.Photos.Count);
        Assert.Equal(["gcode", "piece"], run.Files.Select(f => f.Kind).Order());
        await v.Go($"/runs/{id}");
        Assert.NotNull(v.Page.QuerySelector(".layer-strip"));
        await v.Submit("form[action$='handler=Read']");
        await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
        run = await RunOf(id);
        Assert.Equal(1 + 4 + 4 * 5, run.Readings.Count);
        Assert.All(run.Readings, r => Assert.NotNull(r.InstrumentRevisionId));
        Assert.All(run.Readings.Where(r => r.Aspect == "massG"), r => Assert.Equal(0.1, r.Resolution));
        Assert.InRange(run.MassUg!.Value / 1e6, 5, 40);
        var instruments = await site.WithDb(db => db.Instruments.AsNoTracking().Where(i => i.Simulated).Select(i => i.Name).ToListAsync());
        Assert.Equal(["Simulated display", "Simulated eyes", "Simulated scale"], instruments.Order());
        await v.Go($"/runs/{id}");
        Assert.Contains("simulated eyes", v.Text("#read"));
        Assert.Equal("simulated eyes, resolution 1", v.Page.QuerySelector("input.score")!.GetAttribute("title"));
        await v.Submit("form[action$='Finish']");
        Assert.Contains("with simulated display, simulated eyes, simulated scale", v.Text("#read"));
        if (v.Page.QuerySelector("form[action$='Keep']") is not null)
            await v.Submit("form[action$='Keep']");
        else
            await v.Submit("form[action$='Own']", ("ownC", "232"), ("ownWhy", "practice"));
        var kept = await site.WithDb(db => db.Decisions.AsNoTracking().OrderByDescending(d => d.Id).FirstAsync());
        Assert.Equal(id, kept.RunId);
        Assert.Equal(before, await site.WithDb(db => db.Revisions.CountAsync(r => db.Pairings.Any(p => p.Id == r.PairingId && p.World == Worlds.Real))));
        // The worlds stay apart on the pages too.
        await v.Go("/pairings");
        Assert.DoesNotContain("simulated)", v.Text("#pairings"));
        await v.Go("/pairings?world=practice");
        Assert.Contains("Dunnock 180 (simulated)", v.Text("#pairings"));
        await v.Go("/");
        Assert.DoesNotContain("(simulated)", v.Text(".today > div"));
        await v.Go("/printers");
        Assert.Contains("Dunnock 180 (simulated)", v.Text("main"));
        // It went into archives as it stands, and every row passes the rules of the door.
        using var archive = JsonDocument.Parse(await v.Client.GetStringAsync("/export/archive.json"));
        Assert.Contains(archive.RootElement.GetProperty("rows").GetProperty("instruments").EnumerateArray(), i => i.GetProperty("simulated").GetBoolean());
    }

    [Fact]
    public async Task One_printer_prints_one_thing_and_the_next_waits()
    {
        var first = await Twin("Heath", "Ptarmigan 350");
        var second = await Twin("Plain", "Ptarmigan 350");
        await Print(first, "1");
        Assert.NotNull(Hall.PrintOf(first));
        await v.Go($"/runs/{second}");
        Assert.Contains("something else", v.Text("#simulated"));
        await v.Go($"/runs/{second}/simulated");
        var ticket = v.Page.QuerySelector("input[name='__RequestVerificationToken']")?.GetAttribute("value") ?? await Ticket(first);
        await v.Take(await v.Client.PostAsync($"/runs/{second}/simulated?handler=Print", Form(ticket, ("speed", "60"))));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("prints something else now", v.Text("#notice"));
        Assert.Null(Hall.PrintOf(second));
        Hall.PrintOf(first)!.Stop();
        await Ended(first);
        Assert.Equal(JobStates.Stopped, (await site.WithDb(db => db.Jobs.FirstAsync(j => j.RunId == first))).State);
        // Nothing stood yet: it can be printed again, and now the other one can too.
        Assert.Equal(RunStages.Planned, (await RunOf(first)).Stage);
        await Print(second);
        await Ended(second);
        Assert.Equal("whole", (await RunOf(second)).Outcome);
    }

    private async Task<string> Ticket(Guid run)
    {
        await v.Go($"/runs/{run}");
        return v.Value("__RequestVerificationToken");
    }

    private static FormUrlEncodedContent Form(string ticket, params (string, string)[] fields) =>
        new(fields.Append(("__RequestVerificationToken", ticket)).Select(f => KeyValuePair.Create(f.Item1, f.Item2)));

    [Fact]
    public async Task A_print_is_paused_sped_up_left_found_again_and_stopped()
    {
        var id = await Twin("Heath", "Whimbrel 300", "225", "205");
        await Print(id, "1");
        Assert.Contains("Heating up", v.Text(".live-line"));
        await v.Submit("form[action$='handler=Pause']");
        await Until(
            async () =>
                (await (await v.Client.GetAsync($"/runs/{id}/simulated?handler=Strip")).Content.ReadAsStringAsync()).Contains(
                    "Paused", StringComparison.Ordinal),
            "the pause");
        await v.Go($"/runs/{id}");
        Assert.Equal("Go on", v.Text("form[action$='handler=Pause'] button"));
        await v.Submit("form[action$='handler=Speed']", ("speed", "2000"));
        await v.Submit("form[action$='handler=Pause']");
        await Until(() => Task.FromResult(Hall.PrintOf(id) is { Layer: > 8 }), "layer 9");
        // Left and found again.
        await v.Go("/");
        Assert.Contains("Whimbrel 300 (simulated)", v.Text(".side"));
        await v.Go($"/runs/{id}");
        if (v.Page.QuerySelector("form[action$='handler=Stop']") is not null)
            await v.Submit("form[action$='handler=Stop']");
        await Ended(id);
        var run = await RunOf(id);
        Assert.Equal(RunStages.Printed, run.Stage);
        Assert.True(run.Outcome == "ended early" ? run.EndedAtLayer > 8 : run.EndedAtLayer is null);
        Assert.Equal(HttpStatusCode.NoContent, (await v.Client.GetAsync($"/runs/{id}/simulated?handler=Strip")).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await v.Client.GetAsync($"/runs/{id}/simulated?handler=Reading")).StatusCode);
    }

    [Fact]
    public async Task In_a_closed_printer_the_air_around_the_part_is_warmer_than_the_room_and_warmer_at_the_end()
    {
        var id = await Twin("Tarn", "Whimbrel 300", "255", "245");
        await Print(id);
        await Ended(id);
        var around = FactorBook.AroundOf(await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.FactorEntries).FirstAsync(r => r.Id == id)));
        Assert.True(around.RoomC + 2 < around.ChamberC && around.ChamberC < around.ChamberEndC, $"{around}");
        Assert.Equal(around.RoomC, around.RoomEndC);
    }

    [Fact]
    public async Task A_tower_that_is_knocked_over_loses_what_stood_above()
    {
        var id = await Twin("Tarn", "Whimbrel 300", "255", "245");
        await Print(id, "2000", "knocked", "8.5");
        await Ended(id);
        var run = await RunOf(id);
        Assert.Equal("ended early", run.Outcome);
        await v.Go($"/runs/{id}");
        Assert.Equal(2, v.Page.QuerySelectorAll("tr.lost").Length);
        Assert.Contains("knocked over at 8.5 mm", v.Text("#simulated"));
        await v.Submit("form[action$='handler=Read']");
        await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
        Assert.Equal([0], (await RunOf(id)).Readings.Where(r => r.Aspect == "bridge").Select(r => r.Section));
    }

    [Fact]
    public async Task Separate_pieces_are_printed_one_after_another_and_read_each_for_itself()
    {
        var id = await Twin("Skein 95", "Whimbrel 300", "230", "225", ("arrangement", "separate"));
        await Print(id);
        await Ended(id);
        var run = await RunOf(id);
        Assert.Equal("whole", run.Outcome);
        Assert.Equal([0, 1], run.Photos.Select(p => p.Section!.Value).Order());
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='handler=Read']");
        await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
        var shown = (await RunOf(id)).Readings.Where(r => r.Aspect == "observedC").OrderBy(r => r.Section).Select(r => r.Value!.Value).ToList();
        Assert.InRange(shown[0], 228, 232);
        Assert.InRange(shown[1], 223, 227);
        Assert.Equal(10, (await RunOf(id)).Readings.Count(r => Aspects.All.Contains(r.Aspect)));
    }

    [Theory]
    [InlineData("60", "explosion", "5", "is no fault of this bench")]
    [InlineData("60", "knocked", "", "Height of the fault")]
    [InlineData("60", "knocked", "4000", "mm")]
    [InlineData("0", "", "5", "not between 1 and 2000")]
    [InlineData("9999", "", "5", "2000")]
    public async Task What_can_not_be_is_refused_with_what_would_be_right(string speed, string fault, string at, string said)
    {
        var id = await Twin("Skein 95", "Ptarmigan 350");
        await v.Go($"/runs/{id}");
        await v.Take(
            await v.Client.PostAsync(
                $"/runs/{id}/simulated?handler=Print", Form(v.Value("__RequestVerificationToken"), ("speed", speed), ("fault", fault), ("at", at))));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(said, v.Text("#notice"));
        Assert.Null(Hall.PrintOf(id));
    }

    [Fact]
    public async Task The_pace_of_a_printer_is_learned_in_its_own_world_only()
    {
        // The twin of another printer than the other tests use, so that its prints are counted.
        var id = await Twin("Float", "Whimbrel 300", "245", "235");
        await Print(id);
        await Ended(id);
        var run = await RunOf(id);
        await using var scope = site.Services.CreateAsyncScope();
        var paces = scope.ServiceProvider.GetRequiredService<Paces>();
        var learned = await paces.OfAsync(run.Pairing!.Toolhead!.PrinterId, Worlds.Practice);
        Assert.True(learned.Prints >= 1);
        Assert.InRange(learned.Ratio, 0.95, 1.05);
        var real = await site.WithDb(db => db.Printers.FirstAsync(p => p.Name == "Whimbrel 300"));
        Assert.Equal(0, (await paces.OfAsync(real.Id, Worlds.Practice)).Prints);
        await v.Go($"/pairings/{run.PairingId}/temperature-tower");
        Assert.Contains("On this printer rather", v.Text("#pace"));
        await v.Go($"/printers/{run.Pairing.Toolhead.PrinterId}");
        Assert.Contains("times what files foresee", v.Text("main"));
        // It is written with the run whether it came from a simulated print or was typed.
        await v.Go(
            $"/pairings/{(await site.WithDb(db => db.Pairings.FirstAsync(p => p.World == Worlds.Real && p.Filament!.Line == "Float"))).Id}/temperature-tower");
        Assert.Null(v.Page.QuerySelector("#pace"));
    }

    [Fact]
    public async Task A_watched_run_is_stamped_and_the_stamp_is_a_reading()
    {
        var p = await site.WithDb(db =>
            db.Pairings.FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", ("hottestC", "220"), ("coolestC", "200"), ("stepC", "5"), ("sectionHeightMm", "8"));
        var id = IdOf(v.Path);
        async Task<(HttpStatusCode Status, JsonElement Said)> Stamp(string what, string key, double ago = 0, string note = "")
        {
            await v.Go($"/runs/{id}");
            var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{id}/simulated?handler=Stamp")
            {
                Content = Form(
                    v.Value("__RequestVerificationToken"), ("what", what), ("key", key),
                    ("ago", ago.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("note", note)),
            };
            request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
            var answer = await v.Client.SendAsync(request);
            return (answer.StatusCode, JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement);
        }

        var early = await Stamp("clicking", "k0");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, early.Status);
        Assert.Contains("first layer begins", early.Said.GetProperty("error").GetString());
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='Start']");
        Assert.NotNull(v.Page.QuerySelector("#stamp-key"));
        var plan = Json.Read<TowerPlan>((await RunOf(id)).PlanJson);
        var third = plan.Checkpoints.First(c => c.SectionIndex == 2);
        site.Clock.Ahead = TimeSpan.FromSeconds(third.AtSeconds!.Value + 300);
        try
        {
            var (status, said) = await Stamp("clicking", "k1", 0, "three in a row");
            Assert.Equal(HttpStatusCode.OK, status);
            Assert.Equal(3, said.GetProperty("section").GetInt32());
            Assert.Contains("mm³/s", said.GetProperty("text").GetString());
            // The same press again is the same reading; a press that comes late counts from when it was pressed.
            Assert.Equal(said.GetProperty("readingId").GetGuid(), (await Stamp("clicking", "k1")).Said.GetProperty("readingId").GetGuid());
            var late = await Stamp("clicking", "k2", 200_000);
            Assert.Equal(HttpStatusCode.OK, late.Status);
            var rows = (await RunOf(id)).Readings.Where(r => r.Aspect.StartsWith("stamp.", StringComparison.Ordinal)).OrderBy(r => r.Aspect).ToList();
            Assert.Equal(["stamp.clicking", "stamp.clicking.2"], rows.Select(r => r.Aspect));
            Assert.True(rows[1].Value < rows[0].Value);
            Assert.All(rows, r => Assert.True(r.Resolution >= 0.1));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await Stamp("singing", "k3")).Status);
            await v.Go($"/runs/{id}");
            Assert.Equal(2, v.Page.QuerySelectorAll("#stamp-list li").Length);
            Assert.Contains(await site.WithDb(db => db.Findings.Where(f => f.RunId == id).ToListAsync()), f =>
                f.Tag == "clicking" && f.Text!.StartsWith("three in a row", StringComparison.Ordinal));
            await v.Submit("#stamp-list form");
            Assert.Single(v.Page.QuerySelectorAll("#stamp-list li"));
            // The run can be taken out and read again with its stamps.
            Assert.Contains("stamp.clicking", await v.Client.GetStringAsync($"/runs/{id}/run.json"));
        }
        finally
        {
            site.Clock.Ahead = TimeSpan.Zero;
        }
    }

    [Fact]
    public async Task Instruments_in_other_processes_ask_what_is_open_and_post_what_they_read()
    {
        var id = await Twin("Cairn CF", "Whimbrel 300", "280", "270");
        await Print(id);
        await Ended(id);
        var token = await Token("balance");
        var device = site.CreateClient();
        Assert.Equal(HttpStatusCode.Unauthorized, (await device.GetAsync($"/api/v1/runs/{id}/open")).StatusCode);
        device.DefaultRequestHeaders.Authorization = new("Bearer", token);
        Assert.Equal(HttpStatusCode.NotFound, (await device.GetAsync($"/api/v1/runs/{Guid.NewGuid()}/open")).StatusCode);
        var sheet = JsonDocument.Parse(await device.GetStringAsync($"/api/v1/runs/{id}/open")).RootElement;
        Assert.Equal(
            ("printed", 3, 15),
            (sheet.GetProperty("stage").GetString(), sheet.GetProperty("sections").GetArrayLength(), sheet.GetProperty("open").GetArrayLength()));
        async Task<HttpStatusCode> Post(object body) => (await device.PostAsJsonAsync($"/api/v1/runs/{id}/readings", body)).StatusCode;
        Assert.Equal(
            HttpStatusCode.Created, await Post(new { key = "w1", aspect = "massG", value = 12.34, instrument = "simulated scale", resolution = 0.01 }));
        Assert.Equal(12_340_000, (await RunOf(id)).MassUg);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await Post(new { key = "w2", aspect = "massG", section = 1, value = 12.3 }));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await Post(new { key = "w3", aspect = "bridge", section = 0, value = 3, resolution = 1 }));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await Post(new { key = "w4", aspect = "stamp.clicking", section = 0, value = 3 }));
        Assert.Equal(
            HttpStatusCode.Created, await Post(new { key = "w5", aspect = "bridge", section = 0, value = 3, instrument = "simulated eyes", resolution = 1 }));
        var reading = (await RunOf(id)).Readings.First(r => r.Key == "w5");
        Assert.Equal(1, reading.Resolution);
        var eyes = await site.WithDb(db => db.Instruments.Include(i => i.Revisions).FirstAsync(i => i.Name == "Simulated eyes"));
        Assert.Contains(eyes.Revisions, r => r.Id == reading.InstrumentRevisionId);
        // What it left open is still open, and the instruments fill just that.
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='handler=Read']");
        await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
        Assert.Equal("w5", (await RunOf(id)).Readings.Single(r => r is { Section: 0, Aspect: "bridge" }).Key);
    }

    private async Task<string> Token(string name)
    {
        await using var scope = site.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<GlenfrostDb>();
        var token = $"gfr_{Guid.NewGuid():N}";
        db.Devices.Add(
            new Device
            {
                Name = name, Kind = DeviceKinds.Readings,
                TokenHash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(token))),
                CreatedAt = DateTime.UtcNow,
            });
        await db.SaveChangesAsync();
        return token;
    }

    [Fact]
    public async Task A_real_run_is_never_printed_here_and_a_run_without_a_piece_is_not_read()
    {
        var p = await site.WithDb(db =>
            db.Pairings.FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Whimbrel 300"));
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", ("hottestC", "220"), ("coolestC", "210"), ("stepC", "5"), ("sectionHeightMm", "6"));
        var id = IdOf(v.Path);
        var ticket = v.Value("__RequestVerificationToken");
        await v.Take(await v.Client.PostAsync($"/runs/{id}/simulated?handler=Print", Form(ticket, ("speed", "60"))));
        // It went to the twin instead.
        Assert.NotEqual(id, IdOf(v.Path));
        Assert.Equal(Worlds.Practice, (await RunOf(IdOf(v.Path))).World);
        Assert.Empty(await site.WithDb(db => db.Jobs.Where(j => j.RunId == id).ToListAsync()));
        await v.Take(await v.Client.PostAsync($"/runs/{id}/simulated?handler=Read", Form(ticket)));
        Assert.Contains("no simulated piece yet", v.Text(".told"));
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/runs/{Guid.NewGuid()}/simulated")).StatusCode);
        // Asked twice, the same plan gives the same practice run.
        await v.Take(await v.Client.PostAsync($"/runs/{id}/simulated?handler=Try", Form(ticket)));
        var twin = IdOf(v.Path);
        await v.Take(await v.Client.PostAsync($"/runs/{id}/simulated?handler=Try", Form(ticket)));
        Assert.Equal(twin, IdOf(v.Path));
    }

    [Fact]
    public async Task A_follow_up_under_the_same_conditions_is_judged_together_with_what_it_follows()
    {
        var id = await Twin("Plain", "Dunnock 180", "220", "200");
        foreach (var _ in new[] { 1, 2 })
        {
            await Print(id);
            await Ended(id);
            await v.Go($"/runs/{id}");
            await v.Submit("form[action$='handler=Read']");
            await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
            await v.Go($"/runs/{id}");
            await v.Submit("form[action$='Finish']");
            if (_ == 2)
                break;
            Assert.DoesNotContain("Judged together", v.Text(".judge-stage"));
            var pairing = (await RunOf(id)).PairingId;
            await v.Go($"/pairings/{pairing}/temperature-tower?after={id}");
            await v.Submit("#plan");
            id = IdOf(v.Path);
        }

        Assert.Contains("Judged together with run 1", v.Text(".judge-stage"));
        Assert.Equal(10, v.Page.QuerySelectorAll(".judge-stage > div details tbody tr").Length);
        Assert.Contains("mean of 2 repeats", v.Text(".judge-stage details"));
        // A temperature that the other piece shows is not unread where its twin is.
        await site.WithDb(db => db.Readings.Where(r => r.RunId == id && r.Section == 1).ExecuteDeleteAsync());
        await v.Go($"/runs/{id}");
        Assert.Contains("Judged together with run 1", v.Text(".judge-stage"));
        Assert.DoesNotContain("unread", v.Text("svg.chart"));
        // Another spool: no longer.
        await v.Go($"/runs/{id}?open=read");
        await v.Submit("form[action$='Conditions']", ("place", "in the corner"));
        await v.Go($"/runs/{id}");
        Assert.DoesNotContain("Judged together", v.Text(".judge-stage"));
        Assert.Contains("Not taken together with run 1: place and neighbours on the plate in the corner, not one piece around", v.Text(".apart"));
    }

    /// <summary>What was just planned, printed and read on its simulated twin.</summary>
    private async Task<Run> TriedAndRead()
    {
        v.Planned();
        await v.Submit("form[action$='handler=Try']");
        var id = IdOf(v.Path);
        await Print(id);
        await Ended(id);
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='handler=Read']");
        await Until(() => Task.FromResult(Hall.ReadingOf(id) is null), "the end of the reading");
        return await RunOf(id);
    }

    [Theory]
    [InlineData("temperature", "190", "230", "10", "temperature-tower")]
    [InlineData("fan", "0", "100", "25", "fan-steps")]
    [InlineData("multiplier", "0.85", "1.05", "0.05", "wall-flow")]
    public async Task What_else_makes_strings_is_swept_on_reeds_read_by_eyes_and_settled_by_its_own_trial(string factor, string from, string to, string step, string settles)
    {
        var p = await site.WithDb(db => db.Pairings.AsNoTracking().FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/pairings/{p.Id}/retraction-sweep?factor={factor}");
        await v.Submit("#plan", ("from", from), ("to", to), ("step", step), ("rows", "4"));
        var run = await TriedAndRead();
        var id = run.Id;
        Assert.True(run.Readings.Count(r => r.Aspect is "narrow" or "wide") >= 8);
        if (factor == "temperature")
        {
            // Hot strings more than cold: the eyes see it on the reeds of one piece.
            double Mean(int section) => run.Readings.Where(r => r.Section == section && r.Aspect is "narrow" or "wide").Average(r => r.Value!.Value);
            Assert.True(Mean(0) > Mean(4), $"{Mean(0)} at 190, {Mean(4)} at 230");
        }

        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='Finish']");
        await v.Go($"/runs/{id}");
        // It answers and asks nobody to keep or leave it; what it asks for next is accepted as it opens.
        Assert.Equal(RunStages.Left, (await RunOf(id)).Stage);
        Assert.Empty(v.Page.QuerySelectorAll("form[action$='handler=Keep']"));
        Assert.DoesNotContain("retraction", v.Text("#verdict").ToLowerInvariant());
        if (v.Page.QuerySelector(".judge-stage a.btn[href*='after=']") is { } next)
        {
            var link = next.GetAttribute("href")!;
            Assert.Matches($"/(retraction-sweep|{settles})\\?", link);
            await v.Go(link);
            Assert.Equal("", string.Concat(v.Page.QuerySelectorAll("#plan .err:not([hidden])").Select(e => e.TextContent.Trim())));
        }
    }

    [Theory]
    [InlineData("", "outer-speed", "20", "140", "30", "corners", true)]
    [InlineData("?mode=cones", "layer-time", "3", "15", "4", "tip", false)]
    public async Task A_setting_in_steps_is_printed_read_by_eyes_and_answered(
        string mode, string factor, string from, string to, string step, string aspect, bool worseUpward)
    {
        var p = await site.WithDb(db => db.Pairings.AsNoTracking().FirstAsync(x => x.World == Worlds.Real && x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Whimbrel 300"));
        await v.Go($"/pairings/{p.Id}/setting-steps{mode}");
        var piece = mode.Length == 0 ? new[] { ("lengthMm", "80"), ("sectionHeightMm", "5") } : [];
        await v.Submit("#plan", [("factor", factor), ("from", from), ("to", to), ("step", step), .. piece]);
        var run = await TriedAndRead();
        var id = run.Id;
        var values = run.Readings.Where(r => r.Aspect == aspect).OrderBy(r => r.Section).Select(r => r.Value!.Value).ToList();
        Assert.True(values.Count >= 4, $"{values.Count} read");
        Assert.True(worseUpward ? values[0] > values[^1] : values[0] < values[^1], string.Join(" ", values));
        await v.Go($"/runs/{id}");
        await v.Submit("form[action$='Finish']");
        await v.Go($"/runs/{id}");
        Assert.DoesNotContain("Not to be told yet", v.Text("#verdict"));
        // A time that looks alone do not settle is not kept by it; what is asked for next is accepted as it opens.
        if (!worseUpward)
            Assert.Null(v.Page.QuerySelector("form[action$='handler=Keep']"));
        if (v.Page.QuerySelector(".judge-stage a.btn[href*='after=']") is { } next)
        {
            await v.Go(next.GetAttribute("href")!);
            Assert.Equal("", string.Concat(v.Page.QuerySelectorAll("#plan .err:not([hidden])").Select(e => e.TextContent.Trim())));
        }
    }

    [Fact]
    public async Task A_tower_of_the_demos_year_is_printed_again_and_gives_the_same_scores()
    {
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-demo-" + Guid.NewGuid().ToString("N"));
        try
        {
            Directory.CreateDirectory(folder);
            foreach (var name in new[] { "filaments.json", "printers.json" })
                File.Copy(Path.Combine(TestApp.Root, "demo", name), Path.Combine(folder, name));
            // The year as far as one tower, and only that one on the bench again.
            var year = System.Text.Json.Nodes.JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(TestApp.Root, "demo", "year.json")))!.AsArray();
            foreach (var e in year.ToList())
            {
                if (e!["daysAgo"]!.GetValue<int>() < 268)
                    year.Remove(e);
                else if (e["daysAgo"]!.GetValue<int>() != 268)
                    e.AsObject().Remove("bench");
            }

            await File.WriteAllTextAsync(Path.Combine(folder, "year.json"), year.ToJsonString());
            var place = new DataPlace(Path.Combine(folder, "data"));
            var said = new List<(JsonElement Event, DemoTower Tower)>();
            await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
            {
                await place.MigrateAsync(db);
                await new DemoLoader(db, new WriteGate(), TimeProvider.System, place) { Benched = (e, t) => said.Add((e, t)) }.LoadAsync(folder);
            }

            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            var (asked, tower) = Assert.Single(said);
            foreach (var written in asked.GetProperty("scores").EnumerateObject())
                Assert.Equal(written.Value.EnumerateArray().Select(x => (double?)x.GetDouble()), (double?[])tower.Scores[written.Name]);
            Assert.Equal((asked.GetProperty("minutes").GetInt32(), asked.GetProperty("massG").GetDouble()), (tower.Minutes, tower.MassG));
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }
}

public class InterruptedTests
{
    [Fact]
    public async Task A_print_that_the_server_went_down_under_is_interrupted_says_so_and_what_stands_is_taken_off()
    {
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-test-" + Guid.NewGuid().ToString("N"));
        try
        {
            Guid id;
            var kept = Path.Combine(Path.GetTempPath(), "glenfrost-test-" + Guid.NewGuid().ToString("N"));
            await using (var site = new QuickApp { Folder = folder })
            {
                var v = site.Visit();
                var p = await site.WithDb(db => db.Pairings.FirstAsync(x => x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
                await v.Go($"/pairings/{p.Id}/temperature-tower");
                await v.Submit("#plan", ("hottestC", "220"), ("coolestC", "200"), ("stepC", "5"));
                await v.Submit("form[action$='handler=Try']");
                id = Guid.Parse(v.Path.Split('#')[0].Split('/')[2]);
                await v.Submit("form[action$='handler=Print']", ("speed", "400"));
                var jobs = site.Services.GetRequiredService<PrintJobs>();
                for (var i = 0; i < 400 && (await site.WithDb(db => db.Jobs.AsNoTracking().FirstAsync(j => j.RunId == id))).Layer < 20; i++)
                    await Task.Delay(50);
                Assert.NotNull(jobs.PrintOf(id));
                await jobs.StopAsync(CancellationToken.None);
                // Somebody pulls the plug: what is on the disk is what is left.
                foreach (var file in Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories).Where(f => Path.GetFileName(f) is not "lock"))
                {
                    var to = Path.Combine(kept, Path.GetRelativePath(folder, file));
                    Directory.CreateDirectory(Path.GetDirectoryName(to)!);
                    File.Copy(file, to);
                }
            }

            await using var again = new AgainApp { Folder = kept };
            var w = again.Visit();
            await w.Go($"/runs/{id}");
            for (var i = 0; i < 100 && !w.Text("#simulated").Contains("interrupted", StringComparison.Ordinal); i++)
            {
                await Task.Delay(50);
                await w.Go($"/runs/{id}");
            }

            Assert.Contains("interrupted at layer", w.Text("#simulated"));
            var job = await again.WithDb(db => db.Jobs.FirstAsync(j => j.RunId == id));
            Assert.Equal(JobStates.Interrupted, job.State);
            Assert.True(job.Layer >= 20);
            await w.Submit("form[action$='handler=TakeOff']");
            var run = await again.WithDb(db => db.Runs.Include(r => r.Photos).FirstAsync(r => r.Id == id));
            Assert.Equal((RunStages.Printed, "ended early"), (run.Stage, run.Outcome));
            Assert.InRange(run.EndedAtLayer!.Value, job.Layer - 3, job.Layer + 8);
            Assert.NotEmpty(run.Photos);
        }
        finally
        {
            if (Directory.Exists(folder))
                Directory.Delete(folder, true);
        }
    }
}
