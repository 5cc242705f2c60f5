using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>How a print ended, as it was reported.</summary>
/// <param name="Outcome">whole or ended early.</param>
/// <param name="EndedAtLayer">Last layer that stands; null for a whole piece.</param>
/// <param name="Minutes">It took; null where nobody said.</param>
/// <param name="MassG">The piece weighs, g; null where nobody weighed.</param>
/// <param name="DisplayFollowed">True where somebody looked whether the display followed the table, and it did; null where nobody said.</param>
public sealed record PrintReport(string Outcome, int? EndedAtLayer, int? Minutes, double? MassG, bool? DisplayFollowed);

/// <summary>Something that was turned at the printer while it printed.</summary>
/// <param name="Factor">Key of a setting.</param>
/// <param name="Value">To what.</param>
/// <param name="FromLayer">From which layer on, from 1; null where nobody said.</param>
public sealed record LiveTurn(string Factor, FactorValue Value, int? FromLayer);

/// <summary>A condition as the run before had it: offered beside the empty field, never filled in.</summary>
/// <param name="Factor">The factor.</param>
/// <param name="Value">Its value then.</param>
/// <param name="From">The run, in words.</param>
public sealed record ConditionOffer(FactorDefinition Factor, FactorValue Value, string From);

/// <summary>Records how runs were printed, and under which conditions.</summary>
public sealed class PrintReports(WorkContext work, FactorBook factors)
{
    /// <summary>Conditions that a person can note, in the order of the form.</summary>
    public static IReadOnlyList<string> Keys { get; } =
    [
        FactorRegistry.Spool, FactorRegistry.Dryness, FactorRegistry.RoomC, FactorRegistry.RoomEndC, FactorRegistry.HumidityPercent, FactorRegistry.ChamberC,
        FactorRegistry.ChamberEndC, FactorRegistry.Enclosure, "draughtShield", FactorRegistry.Surface, "adhesive", FactorRegistry.Slicer,
        FactorRegistry.Firmware, FactorRegistry.Place,
    ];

    /// <summary>
    /// Conditions that are asked for a run: those that can be, and of chamber, enclosure, surface and adhesive those that family or trial make matter.
    /// </summary>
    public static IReadOnlyList<string> Asked(TrialRunView v)
    {
        var situation = FactorBook.Situation(v.Run, v.Pairing, v.Toolhead, v.Plan);
        var rule = v.Trial.Pools(v.Plan, situation);
        string[] onlyWhereTheyMatter =
        [
            FactorRegistry.ChamberC, FactorRegistry.ChamberEndC, FactorRegistry.Enclosure, FactorRegistry.Surface, "adhesive", "draughtShield",
            FactorRegistry.RoomEndC,
        ];
        return
        [
            .. Keys.Where(k => FactorRegistry.Find(k)!.AppliesTo(situation))
                .Where(k =>
                    !onlyWhereTheyMatter.Contains(k)
                    || rule.Matters(k)
                    || (k == FactorRegistry.ChamberEndC && rule.Matters(FactorRegistry.ChamberC))
                    || (k == FactorRegistry.RoomEndC && rule.Matters(FactorRegistry.RoomC))),
        ];
    }

    /// <summary>Says that the print has begun.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab changed the run in the same moment.</exception>
    public async Task StartAsync(TrialRunView v, int? reestimated)
    {
        v.Run.PrintStartedAt ??= work.Now;
        v.Run.ReestimatedMinutes ??= reestimated;
        work.Touch(v.Run);
        await work.LogAsync("run", $"{v.Title} printing: {v.Name}", $"/runs/{v.Run.Id}");
        await work.SaveAsync();
    }

