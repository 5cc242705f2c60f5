using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Where a pairing stands before its goal, with what it was reckoned from.</summary>
/// <param name="Goal">What the tester said; an empty one where nobody did.</param>
/// <param name="Said">True where the tester said it; else the use asks.</param>
/// <param name="Standing">Where it stands.</param>
/// <param name="Spent">What was spent.</param>
/// <param name="Gain">The most that one more print is expected to gain, scores; null where no verdict says so.</param>
/// <param name="Scatter">What one score scatters, standard deviation.</param>
public sealed record GoalView(Goal Goal, bool Said, GoalStanding Standing, Spent Spent, double? Gain, double Scatter)
{
    /// <summary>True where the budget is spent and nobody has read that yet.</summary>
    public bool TellsOver => Standing.Over && Goal.OverSeenAt is null;
}

/// <summary>When a pairing is good enough, and what it cost so far.</summary>
public sealed class GoalBook(WorkContext work, ScoreNoises noises, AnswerCache answers, WriteGate gate, DryerBook dryers)
{
    private const int MostPieces = 8;

    private static readonly TimeSpan Remembered = TimeSpan.FromMinutes(10);

    private const double SameTemperatureC = 3;

    /// <summary>Where a pairing stands.</summary>
    /// <param name="p">With filament and toolhead.</param>
    /// <param name="profile">Its profile; null before its first revision.</param>
    /// <param name="route">Its route.</param>
    public async Task<GoalView> OfAsync(Pairing p, ProfileView? profile, Route route)
    {
        var goal = p.GoalJson is { } json ? Json.Read<Goal>(json) : new();
        var found = (profile?.Settings ?? []).Where(s => s.IsEvidence && s.Word is null).GroupBy(s => s.Key).ToDictionary(g => g.Key, g => g.First().Value);
        var known = await noises.AllAsync();
        // What was scored and spent is a function of what was written.
        var key = $"goal {p.Id} {gate.Writes}";
        var (pieces, spent) = answers.TryGet(key, out (List<GoalPiece>, Spent) made) ? made
            : answers.Put(key, 10, (await PiecesAsync(p, profile?["nozzleTemperatureC"]), await SpentAsync(p)), Remembered);
        var gain = route.Steps.Where(s => s.State != StepState.Skipped).Max(s => s.Gain);
        return new(
            goal, p.GoalJson is not null && goal.Targets.Count > 0, GoalStanding.Of(goal, p.Use, pieces, found, spent, gain), spent, gain,
            known.Count > 0 ? known.Values.Average(n => n.Sd) : Core.Statistics.ScoreNoise.Default);
    }

    /// <summary>What was printed on a pairing, whatever came of it.</summary>
    public async Task<Spent> SpentAsync(Pairing p)
    {
        var runs = await work.Db.Runs.AsNoTracking().Where(r => r.PairingId == p.Id && r.RemovedAt == null && r.Stage != RunStages.Planned)
            .Select(r => new
            {
                r.Id, r.MassUg, Minutes = r.ActualMinutes ?? r.ReestimatedMinutes ?? r.ForeseenMinutes, r.FactorsJson, At = r.PrintedAt ?? r.CreatedAt,
                Spools = r.FactorEntries.Where(e => e.Factor == FactorRegistry.Spool).ToList(),
            }).ToListAsync();
        // Runs of earlier versions keep neither: their plans say both.
        var ids = runs.Where(r => r.MassUg is null || r.Minutes is null).Select(r => r.Id).ToList();
        var plans = (await work.Db.Runs.AsNoTracking().Where(r => ids.Contains(r.Id)).Select(r => new { r.Id, r.Kind, r.PlanJson }).ToListAsync())
            .ToDictionary(r => r.Id, r => Planned(r.Kind, r.PlanJson));
        var grams = runs.Sum(r => r.MassUg is { } mass ? mass / 1e6 : plans[r.Id]?.MassG ?? 0);
        var minutes = runs.Sum(r => r.Minutes ?? plans[r.Id]?.Minutes ?? 0);
        // Each run's grams carry the drying of the spool that it was printed from.
        var used = runs
            .Select(r => (Spool: DryerBook.SpoolOf(r.FactorsJson, r.Spools), r.At, Grams: r.MassUg is { } mass ? mass / 1e6 : plans[r.Id]?.MassG ?? 0))
            .ToList();
        var dried = await dryers.MinorPerGramAsync([.. used.Select(r => r.Spool).OfType<Guid>().Distinct()], Facts.PowerOf(p.Toolhead?.Printer).MinorPerKwh);
        var drying = used.Sum(r => r.Grams * (dried(r.Spool, r.At) ?? 0));
        return new(runs.Count, minutes, grams, Facts.PrintCost(p, grams, minutes, grams > 0 ? drying / grams : null).SumMinor);
    }

