using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Where the same could be printed again.</summary>
/// <param name="Pairing">The other pairing.</param>
/// <param name="Exchanged">What is exchanged with it: filament, printer, toolhead or nozzle.</param>
/// <param name="Link">Where it is planned, with all else held.</param>
public sealed record AgainOn(Pairing Pairing, IReadOnlyList<string> Exchanged, string Link);

/// <summary>Print the same again on another pairing: what is exchanged, what is held.</summary>
public sealed class SameAgain(WorkContext work, RunComparison comparison)
{
    /// <summary>What a link between such runs is called.</summary>
    public const string Link = "swap of";

    /// <summary>The run that is printed again; null where there is none of that trial, or of a toolhead alone.</summary>
    public async Task<TrialRunView?> OfAsync(Guid id, string? kind = null) =>
        await comparison.LoadAsync(id) is { Pairing: not null } v && v.Run.RemovedAt is null && (kind is null || v.Run.Kind == kind) ? v : null;

    /// <summary>Pairings that it could be printed on, those with the least exchanged first.</summary>
    public async Task<IReadOnlyList<AgainOn>> OnAsync(TrialRunView v)
    {
        var own = v.Pairing!;
        var all = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.World == own.World && p.Id != own.Id).ToListAsync();
        return
        [
            .. all.Where(p => v.Trial.Suits(p.Filament!.Family)).Select(p => new AgainOn(p, Exchanged(own, p),
                $"/pairings/{p.Id}/{v.Trial.Kind}?like={v.Run.Id}"))
                .OrderBy(a => a.Exchanged.Count).ThenBy(a => Facts.NameOf(a.Pairing), StringComparer.Ordinal),
        ];
    }

    /// <summary>Runs that were made as swaps of one, the oldest first, each as far as it can be read.</summary>
    public async Task<IReadOnlyList<TrialRunView>> SwapsAsync(Guid id)
    {
        var ids = await work.Db.Runs.AsNoTracking().Where(r => r.LinkedRunId == id && r.LinkKind == Link && r.RemovedAt == null)
            .OrderBy(r => r.CreatedAt).Select(r => r.Id).Take(7).ToListAsync();
        var views = new List<TrialRunView>();
        foreach (var swap in ids)
        {
            if (await comparison.LoadAsync(swap) is { } v)
                views.Add(v);
        }

        return views;
    }

    /// <summary>
    /// What a run of a part or of a verification piece says of itself: whether it passed, and the layer at which it failed; null where it says nothing.
    /// </summary>
    public static (bool Passed, int? FailedAtLayer)? Outcome(TrialRunView v) =>
        v.Verdict is ZonedVerdict { Outcome: PartOutcome.Passed or PartOutcome.NotPassed } p ? (p.Outcome == PartOutcome.Passed, p.FailedAtLayer) : null;

    /// <summary>
    /// How many prints of a run passed, of how many, and the layers at which those that did not gave up. Where prints were counted one by one, the count says
    /// it; else the one print that was looked at. Null where neither says anything.
    /// </summary>
    public static (int Passed, int Tried, IReadOnlyList<int> Layers)? Counted(TrialRunView v)
    {
        var presses = TallyBook.PressesOf(v.Run);
        var outcome = Outcome(v);
        return presses.Count > 0 ? (presses.Count(f => f.Tag == TallyBook.Good), presses.Count, [])
            : outcome is { } o ? (o.Passed ? 1 : 0, 1, o is { Passed: false, FailedAtLayer: { } layer } ? [layer] : []) : null;
    }

    /// <summary>Runs that were printed again elsewhere, the newest first: what was asked of this record before.</summary>
    public async Task<IReadOnlyList<(TrialRunView Run, int Swaps)>> AskedAsync(int most)
    {
        var asked = await work.Db.Runs.AsNoTracking()
            .Where(r => r.LinkKind == Link && r.RemovedAt == null && r.Stage != RunStages.Planned && r.LinkedRunId != null)
            .GroupBy(r => r.LinkedRunId!.Value).Select(g => new { Id = g.Key, Swaps = g.Count(), At = g.Max(r => r.CreatedAt) })
            .OrderByDescending(g => g.At).Take(most).ToListAsync();
        var list = new List<(TrialRunView, int)>();
        foreach (var a in asked)
        {
            if (await OfAsync(a.Id) is { } v)
                list.Add((v, a.Swaps));
        }

        return list;
    }

    private static List<string> Exchanged(Pairing a, Pairing b)
    {
        var list = new List<string>();
        if (a.FilamentId != b.FilamentId)
            list.Add("filament");
        else if (a.VariantId != b.VariantId)
            list.Add("colour");
        if (a.Toolhead!.PrinterId != b.Toolhead!.PrinterId)
            list.Add("printer");
        else if (a.ToolheadId != b.ToolheadId)
            list.Add("toolhead");
        if (a.NozzleName != b.NozzleName)
            list.Add("nozzle");
        return list;
    }
}
