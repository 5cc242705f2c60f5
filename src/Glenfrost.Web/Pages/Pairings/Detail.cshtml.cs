using Glenfrost.Core.Trials;
using System.Text;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

internal sealed partial class DetailModel(
    WorkContext work, PairingBook pairings, AreaEvidence areas, Findings findings, SideBySide beside, PairingRoutes routes,
    LedgerBook ledger, GoalBook goals) : WorkPage(work)
{
    public Pairing P { get; private set; } = null!;

    private const int LedgerRows = 20;

    /// <summary>Where it stands before what is good enough.</summary>
    public GoalView Goal { get; private set; } = null!;

    public ProfileView? Latest { get; private set; }

    /// <summary>The newest of what was tried.</summary>
    public Ledger Ledger { get; private set; } = new([], [], 0);

    public List<ProfileSetting> Settings { get; private set; } = [];

    /// <summary>What was found or chosen for it, and what it only starts from.</summary>
    public (List<ProfileSetting> Found, List<ProfileSetting> Starting) FoundAndStarting
    {
        get
        {
            var starting = Settings.ToLookup(x => x.State is SettingState.Start or SettingState.Inherited);
            return ([.. starting[false]], [.. starting[true]]);
        }
    }

    /// <summary>The starting values in one line.</summary>
    public string StartingSaid => string.Join(
        " · ", FoundAndStarting.Starting.Select(x =>
            $"{SettingRegistry.Get(x.Key).Label.InSentence()} {x.ValueText} {SettingRegistry.Get(x.Key).Quantity.Unit}".TrimEnd()));

    /// <summary>How much is known of what no setting holds.</summary>
    public string AreasSaid
    {
        get
        {
            var known = Areas.Where(a => a.Item is { State: not EvidenceState.Open }).ToList();
            var said = known.Select(a => $"{a.Area.Label.InSentence()} {a.Item!.State.ToString().ToLowerInvariant()}").ToList();
            return string.Join(" · ", Areas.Count > known.Count ? [.. said, $"{Areas.Count - known.Count} open"] : said);
        }
    }

    /// <summary>How much was noted of it.</summary>
    public string NotedSaid => (Findings.Found.Items.Count, Findings.Tried.Items.Count) switch
    {
        (0, 0) => "nothing yet",
        (var found, 0) => $"{found} noted",
        (0, var tried) => $"{tried} tried",
        var (found, tried) => $"{found} noted, {tried} tried",
    };

    /// <summary>Findings, and apart from them the diary of what was tried.</summary>
    public (FindingList Found, FindingList Tried) Findings { get; private set; } = (new([], true), new([], true));

    public List<(ProfileRevision Revision, List<string> Changes)> Revisions { get; private set; } = [];

    public PairingNext Next { get; private set; } = null!;

    /// <summary>What it still needs, in the order of work.</summary>
    public PairingRoute Route { get; private set; } = null!;

    public static IEnumerable<KeyValuePair<string, string>> Keys { get; } =
        SettingRegistry.All.Select(d => KeyValuePair.Create(d.Key, d.Quantity.Unit.Length > 0 ? $"{d.Label}, {d.Quantity.Unit}" : d.Label)).ToList();

    public async Task<IActionResult> OnGetAsync(Guid id) => await LoadAsync(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPostTypeAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var dryer = await pairings.DryerMaxAsync();
        var typed = new List<ProfileSetting>();
        var doubted = new List<ProfileSetting>();
        for (var i = 1; i <= TypedRows; i++)
            ReadRow(i, dryer, typed, doubted);
        var reason = Form.Text("reason", "Why", 200, true);
        // A doubt goes only when somebody says why: the first try asks.
        Doubted = doubted.FirstOrDefault();
        var good = Doubted is null ? null : Form.Text("doubtWhy", "Why it is good", 200);
        if (Doubted is not null && good is null)
            Form.Refuse(
                "doubtWhy", $"{string.Join("; ", doubted.Select(d => $"{SettingRegistry.Get(d.Key).Label} is doubtful: {d.StateWhy}"))}. Say why " +
                    $"{(doubted.Count == 1 ? "your value is" : "your values are")} good all the same; the doubt goes with it.");
        if (!Form.IsGood)
            return Refused();
        typed =
        [
            .. typed.Select(t => t with
            {
                OriginText = $"typed: {reason}{(doubted.FirstOrDefault(d => d.Key == t.Key) is { } d ? $"; good although {d.StateWhy}: {good}" : "")}",
            }),
        ];
        await pairings.TypeAsync(P, typed, good is null ? reason! : $"{reason}; good although doubtful: {good}");
        double? Now(string key) => typed.FirstOrDefault(t => t.Key == key)?.Value ?? Latest?[key]?.Value;
        var colder = typed.Any(t => t.Key is BesideNozzle.Nozzle or BesideNozzle.FirstLayer)
            ? Words.ColderFirstLayer(Now(BesideNozzle.Nozzle), Now(BesideNozzle.FirstLayer)) : null;
        var said = typed.Select(t => (Value: t, Is: SettingRegistry.Get(t.Key)))
            .Select(t => $"{t.Is.Label} {t.Value.ValueText} {t.Is.Quantity.Unit}".TrimEnd());
        Tell($"{string.Join(", ", said)} in the profile now, as own choice.{(colder is null ? "" : $" {colder}")}");
        return Redirect($"/pairings/{id}#{typed[0].Key}");
    }

    /// <summary>Rows of the form for values that are typed by hand.</summary>
    public const int TypedRows = 6;

    /// <summary>Of them, those that are not folded.</summary>
    public const int OpenRows = 2;

    /// <summary>True where a folded row holds something.</summary>
    public bool MoreTyped => Enumerable.Range(OpenRows + 1, TypedRows - OpenRows).Select(Row).Any(r => Form[r.Key].Length + Form[r.Value].Length > 0);

    /// <summary>Names of a row's fields, counted from 1.</summary>
    public static (string Key, string Value) Row(int i) => i == 1 ? ("key", "value") : ($"key{i}", $"value{i}");

    /// <summary>Settings to choose from, or none: the rows that may stay empty.</summary>
    public static IEnumerable<KeyValuePair<string, string>> MoreKeys { get; } = [KeyValuePair.Create("", "–"), .. Keys];

    private void ReadRow(int i, double? dryer, List<ProfileSetting> typed, List<ProfileSetting> doubted)
    {
        var (key, field) = Row(i);
        if (i > 1 && Form[key].Length == 0)
        {
            if (Form[field].Trim().Length > 0)
                Form.Refuse(key, $"Say which setting {Form[field].Trim()} is of, or empty the field.");
            return;
        }

        if (SettingRegistry.Find(Form[key]) is not { } definition)
        {
            Form.Refuse(key, "Choose a setting from the list.");
            return;
        }

        var (value, word, wrong) = definition.Read(Form[field]);
        wrong ??= word is null ? ProfileLimits.Wrong(definition.Key, value, P, dryer) : null;
        if (wrong is not null)
            Form.Refuse(field, wrong);
        else if (typed.Any(t => t.Key == definition.Key))
            Form.Refuse(key, $"{definition.Label} stands above already: one value of each.");
        else
            typed.Add(new(definition.Key, value, null, SettingOrigin.Typed, "", SettingState.Provisional, "own choice") { Word = word });
        if (Latest?[definition.Key] is { State: SettingState.Doubtful } stands)
            doubted.Add(stands);
    }

    /// <summary>The doubtful value that somebody types over; null where none is asked about.</summary>
    public ProfileSetting? Doubted { get; private set; }

    /// <summary>Says of an area without a setting what is known: passed, failed, left out, taken up again.</summary>
    public async Task<IActionResult> OnPostAreaAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var area = Form.Choice("area", "an area", [.. EvidenceAreas.WithoutSetting.Select(a => a.Key)]);
        var kind = Form.Choice("what", "what is known", ["passed", "failed", "skipped", "resumed"]);
        var text = Form.Text("areaWhy", "Why", 200, kind == "failed");
        if (!Form.IsGood)
            return Refused();
        await areas.SayAsync(P, area, kind, text);
        Tell(kind switch { "skipped" => "It is left out of the route.", "resumed" => "It is part of the route again.", _ => "It is noted." });
        return Redirect($"/pairings/{id}#areas");
    }

    public async Task<IActionResult> OnPostStepAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var step = Form.Choice("step", "a step",
            [.. RouteMap.Stations.Where(s => s.CanBeLeftOut).Select(s => s.Key)]);
        var what = Form.Choice("what", "what to do", ["skipped", "resumed"]);
        var why = Form.Text("stepWhy", "Why", 200);
        if (!Form.IsGood)
            return Refused();
        await areas.SayAsync(P, step, what, why);
        Tell(what == "skipped" ? "It is left out of the route." : "It is part of the route again.");
        return Redirect($"/pairings/{id}");
    }

    public async Task<IActionResult> OnPostSchoolAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var school = Form.Choice("school", "an order", [.. RouteMap.Schools.Keys, "own"]);
        var order = Form.Text("order", "The order", 200, school == "own");
        if (school == "own" && order is not null)
        {
            var keys = RouteMap.Read(order).Order;
            var unknown = RouteMap.Unknown(keys);
            if (keys.Count == 0 || unknown is not null)
                Form.Refuse(
                    "order", $"{(unknown is null ? "" : $"There is no step \"{unknown}\". ")}Name steps with commas, for example " +
                        $"{string.Join(", ", RouteMap.Order(RouteSchool.SpeedFirst).Take(3))}: the rest follows.");
        }

        if (!Form.IsGood)
            return Refused();
        await routes.SetAsync(id, school == "own" ? order! : school);
        Tell("The order of work is changed; what is done stays done.", "route", id);
        return Redirect($"/pairings/{id}");
    }

    /// <summary>Steps that are left out: what the profile does not rest on.</summary>
    public IEnumerable<RouteStep> LeftOut => Route.Route.Steps.Where(s => s.State == StepState.Skipped);

    /// <summary>Areas without a setting of their own, with what is known of each.</summary>
    public IReadOnlyList<(Core.Ageing.AgeingArea Area, EvidenceItem? Item)> Areas { get; private set; } = [];

    /// <summary>Values found at other temperatures.</summary>
    public IReadOnlyList<ProfileSetting> Others => Latest?.Others ?? [];

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (!await pairings.RemoveAsync(id))
            return NotFound();
        Tell("The pairing is removed with its profile; its runs are kept.", "pairing", id);
        return Redirect("/pairings");
    }

    public async Task<IActionResult> OnPostFindingAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var tag = Form.Text("tag", "Finding", 60, true);
        var text = Form.Text("findingText", "Note", 300);
        return await NoteAsync(id, tag, text);
    }

    /// <summary>Settings for which a known good value can be noted.</summary>
    public static IEnumerable<KeyValuePair<string, string>> PracticeKeys { get; } =
    [
        .. Core.Trials.KnownGoodValues.Keys.Select(k => SettingRegistry.Get(k))
            .Select(d => KeyValuePair.Create(d.Key, d.Quantity.Unit.Length > 0 ? $"{d.Label}, {d.Quantity.Unit}" : d.Label)),
    ];

    public async Task<IActionResult> OnPostKnownAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var key = Form.Choice("knownKey", "Setting", [.. Core.Trials.KnownGoodValues.Keys]);
        var value = Form.Double("knownValue", SettingRegistry.Find(key)?.Quantity ?? RecordFields.NozzleC, true);
        var at = Form.Double("knownC", RecordFields.NozzleC);
        var note = Form.Text("knownNote", "Who says so", 200);
        if (!Form.IsGood)
            return Refused();
        await findings.AddAsync(
            Form["findingKey"], Glenfrost.Application.Findings.KnownGood, note, null, id, null, null,
            $"{SettingRegistry.Get(key).Label.InSentence()} {Words.Value(key, value!.Value)}, {Facts.NameOf(P)}", $"/pairings/{id}#findings",
            (key, value!.Value, at));
        Tell("It stands beside the test results from now on.");
        return Redirect($"/pairings/{id}#findings");
    }

    public async Task<IActionResult> OnPostTriedAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var what = Form.Text("tried", "What was tried", 300, true);
        var outcome = Form.Choice("outcome", "How it went", FindingWords.OutcomeWords);
        return await NoteAsync(id, FindingWords.Tried(outcome), what);
    }

    public async Task<IActionResult> OnPostRemoveFindingAsync(Guid id)
    {
        ReadForm();
        if (Form.Id("finding", "a finding") is not { } findingId
            || await pairings.RemoveFindingAsync(id, findingId) is not { } f)
            return NotFound();
        Tell($"The finding \"{f.Tag}\" is removed.", "finding", f.Id);
        return Redirect($"/pairings/{id}#findings");
    }

    private async Task<IActionResult> NoteAsync(Guid id, string? tag, string? text)
    {
        if (!Form.IsGood)
            return Refused();
        await findings.AddAsync(Form["findingKey"], tag!, text, null, id, null, null, Facts.NameOf(P), $"/pairings/{id}#findings");
        return Redirect($"/pairings/{id}#findings");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await pairings.ViewAsync(id) is not { } record)
            return false;
        var (p, revisions, known, noted, doubts) = record;
        P = p;
        Latest = revisions.FirstOrDefault() is { } newest ? ProfileViews.Of(newest, known) : null;
        var order = SettingRegistry.All.Select((d, i) => (d.Key, i)).ToDictionary(x => x.Key, x => x.i);
        Settings = [.. (Latest?.Settings ?? []).OrderBy(s => order.GetValueOrDefault(s.Key, 99))];
        Areas =
        [
            .. EvidenceAreas.WithoutSetting.Select(a =>
                (
                    a, known.Where(k => k.Key == null && k.Area == a.Key).Select(k => new EvidenceItem(k.Area, null, null, k.State, k.Why, k.RunId, k.At))
                        .FirstOrDefault())),
        ];
        Route = await routes.OfAsync(record);
        Ledger = await ledger.OfAsync([p.Id], LedgerRows) ?? Ledger;
        Next = Route.Next();
        Goal = await goals.OfAsync(p, Latest, Route.Route);
        FillGoal();
        var listed = noted
            .Select(f =>
                p.Runs.FirstOrDefault(r => r.Id == f.RunId) is { } run
                    ? (f, $"{Core.Trials.TrialCatalogue.Find(run.Kind)?.Noun} {run.Number}", $"/runs/{run.Id}")
                    : (f, (string?)null, (string?)null))
            .ToLookup(x => FindingWords.OutcomeOf(x.f.Tag) is not null);
        Findings = (new([.. listed[false]], true), new([.. listed[true]], true));
        Revisions = [.. revisions.Take(20).Select((r, i) => (r, i + 1 < revisions.Count ? Changes(revisions[i + 1], r) : []))];
        Doubts =
        [
            .. doubts.GroupBy(e => (e.CauseId, e.Kind))
                .Select(g =>
                    (
                        g.First().At, g.Key.Kind == EvidenceKind.Withdrawn ? "taken back" : $"doubtful: {g.First().Text}",
                        g.Key.Kind == EvidenceKind.Withdrawn ? "" : Glenfrost.Application.Profiles.Labels(g.Select(e => e.Key!).Distinct())))
                .Where(d => d.Item2 != "taken back" || revisions.All(r => r.At != d.At)),
        ];
        Ways = await beside.OfAsync(id, Latest);
        return true;
    }

    /// <summary>Settings that several trials found, side by side.</summary>
    public IReadOnlyList<WaysOf> Ways { get; private set; } = [];

    /// <summary>What made settings doubtful, newest first.</summary>
    public IReadOnlyList<(DateTime At, string Why, string What)> Doubts { get; private set; } = [];

    private static List<string> Changes(ProfileRevision before, ProfileRevision now)
    {
        var was = before.Settings.GroupBy(s => (s.Key, s.AtC)).ToDictionary(g => g.Key, g => g.Last());
        return
        [
            .. now.Settings.Where(s => !was.TryGetValue((s.Key, s.AtC), out var w) || w.Value != s.Value || w.Word != s.Word || w.State != s.State)
                .Select(s =>
                {
                    var d = SettingRegistry.Find(s.Key);
                    var label = d?.Label.InSentence() ?? s.Key;
                    string Text(SettingRow r) => SettingRegistry.Text(r.Key, r.Value, r.Word, r.Uncertainty);
                    return !was.TryGetValue((s.Key, s.AtC), out var w) ? $"{label} {Text(s)} new{(s.AtC is { } at ? $", found at {Words.N(at)} °C" : "")}"
                        : w.Value != s.Value || w.Word != s.Word ? $"{label} {Text(w)} → {Text(s)} {d?.Quantity.Unit}"
                        : w.State is { } a && s.State is { } b ? $"{label} {a.ToString().ToLowerInvariant()} → {b.ToString().ToLowerInvariant()}"
                        : "";
                }).Where(x => x.Length > 0),
        ];
    }
}
