using Glenfrost.Core.Trials.FoamingFlow;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Trials;

/// <summary>What a cm³ of a printed part weighs.</summary>
/// <param name="GPerCm3">Grams of filament in a cm³ of part.</param>
/// <param name="Says">Of what that is, in words.</param>
public sealed record PartDensity(double GPerCm3, string Says);

/// <summary>
/// Tells what a cm³ of a part weighs: as much as its plastic, or, where it foams, as much as the foam that the run found whose multiplier is in force. A
/// foaming filament's own density says nothing of the part.
/// </summary>
public sealed class PartDensities(WorkContext work, TrialRuns runs)
{
    /// <summary>The density of what a run prints; null where it is not known.</summary>
    public async Task<PartDensity?> OfAsync(TrialRunView v)
    {
        if (v.Pairing is not { Filament: { } filament } pairing)
            return null;
        if (!FoamingFlowTrial.Foams(filament.Family))
            return filament.SolidDensityGPerCm3 is { } solid ? new(solid, "of plastic") : null;
        var foundBy = await work.Db.Revisions.AsNoTracking().Where(r => r.Id == pairing.NewestRevisionId).SelectMany(r => r.Settings)
            .Where(s => s.Key == "extrusionMultiplier").Select(s => s.RunId).FirstOrDefaultAsync();
        return foundBy is { } run && await runs.LoadAsync(run) is { Verdict: FoamVerdict { PredictedDensityGPerCm3: { } foam } } found
            ? new(foam, $"of foam of {Words.N(foam, 2)} g/cm³, as {found.Called} found it")
            : null;
    }
}
