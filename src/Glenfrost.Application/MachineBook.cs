using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What a profile's values become with a new feed.</summary>
public sealed record CarryRow(Guid PairingId, string Name, IReadOnlyList<Carried> Values);

/// <summary>A machine's own values and checks: the feed with its history, dated checks, and what a new feed does to profiles.</summary>
public sealed class MachineBook(WorkContext work, Profiles profiles, Decisions decisions)
{
    private readonly EvidenceBook evidence = new(work);

    /// <summary>From how much change of the feed on the flow found before is doubtful, per cent.</summary>
    private const double FeedMovePercent = 0.3;

    /// <summary>A value of a machine or of a profile in words.</summary>
    public static string InWords(string key, double value, double? uncertainty = null) => key switch
    {
        "stepsPerMm" => $"{Words.N(value)} steps per mm",
        "rotationDistanceMm" => $"rotation distance {Words.N(value, 3)} mm",
        "nozzleTemperatureC" => $"{Words.N(value)} °C",
        _ => $"{SettingRegistry.Find(key)?.Label.InSentence()} {SettingRegistry.Text(key, value, null, uncertainty)} {Words.Unit(key)}".TrimEnd(),
    };

    /// <summary>A value of a profile in words, with what is not known where it is used.</summary>
    public static string InWords(ProfileSetting s) =>
        s.NotKnownAtC is not null ? $"{SettingRegistry.Get(s.Key).Label.InSentence()} {Words.Value(s)}"
        : s.Word is { } word ? $"{SettingRegistry.Get(s.Key).Label.InSentence()} {word}"
        : InWords(s.Key, s.Value, s.Uncertainty);

