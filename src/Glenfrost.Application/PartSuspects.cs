using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Application;

/// <summary>Something that may be behind what was seen on a part.</summary>
/// <param name="Title">In a few words.</param>
/// <param name="Says">What the record of this pairing says of it.</param>
/// <param name="RuledOut">True where a run says that it is not that, as far as one can tell.</param>
/// <param name="RunId">That run; null where none says anything.</param>
/// <param name="Link">Where the one print that would tell is planned, or what is to be done.</param>
/// <param name="Action">What its button says.</param>
/// <param name="Cost">What it costs, in words; empty where that is not known.</param>
public sealed record PartSuspect(string Title, string Says, bool RuledOut, Guid? RunId, string Link, string Action, string Cost);

/// <summary>Orders what may be behind the defects of a part by what the record of its pairing makes likely.</summary>
public sealed class PartSuspects(WorkContext work, Profiles profiles, Pieces pieces)
{
    /// <summary>The suspects of a run of a part, the likeliest first; none where it passed or nothing was ticked.</summary>
    public async Task<IReadOnlyList<PartSuspect>> OfAsync(TrialRunView v)
    {
        if (v.Verdict is not ZonedVerdict { Outcome: PartOutcome.NotPassed } verdict || v.Pairing is not { } p)
            return [];
        var profile = await profiles.LatestAsync(p.Id);
        var found = new List<(int Rank, PartSuspect Suspect)>();
        // Damp filament strings, foams and starves whatever the settings are.
        string[] damp = ["strings", "blobs", "gaps", "starved", "split layer"];
        if (verdict.Defects.Any(damp.Contains) && await pieces.SpoolInUseAsync(p) is { Advice: { DryFirst: true } advice } spool)
            found.Add((-1, new("The spool", RouteWords.Dry(spool.Spool.Name, advice), false, null, $"/spools/{spool.Spool.Id}#drying", "Dry it first", "")));
        foreach (var kind in verdict.Suspects)
        {
            var trial = TrialCatalogue.Get(kind);
            if (!trial.Suits(p.Filament!.Family))
                continue;
            var key = trial.Settles is [var main, ..] ? main : null;
            var setting = key is null ? null : profile?[key];
            var label = key is null ? trial.Name : SettingRegistry.Get(key).Label;
            // Of two ways to one value the usual one stands for both.
            if (found.Any(f => f.Suspect.Title == label))
                continue;
            // What no run measured, and what somebody chose against the verdict, rules nothing out.
            var ruledOut = setting is { State: SettingState.Confirmed, RunId: not null } && !await GuideRecord.IsOwnChoiceAsync(work, p.Id, key!);
            var (rank, says) = setting switch
            {
                { State: SettingState.Doubtful } s => (0, $"{Words.Value(s)}, doubtful{(s.StateWhy is null ? "" : $": {s.StateWhy}")}"),
                { State: SettingState.Confirmed } s when ruledOut => (4, $"{Words.Value(s)}, confirmed: ruled out as far as runs can tell"),
                { State: SettingState.Confirmed } s =>
                    (3, $"{Words.Value(s)}, confirmed{(s.StateWhy is null ? "" : $": {s.StateWhy}")}; no run here measured it"),
                { State: SettingState.Provisional } s => (3, $"{Words.Value(s)}, rests on {s.StateWhy ?? "one run"}"),
                { State: SettingState.Inherited } s => (2, $"{Words.Value(s)}, inherited from another pairing and never measured here"),
                { } s => (1, $"{Words.Value(s)}, a starting value that nobody measured"),
                _ when key is null || trial.Subject == TrialSubject.Toolhead => (2, "of the machine: see when it was last checked"),
                _ => (1, "never measured on this pairing"),
            };
            var cost = PairingRoutes.CostOf(trial, p);
            found.Add(
                (rank, new(
                    label, says, rank == 4, setting?.RunId, TrialRuns.PlanAddress(trial, p.Id, p.ToolheadId), $"Plan {Words.Lower(trial.Name)}",
                    cost is null ? "" : RouteWords.Of(cost, p.Filament.Currency))));
        }

        return [.. found.OrderBy(f => f.Rank).Select(f => f.Suspect)];
    }
}
