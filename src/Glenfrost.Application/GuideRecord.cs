using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What the record says of the steps of a guide, for the run that led to it.</summary>
public sealed class GuideRecord(WorkContext work, TrialRuns runs, NewestVerdicts newest)
{
    /// <summary>Whether the record rules a cause out, and what it says; null where it says nothing.</summary>
    public async Task<(bool Done, string? Said)> KnownAsync(TrialRunView v, string aspect)
    {
        if (CheckKind.Find(aspect) is not null)
        {
            var checks = await work.Db.Checks.AsNoTracking().Where(c => c.PrinterId == v.Toolhead.PrinterId).ToListAsync();
            var parts = await work.Db.Parts.AsNoTracking().Where(p => p.PrinterId == v.Toolhead.PrinterId).ToListAsync();
            var standing = MachineBook.Standings(v.Toolhead, checks, parts, v.Plan.HottestC, work.Now).First(s => s.Kind.Key == aspect);
            return (standing.State == "good", $"{Words.Lower(standing.Kind.Label)}: {standing.Text}.");
        }

        if (aspect == "dry")
        {
            // What a pair of prints showed stands beside hours and humidity; alone where no spool is known.
            var pair = v.Pairing is { } own ? await PairedAsync(own.Id) : null;
            var spoolId = v.Factors[FactorRegistry.Spool]?.Thing;
            var spool = await work.Db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings)
                .Include(s => s.Stays).Include(s => s.Weighings).AsSplitQuery()
                .FirstOrDefaultAsync(s => s.Id == spoolId);
            if (spool is null)
                return (
                    pair?.Verdict == RetractionVerdict.NoDifference,
                    pair?.Sentence ?? (v.Factors[FactorRegistry.Dryness]?.Text is { } dry ? $"the spool {v.Factors[FactorRegistry.Spool]?.Text} was " +
                        $"{dry}." : null));
            var facts = Facts.DrynessFactsOf(spool, v.Factors[FactorRegistry.HumidityPercent]?.Number, null, v.Run.PrintedAt ?? work.Now);
            var advice = DrynessAdvice.Of(facts);
            // Damp is ruled out only where the answer does not hang on a humidity that nobody measured.
            return (
                advice.State == "dry" && DrynessAdvice.Recorded(facts) == "dry",
                $"spool {spool.Name}: {Words.Lower(DrynessWords.Sentence(advice))}{(pair is null ? "" : " " + pair.Sentence)}");
        }

        if (TrialCatalogue.Find(aspect) is { } trial && trial.Settles.Count > 0 && v.Pairing is { } pairing)
        {
            var setting = (await work.Db.ProfileAsync(pairing.Id))?[trial.Settles[0]];
            var bond = aspect == TemperatureTowerTrial.Word ? await BondAsync(pairing.Id, setting?.Value) : "";
            var chosen = setting is not null && await IsOwnChoiceAsync(work, pairing.Id, setting.Key);
            var said = chosen && setting!.State != SettingState.Doubtful ? "own choice" : setting?.State.ToString().ToLowerInvariant();
            // What was copied from another pairing, or chosen without a verdict, rules nothing out on this one.
            return (
                setting is { State: SettingState.Provisional or SettingState.Confirmed, NotKnownAtC: null } && !chosen, setting is null
                    ? (bond.Length > 0 ? bond.Trim() : null)
                    : $"{MachineBook.InWords(setting)}, {setting.OriginText}, {said}.{bond}");
        }

        return (false, null);
    }

    private static readonly EvidenceKind[] Stands =
        [EvidenceKind.Kept, EvidenceKind.KeptUnproven, EvidenceKind.OwnChoice, EvidenceKind.Confirmed, EvidenceKind.Passed, EvidenceKind.Stood];

    /// <summary>True where a value stands because somebody chose it, and nothing has shown it since.</summary>
    internal static async Task<bool> IsOwnChoiceAsync(WorkContext work, Guid pairing, string key)
    {
        var all = (await new EvidenceBook(work).EventsAsync(pairing)).OrderBy(e => e.At).ThenBy(e => e.Id).ToList();
        var withdrawn = all.Where(e => e.Kind == EvidenceKind.Withdrawn).Select(e => e.CauseId).ToHashSet();
        return all.LastOrDefault(e =>
            e.Key == key && !withdrawn.Contains(e.CauseId) && Stands.Contains(e.Kind)) is { Kind: EvidenceKind.OwnChoice };
    }

    /// <summary>What the newest pair before and after drying said; null where there is none.</summary>
    internal async Task<TrialVerdict?> PairedAsync(Guid pairing)
    {
        var trial = TrialCatalogue.Get(RetractionTrial.Word);
        var plans = await work.Db.Runs.AsNoTracking()
            .Where(r => r.PairingId == pairing && r.Kind == RetractionTrial.Word && r.RemovedAt == null && r.Stage != RunStages.Planned)
            .OrderByDescending(r => r.CreatedAt).Select(r => new { r.Id, r.PlanJson }).ToListAsync();
        var pair = plans.FirstOrDefault(r => trial.ReadPlan(r.PlanJson) is RetractionPlan { Request.Mode: RetractionTrial.Dried });
        return pair is not null && await runs.LoadAsync(pair.Id) is { } view ? view.Verdict : null;
    }

    /// <summary>What is known of the layer bond near the kept temperature: colder until the strings stop costs it.</summary>
    private async Task<string> BondAsync(Guid pairing, double? keptC)
    {
        // What a rig or a blind break by hand said counts before a score at a tower's sections.
        if (await newest.BondAsync(pairing) is { } broken)
            return $" {broken.Called}: {broken.Verdict.Sentence}";
        var towers = await work.Db.Runs.AsNoTracking()
            .Where(r =>
                r.PairingId == pairing
                && r.Kind == TemperatureTowerTrial.Word
                && r.RemovedAt == null
                && r.Readings.Any(x => x.Aspect == "bond"))
            .OrderByDescending(r => r.PrintedAt).Select(r => r.Id).Take(3).ToListAsync();
        foreach (var id in towers)
        {
            if (await runs.LoadAsync(id) is not { } view || keptC is not { } kept)
                continue;
            var at = view.Parts.Where(p => p.NozzleC is not null && view.Readings.Value(p.Index, "bond") is not null)
                .OrderBy(p => Math.Abs(p.NozzleC!.Value - kept)).FirstOrDefault();
            var coolest = view.Parts.Where(p => p.NozzleC is not null && view.Readings.Value(p.Index, "bond") is not null).OrderBy(p => p.NozzleC)
                .FirstOrDefault();
            if (at is not null)
                return $" Bond by hand: {Words.N(view.Readings.Value(at.Index, "bond"))} of 4 at {Words.N(at.NozzleC)} " +
                    $"°C{(coolest != at ? $", {Words.N(view.Readings.Value(coolest!.Index, "bond"))} at {Words.N(coolest.NozzleC)}" : "")}.";
        }

        return " Bond not measured: colder may be weaker, and nobody has looked.";
    }
}