    /// <summary>Says how a print ended, and freezes what it was made with.</summary>
    /// <param name="v">The run; tracked.</param>
    /// <param name="report">How it ended.</param>
    /// <param name="typed">Conditions that were typed or taken over with it.</param>
    /// <param name="turned">What was turned while it printed; null for nothing.</param>
    /// <exception cref="ChangedMeanwhileException">Another tab changed the run in the same moment; nothing is written.</exception>
    public async Task ReportAsync(TrialRunView v, PrintReport report, IReadOnlyDictionary<string, FactorValue>? typed = null, LiveTurn? turned = null)
    {
        var run = v.Run;
        // Reading the file back is no work for the gate.
        var set = await factors.FreezeAsync(run, v.Trial, v.Plan, v.Pairing, v.Toolhead, work.Now);
        (run.Outcome, run.EndedAtLayer, run.ActualMinutes, run.DisplayFollowed) = (report.Outcome, report.EndedAtLayer, report.Minutes, report.DisplayFollowed);
        if (report.MassG is { } g)
            run.MassUg = (long)(g * 1_000_000);
        run.Stage = RunStages.Printed;
        run.PrintedAt = work.Now;
        run.FactorsJson = set.ToJson();
        await NoteAsync(v, set, typed ?? new Dictionary<string, FactorValue>());
        if (turned is not null)
            work.Db.FactorEntries.Add(
                new FactorEntry
                {
                    Id = EventIds.Next(work.Now), RunId = run.Id, Factor = turned.Factor, Number = turned.Value.Number, Text = turned.Value.Text,
                    Source = FactorSource.Live, FromLayer = turned.FromLayer, At = work.Now, PersonId = (await work.PersonAsync()).Id,
                });
        work.Touch(run);
        await work.LogAsync(
            "run",
            $"{v.Title} {(v.Plan.TotalLayers == 0 ? "under way" : "printed")}: " +
                $"{v.Name}{(report.EndedAtLayer is null ? "" : $", ended at layer {report.EndedAtLayer}")}",
            $"/runs/{run.Id}");
        await work.SaveAsync();
    }

    /// <summary>Notes conditions of a printed run.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab changed the run in the same moment.</exception>
    public async Task<int> ConditionsAsync(TrialRunView v, IReadOnlyDictionary<string, FactorValue> typed)
    {
        var noted = await NoteAsync(v, v.Factors, typed);
        if (noted == 0)
            return 0;
        work.Touch(v.Run);
        await work.LogAsync("run", $"Conditions of {v.Called} noted: {v.Name}", $"/runs/{v.Run.Id}");
        await work.SaveAsync();
        return noted;
    }

    /// <summary>Adds entries; a spool brings what its log says of its dryness, unless somebody said that himself.</summary>
    private async Task<int> NoteAsync(TrialRunView v, FactorSet standing, IReadOnlyDictionary<string, FactorValue> typed)
    {
        var all = new Dictionary<string, FactorValue>(typed);
        if (typed.TryGetValue(FactorRegistry.Spool, out var spool) && spool.Thing is { } id)
        {
            foreach (var (key, value) in await factors.DrynessAsync(
                    id, v.Pairing, v.Run.PrintedAt ?? work.Now,
                    (typed.GetValueOrDefault(FactorRegistry.HumidityPercent) ?? standing[FactorRegistry.HumidityPercent])?.Number))
                all.TryAdd(key, value);
        }

        return (await factors.NoteAsync(v.Run, standing, all)).Count;
    }

    /// <summary>
    /// "Probably the same": notes for each factor that keeps two runs apart only because nobody knows it that somebody remembers it to be as in the other run.
    /// </summary>
    /// <returns>How many.</returns>
    public async Task<int> RememberAsync(TrialRunView v, Guid other)
    {
        if (v.Apart.FirstOrDefault(a => a.Run.Id == other) is not { } apart)
            return 0;
        var unknown = apart.Answer.Because.Where(d => d.State == Sameness.Unknown).ToList();
        await factors.NoteAsync(
            v.Run, v.Factors,
            unknown.Select(d =>
                KeyValuePair.Create(
                    d.Factor.Key,
                    new FactorValue(
                        (d.Now ?? d.Before)?.Number, (d.Now ?? d.Before)?.Text ?? (d.Now is null && d.Before is null ? "as then" : null), FactorSource.Memory
                    )
                    { Thing = other })));
        work.Touch(v.Run);
        await work.LogAsync(
            "run", $"{v.Called}: {string.Join(", ", unknown.Select(d => d.Factor.Label))} probably as in run {apart.Run.Number}, from memory",
            $"/runs/{v.Run.Id}");
        await work.SaveAsync();
        return unknown.Count;
    }

