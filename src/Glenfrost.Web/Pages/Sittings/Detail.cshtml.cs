using Glenfrost.Application.Photos;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Sittings;

/// <summary>A sitting: one photo at a time without its section or temperature, then what came of it.</summary>
internal sealed class DetailModel(WorkContext work, SittingBook book) : WorkPage(work)
{
    private SittingView view = null!;

    public Sitting S => view.Sitting;

    /// <summary>The photo to be scored now; null when all are.</summary>
    public Photo? Now => view.Now;

    /// <summary>Own photos that stand for scores, where this sitting has them beside.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<OwnAnchor>> Own { get; private set; } = new Dictionary<string, IReadOnlyList<OwnAnchor>>();

    public int Place => view.Place;

    public int Count => view.Order.Count;

    public IReadOnlyList<ScoredTwice> Pairs => view.Pairs;

    /// <summary>What this sitting alone and all sittings together say.</summary>
    public (ScoreNoise Before, ScoreNoise After) Noise => view.Noise;

    public async Task<IActionResult> OnGetAsync(Guid id) => await LoadAsync(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var photoId = Form.Id("photo", "a photo");
        if (photoId is null || !view.Order.Contains(photoId.Value))
            return NotFound();
        var given = new Dictionary<string, double?>();
        foreach (var aspect in Aspects.All)
        {
            var text = Form["s." + aspect].Trim().ToLowerInvariant();
            if (text is "" or "m")
            {
                given[aspect] = null;
                continue;
            }

            var score = RecordFields.Score.Parse(text);
            if (score.Error is not null)
                Form.Refuse("s." + aspect, score.Error);
            given[aspect] = (double?)score.Value;
        }

        if (Form.IsGood && given.Values.All(v => v is null) && !Form.Ticked("skip"))
            Form.Refuse("s." + Aspects.All[0], "Score at least one aspect, or pass this photo by.");
        if (!Form.IsGood)
            return Refused();
        await book.ScoreAsync(view, photoId.Value, given);
        return Redirect($"/sittings/{id}");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (!await book.RemoveAsync(id))
            return NotFound();
        Tell("The sitting is removed; verdicts no longer use it.", "sitting", id);
        return Redirect("/sittings");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await book.ViewAsync(id) is not { } found)
            return false;
        view = found;
        if (found is { Now: not null, Sitting.WithAnchors: true })
            Own = await book.AnchorsAsync();
        return true;
    }
}
