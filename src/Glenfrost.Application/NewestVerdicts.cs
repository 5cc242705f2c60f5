using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Core.Trials.WarpPairs;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What the newest read run of a trial says of a pairing.</summary>
/// <param name="RunId">The run.</param>
/// <param name="Called">As it is called.</param>
/// <param name="Verdict">In words.</param>
public sealed record NewestVerdict(Guid RunId, string Called, TrialVerdict Verdict);

/// <summary>The newest verdicts of trials that settle no setting: layer bond, warp. What is still open, or can't be told, is passed over.</summary>
public sealed class NewestVerdicts(WorkContext work, TrialRuns runs)
{
    /// <summary>Runs that are looked at before it is given up.</summary>
    private const int Most = 6;

    /// <summary>The newest verdict of a kind that says something; null where there is none.</summary>
    /// <param name="pairing">Of which pairing.</param>
    /// <param name="kind">Word of the trial.</param>
    /// <param name="says">True for a verdict that says something.</param>
    public async Task<NewestVerdict?> OfAsync(Guid pairing, string kind, Func<TrialVerdict, bool> says)
    {
        string[] read = [RunStages.Read, RunStages.Decided, RunStages.Left];
        var newest = await work.Db.Runs.AsNoTracking()
            .Where(r => r.PairingId == pairing && r.Kind == kind && r.RemovedAt == null && read.Contains(r.Stage))
            .OrderByDescending(r => r.PrintedAt).Select(r => r.Id).Take(Most).ToListAsync();
        foreach (var id in newest)
        {
            if (await runs.LoadAsync(id) is { } v && says(v.Verdict))
                return new(id, v.Called, v.Verdict);
        }

        return null;
    }

    /// <summary>What plates in pairs say of a pairing; null where none told anything.</summary>
    public async Task<NewestVerdict?> WarpAsync(Guid pairing) =>
        await OfAsync(pairing, WarpTrial.Word, v => v is WarpVerdict { Outcome: WarpOutcome.Separable or WarpOutcome.Noise });

    /// <summary>What broken pegs say of a pairing; null where none told anything.</summary>
    public async Task<NewestVerdict?> BondAsync(Guid pairing) =>
        await OfAsync(pairing, LayerBondTrial.Word, v => v is BondVerdict { Outcome: BondOutcome.Separable or BondOutcome.Trend or BondOutcome.Noise });
}