    /// <summary>What the run before on this printer had, to stand beside empty fields: for the spool and its state the run before of this filament.</summary>
    public async Task<IReadOnlyList<ConditionOffer>> OffersAsync(TrialRunView v)
    {
        var (printer, filament, self) = (v.Toolhead.PrinterId, v.Pairing?.FilamentId, v.Run.Id);
        var runs = work.Db.Runs.AsNoTracking().Include(r => r.FactorEntries).Include(r => r.Pairing)
            .Where(r =>
                r.Id != self
                && r.RemovedAt == null
                && r.Stage != RunStages.Planned
                && r.FactorsJson != null
                && r.World == v.Run.World
                && (r.Pairing!.Toolhead!.PrinterId == printer || work.Db.Toolheads.Any(t => t.Id == r.ToolheadId && t.PrinterId == printer)));
        var last = await runs.OrderByDescending(r => r.PrintedAt).FirstOrDefaultAsync();
        var same =
            filament is null || last?.Pairing?.FilamentId == filament
                ? last
                : await runs.Where(r => r.Pairing!.FilamentId == filament).OrderByDescending(r => r.PrintedAt).FirstOrDefaultAsync();
        // A spool that was opened after that run may be the one now: it is named beside the old one, so that nobody takes one for the other.
        var since = same is { PrintedAt: { } printed }
            ? (await work.Db.Spools.AsNoTracking().Where(s =>
                s.FilamentId == filament && s.RemovedAt == null && s.World == v.Run.World && s.OpenedAt > printed).ToListAsync()).MaxBy(s => s.OpenedAt)
            : null;
        var offers = new List<ConditionOffer>();
        // What is noted as loaded says more than what the run before was printed from.
        var loaded = v.Toolhead.LoadedSpoolId is { } on && filament is not null
            ? await work.Db.Spools.AsNoTracking().FirstOrDefaultAsync(s => s.Id == on && s.FilamentId == filament && s.RemovedAt == null)
            : null;
        foreach (var key in Asked(v))
        {
            if (key == FactorRegistry.Spool && loaded is not null)
            {
                offers.Add(
                    new(
                        FactorRegistry.Find(key)!, FactorValue.Of(loaded.Id, loaded.Name, FactorSource.Record), $"loaded on {v.Toolhead.FullName} since " +
                            Words.Day(v.Toolhead.LoadedAt ?? work.Now)));
                continue;
            }

            var run = key is FactorRegistry.Spool or FactorRegistry.Dryness ? same : last;
            if (run is null
                || FactorSet.Read(run.FactorsJson!).WithEntries(run.FactorEntries.Select(e => e.ToCore()))[key] is not { Applies: true } value
                || value.Source is FactorSource.Plan or FactorSource.File)
                continue;
            // A dryness of long ago says nothing of today's: it is reckoned from the spool's log instead.
            if (key == FactorRegistry.Dryness && value.Source == FactorSource.Record)
                continue;
            offers.Add(
                new(
                    FactorRegistry.Find(key)!, value,
                    $"{TrialCatalogue.Find(run.Kind)?.Name.ToLowerInvariant()} {run.Number}, {Words.Day(run.PrintedAt ?? run.CreatedAt)}" +
                        (key == FactorRegistry.Spool && since is not null && value.Thing != since.Id ? $"; {since.Name} was opened since" : "")));
        }

        return offers;
    }
}
