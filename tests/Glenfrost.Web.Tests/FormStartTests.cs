using System.Net;
using System.Text;
using Glenfrost.Application;
using Glenfrost.Application.Gcode;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What forms begin with is a rule of the use case: a plan's from what is usual and what a link asks, a file's from the file.</summary>
public class FormStartTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    public static TheoryData<string> Trials => [.. TrialCatalogue.All.Select(t => t.Kind)];

    private static (string Mode, PlanValues Values) Start(Trial trial, string? mode, Dictionary<string, string> asked) =>
        PlanStart.Of(trial, new(), trial.Propose(new()), mode, f => asked.GetValueOrDefault(f, ""));

    private static IEnumerable<string> Listed(PlanValues values) => values.Select(x => $"{x.Key}={x.Value}").Order();

    [Theory]
    [MemberData(nameof(Trials))]
    public void A_link_that_asks_nothing_begins_with_what_is_usual_of_each_mode_and_an_unknown_mode_is_the_first(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        foreach (var mode in trial.Modes)
        {
            var (now, values) = Start(trial, mode, []);
            Assert.Equal(mode, now);
            var usual = trial.Propose(new());
            if (usual.Word("mode") != mode)
                usual = trial.InMode(mode, usual, new());
            Assert.Equal(Listed(usual), Listed(values));
        }

        Assert.Equal(trial.Modes[0], Start(trial, "no such way", []).Mode);
        // Where the link says nothing of a way, the values' own stands.
        var last = trial.Modes[^1];
        var own = trial.InMode(last, trial.Propose(new()), new());
        own["mode"] = last;
        Assert.Equal(last, PlanStart.Of(trial, new(), own, null, _ => "").Mode);
    }

    [Theory]
    [MemberData(nameof(Trials))]
    public void What_a_link_asks_stands_and_what_a_field_does_not_take_is_left_as_it_was(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        foreach (var (name, field) in trial.Fields.Where(f => !trial.Refits.Contains(f.Key)))
        {
            var usual = Start(trial, null, []).Values;
            if (field.Quantity is { } q)
            {
                var most = q.Max.ToString(System.Globalization.CultureInfo.InvariantCulture);
                Assert.Equal(q.Max, Start(trial, null, new() { [name] = most }).Values.Number(name));
                foreach (var wrong in new[] { "1e99", "twelve", (q.Max + 1).ToString(System.Globalization.CultureInfo.InvariantCulture), "<b>" })
                    Assert.Equal(usual.Number(name), Start(trial, null, new() { [name] = wrong }).Values.Number(name));
            }
            else if (field.Words is { } words)
            {
                Assert.All(words.Where(w => w.Length > 0), w => Assert.Equal(w, Start(trial, null, new() { [name] = w }).Values.Word(name)));
                Assert.Equal(usual.Word(name), Start(trial, null, new() { [name] = "no such word" }).Values.Word(name));
            }
            else if (field.IsText)
            {
                Assert.Equal("on its back", Start(trial, null, new() { [name] = "on its back" }).Values.Word(name));
                Assert.Equal(field.Longest, Start(trial, null, new() { [name] = new string('x', field.Longest + 9) }).Values.Word(name).Length);
            }
            else
            {
                Assert.True(Start(trial, null, new() { [name] = "1" }).Values.Flag(name));
                Assert.False(Start(trial, null, new() { [name] = "0" }).Values.Flag(name));
            }
        }
    }

    [Fact]
    public void A_field_that_others_follow_brings_what_is_usual_for_it_and_what_is_asked_beside_comes_over_that()
    {
        var trial = TrialCatalogue.Get("retraction-sweep");
        foreach (var factor in trial.Fields["factor"].Words!)
        {
            var fitted = trial.Refit(new() { ["mode"] = trial.Modes[0], ["factor"] = factor }, new());
            var (_, values) = Start(trial, null, new() { ["factor"] = factor });
            Assert.Equal(factor, values.Word("factor"));
            var numbers = trial.Fields.Keys.Where(f => fitted.Number(f) is not null && trial.Propose(new()).Word("factor") != factor).ToList();
            Assert.All(numbers, f => Assert.Equal(fitted.Number(f), values.Number(f)));
            if (numbers.Count == 0)
                continue;
            var q = trial.Fields[numbers[0]].Quantity!;
            var asked = new Dictionary<string, string>
            {
                ["factor"] = factor, [numbers[0]] = q.Max.ToString(System.Globalization.CultureInfo.InvariantCulture),
            };
            Assert.Equal(q.Max, Start(trial, null, asked).Values.Number(numbers[0]));
        }
    }

    private static FormStart Of(string gcode, CoolingOfFile cooling)
    {
        var facts = Inspector.Inspect(new MemoryStream(Encoding.ASCII.GetBytes(gcode)), new InspectionRequest { Name = "rail.gcode", FlowLimit = 11.5 });
        return FormStart.Of(new(new() { Name = "rail.gcode", Sha256 = "" }, facts, [], null, null), Repeats.Of(facts), SlowDowns.Of(facts), cooling);
    }

    [Theory]
    [InlineData(21, null, null, 40)] // 21 + 5 is below the least end
    [InlineData(37.5, null, null, 43)]
    [InlineData(21, 58.0, null, 63)] // the chamber is what stands around it
    [InlineData(21, null, 35.0, 35)] // where the part lets go is known
    public void A_ramp_ends_where_the_part_lets_go_or_a_little_above_what_is_around_it(double room, double? chamber, double? release, double ends)
    {
        var lines = new StringBuilder("M140 S80\nM190 S80\nM104 S210\nM109 S210\nG28\nM83\n");
        for (var layer = 1; layer <= 30; layer++)
            lines.Append(FormattableString.Invariant($"G0 Z{layer * 0.2:0.0} F600\nG1 X40 E1.5 F1800\nG1 Y40 E1.5\nG1 X0 E1.5\nG1 Y0 E1.5\n"));
        var begin = Of(lines + "M140 S0\n", new(room, chamber, release));
        Assert.Equal(ends, begin.ToC);
        // The bed of the print counts, not the one that is turned off behind it.
        Assert.Equal(80, begin.BedC);
        Assert.Equal(11.5, begin.FlowLimit);
        var ramp = begin.Ramp((decimal)begin.ToC, null, null);
        Assert.NotNull(ramp);
        Assert.Null(begin.Ramp(95, null, null));
        Assert.Equal(("temperature", 230m, 190m), (begin.Step!.What, begin.Step.From, begin.Step.To));
    }

    [Fact]
    public void A_file_in_which_nothing_is_extruded_begins_with_nothing_of_its_own()
    {
        var begin = Of("G28\nM84\n", new(22, null, null));
        Assert.Null(begin.Step);
        Assert.Null(begin.FlowLimit);
        Assert.Equal((0, 0, 40), (begin.MinimumS, begin.BedC, begin.ToC));
    }

    [Theory]
    [InlineData(null, "Tarnfirm 9", "")] // not said before: no change
    [InlineData("Tarnfirm 9", null, "")] // said no more: nobody says what it is now
    [InlineData("Tarnfirm 9", "Tarnfirm 9", "")]
    [InlineData("Tarnfirm 8", "Tarnfirm 9", "firmware: Tarnfirm 8, Tarnfirm 9")]
    public void An_edit_ages_only_where_something_known_gave_way_to_something_else(string? before, string? now, string expected)
    {
        Printer Of(string? firmware) => new() { Name = "Dunnock 180", Firmware = firmware, Enclosure = "none" };
        Assert.Equal(expected, string.Join("; ", AgeingEdit.Of(Of(before), Of(now)).Select(e => $"{e.Slot}: {e.Before}, {e.Now}")));
        var boxed = Of(before);
        boxed.Enclosure = "closed";
        Assert.Contains(AgeingEdit.Of(Of(before), boxed), e => e is { Slot: "enclosure", Facts: { Before.Enclosure: "none", After.Enclosure: "closed" } });
    }

    [Fact]
    public async Task An_edit_that_ages_is_said_first_then_saved_with_its_doubts_or_not_at_all()
    {
        var p = await site.WithDb(db => db.Printers.AsNoTracking().FirstAsync(x => x.Name == "Dunnock 180"));
        var parts = await site.WithDb(db => db.Parts.CountAsync());
        await v.Go($"/printers/{p.Id}/edit");
        await v.Submit("form.sheet", ("bedSurface", "ribbed glass"), ("notes", "by the window"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("It makes doubtful", v.Text("#err-bedSurface"));
        Assert.Equal("by the window", v.Text("textarea[name=notes]").Trim());
        Assert.Equal(p.BedSurface, (await site.WithDb(db => db.Printers.AsNoTracking().FirstAsync(x => x.Id == p.Id))).BedSurface);

        // A save that loses the race leaves no part behind: the edit and its doubts are one write.
        await using (var scope = site.Services.CreateAsyncScope())
        {
            var book = scope.ServiceProvider.GetRequiredService<PrinterBook>();
            var tracked = (await book.ToEditAsync(p.Id))!;
            await site.WithDb(db => db.Printers.Where(x => x.Id == p.Id).ExecuteUpdateAsync(s => s.SetProperty(x => x.Version, x => x.Version + 1)));
            var typed = (await book.FindAsync(p.Id))!;
            typed.BedSurface = "ribbed glass";
            await Assert.ThrowsAsync<ChangedMeanwhileException>(() => book.SaveAsync(tracked, typed));
        }

        Assert.Equal(parts, await site.WithDb(db => db.Parts.CountAsync()));
        await v.Submit("form.sheet");
        if (v.Last.StatusCode == HttpStatusCode.Conflict)
            await v.Submit("form.sheet");
        Assert.Equal("ribbed glass", (await site.WithDb(db => db.Printers.AsNoTracking().FirstAsync(x => x.Id == p.Id))).BedSurface);
        Assert.Equal(parts + 1, await site.WithDb(db => db.Parts.CountAsync()));
    }
}
