using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Reports;

/// <summary>Gathers the report of a filament from its record.</summary>
public sealed class ReportBook(
    WorkContext work, FilamentBook filaments, GoalBook goals, TrialRuns runs, PairingsSideBySide side, GuideRecord guides, NewestVerdicts newest,
        AnswerCache answers,
    WriteGate gate, TallyBook tallies)
{
    /// <summary>Machines that one page of paper has room for.</summary>
    public const int MostMachines = 4;

    private const int MostParts = 3;

    private static readonly TimeSpan Remembered = TimeSpan.FromMinutes(10);

    /// <summary>The report; null where there is no such filament.</summary>
    public async Task<FilamentReport?> OfAsync(Guid id)
    {
        // What it says is a function of what was written, and of the day.
        var key = $"report {id} {work.Now.Date:yyyyMMdd} {gate.Writes}";
        if (answers.TryGet(key, out FilamentReport? known))
            return known;
        return await MakeAsync(id) is { } made ? answers.Put(key, 50, made, Remembered) : null;
    }

    private async Task<FilamentReport?> MakeAsync(Guid id)
    {
        if (await filaments.ViewAsync(id) is not { } view)
            return null;
        var (range, fromLabel) = Facts.NozzleRange(view.Filament);
        var label = fromLabel ? range : null;
        // A second tester's archive that was brought in has a filament of its own under the same name: what was found of it stands beside.
        List<FilamentView> views = [view];
        foreach (var other in await SameNamedAsync(view.Filament))
        {
            if (await filaments.ViewAsync(other) is { } beside)
                views.Add(beside);
        }

        var found = views.SelectMany(v => v.Pairings.Select(p => (Pairing: p, Values: ValuesOf(v.Profiles.GetValueOrDefault(p.Id))))).ToList();
        var ids = found.ConvertAll(f => f.Pairing.Id);
        var printed = await work.Db.Runs.AsNoTracking()
            .Where(r => r.PairingId != null && ids.Contains(r.PairingId.Value) && r.RemovedAt == null && r.PrintedAt != null)
            .Select(r => new { r.Id, PairingId = r.PairingId!.Value, r.Kind, r.Number, r.Stage, At = r.PrintedAt!.Value }).ToListAsync();
        // What nobody printed or measured anything on says nothing about the filament.
        var tried = found.Where(f => f.Values.Count > 0 || printed.Any(r => r.PairingId == f.Pairing.Id))
            .OrderByDescending(f => f.Pairing.FilamentId == id).ThenByDescending(f => f.Values.Count)
            .ThenBy(f => f.Pairing.Toolhead!.FullName, StringComparer.Ordinal).ToList();
        var names = printed.ToDictionary(r => r.Id, r => $"{Words.Lower(TrialCatalogue.Find(r.Kind)?.Name ?? r.Kind)} {r.Number}");
        var machines = new List<ReportMachine>();
        foreach (var ((pairing, settings), i) in tried.Take(MostMachines).Select((t, i) => (t, i)))
        {
            var nozzle = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC" && s.State != SettingState.Doubtful);
            var pieces = await goals.PiecesAsync(pairing, nozzle, false);
            var scores = pieces.SelectMany(p => p.Scores).GroupBy(s => s.Key).ToDictionary(g => g.Key, g => g.Average(s => s.Value));
            var own = printed.Where(r => r.PairingId == pairing.Id).OrderByDescending(r => r.At).ToList();
            var parts = await PartsAsync([.. own.Where(r => r.Kind == PartTrial.Word).Select(r => r.Id)]);
            var verified = await VerifiedAsync([.. own.Where(r => r.Kind == VerificationTrial.Word).Select(r => r.Id)]);
            var flow = settings.FirstOrDefault(s => s.Key == "maxVolumetricFlowMm3PerS" && s.State != SettingState.Doubtful)?.Value;
            var judged = parts.Where(p => p.View.Verdict is PartVerdict { Outcome: not PartOutcome.Insufficient }).ToList();
            var tower = own.Where(r => r.Kind == TrialCatalogue.TemperatureTower).Select(r => (Guid?)r.Id).FirstOrDefault();
            machines.Add(
                new(
                    ((char)('A' + i)).ToString(), pairing,
                    [
                        .. settings.Select(s => new ReportValue(
                            s.Key, SettingRegistry.Get(s.Key).Label, s.Value, WithUnit(s), s.HalfText, s.State.ToString().ToLowerInvariant(),
                            s.RunId is { } run && names.TryGetValue(run, out var name) ? name : s.OriginText, s.RunId)),
                    ],
                    ReportSentences.AgainstLabel(label, nozzle?.Value), scores, pieces.Count,
                    Suitability.Of(new(scores, flow, judged.Count(p => p.Row.Passed), judged.Count)),
                    (await guides.PairedAsync(pairing.Id))?.Sentence, [.. parts.Select(p => p.Row).DistinctBy(p => p.Name), .. verified],
                    await PhotosAsync(tower, nozzle?.Value, parts))
                {
                    Bond = (await newest.BondAsync(pairing.Id))?.Verdict is { } bond ? $"{bond.Sentence} {bond.Reasons.FirstOrDefault()}".Trim() : null,
                    By = pairing.FilamentId == id ? null : await ReadersAsync([.. own.Select(r => r.Id)]) is { Count: > 0 } others
                        ? string.Join(", ", others) : "another bench",
                    Warp = (await newest.WarpAsync(pairing.Id))?.Verdict is { } warp ? $"{warp.Sentence} {warp.Reasons.FirstOrDefault()}".Trim() : null,
                });
        }

        var read = printed.ConvertAll(r => r.Id);
        var testers = await ReadersAsync(read);
        var perGram = Facts.MinorPerGram(view.Filament);
        var towers = (await side.CurvesAsync([.. machines.Select(m => m.Pairing.Id)], 1)).FirstOrDefault(c => c.Name == TrialCatalogue.Get(TrialCatalogue
            .TemperatureTower).Name);
        return new(
            view.Filament, ReportNotes.Of(view.Filament), label, machines, tried.Count - machines.Count, towers, WatchOf(view.Filament, machines),
            NotTestedOf(view.Filament, tried.ConvertAll(t => t.Values), machines), printed.Count, printed.Min(r => (DateTime?)r.At),
            printed.Max(r => (DateTime?)r.At), testers, perGram * 1000, perGram * view.Filament.SolidDensityGPerCm3 * 1000);
    }

    private Task<List<string>> ReadersAsync(List<Guid> runs) =>
        work.Db.Readings.AsNoTracking().Where(r => r.PersonId != null && runs.Contains(r.RunId)).Select(r => r.PersonId).Distinct()
            .Join(work.Db.People, x => x, p => (Guid?)p.Id, (_, p) => p.Name).OrderBy(n => n).ToListAsync();

    /// <summary>Other filaments of the same maker, line and family, the oldest first.</summary>
    private Task<List<Guid>> SameNamedAsync(Filament f) => work.Db.Filaments.AsNoTracking()
        .Where(x => x.Id != f.Id && x.RemovedAt == null && x.Maker == f.Maker && x.Line == f.Line && x.Family == f.Family).OrderBy(x => x.Id)
        .Select(x => x.Id).Take(MostMachines).ToListAsync();

    /// <summary>Saves the tester's words; false where there is no such filament.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task<bool> NoteAsync(Guid id, ReportNotes notes)
    {
        if (await filaments.ToEditAsync(id) is not { } f)
            return false;
        f.ReportJson = notes == ReportNotes.None ? null : Json.Write(notes);
        work.Touch(f);
        await work.LogAsync("filament", $"{f.Name}: words of its report", $"/filaments/{f.Id}/report");
        await work.SaveAsync();
        return true;
    }

    private static IReadOnlyList<ProfileSetting> ValuesOf(ProfileView? profile) => profile is null ? []
        : [.. SettingRegistry.All.SelectMany(d => profile.Settings.Where(s => s.Key == d.Key && s is { IsEvidence: true, NotKnownAtC: null }))];

    private static string WithUnit(ProfileSetting s)
    {
        var unit = SettingRegistry.Get(s.Key).Quantity.Unit;
        return $"{s.ValueText}{(unit.Length > 0 && s.Word is null ? $" {unit}" : "")}{(s.AtC is { } at ? $" at {Words.N(at, 0)} °C" : "")}";
    }

    private async Task<List<(ReportPart Row, TrialRunView View)>> PartsAsync(IReadOnlyList<Guid> ids)
    {
        var parts = new List<(ReportPart, TrialRunView)>();
        foreach (var id in ids.Take(MostParts))
        {
            if (await ReadAsync(id) is not { Verdict: PartVerdict verdict } v)
                continue;
            var tally = await tallies.OfAsync(v);
            parts.Add((new(id, (v.Plan as PartPlan)?.FileName is { } file ? System.IO.Path.GetFileNameWithoutExtension(file) : v.Called,
                ReportSentences.Outcome(verdict), verdict.Outcome == PartOutcome.Passed, ReportSentences.Cost(tally)), v));
        }

        return parts;
    }

    /// <summary>What stands of the verification: the newest of each piece, in one row; what failed before it was mended is history.</summary>
    private async Task<List<ReportPart>> VerifiedAsync(IReadOnlyList<Guid> newestFirst)
    {
        var newest = new Dictionary<bool, (Guid Id, VerificationVerdict Verdict)>();
        foreach (var id in newestFirst.Take(4 * MostParts))
        {
            if (await ReadAsync(id) is { Plan: VerificationPlan plan, Verdict: VerificationVerdict { Outcome: not PartOutcome.Insufficient } verdict })
                newest.TryAdd(plan.IsClip, (id, verdict));
            if (newest.Count == 2)
                break;
        }

        return newest.Count == 0 ? [] :
        [
            new(
                newest.Values.First().Id, "verification",
                string.Join(
                    ", ", newest.OrderBy(n => n.Key).Select(n => $"{(n.Key ? "gauge clip" : "small vane")} {ReportSentences.Outcome(n.Value.Verdict)}")),
                newest.Values.All(n => n.Verdict.Outcome == PartOutcome.Passed), null)
            {
                Shows = newest.Values.SelectMany(n => n.Verdict.Shows).Select(a => Core.Ageing.AgeingRules.Area(a).Label).ToList() is { Count: > 0 } shown
                    ? $"shows {Say.List(shown)}" : "",
            },
        ];
    }

    private async Task<TrialRunView?> ReadAsync(Guid id)
    {
        try
        {
            return await runs.LoadAsync(id);
        }
        // One run that can't be drawn keeps nobody from the others.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return null;
        }
    }

    /// <summary>Of the tower the section nearest to what was found, or the whole; of the newest part that has one, its first.</summary>
    private async Task<IReadOnlyList<ReportPhoto>> PhotosAsync(Guid? tower, double? foundC, List<(ReportPart Row, TrialRunView View)> parts)
    {
        var list = new List<ReportPhoto>();
        if (tower is { } id && await ReadAsync(id) is { } v && v.Run.Photos.Where(p => p.RemovedAt is null).ToList() is { Count: > 0 } photos)
        {
            double Off(Photo p) => p.Section is { } s && v.Parts.ElementAtOrDefault(s)?.NozzleC is { } at && foundC is { } t ? Math.Abs(at - t) : 500;
            var best = photos.MinBy(Off)!;
            list.Add(new(best.Id, best.Section is { } s && v.Parts.ElementAtOrDefault(s)?.NozzleC is { } c ? $"tower, {Words.N(c, 0)} °C" : "tower"));
        }

        if (parts.FirstOrDefault(p => p.View.Run.Photos.Any(x => x.RemovedAt is null)) is { Row: { } row, View: { } of })
            list.Add(new(of.Run.Photos.First(x => x.RemovedAt is null).Id, row.Name));
        return list;
    }

    private static IReadOnlyList<string> WatchOf(Filament f, IReadOnlyList<ReportMachine> machines)
    {
        static double? Of(ReportMachine m, string key) => m.Values.FirstOrDefault(v => v.Key == key && v.State != "doubtful")?.Value;
        var watch = new List<string?>
        {
            ReportSentences.Drives([.. machines.Where(m => Of(m, "retractionLengthMm") is not null).Select(m => (m.Letter, m.Pairing.Toolhead!, Of(m,
                "retractionLengthMm")!.Value))]),
        };
        watch.AddRange(machines.Select(m => ReportSentences.Liner(m.Letter, Of(m, "nozzleTemperatureC"), m.Pairing.Toolhead!)));
        watch.AddRange(machines.Select(m => ReportSentences.Doubtful(m.Letter, [.. m.Values.Where(v => v.State == "doubtful").Select(v => v.Label)])));
        watch.AddRange(ReportSentences.Family(f));
        return [.. watch.OfType<string>()];
    }

    private static IReadOnlyList<string> NotTestedOf(Filament f, IReadOnlyList<IReadOnlyList<ProfileSetting>> found, IReadOnlyList<ReportMachine> machines)
    {
        var lacks = RouteMap.Of(f.Family).Where(s => s.SettingKey is { } key && !found.Any(values => values.Any(v => v.Key == key)))
            .Select(s => ReportSentences.NotTested(s.SettingKey!)).ToList();
        if (machines.All(m => m.Parts.Count == 0))
            lacks.Add("a real part");
        if (machines.All(m => m.Drying is null))
            lacks.Add("before and after drying");
        foreach (var (drive, word) in new[] { ("direct", "a direct drive"), ("long-tube", "a long tube") })
        {
            if (machines.Count > 0 && machines.All(m => m.Pairing.Toolhead!.Drive != drive))
                lacks.Add(word);
        }

        if (machines.All(m => m.Bond is null))
            lacks.Add("strength: no peg was broken");
        if (machines.All(m => m.Warp is null))
            lacks.Add("warp: no pair of plates was measured");
        return lacks;
    }
}
