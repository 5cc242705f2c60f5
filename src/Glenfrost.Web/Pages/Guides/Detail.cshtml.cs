using Glenfrost.Core.Factors;
using Glenfrost.Core.Guides;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Guides;

/// <summary>A guide, answer by answer: the address holds the whole way, so that back works and a way can be sent to somebody.</summary>
internal sealed class DetailModel(WorkContext work, TrialRuns runs, GuideRecord book, Findings findings) : WorkPage(work)
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

    /// <summary>What may still be asked after the step at hand.</summary>
    public IReadOnlyList<GuideStep> Ahead => Now is null ? [] : G.After(Now);

    /// <summary>Causes that no answer spoke of before the guide came to its end.</summary>
    public IReadOnlyList<string> NotAsked => [.. G.Steps.SelectMany(s => s.Causes).Distinct().Except(In).Except(Out)];

    /// <summary>What the record says of a step, where it can say anything; done where it rules the cause out.</summary>
    private readonly Dictionary<string, (bool Done, string? Said)> record = [];

    /// <summary>A step's causes as its row's name.</summary>
    public static string NameOf(GuideStep step) => (step.Causes.Count > 0 ? string.Join(", ", step.Causes) : step.Key).AtHead();

    /// <summary>
    /// What the record says of a step, as a sentence; null without a run, or where it can say nothing of such a step. Where a step asks for several causes, the
    /// record speaks of one of them and rules out none.
    /// </summary>
    public string? Recorded(GuideStep step) => !record.TryGetValue(step.Key, out var r) ? null
        : r.Said is null ? "The record says nothing of it."
        : $"{(!r.Done ? "The record leaves it open" : step.Causes.Count > 1 ? "From the record" : "Ruled out by the record")}: {r.Said.TrimEnd('.')}.";

    /// <summary>What was made differently from the run before of the same trial; null where there is none.</summary>
    public (Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)? Differs { get; private set; }

    /// <summary>The run that tells.</summary>
    public (string Text, string Href)? RunLink { get; private set; }

    /// <summary>Where the mending is recorded as a change.</summary>
    public string? ChangeLink { get; private set; }

    /// <summary>Where the mending is noted as a check of the machine.</summary>
    public string? CheckLink { get; private set; }

    public async Task<IActionResult> OnGetAsync(string key, string? a, Guid? run) => await LoadAsync(key, a, run) ? Page() : NotFound();

    public async Task<IActionResult> OnPostNoteAsync(string key)
    {
        ReadForm();
        if (!await LoadAsync(key, Form["a"], Form.Id("run", "a run")) || V is null || Path.Count == 0)
            return NotFound();
        var text = $"{(In.Count > 0 ? $"likely: {string.Join(", ", In)}" : "nothing sure")}{(Out.Count > 0 ? $"; ruled out: {string.Join(", ", Out)}" : "")}";
        await findings.AddAsync(
            Form["findingKey"], G.Key.Replace('-', ' '), text.Length > 290 ? text[..290] + "…" : text, V.Run.Id, V.Pairing?.Id, null, null, V.Called,
            $"/runs/{V.Run.Id}?open=read#findings");
        Tell("It is noted with the run.");
        return Redirect($"/runs/{V.Run.Id}?open=read#findings");
    }

    /// <summary>What the guide ended in was done: a line of the diary of what was tried on the pairing, with how it went.</summary>
    public async Task<IActionResult> OnPostTriedAsync(string key)
    {
        ReadForm();
        if (!await LoadAsync(key, Form["a"], Form.Id("run", "a run")) || V?.Pairing is not { } pairing || End is null)
            return NotFound();
        var outcome = Form.Choice("outcome", "How it went", FindingWords.OutcomeWords);
        var text = $"{G.Key.Replace('-', ' ').AtHead()}: {Words.Lower(End.Do ?? "nothing more to do")}";
        if (Form.Text("note", "What was seen", 200) is { } note)
            text = $"{text} {note}";
        if (!Form.IsGood)
            return Refused();
        await findings.AddAsync(
            Form["findingKey"], FindingWords.Tried(outcome), text.Length > 300 ? text[..299] + "…" : text,
            V.Run.Id, pairing.Id, null, null, Facts.NameOf(pairing),
            $"/pairings/{pairing.Id}#findings");
        Tell("It stands in the diary of what was tried.");
        return Redirect($"/pairings/{pairing.Id}#findings");
    }

    private async Task<bool> LoadAsync(string key, string? a, Guid? run)
    {
        if (GuideCatalogue.Find(key) is not { } guide)
            return false;
        G = guide;
        V = run is { } id ? await runs.LoadAsync(id) : null;
        var asked = (a ?? "").Split('.', StringSplitOptions.RemoveEmptyEntries).Select(x => int.TryParse(x, out var n) ? n : -1).Take(50).ToList();
        (Path, Now, End) = guide.Follow(asked);
        Answers = [.. asked.Take(Path.Count)];
        In = [.. Path.SelectMany(p => p.Answer.RulesIn ?? []).Distinct().Except(Path.SelectMany(p => p.Answer.RulesOut ?? []))];
        Out = [.. Path.SelectMany(p => p.Answer.RulesOut ?? []).Distinct()];
        if (V is not null)
        {
            foreach (var step in G.Steps.Where(s => s.Aspect is not null))
                record[step.Key] = await book.KnownAsync(V, step.Aspect!);
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
        if (End is { Check: { } check })
            CheckLink = V is null ? "/printers" : $"/printers/{V.Toolhead.PrinterId}/checks#{check}";
        return true;
    }
}
