using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What a profile's values become with a new feed.</summary>
public sealed record CarryRow(Guid PairingId, string Name, IReadOnlyList<Carried> Values);

/// <summary>A machine's own values and checks: the feed with its history, dated checks, and what a new feed does to profiles.</summary>
public sealed class MachineBook(Bench bench, Profiles profiles, TrialRuns runs)
{
    /// <summary>From how much change of the feed on the flow found before is doubtful, per cent.</summary>
    private const double FeedMovePercent = 0.3;

    /// <summary>A value of a machine or of a profile in words.</summary>
    public static string InWords(string key, double value) => key switch
    {
        "stepsPerMm" => $"{Words.N(value)} steps per mm",
        "rotationDistanceMm" => $"rotation distance {Words.N(value, 3)} mm",
        "nozzleTemperatureC" => $"{Words.N(value)} °C",
        _ => $"{SettingRegistry.Find(key)?.Label.ToLowerInvariant()} {Words.Value(key, value)}",
    };

    /// <summary>Writes a feed that a run found within tolerance: the toolhead's value, its history, and what it makes doubtful.</summary>
    public async Task<(Decision Decision, int Doubtful)> KeepFeedAsync(TrialRunView v, SettingValue value)
    {
        var person = await bench.PersonAsync();
        return await bench.AloneAsync(async () =>
        {
            var head = await bench.Db.Toolheads.FirstAsync(t => t.Id == v.Toolhead.Id);
            var before = Standing(head, value.Key);
            var decision = runs.NewDecision(v, person, "kept", null);
            (decision.SettingKey, decision.Value) = (value.Key, value.Value);
            var values = new Dictionary<string, double> { ["value"] = value.Value, ["deliveredMm"] = v.Verdict is Core.Trials.ExtruderFeed.FeedVerdict { MeanDeliveredMm: { } mm } ? mm : 0 };
            if (before is { } was)
                values["before"] = was;
            if (head.FeedCheckedAt is { } at)
                values["checkedBefore"] = new DateTimeOffset(DateTime.SpecifyKind(at, DateTimeKind.Utc)).ToUnixTimeMilliseconds();
            bench.Db.Checks.Add(new MachineCheck { PrinterId = head.PrinterId, ToolheadId = head.Id, Kind = "feed", At = bench.Now, PersonId = person.Id, ValuesJson = Json.Write(values), RunId = v.Run.Id, DecisionId = decision.Id });
            if (before is not null && before != value.Value)
                head.FirstFeedValue ??= before;
            if (value.Key == "stepsPerMm")
                (head.StepsPerMm, head.RotationDistanceMm) = (value.Value, null);
            else
                (head.RotationDistanceMm, head.StepsPerMm) = (value.Value, null);
            head.FeedCheckedAt = bench.Now;
            bench.Touch(head);
            var doubtful = 0;
            foreach (var (pairing, settings, keys) in await TouchedAsync(head.Id, before, value.Value))
            {
                doubtful++;
                await profiles.AddRevisionAsync(pairing.Id, ProfileRules.MarkDoubtful(settings, keys, Why(value.Key, before!.Value, value.Value)), $"Doubtful: {Why(value.Key, before.Value, value.Value)}", causeId: decision.Id);
            }

            await runs.DecideAsync(v, decision, RunStages.Decided);
            await bench.LogAsync("printer", $"{InWords(value.Key, value.Value)} kept on {v.Toolhead.FullName}{(before is { } b && b != value.Value ? $", before {Words.N(b, 3)}" : "")}{(doubtful > 0 ? $"; {Words.Plural(doubtful, "profile")} doubtful" : "")}", $"/printers/{head.PrinterId}", $"keep:{decision.Id}");
            await bench.Db.SaveChangesAsync();
            return (decision, doubtful);
        });
    }

