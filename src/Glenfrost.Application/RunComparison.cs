using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A run that another one can be laid beside.</summary>
/// <param name="Id">Of the run.</param>
/// <param name="Name">Trial, number, subject and day.</param>
public sealed record OtherRun(Guid Id, string Name);

/// <summary>Two runs side by side.</summary>
/// <param name="Other">The other run.</param>
/// <param name="Swept">What one of them or both go through on purpose.</param>
/// <param name="Differs">What else differs, whether it matters or not.</param>
/// <param name="Unknown">Of what nobody knows whether it differs.</param>
/// <param name="Same">What is the same.</param>
/// <param name="Says">What may be concluded; null where they are of different trials or subjects.</param>
public sealed record ComparedRuns(
    TrialRunView Other, IReadOnlyList<FactorDifference> Swept, IReadOnlyList<FactorDifference> Differs, IReadOnlyList<FactorDifference> Unknown,
    IReadOnlyList<FactorDifference> Same, Attribution? Says);

/// <summary>What a run was made with, alone and beside another one.</summary>
public sealed class RunComparison(WorkContext work, TrialRuns runs)
{
    private const int MostOthers = 60;

    /// <summary>A run with its factors, those included that only its readings tell; null where there is none.</summary>
    public async Task<TrialRunView?> LoadAsync(Guid id) => await runs.LoadAsync(id) is { } v ? v with { Factors = v.Factors.With(await ReadByAsync(v)) } : null;

    /// <summary>Factors of a run by what they belong to; parts that nobody exchanged are left out, what matters and is unknown is not.</summary>
    public static IReadOnlyList<(string Group, IReadOnlyList<(FactorDefinition Factor, FactorValue? Value, bool Swept)> Rows)> MadeWith(TrialRunView v)
    {
        var rule = v.Trial.Pools(v.Plan, FactorBook.Situation(v.Run, v.Pairing, v.Toolhead, v.Plan));
        var own = v.Factors.Values.Keys.Where(k => FactorRegistry.Find(k) is null).Order(StringComparer.Ordinal).Select(k => FactorWords.Define(v.Trial, k));
        bool Shown(FactorDefinition d, FactorValue? value) =>
            value is { Applies: true }
                ? !(d.Key.StartsWith(FactorRegistry.PartPrefix, StringComparison.Ordinal) && value.Thing is null)
                : value is null
                    && v.Run.Stage != RunStages.Planned
                    && rule.Matters(d.Key)
                    && d.IsOwed;
        return
        [
            .. FactorRegistry.All.Concat(own).Select(d => (Factor: d, Value: v.Factors[d.Key], Swept: v.Factors.Swept.Contains(d.Key)))
                .Where(r => Shown(r.Factor, r.Value)).GroupBy(r => r.Factor.Group).OrderBy(g => g.Key)
                .Select(g => (FactorWords.Group(g.Key), (IReadOnlyList<(FactorDefinition, FactorValue?, bool)>)[.. g])),
        ];
    }

    /// <summary>Printed runs of the same pairing or toolhead, then of the same filament or printer, the newest first.</summary>
    public async Task<IReadOnlyList<OtherRun>> OthersAsync(TrialRunView v)
    {
        var (self, world, pairing, head, filament, printer) = (
            v.Run.Id, v.Run.World, v.Run.PairingId, v.Run.ToolheadId, v.Pairing?.FilamentId, v.Toolhead.PrinterId);
        var found = await work.Db.Runs.AsNoTracking().Where(r => r.Id != self && r.World == world && r.RemovedAt == null && r.Stage != RunStages.Planned)
            .Where(r =>
                (r.Pairing != null && (r.Pairing.FilamentId == filament || r.Pairing.Toolhead!.PrinterId == printer))
                || (r.Pairing == null && r.ToolheadId == head))
            .OrderByDescending(r => r.PairingId == pairing && r.ToolheadId == head && r.Kind == v.Run.Kind).ThenByDescending(r => r.PrintedAt)
            .Select(r => new
            {
                r.Id, r.Kind, r.Number, At = r.PrintedAt ?? r.CreatedAt, Filament = r.Pairing!.Filament!.Line,
                Printer = r.Pairing.Toolhead!.Printer!.Name,
            }).Take(MostOthers).ToListAsync();
        return
        [
            .. found.Where(r => TrialCatalogue.Find(r.Kind) is not null)
                .Select(r => new OtherRun(
                    r.Id, $"{TrialCatalogue.Find(r.Kind)!.Name} {r.Number}{(r.Filament is null ? "" : $" · {r.Filament} on {r.Printer}")} · {Words.Day(r.At)}"
                )),
        ];
    }

    /// <summary>Lays two runs side by side; null where the other one is not there.</summary>
    public async Task<ComparedRuns?> CompareAsync(TrialRunView v, Guid other)
    {
        if (other == v.Run.Id || await LoadAsync(other) is not { } o || o.Run.World != v.Run.World)
            return null;
        var all = FactorComparison.Of(v.Factors, o.Factors, k => v.Trial.Define(k) ?? o.Trial.Define(k)).Where(FoundWith.IsTold).ToList();
        var alike =
            v.Trial.Kind == o.Trial.Kind && v.Run.PairingId == o.Run.PairingId && v.Run.ToolheadId == o.Run.ToolheadId && v.Run.Stage != RunStages.Planned;
        bool IsSwept(FactorDifference d) => d.Turned is null && (v.Factors.Swept.Contains(d.Factor.Key) || o.Factors.Swept.Contains(d.Factor.Key));
        List<FactorDifference> In(Sameness state) => [.. all.Where(d => d.State == state && !IsSwept(d))];
        // What is not applicable to both, and a part that nobody exchanged, are the same and say nothing.
        return new(
            o, [.. all.Where(IsSwept)], In(Sameness.Differs), In(Sameness.Unknown),
            [
                .. In(Sameness.Same)
                    .Where(d =>
                        d.Now is { Applies: true } && (d.Now.Number is not null || d.Now.Thing is not null || d.Now.Text is not ("as it came" or null))),
            ],
            alike ? (await runs.DiffersAsync(v, o.Run)).Says : null);
    }

    /// <summary>The instruments that read a run, each as it was then: readings say it, so it is not written down a second time.</summary>
    private async Task<IReadOnlyDictionary<string, FactorValue>> ReadByAsync(TrialRunView v)
    {
        var revisions = v.Cells.Values.Select(c => c.InstrumentRevisionId).OfType<Guid>().Distinct().ToList();
        if (revisions.Count == 0)
            return v.Cells.Count == 0
                ? new Dictionary<string, FactorValue>()
                : new() { [FactorRegistry.Instrument] = FactorValue.Of("typed by hand", FactorSource.Record) };
        var named = await work.Db.InstrumentRevisions.AsNoTracking().Where(r => revisions.Contains(r.Id))
            .Join(work.Db.Instruments, r => r.InstrumentId, i => i.Id, (r, i) => new { r.Id, i.Name, r.Resolution, r.Unit }).OrderBy(x => x.Name)
            .ToListAsync();
        var text = string.Join(", ", named.Select(n => $"{n.Name} ({Words.N(n.Resolution, 3)}{(n.Unit.Length > 0 ? $" {n.Unit}" : "")})"));
        return new Dictionary<string, FactorValue>
        {
            [FactorRegistry.Instrument] = FactorValue.Of(named.Count == 1 ? named[0].Id : null, text, FactorSource.Instrument),
        };
    }
}
