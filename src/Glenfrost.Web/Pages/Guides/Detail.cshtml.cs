using Glenfrost.Core.Factors;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Guides;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Guides;

/// <summary>A guide, answer by answer: the address holds the whole way, so that back works and a way can be sent to somebody.</summary>
internal sealed class DetailModel(Bench bench, TrialRuns runs, Findings findings) : BenchPage(bench)
{
    public Guide G { get; private set; } = null!;

    /// <summary>The run that brought the tester here; null where none did.</summary>
    public TrialRunView? V { get; private set; }

    public IReadOnlyList<int> Answers { get; private set; } = [];

    public IReadOnlyList<(GuideStep Step, GuideAnswer Answer)> Path { get; private set; } = [];

    public GuideStep? Now { get; private set; }

    public GuideAnswer? End { get; private set; }

    public IReadOnlyList<string> In { get; private set; } = [];

    public IReadOnlyList<string> Out { get; private set; } = [];

    /// <summary>What the record says of the step at hand; null where it says nothing.</summary>
    public string? Known { get; private set; }

    /// <summary>Every step that the record can answer, with what it says; ticked where it rules the cause out.</summary>
    public IReadOnlyList<(string Label, bool Done, string Said)> Record { get; private set; } = [];

    /// <summary>What was made differently from the run before of the same trial; null where there is none.</summary>
    public (Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)? Differs { get; private set; }

    /// <summary>The run that tells.</summary>
    public (string Text, string Href)? RunLink { get; private set; }

    /// <summary>Where the mending is recorded as a change.</summary>
    public string? ChangeLink { get; private set; }

    public async Task<IActionResult> OnGetAsync(string key, string? a, Guid? run) => await LoadAsync(key, a, run) ? Page() : NotFound();

    public async Task<IActionResult> OnPostNoteAsync(string key)
    {
        ReadForm();
        if (!await LoadAsync(key, Sheet["a"], Sheet.Id("run", "a run")) || V is null || Path.Count == 0)
            return NotFound();
        var text = $"{(In.Count > 0 ? $"likely: {string.Join(", ", In)}" : "nothing sure")}{(Out.Count > 0 ? $"; ruled out: {string.Join(", ", Out)}" : "")}";
        await findings.AddAsync(
            Sheet["findingKey"], G.Key.Replace('-', ' '), text.Length > 290 ? text[..290] + "…" : text, V.Run.Id, V.Pairing?.Id, null, null, V.Called,
            $"/runs/{V.Run.Id}?open=read#findings");
        Tell("It is noted with the run.");
        return Redirect($"/runs/{V.Run.Id}?open=read#findings");
    }

    private async Task<bool> LoadAsync(string key, string? a, Guid? run)
    {
        if (GuideShelf.Find(key) is not { } guide)
            return false;
        G = guide;
        V = run is { } id ? await runs.LoadAsync(id) : null;
        var asked = (a ?? "").Split('.', StringSplitOptions.RemoveEmptyEntries).Select(x => int.TryParse(x, out var n) ? n : -1).Take(50).ToList();
        (Path, Now, End) = guide.Follow(asked);
        Answers = [.. asked.Take(Path.Count)];
        In = [.. Path.SelectMany(p => p.Answer.RulesIn ?? []).Distinct().Except(Path.SelectMany(p => p.Answer.RulesOut ?? []))];
        Out = [.. Path.SelectMany(p => p.Answer.RulesOut ?? []).Distinct()];
        if (V is not null && Now?.Aspect is { } aspect)
            Known = (await KnownAsync(aspect)).Said;
        if (V is not null)
        {
            var record = new List<(string, bool, string)>();
            foreach (var step in G.Steps.Where(s => s.Aspect is not null))
            {
                var (done, said) = await KnownAsync(step.Aspect!);
                record.Add((step.Key, done, said ?? "the record says nothing of it"));
            }

            Record = record;
            Differs = V.Run.Stage == RunStages.Planned ? null : await runs.DiffersAsync(V);
        }
        if (End is { Run: { } kind } && TrialCatalogue.Find(kind) is { } trial)
        {
            RunLink = V is null ? ($"{trial.Name}: choose a pairing", "/pairings")
                : trial.Subject == TrialSubject.Pairing && V.Pairing is null ? ($"{trial.Name}: choose a pairing", "/pairings")
                : (
                    $"Plan: {Words.Lower(trial.Name)}",
                    TrialRuns.PlanAddress(trial, V.Pairing?.Id, V.Toolhead.Id) + (trial.Kind == V.Run.Kind ? $"?after={V.Run.Id}" : ""));
        }

        if (End is { Change: not null } && V is not null)
            ChangeLink = $"/printers/{V.Toolhead.PrinterId}#fit";
        return true;
    }

