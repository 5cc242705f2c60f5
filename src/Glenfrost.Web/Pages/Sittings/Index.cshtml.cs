using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Sittings;

/// <summary>What is known of a person's score noise, and the start of a sitting.</summary>
internal sealed class IndexModel(WorkContext work, SittingBook book) : WorkPage(work)
{
    public SittingsOverview O { get; private set; } = null!;

    public ScoreNoise Noise => O.Noise;

    public static int PhotosOf(Sitting s) => Json.Read<List<Guid>>(s.OrderJson).Count;

    public async Task OnGetAsync() => O = await book.OverviewAsync();

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var run = Form["run"].Length > 0 ? Form.Id("run", "a run") : null;
        if (!Form.IsGood || await book.BeginAsync(run, Form.Ticked("anchors")) is not { } sitting)
        {
            await OnGetAsync();
            Form.Notice = "There is no photo to score again: a photo of a section that you have scored yourself would be right.";
            return Refused();
        }

        return Redirect($"/sittings/{sitting.Id}");
    }
}
