using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>
/// What a tester's own checks make doubtful: found wanting and not found in order since. Asked anew after each note and each taking back, so that the doubts
/// are always those of the notes that stand.
/// </summary>
internal static class OwnCheckDoubts
{
    /// <summary>Doubts what stands wanting, and takes back what does not. Within the caller's write; checks that are not saved yet count.</summary>
    /// <param name="work">The context of the work.</param>
    /// <param name="printer">The printer, with its own checks.</param>
    /// <param name="kind">Which check.</param>
    /// <returns>Profiles that became doubtful.</returns>
    public static async Task<int> RefreshAsync(WorkContext work, Printer printer, CheckKind kind)
    {
        var db = work.Db;
        await db.Checks.Where(c => c.PrinterId == printer.Id && c.Kind == kind.Key).LoadAsync();
        var all = db.Checks.Local.Where(c => c.PrinterId == printer.Id && c.Kind == kind.Key).ToList();
        var inOrder = all.Where(c => c is { Passed: true, RemovedAt: null }).Max(c => (DateTime?)c.At);
        var evidence = new EvidenceBook(work);
        var doubtful = 0;
        // Found wanting twice is doubted twice: taking one back leaves the other.
        foreach (var check in all.Where(c => !c.Passed))
        {
            var stands = check.RemovedAt is null && !(inOrder >= check.At);
            var counts = await evidence.IsInForceAsync(check.Id);
            if (stands && !counts)
                doubtful += await DoubtAsync(work, evidence, printer, kind, check);
            else if (!stands && counts)
                await evidence.WithdrawAsync(check.Id);
        }

        return doubtful;
    }

    private static async Task<int> DoubtAsync(WorkContext work, EvidenceBook evidence, Printer printer, CheckKind kind, MachineCheck check)
    {
        if (kind.Doubts.Count == 0)
            return 0;
        var keys = kind.Doubts.SelectMany(a => AgeingRules.Area(a).Settings).Distinct().ToList();
        var pairings = await work.Db.Pairings.AsNoTracking().Where(x => x.Toolhead!.PrinterId == printer.Id && x.RemovedAt == null).Select(x => x.Id)
            .ToListAsync();
        var doubtful = 0;
        foreach (var (pairing, profile) in await work.Db.ProfilesAsync(pairings))
        {
            if (profile.Rows.Where(r => r.IsEvidence && keys.Contains(r.Key)).Select(r => r.Key).Distinct().ToList() is not { Count: > 0 } touched)
                continue;
            doubtful++;
            await evidence.DoubtAsync(pairing, touched, check.Id, $"{kind.Label} found wanting {Words.Day(check.At)}");
        }

        return doubtful;
    }
}
