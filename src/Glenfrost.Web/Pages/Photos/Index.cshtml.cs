using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Photos;
using Glenfrost.Web.Photos;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Photos;

/// <summary>A photo as the page shows it.</summary>
/// <param name="Photo">The photo.</param>
/// <param name="Title">Section and temperature.</param>
/// <param name="Run">Run and day.</param>
/// <param name="Scores">What was scored there.</param>
public sealed record Shot(Photo Photo, string Title, string Run, string Scores);

/// <summary>The photos of a run: by section, side by side, and beside other runs of the same trial at the same height.</summary>
internal sealed class IndexModel(
    WorkContext work, PhotoBook book, Erasure erasure, TrialRuns runs, Findings findings, AnchorBook anchors, DataPlace place)
    : WorkPage(work)
{
    /// <summary>Most photos that are put side by side.</summary>
    public const int MostBeside = 4;

    private IReadOnlyList<TrialRunView> others = [];

    public TrialRunView V { get; private set; } = null!;

    /// <summary>All photos of this run, coolest section first, as the rows of the reading table.</summary>
    public List<Shot> Shots { get; private set; } = [];

    /// <summary>Photos chosen to stand side by side.</summary>
    public List<Shot> Beside { get; private set; } = [];

    /// <summary>Other runs with their photos at the same height or temperature; empty lists where they have none there.</summary>
    public List<(TrialRunView Run, string At, List<Shot> Shots)> Across { get; private set; } = [];

    public int? AcrossSection { get; private set; }

    public bool ByTemperature { get; private set; }

    public IEnumerable<KeyValuePair<string, string>> Sections =>
        V
            .Grid.Rows.Select(r =>
                KeyValuePair.Create(r.Section.ToString(), V.Parts[r.Section].Label + (V.Parts[r.Section].FirstLayer > 0 ? $", section {r.Section + 1}" : "")))
            .Prepend(KeyValuePair.Create("", "the whole piece"));

    public static IEnumerable<KeyValuePair<string, string>> Ways { get; } =
    [KeyValuePair.Create("height", "at the same height"), KeyValuePair.Create("temperature", "at the same temperature")];

    /// <summary>Sections that have no photo yet.</summary>
    public IEnumerable<PlanPart> Bare =>
        V.Grid.Rows.Select(r => V.Parts[r.Section]).Where(s => V.States[s.Index] != SectionState.Lost && Shots.All(x => x.Photo.Section != s.Index));

    /// <summary>How many sections could be scored again blind: they have a photo and scores.</summary>
    public int Rescorable =>
        Shots.Where(s => s.Photo.Section is { } i and >= 0 && i < V.Parts.Count && V.Scores(i).Count > 0 && V.Trial is TemperatureTowerTrial)
            .Select(s => s.Photo.Section).Distinct().Count();

    public async Task<IActionResult> OnGetAsync(Guid id, Guid[] c, int? across, string? by)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (TempData["refused"] is string refused)
            Form.Notice = refused;
        await ShowAsync(c, across, by);
        return Page();
    }

    /// <summary>Aspects of this trial that a photo may stand for, by key of their words.</summary>
    public IEnumerable<KeyValuePair<string, string>> AnchorKeys =>
        V.Grid.Columns.Where(c => c.Anchors is not null).GroupBy(c => c.Anchors!.Key)
            .Select(g => KeyValuePair.Create(g.Key, string.Join(", ", g.Select(c => c.Label.InSentence()))));

    /// <summary>The scores of 4 to 0 with their words, where the aspects share them.</summary>
    public static IEnumerable<KeyValuePair<string, string>> AnchorScores { get; } =
    [
        KeyValuePair.Create("4", "4, clean"), KeyValuePair.Create("3", "3"), KeyValuePair.Create("2", "2, it passes"), KeyValuePair.Create("1", "1"),
        KeyValuePair.Create("0", "0, unusable"),
    ];

    /// <summary>What photos stand for, by key of the aspect's words.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<OwnAnchor>> Own { get; private set; } = new Dictionary<string, IReadOnlyList<OwnAnchor>>();

    /// <summary>Lets a photo stand for a score of an aspect, beside the cells from now on.</summary>
    public async Task<IActionResult> OnPostAnchorAsync(Guid id, Guid photo)
    {
        if (!await LoadAsync(id) || Shots.All(x => x.Photo.Id != photo))
            return NotFound();
        ReadForm();
        var key = Form.Choice("anchorKey", "what it shows", [.. AnchorKeys.Select(k => k.Key)]);
        var score = Form.Choice("anchorScore", "the score", [.. AnchorScores.Select(k => k.Key)]);
        if (!Form.IsGood)
        {
            await ShowAsync([photo], null, null);
            return Refused();
        }

        var chosen = await anchors.ChooseAsync(photo, key, int.Parse(score));
        Tell($"This photo stands for {score} of {AnchorKeys.First(k => k.Key == key).Value}: it is shown beside the cells from now on.", "anchor", chosen.Id);
        return Redirect($"/runs/{id}/photos?c={photo}");
    }

    /// <summary>Takes a choice back.</summary>
    public async Task<IActionResult> OnPostUnanchorAsync(Guid id, Guid photo)
    {
        ReadForm();
        if (Form.Id("anchor", "a choice") is not { } choice || !await anchors.RemoveAsync(choice))
            return NotFound();
        Tell("It stands for that score no more.", "unanchor", choice);
        return Redirect($"/runs/{id}/photos?c={photo}");
    }

    /// <summary>True where strings between two reeds can be measured on a photo.</summary>
    public bool CanMeasure => V.Trial is RetractionTrial;

    /// <summary>What was measured of a photo, newest first.</summary>
    public IEnumerable<Finding> MeasuredOf(Guid photo) =>
        V.Run.Findings.Where(f => f.PhotoId == photo && f.Tag == ByPhoto && f.RemovedAt is null).OrderByDescending(f => f.At);

    /// <summary>Tag of a measured photo.</summary>
    public const string ByPhoto = "strings by photo";

    /// <summary>Measures the strings between two clicked reeds, and notes what is seen beside the person's own score.</summary>
    public async Task<IActionResult> OnPostMeasureAsync(Guid id, Guid photo)
    {
        if (!await LoadAsync(id) || !CanMeasure || Shots.FirstOrDefault(x => x.Photo.Id == photo) is not { } shot)
            return NotFound();
        ReadForm();
        double At(string name, string label, int most) =>
            Form.Double(name, new Quantity(label, "px", 0, most, "inside the photo; click on the reeds"), true) ?? 0;
        var (x1, y1, x2, y2) = (
            At("x1", "One reed, across", shot.Photo.WidthPx), At("y1", "One reed, down", shot.Photo.HeightPx),
            At("x2", "The other reed, across", shot.Photo.WidthPx), At("y2", "The other reed, down", shot.Photo.HeightPx));
        if (Form.IsGood)
        {
            using var kept = place.Files.Open(shot.Photo.Sha256);
            if (kept is null || Pictures.Grey(kept) is not var (picture, scale))
            {
                Form.Refuse("x1", "The picture is gone from the data folder: take it again.");
            }
            else
            {
                var (seen, refused) = await Task.Run(() => StringsInGap.Measure(picture, (x1 * scale, y1 * scale), (x2 * scale, y2 * scale)));
                if (seen is null)
                {
                    Form.Refuse("x1", refused!);
                }
                else
                {
                    var own = shot.Photo.Section is { } section
                        ? new[] { RetractionTrial.Narrow, RetractionTrial.Wide }.Select(a => V.Readings.Value(section, a)).OfType<double>().ToList()
                        : [];
                    var worth = RetractionJudging.ScoreOf(seen.Count);
                    var beside =
                        own.Count == 0
                            ? ""
                            : $" By eye {string.Join(" and ", own.Select(o => Words.N(o)))}, the photo's count is worth {Words.N(worth, 1)}: " +
                                $"{(own.Min() - 1 <= worth && worth <= own.Max() + 1 ? "they agree" : "look again, in another light")}.";
                    var key = Convert.ToHexString(
                        System.Security.Cryptography.SHA256.HashData(
                            System.Text.Encoding.UTF8.GetBytes(FormattableString.Invariant($"{photo}|{x1:0}|{y1:0}|{x2:0}|{y2:0}"))));
                    await findings.AddAsync(
                        key, ByPhoto, seen.Sentence + beside, id, V.Pairing?.Id, shot.Photo.Section, photo, $"{V.Called}, {shot.Title}",
                        $"/runs/{id}/photos?c={photo}");
                    Tell($"Measured: {seen.Sentence}");
                    return Redirect($"/runs/{id}/photos?c={photo}");
                }
            }
        }

        await ShowAsync([photo], null, null);
        return Refused();
    }

    public async Task<IActionResult> OnPostNoteAsync(Guid id, Guid photo)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var note = Form.Text("note", "Note", 300);
        if (!Form.IsGood)
        {
            await ShowAsync([photo], null, null);
            return Refused();
        }

        if (!await book.NoteAsync(V, photo, note))
            return NotFound();
        Tell("The note is kept.");
        return Redirect($"/runs/{id}/photos?c={photo}");
    }

    public async Task<IActionResult> OnPostFindingAsync(Guid id, Guid photo)
    {
        if (!await LoadAsync(id) || Shots.FirstOrDefault(x => x.Photo.Id == photo) is not { } shot)
            return NotFound();
        ReadForm();
        var tag = Form.Text("tag", "Finding", 60, true);
        if (!Form.IsGood)
        {
            await ShowAsync([photo], null, null);
            return Refused();
        }

        await findings.AddAsync(
            Form["findingKey"], tag!, shot.Photo.Note, id, V.Pairing?.Id, shot.Photo.Section, photo, $"{V.Called}, {shot.Title}, with its photo",
            $"/runs/{id}/photos?c={photo}");
        Tell($"\"{tag}\" is noted with this photo.");
        return Redirect($"/runs/{id}/photos?c={photo}");
    }

    public async Task<IActionResult> OnPostMoveAsync(Guid id, Guid photo)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (!await book.MoveAsync(V, photo, int.TryParse(Form["section"], out var i) && i >= 0 && i < V.Parts.Count ? i : null))
            return NotFound();
        Tell("The photo stands where it belongs.");
        return Redirect($"/runs/{id}/photos?c={photo}");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id, Guid photo)
    {
        if (!await book.RemoveAsync(id, photo))
            return NotFound();
        Tell("The photo is removed.", "photo", photo);
        return Redirect($"/runs/{id}/photos");
    }

    /// <summary>Takes the picture off the disk; no undo.</summary>
    public async Task<IActionResult> OnPostEraseAsync(Guid id, Guid photo)
    {
        if (await erasure.PhotoAsync(id, photo) is not { } done)
            return NotFound();
        Tell(done);
        return Redirect($"/runs/{id}/photos");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { } v)
            return false;
        V = v;
        Shots = ShotsOf(v, _ => true);
        return true;
    }

    private async Task ShowAsync(Guid[] chosen, int? across, string? by)
    {
        ByTemperature = by == "temperature";
        AcrossSection = across is >= 0 && across < V.Parts.Count && V.Trial is TemperatureTowerTrial ? across : null;
        if (V.Pairing is not null && (AcrossSection is not null || chosen.Except(Shots.Select(s => s.Photo.Id)).Any()))
            others = await book.SiblingsAsync(V);

        if (AcrossSection is { } section)
        {
            foreach (var v in others.Prepend(V))
            {
                var at = ByTemperature
                    ? TowerHeights.SameTemperature((TowerPlan)V.Plan, section, (TowerPlan)v.Plan)
                    : TowerHeights.SameHeight((TowerPlan)V.Plan, section, (TowerPlan)v.Plan);
                Across.Add(
                    (
                        v, at is { } i ? v.Parts[i].Label
                        : ByTemperature ? "not printed at this temperature"
                        : "ends below this height",
                        at is null ? [] : ShotsOf(v, p => p.Section == at)));
            }
        }

        var all = others.Prepend(V).SelectMany(v => ShotsOf(v, p => chosen.Contains(p.Id))).ToDictionary(s => s.Photo.Id);
        Beside = [.. chosen.Distinct().Where(all.ContainsKey).Take(MostBeside).Select(p => all[p])];
        if (Beside.Count == 1)
            Own = await anchors.OfAsync(V.Grid);
        if (Beside is [var one])
        {
            Form["note"] = Form.Errors.Count > 0 ? Form["note"] : one.Photo.Note ?? "";
            Form["section"] = one.Photo.Section?.ToString() ?? "";
        }
    }

    private static List<Shot> ShotsOf(TrialRunView v, Func<Photo, bool> which) =>
        [
            .. v.Run.Photos.Where(p => p.RemovedAt is null && which(p)).OrderByDescending(p => p.Section ?? int.MaxValue).ThenBy(p => p.At)
                .Select(p => new Shot(
                    p, v.Label(p.Section) ?? "whole piece", $"run {v.Run.Number}, {Words.ShortDay(v.Run.PrintedAt ?? v.Run.CreatedAt)}",
                    p.Section is { } s and >= 0 && s < v.Parts.Count
                        ? v.States[s] == SectionState.Judged
                            ? string.Join(
                                " · ",
                                v.Grid.Columns.Where(c =>
                                        c.Kind != CellKind.Word && c.Aspect != CellAspects.Observed && v.Readings.Value(s, c.Aspect) is not null)
                                    .Select(c => $"{(c.Kind == CellKind.Score ? c.Aspect : Words.Lower(c.Label))} {Words.N(v.Readings.Value(s, c.Aspect), 3)}"))
                            : v.States[s].ToString().ToLowerInvariant()
                        : "")),
        ];
}