    /// <summary>Writes a feed that a run found within tolerance: the toolhead's value, its history, and what it makes doubtful.</summary>
    public async Task<(Decision Decision, int Doubtful)> KeepFeedAsync(TrialRunView v, SettingValue value)
    {
        var person = await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var head = await work.Db.Toolheads.FirstAsync(t => t.Id == v.Toolhead.Id);
            var before = Standing(head, value.Key);
            var decision = decisions.Of(v, person, "kept", null);
            (decision.SettingKey, decision.Value) = (value.Key, value.Value);
            var values = new Dictionary<string, double>
            {
                ["value"] = value.Value, ["deliveredMm"] = v.Verdict is Core.Trials.ExtruderFeed.FeedVerdict { MeanDeliveredMm: { } mm } ? mm : 0,
            };
            if (before is { } was)
                values["before"] = was;
            work.Db.Checks.Add(
                new MachineCheck
                {
                    PrinterId = head.PrinterId, ToolheadId = head.Id, Kind = "feed", At = work.Now, PersonId = person.Id, ValuesJson = Json.Write(values),
                    RunId = v.Run.Id, DecisionId = decision.Id,
                });
            if (before is not null && before != value.Value)
                head.FirstFeedValue ??= before;
            work.Touch(head);
            await SetAsync(head, value.Key, value.Value, work.Now, decision.Id, v.Run.Id);
            var doubtful = 0;
            foreach (var (pairing, keys) in await TouchedAsync(head.Id, before, value.Value))
            {
                doubtful++;
                await evidence.DoubtAsync(pairing.Id, keys, decision.Id, Why(value.Key, before!.Value, value.Value));
            }

            decisions.Decide(v, decision, RunStages.Decided);
            await work.LogAsync(
                "printer",
                $"{InWords(value.Key, value.Value)} kept on {v.Toolhead.FullName}{(before is { } b && b != value.Value ? $", before {Words.N(b, 3)}" : "")}" +
                    $"{(doubtful > 0 ? $"; {Words.Plural(doubtful, "profile")} doubtful" : "")}",
                $"/printers/{head.PrinterId}", $"keep:{decision.Id}");
            await work.Db.SaveChangesAsync();
            return (decision, doubtful);
        });
    }

    /// <summary>Takes a kept feed back, with what it made doubtful and what was carried over for it.</summary>
    public async Task TakeBackFeedAsync(Decision decision)
    {
        if (await work.Db.Checks.FirstOrDefaultAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null) is not { } check)
            return;
        check.RemovedAt = work.Now;
        var head = await work.Db.Toolheads.FirstAsync(t => t.Id == check.ToolheadId);
        work.Touch(head);
        await WithdrawAsync(head, decision.Id);
        await profiles.UndoCauseAsync(check.Id, "Undone: the feed is as it was, so nothing is carried over");
        await work.Db.SaveChangesAsync();
        await profiles.UndoCauseAsync(decision.Id, "Undone: the feed is as it was");
    }

    /// <summary>Sets a feed: a row of its history, and what the toolhead says. The caller saves; inside the gate.</summary>
    /// <param name="head">Tracked.</param>
    /// <param name="key">stepsPerMm or rotationDistanceMm.</param>
    /// <param name="number">The value; null where it is not known.</param>
    /// <param name="provenAt">When it was last found right; null where nobody did.</param>
    /// <param name="cause">Decision or form.</param>
    /// <param name="run">The run.</param>
    public async Task SetAsync(Toolhead head, string key, double? number, DateTime? provenAt, Guid cause, Guid? run = null)
    {
        work.Db.MachineValues.Add(
            new MachineValue
            {
                Id = EventIds.Next(work.Now), ToolheadId = head.Id, Key = key, Number = number, ProvenAt = provenAt, CauseId = cause, RunId = run,
                At = work.Now, PersonId = (await work.PersonAsync()).Id,
            });
        await ShowAsync(head);
    }

    /// <summary>
    /// Notes what was typed of a toolhead's feed, a new one's too, as a row of its history; nothing where it stands so already. The caller saves.
    /// </summary>
    public async Task TypedAsync(Toolhead head, Toolhead? before)
    {
        if (before is null
                ? head.StepsPerMm is null && head.RotationDistanceMm is null
                : (before.StepsPerMm, before.RotationDistanceMm, before.FeedCheckedAt) == (head.StepsPerMm, head.RotationDistanceMm, head.FeedCheckedAt))
            return;
        work.Db.MachineValues.Add(
            new MachineValue
            {
                Id = EventIds.Next(work.Now), ToolheadId = head.Id, Key = head.RotationDistanceMm is null ? "stepsPerMm" : "rotationDistanceMm",
                Number = head.StepsPerMm ?? head.RotationDistanceMm, ProvenAt = head.FeedCheckedAt, CauseId = Guid.CreateVersion7(), At = work.Now,
                PersonId = (await work.PersonAsync()).Id,
            });
    }

    private async Task WithdrawAsync(Toolhead head, Guid cause)
    {
        work.Db.MachineValues.Add(
            new MachineValue
            {
                Id = EventIds.Next(work.Now), ToolheadId = head.Id, Withdraws = true, CauseId = cause, At = work.Now,
                PersonId = (await work.PersonAsync()).Id,
            });
        await ShowAsync(head);
    }

    /// <summary>What the toolhead says is the newest value that was not taken back.</summary>
    private async Task ShowAsync(Toolhead head)
    {
        var waiting = work.Db.ChangeTracker.Entries<MachineValue>().Where(e => e.State == EntityState.Added && e.Entity.ToolheadId == head.Id)
            .Select(e => e.Entity);
        var events = (await work.Db.MachineValues.AsNoTracking().Where(v => v.ToolheadId == head.Id).ToListAsync()).Concat(waiting)
            .Select(v => new MachineValueEvent(v.Id, v.At, v.CauseId, v.Key, v.Number, v.ProvenAt) { Withdraws = v.Withdraws }).ToList();
        var standing = MachineValueFold.Standing(events);
        (head.StepsPerMm, head.RotationDistanceMm) = standing?.Key == "rotationDistanceMm" ? (null, standing.Number) : (standing?.Number, (double?)null);
        head.FeedCheckedAt = standing?.ProvenAt;
    }

    /// <summary>What keeping a feed would make doubtful, said before.</summary>
    public async Task<IReadOnlyList<(string Where, string What)>> WouldDoubtAsync(TrialRunView v, SettingValue value)
    {
        var before = Standing(v.Toolhead, value.Key);
        return
        [
            .. (await TouchedAsync(v.Toolhead.Id, before, value.Value)).Select(t =>
                (Facts.NameOf(t.Pairing), string.Join(", ", t.Keys.Select(k => SettingRegistry.Get(k).Label.InSentence())))),
        ];
    }

    /// <summary>What the kept feed of a run would change in the profiles of its toolhead; nothing where it is carried over already.</summary>
    public async Task<IReadOnlyList<CarryRow>> CarriesAsync(TrialRunView v, Decision? decision)
    {
        if (decision is null
            || await work.Db.Checks.AsNoTracking().FirstOrDefaultAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null) is not { } check)
            return [];
        if (RatioOf(check, decision) is not { } ratio)
            return [];
        var list = new List<CarryRow>();
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.ToolheadId == v.Toolhead.Id).ToListAsync();
        var latest = await work.Db.ProfilesAsync([.. pairings.Select(p => p.Id)]);
        var done = await work.Db.Revisions.AsNoTracking().Where(r => r.CauseId == check.Id).GroupBy(r => r.PairingId)
            .Select(g => new { g.Key, Undone = g.Any(r => r.UndoesId != null) }).ToDictionaryAsync(x => x.Key, x => x.Undone);
        foreach (var p in pairings.Where(p => !done.TryGetValue(p.Id, out var undone) || undone))
        {
            if (latest.TryGetValue(p.Id, out var r) && FeedCarryOver.Of(r.Rows, ratio) is { Count: > 0 } values)
                list.Add(new(p.Id, Facts.NameOf(p), values));
        }

        return list;
    }

    /// <summary>Values that a toolhead's feed had, newest first, with the run that each came from.</summary>
    public async Task<IReadOnlyList<(DateTime At, string Text, Guid? Run)>> HistoryAsync(Guid toolhead)
    {
        var list = new List<(DateTime, string, Guid?)>();
        foreach (var c in await work.Db.Checks.AsNoTracking().Where(c => c.ToolheadId == toolhead && c.Kind == "feed" && c.RemovedAt == null)
                .OrderByDescending(c => c.At)
                .ToListAsync())
        {
            var v = Json.Read<Dictionary<string, double>>(c.ValuesJson);
            var before = v.TryGetValue("before", out var b) && b != v["value"] ? $", before {Words.N(b, 3)}" : "";
            list.Add(
                (
                    c.At, $"{Words.N(v["value"], 3)}{before}{(v.TryGetValue("deliveredMm", out var mm) && mm > 0 ? $": delivered {Words.N(mm)} mm" : "")}",
                    c.RunId));
        }

        return list;
    }

    /// <summary>Carries chosen profiles over.</summary>
    /// <returns>The cause, which takes it back.</returns>
    public async Task<Guid> CarryAsync(TrialRunView v, IReadOnlyList<CarryRow> chosen)
    {
        await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var decision = v.Run.Decisions.Where(d => d.UndoneAt is null).MaxBy(d => d.At)!;
            var check = await work.Db.Checks.FirstAsync(c => c.DecisionId == decision.Id && c.RemovedAt == null);
            var ratio = RatioOf(check, decision)!.Value;
            var why = $"carried over from the feed before {v.Called}";
            foreach (var row in chosen)
            {
                var rows = (await profiles.LatestAsync(row.PairingId))!.Rows;
                var carried = FeedCarryOver.Apply(rows, ratio, why);
                await profiles.AddRevisionAsync(row.PairingId, carried, $"Carried over to the new feed: × {Words.N(ratio, 4)}", v.Run.Id, check.Id);
                await evidence.RecordAsync(
                    row.PairingId,
                    [
                        .. rows.Zip(carried).Where(x => FeedCarryOver.Touches(x.First)).DistinctBy(x => x.First.Key)
                            .Select(x => Profiles.Valued(evidence.Of(row.PairingId, x.First.Key, EvidenceKind.Carried, check.Id, x.Second.StateWhy), x.Second)),
                    ]);
            }

            await work.LogAsync(
                "profile", $"{Words.Plural(chosen.Count, "profile")} carried over to the new feed of {v.Toolhead.FullName}", $"/runs/{v.Run.Id}#judge",
                $"carry:{check.Id}");
            await work.Db.SaveChangesAsync();
            return check.Id;
        });
    }

    /// <summary>Checks and changes of a toolhead and its printer, as routes ask for them.</summary>
    public static IReadOnlyList<CheckStanding> Standings(
        Toolhead head, IEnumerable<MachineCheck> checks, IEnumerable<Part> parts, double? temperatureC, DateTime now)
    {
        // The last one of each kind stands; years of earlier ones are not opened.
        var made = checks.Where(c => c.RemovedAt is null && (c.ToolheadId is null || c.ToolheadId == head.Id)).GroupBy(c => c.Kind)
            .Select(g => g.MaxBy(c => c.At)!).Select(c => new CheckMade(c.Kind, c.At, c.Passed, Json.Read<Dictionary<string, double>>(c.ValuesJson))).ToList();
        if (head.FeedCheckedAt is { } at && made.All(c => c.Kind != "feed"))
            made.Add(new("feed", at, true, new Dictionary<string, double>()));
        var changes = parts.Where(p => p.RemovedAt is null && p.PairingId is null && p.FilamentId is null && (p.ToolheadId is null || p.ToolheadId == head.Id))
            .Select(p => (p.Slot, (AgeingRules.Find(p.Slot)?.Label ?? p.Slot).InSentence(), p.FittedAt)).ToList();
        return MachineReadiness.Of(made, changes, temperatureC, now, OwnOf(head.Printer));
    }

    /// <summary>Checks that the tester added to a printer; none where it is not loaded.</summary>
    public static IReadOnlyList<OwnCheck> OwnOf(Printer? p) => p?.OwnChecksJson is { } json ? Json.Read<List<OwnCheck>>(json) : [];

    private static double? RatioOf(MachineCheck check, Decision decision)
    {
        var values = Json.Read<Dictionary<string, double>>(check.ValuesJson);
        return values.TryGetValue("before", out var before) && before > 0 && before != values["value"]
            ? FeedCarryOver.Ratio(before, values["value"], decision.SettingKey == "rotationDistanceMm")
            : null;
    }

    private static double? Standing(Toolhead head, string key) => key == "stepsPerMm" ? head.StepsPerMm : head.RotationDistanceMm;

    private static string Why(string key, double before, double after) => $"feed changed from {Words.N(before, 3)} to {InWords(key, after)}";

    /// <summary>Pairings of a toolhead whose evidence leans on the feed, doubtful one included: a second doubt outlasts the undoing of the first.</summary>
    private async Task<List<(Pairing Pairing, IReadOnlyList<string> Keys)>> TouchedAsync(Guid head, double? before, double after)
    {
        if (before is not { } was || Math.Abs(after / was - 1) * 100 < FeedMovePercent)
            return [];
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.ToolheadId == head).ToListAsync();
        var latest = await work.Db.ProfilesAsync([.. pairings.Select(p => p.Id)], AgeingRules.AfterFeed);
        return
        [
            .. pairings
                .Select(p =>
                    (p, (IReadOnlyList<string>)[.. (latest.GetValueOrDefault(p.Id)?.Rows ?? []).Where(s => s.IsEvidence).Select(s => s.Key).Distinct()]))
                .Where(x => x.Item2.Count > 0),
        ];
    }
}
