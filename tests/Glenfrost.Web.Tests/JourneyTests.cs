using System.Net;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

public class JourneyTests(EmptyApp site) : IClassFixture<EmptyApp>
{
    [Fact]
    public async Task From_a_spool_label_to_a_kept_temperature()
    {
        var v = site.Visit();
        await v.Go("/");
        Assert.Contains("The bench is empty", v.Text("body"));

        await v.Go("/filaments/new");
        await v.Submit(
            "form.sheet", ("maker", "Brackenfell"), ("line", "Heath"), ("family", "PLA"), ("colours", "moss, slate"), ("s0.nozzleMin", "195"),
            ("s0.nozzleMax", "225 °C"), ("s1.kind", "data sheet"), ("s1.nozzleMin", "190"), ("s1.nozzleMax", "230"), ("price", "21,90"), ("netMassG", "1000"));
        Assert.StartsWith("/filaments/", v.Path);
        Assert.Contains("190–230 °C", v.Text("main"));
        Assert.Contains("1.24 g/cm³ (the family's)", v.Text("main"));
        var filament = v.Path.Split('/')[^1];
        await v.Go($"/spools/new?filament={filament}");
        await v.Submit("form.sheet", ("name", "H-07"), ("lot", "B2231"), ("openedAt", "2026-01-02"), ("reelMassG", "212"));
        Assert.Equal("Spool H-07", v.Text("h1"));
        var spool = v.Path;
        await v.Submit("form[action$='Weigh']", ("massG", "634,2 g"));
        Assert.Contains("422 g left", v.Text("main"));
        await v.Submit("form[action$='Diameter']", ("d11", "1.74"), ("d12", "1.76"));
        Assert.Contains("1.75 mm", v.Text("main"));
        await v.Submit("form[action$='Drying']", ("dryC", "45"), ("dryH", "6"));
        Assert.Contains("Dried today", v.Text("main"));

        await v.Go("/printers/new");
        await v.Submit("form.sheet", ("name", "Dunnock 180"), ("heightMm", "180"), ("drive", "long-tube"), ("tubeLengthMm", "420"), ("stepsPerMm", "96.4"));
        Assert.Contains("237 °C", v.Text("main"));

        await v.Go("/pairings/new");
        await v.Submit("form.sheet", ("use", "looks"));
        Assert.StartsWith("/pairings/", v.Path);
        var pairing = v.Path;
        Assert.Contains("middle of the label's range", v.Text("#nozzleTemperatureC"));
        Assert.Contains("starting value", v.Text("#nozzleTemperatureC"));
        Assert.Contains("measured on a spool", v.Text("#filamentDiameterMm"));

        await v.Go(pairing + "/temperature-tower");
        Assert.Equal("230", v.Value("hottestC"));
        Assert.Equal("190", v.Value("coolestC"));
        await v.Submit("#plan", ("sectionHeightMm", "10.1"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("0.1 mm left over", v.Text("#err-sectionHeightMm"));
        Assert.Equal("10.1", v.Value("sectionHeightMm"));
        await v.Press("#plan", "?handler=Offer", ("offer", v.Page.QuerySelectorAll("#err-sectionHeightMm button").Last().GetAttribute("value")!));
        Assert.Equal("10.2", v.Value("sectionHeightMm"));
        await v.Submit("#plan");
        v.Planned();
        var run = v.Path.Split('#')[0];
        Assert.Contains("58", v.Text("#print + .stage-body table"));

        await v.Go(run + "/sheet");
        Assert.Contains("Ended at layer", v.Text("body"));
        Assert.Contains("Nozzle and bed burn", v.Text("body"));
        await v.Go(run);
        await v.Submit("form[action$='Printed']", ("outcome", "ended early"));
        Assert.Contains("empty", v.Text("#err-endedAtLayer"));
        await v.Submit("form[action$='Printed']", ("outcome", "ended early"), ("endedAtLayer", "414"), ("minutes", "131"));
        Assert.Contains("lost", v.Page.QuerySelector("tr[data-section='8']")!.ClassName);

        // Scores are typed in the plain form, as without script.
        var table = new (double T, int[] S)[]
        {
            (0, [1, 3, 0, 2, 4]), (1, [2, 3, 1, 3, 4]), (2, [3, 4, 2, 3, 4]), (3, [4, 4, 3, 4, 4]), (4, [4, 4, 4, 4, 4]), (5, [3, 3, 4, 2, 3]),
            (6, [2, 2, 3, 2, 2]), (7, [1, 1, 3, 1, 2]),
        };
        string[] aspects = ["bridge", "overhang", "strings", "surface", "bond"];
        await v.Submit("#scores", [.. table.SelectMany(r => r.S.Select((s, a) => ($"c.{r.T}.{aspects[a]}", s.ToString())))]);
        Assert.Contains("40 readings saved", v.Text(".told"));
        Assert.Contains("All is scored", v.Text("#sofar"));
        await v.Submit("form[action*='Conditions']", ("spool", spool.Split('/')[^1]), ("roomC", "65 °F"), ("slicer", "none"));
        Assert.Equal("18.3", v.Page.QuerySelector("#f-roomC")!.GetAttribute("value"));
        await v.Submit("form[action$='=Finding']", ("tag", "strings"), ("section", "1"), ("findingText", "hairs"));
        Assert.Contains("strings: hairs", v.Text("tr[data-section='1']"));
        await v.Submit("form[action$='Finish']");
        Assert.Contains("210", v.Text("#verdict"));
        Assert.Contains("draws, seed", v.Text(".judge-stage details"));
        await v.Submit("form[action$='Keep']");
        Assert.Contains("is in the profile", v.Text(".told"));

        await v.Go(pairing);
        Assert.Contains("temperature tower 1", v.Text("#nozzleTemperatureC"));
        Assert.Contains("provisional", v.Text("#nozzleTemperatureC"));
        var kept = await site.WithDb(db => db.Decisions.SingleAsync(d => d.Choice == "kept"));
        Assert.Contains("winProbability", kept.VerdictJson);
        Assert.NotEqual("[]", kept.ReadingIdsJson);
        Assert.NotNull(kept.RevisionId);

        await v.Go(run);
        await v.Submit("form[action='/undo']");
        Assert.Contains("no longer kept", v.Text(".told"));
        await v.Go(pairing);
        Assert.Contains("starting value", v.Text("#nozzleTemperatureC"));

        await v.Go(run);
        await v.Submit("form[action$='Own']", ("ownC", "240"), ("ownWhy", "brave"));
        Assert.Contains("limit of 237", v.Text("#err-ownC"));
        Assert.Equal("brave", v.Value("ownWhy"));
        await v.Submit("form[action$='Own']", ("ownC", "212"), ("ownWhy", ""));
        Assert.Contains("empty", v.Text("#err-ownWhy"));
        await v.Submit("form[action$='Own']", ("ownC", "212"), ("ownWhy", "prints well every day"));
        await v.Go(pairing);
        Assert.Contains("212", v.Text("#nozzleTemperatureC"));
        Assert.Contains("own choice", v.Text("#nozzleTemperatureC"));
        await v.Go("/log");
        Assert.Contains("Kept 212 °C", v.Text("main"));
        await v.Go("/pairings");
        Assert.Contains("212 °C", v.Text("#pairings"));
        Assert.Equal(4, await site.WithDb(db => db.Revisions.CountAsync()));
        Assert.Equal(SettingState.Provisional, (await site.WithDb(db => db.ProfileAsync(Guid.Parse(pairing.Split('/')[^1]))))!["nozzleTemperatureC"]!.State);
    }
}