    /// <summary>Takes a kept feed back, with what it made doubtful and what was carried over for it.</summary>
    public async Task TakeBackFeedAsync(Decision decision)
    {
        if (await bench.Db.Checks.FirstOrDefaultAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null) is not { } check)
            return;
        check.RemovedAt = bench.Now;
        var values = Json.Read<Dictionary<string, double>>(check.ValuesJson);
        var head = await bench.Db.Toolheads.FirstAsync(t => t.Id == check.ToolheadId);
        double? before = values.TryGetValue("before", out var b) ? b : null;
        if (decision.SettingKey == "stepsPerMm")
            head.StepsPerMm = before;
        else
            head.RotationDistanceMm = before;
        head.FeedCheckedAt = values.TryGetValue("checkedBefore", out var ms) ? DateTimeOffset.FromUnixTimeMilliseconds((long)ms).UtcDateTime : null;
        bench.Touch(head);
        await profiles.UndoCauseAsync(check.Id, "Undone: the feed is as it was, so nothing is carried over");
        await bench.Db.SaveChangesAsync();
        await profiles.UndoCauseAsync(decision.Id, "Undone: the feed is as it was");
    }

    /// <summary>What keeping a feed would make doubtful, said before.</summary>
    public async Task<IReadOnlyList<(string Where, string What)>> WouldDoubtAsync(TrialRunView v, SettingValue value)
    {
        var before = Standing(v.Toolhead, value.Key);
        return [.. (await TouchedAsync(v.Toolhead.Id, before, value.Value)).Select(t => (Facts.NameOf(t.Pairing), string.Join(", ", t.Keys.Select(k => SettingRegistry.Get(k).Label.ToLowerInvariant()))))];
    }

    /// <summary>What the kept feed of a run would change in the profiles of its toolhead; nothing where it is carried over already.</summary>
    public async Task<IReadOnlyList<CarryRow>> CarriesAsync(TrialRunView v, Decision? decision)
    {
        if (decision is null || await bench.Db.Checks.AsNoTracking().FirstOrDefaultAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null) is not { } check)
            return [];
        if (RatioOf(check, decision) is not { } ratio)
            return [];
        var list = new List<CarryRow>();
        var pairings = await bench.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.ToolheadId == v.Toolhead.Id).ToListAsync();
        var latest = await bench.Db.LatestRevisionsAsync([.. pairings.Select(p => p.Id)]);
        var done = await bench.Db.Revisions.AsNoTracking().Where(r => r.CauseId == check.Id).GroupBy(r => r.PairingId).Select(g => new { g.Key, Undone = g.Any(r => r.UndoesId != null) }).ToDictionaryAsync(x => x.Key, x => x.Undone);
        foreach (var p in pairings.Where(p => !done.TryGetValue(p.Id, out var undone) || undone))
        {
            if (latest.TryGetValue(p.Id, out var r) && FeedCarryOver.Of(r.Settings.Select(s => s.ToCore()), ratio) is { Count: > 0 } values)
                list.Add(new(p.Id, Facts.NameOf(p), values));
        }

        return list;
    }

    /// <summary>Values that a toolhead's feed had, newest first, with the run that each came from.</summary>
    public async Task<IReadOnlyList<(DateTime At, string Text, Guid? Run)>> HistoryAsync(Guid toolhead)
    {
        var list = new List<(DateTime, string, Guid?)>();
        foreach (var c in await bench.Db.Checks.AsNoTracking().Where(c => c.ToolheadId == toolhead && c.Kind == "feed" && c.RemovedAt == null).OrderByDescending(c => c.At).ToListAsync())
        {
            var v = Json.Read<Dictionary<string, double>>(c.ValuesJson);
            var before = v.TryGetValue("before", out var b) && b != v["value"] ? $", before {Words.N(b, 3)}" : "";
            list.Add((c.At, $"{Words.N(v["value"], 3)}{before}{(v.TryGetValue("deliveredMm", out var mm) && mm > 0 ? $": delivered {Words.N(mm)} mm" : "")}", c.RunId));
        }

        return list;
    }

    /// <summary>Carries chosen profiles over.</summary>
    /// <returns>The cause, which takes it back.</returns>
    public async Task<Guid> CarryAsync(TrialRunView v, IReadOnlyList<CarryRow> chosen)
    {
        await bench.PersonAsync();
        return await bench.AloneAsync(async () =>
        {
            var decision = v.Run.Decisions.Where(d => d.UndoneAt is null).MaxBy(d => d.At)!;
            var check = await bench.Db.Checks.FirstAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null);
            var ratio = RatioOf(check, decision)!.Value;
            var why = $"carried over from the feed before {v.Called}";
            foreach (var row in chosen)
            {
                var latest = await profiles.LatestAsync(row.PairingId);
                await profiles.AddRevisionAsync(row.PairingId, FeedCarryOver.Apply(latest!.Settings.Select(s => s.ToCore()), ratio, why), $"Carried over to the new feed: × {Words.N(ratio, 4)}", v.Run.Id, check.Id);
            }

            await bench.LogAsync("profile", $"{Words.Plural(chosen.Count, "profile")} carried over to the new feed of {v.Toolhead.FullName}", $"/runs/{v.Run.Id}#judge", $"carry:{check.Id}");
            await bench.Db.SaveChangesAsync();
            return check.Id;
        });
    }

    /// <summary>Checks and changes of a toolhead and its printer, as routes ask for them.</summary>
    public static IReadOnlyList<CheckStanding> Standings(Toolhead head, IEnumerable<MachineCheck> checks, IEnumerable<Part> parts, double? temperatureC, DateTime now)
    {
        var made = checks.Where(c => c.RemovedAt is null && (c.ToolheadId is null || c.ToolheadId == head.Id)).Select(c => new CheckMade(c.Kind, c.At, c.Passed, Json.Read<Dictionary<string, double>>(c.ValuesJson))).ToList();
        if (head.FeedCheckedAt is { } at && made.All(c => c.Kind != "feed"))
            made.Add(new("feed", at, true, new Dictionary<string, double>()));
        var changes = parts.Where(p => p.RemovedAt is null && p.PairingId is null && p.FilamentId is null && (p.ToolheadId is null || p.ToolheadId == head.Id)).Select(p => (p.Slot, (AgeingRules.Find(p.Slot)?.Label ?? p.Slot).ToLowerInvariant(), p.FittedAt)).ToList();
        return MachineReadiness.Of(made, changes, temperatureC, now);
    }

    private static double? RatioOf(MachineCheck check, Decision decision)
    {
        var values = Json.Read<Dictionary<string, double>>(check.ValuesJson);
        return values.TryGetValue("before", out var before) && before > 0 && before != values["value"] ? FeedCarryOver.Ratio(before, values["value"], decision.SettingKey == "rotationDistanceMm") : null;
    }

    private static double? Standing(Toolhead head, string key) => key == "stepsPerMm" ? head.StepsPerMm : head.RotationDistanceMm;

    private static string Why(string key, double before, double after) => $"feed changed from {Words.N(before, 3)} to {InWords(key, after)}";

    private async Task<List<(Pairing Pairing, List<ProfileSetting> Settings, IReadOnlyCollection<string> Keys)>> TouchedAsync(Guid head, double? before, double after)
    {
        if (before is not { } was || Math.Abs(after / was - 1) * 100 < FeedMovePercent)
            return [];
        var pairings = await bench.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.ToolheadId == head).ToListAsync();
        var latest = await bench.Db.LatestRevisionsAsync([.. pairings.Select(p => p.Id)]);
        var list = new List<(Pairing, List<ProfileSetting>, IReadOnlyCollection<string>)>();
        foreach (var p in pairings)
        {
            var settings = latest.GetValueOrDefault(p.Id)?.Settings.Select(s => s.ToCore()).ToList() ?? [];
            var keys = AgeingRules.AfterFeed.Where(k => settings.Any(s => s.Key == k && s.State is SettingState.Provisional or SettingState.Confirmed)).ToList();
            if (keys.Count > 0)
                list.Add((p, settings, keys));
        }

        return list;
    }
}