    /// <summary>Whether the record rules a cause out, and what it says; null where it says nothing.</summary>
    private async Task<(bool Done, string? Said)> KnownAsync(string aspect)
    {
        var v = V!;
        if (CheckKind.Find(aspect) is not null)
        {
            var checks = await Db.Checks.AsNoTracking().Where(c => c.PrinterId == v.Toolhead.PrinterId).ToListAsync();
            var parts = await Db.Parts.AsNoTracking().Where(p => p.PrinterId == v.Toolhead.PrinterId).ToListAsync();
            var standing = MachineBook.Standings(v.Toolhead, checks, parts, v.Plan.HottestC, Bench.Now).First(s => s.Kind.Key == aspect);
            return (standing.State == "good", $"{Words.Lower(standing.Kind.Label)}: {standing.Text}.");
        }

        if (aspect == "dry")
        {
            // What a pair of prints showed counts for more than hours and humidity.
            var pair = v.Pairing is { } own ? await PairedAsync(own.Id) : null;
            var spoolId = v.Factors[FactorRegistry.Spool]?.Thing;
            var spool = await Db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings).Include(s => s.Weighings).AsSplitQuery()
                .FirstOrDefaultAsync(s => s.Id == spoolId);
            if (spool is null)
                return (
                    pair?.Contains("dry enough", StringComparison.Ordinal) == true,
                    pair ?? (v.Factors[FactorRegistry.Dryness]?.Text is { } dry ? $"the spool {v.Factors[FactorRegistry.Spool]?.Text} was {dry}." : null));
            var facts = Facts.DrynessFactsOf(spool, v.Factors[FactorRegistry.HumidityPercent]?.Number, null, v.Run.PrintedAt ?? Bench.Now);
            var advice = Core.Filaments.DrynessAdvice.Of(facts);
            // Damp is ruled out only where the answer does not hang on a humidity that nobody measured.
            return (
                advice.State == "dry" && Core.Filaments.DrynessAdvice.Recorded(facts) == "dry",
                $"spool {spool.Name}: {Words.Lower(advice.Sentence)}{(pair is null ? "" : " " + pair)}");
        }

        if (TrialCatalogue.Find(aspect) is { } trial && trial.Settles.Count > 0 && v.Pairing is { } pairing)
        {
            var setting = (await Db.ProfileAsync(pairing.Id))?[trial.Settles[0]];
            var bond = aspect == Core.Trials.TemperatureTower.TemperatureTowerTrial.Word ? await BondAsync(pairing.Id, setting?.Value) : "";
            // What was copied from another pairing rules nothing out on this one.
            return (
                setting is { State: Core.Profiles.SettingState.Provisional or Core.Profiles.SettingState.Confirmed, NotKnownAtC: null }, setting is null
                    ? (bond.Length > 0 ? bond.Trim() : null)
                    : $"{MachineBook.InWords(setting)}, {setting.OriginText}, {setting.State.ToString().ToLowerInvariant()}.{bond}");
        }

        return (false, null);
    }

    /// <summary>What the newest pair before and after drying said; null where there is none.</summary>
    private async Task<string?> PairedAsync(Guid pairing)
    {
        var run = await Db.Runs.AsNoTracking()
            .Where(r =>
                r.PairingId == pairing
                && r.Kind == Core.Trials.RetractionSweep.RetractionTrial.Word
                && r.RemovedAt == null
                && r.PlanJson.Contains("\"dried-pair\"")
                && r.Stage != RunStages.Planned)
            .OrderByDescending(r => r.CreatedAt).Select(r => (Guid?)r.Id).FirstOrDefaultAsync();
        return run is { } id && await runs.LoadAsync(id) is { } view ? view.Verdict.Sentence : null;
    }

    /// <summary>What is known of the layer bond near the kept temperature: colder until the strings stop costs it.</summary>
    private async Task<string> BondAsync(Guid pairing, double? keptC)
    {
        var towers = await Db.Runs.AsNoTracking()
            .Where(r =>
                r.PairingId == pairing
                && r.Kind == Core.Trials.TemperatureTower.TemperatureTowerTrial.Word
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