    private static TrialEstimate? Planned(string kind, string json)
    {
        try
        {
            return TrialCatalogue.Find(kind)?.ReadPlan(json).Estimate;
        }
        // One run that can't be drawn keeps nobody from the others.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return null;
        }
    }

    /// <summary>
    /// What was scored with the temperature in force: that section of a tower, check pieces that were printed since it stands, and verification pieces zone by
    /// zone.
    /// </summary>
    /// <param name="p">The pairing.</param>
    /// <param name="nozzle">Its nozzle temperature; null where none is in force.</param>
    /// <param name="zones">False to leave verification pieces out: their zones are no aspects.</param>
    public async Task<List<GoalPiece>> PiecesAsync(Pairing p, ProfileSetting? nozzle, bool zones = true)
    {
        string[] scored = [TrialCatalogue.TemperatureTower, "quick-check", .. zones ? [VerificationTrial.Word] : Array.Empty<string>()];
        if (nozzle is not { IsEvidence: true })
            return [];
        var runs = await work.Db.Runs.AsNoTracking().Include(r => r.Readings)
            .Where(r => r.PairingId == p.Id && r.RemovedAt == null && scored.Contains(r.Kind) && r.Stage != RunStages.Planned && r.Stage != RunStages.Printed)
            .OrderByDescending(r => r.PrintedAt).Take(MostPieces).ToListAsync();
        // From when the temperature stands: its print, or the day that it was typed.
        var since = nozzle.RunId is { } found
            ? await work.Db.Runs.Where(r => r.Id == found).Select(r => r.PrintedAt).FirstOrDefaultAsync()
            : await work.Db.Standings.Where(x => x.PairingId == p.Id && x.Key == "nozzleTemperatureC").Select(x => (DateTime?)x.At).FirstOrDefaultAsync();
        var pieces = new List<GoalPiece>();
        foreach (var run in runs)
        {
            if (PieceOf(run, p, nozzle.Value, since) is { } piece)
                pieces.Add(piece);
        }

        return pieces;
    }

    /// <summary>What a run shows at a temperature; null where it shows nothing of it, or can't be read.</summary>
    private static GoalPiece? PieceOf(Run run, Pairing p, double nozzleC, DateTime? since)
    {
        try
        {
            var v = TrialRuns.View(TrialCatalogue.Get(run.Kind), run, p, p.Toolhead!, new Dictionary<Guid, Core.Statistics.ScoreNoise>());
            if (v.Verdict is VerificationVerdict { Outcome: not PartOutcome.Insufficient } verified)
                return Math.Abs((v.Parts[0].NozzleC ?? nozzleC) - nozzleC) > SameTemperatureC || run.PrintedAt < since ? null
                    : new(run.Id, v.Title, ZonesOf(verified));
            var part = v.Parts.Where(x => x.NozzleC is null ? run.PrintedAt >= since : Math.Abs(x.NozzleC.Value - nozzleC) <= SameTemperatureC)
                .OrderBy(x => Math.Abs((x.NozzleC ?? nozzleC) - nozzleC)).FirstOrDefault();
            return part is not null && v.Scores(part.Index) is { Count: > 0 } scores ? new(run.Id, v.Title, scores) : null;
        }
        // One run that can't be drawn keeps nobody from the others.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return null;
        }
    }

    /// <summary>A zone that failed, at whatever layer, has reached nothing; one that was lost, or that nobody scored, says nothing.</summary>
    private static Dictionary<string, double> ZonesOf(VerificationVerdict v)
    {
        static bool Failed(PartZone z) => z.FailedAtLayer is not null || z.State == SectionState.Failed;
        return v.From.Zones.Where(z => Failed(z) || z is { State: SectionState.Judged, Score: not null })
            .ToDictionary(z => z.Label, z => Failed(z) ? 0 : z.Score!.Value);
    }

    /// <summary>Says when a pairing is good enough.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="goal">Checked.</param>
    public Task SetAsync(Guid pairing, Goal goal) => ChangeAsync(pairing, before => goal with
    {
        Before = before is null ? null : before with
        {
            Before = null
        }
    },
        p => $"Good enough for {Facts.NameOf(p)}: {GoalWords.Of(goal, p.Use, p.Filament!.Currency)}", true);

    /// <summary>Notes that somebody read that the budget is spent: it is not said again.</summary>
    public Task SeenAsync(Guid pairing) =>
        ChangeAsync(pairing, before => (before ?? new()) with { OverSeenAt = work.Now }, p => $"The budget for {Facts.NameOf(p)} is spent; read", false);

    private Task ChangeAsync(Guid pairing, Func<Goal?, Goal> to, Func<Pairing, string> said, bool undo) => work.AloneAsync(async () =>
    {
        var p = await work.Db.Pairings.Full().FirstAsync(x => x.Id == pairing);
        p.GoalJson = Json.Write(to(p.GoalJson is { } json ? Json.Read<Goal>(json) : null));
        await work.LogAsync("profile", said(p), $"/pairings/{pairing}#goal", undo ? $"goal:{pairing}" : null);
        return await work.Db.SaveChangesAsync();
    });
}
