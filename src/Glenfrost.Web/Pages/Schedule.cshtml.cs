using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>What all pairings still want, over the evenings ahead.</summary>
internal sealed class ScheduleModel(WorkContext work, ScheduleBook schedule) : WorkPage(work)
{
    private static readonly Quantity Minutes = new("An evening", "min", 30, 1440, "from half an hour to a whole day", true);

    private static readonly Quantity Evenings = new("Evenings", "", 1, 30, "one to thirty", true);

    public Schedule? Plan { get; private set; }

    /// <summary>Pairings that are not laid out.</summary>
    public int More { get; private set; }

    /// <summary>How long an evening is, minutes: as wide as the lane in which its prints are drawn.</summary>
    public int Length { get; private set; }

    public string Day(int evening) => Words.ShortDay(Work.Now.AddDays(evening));

    public async Task<IActionResult> OnGetAsync()
    {
        Form = FormState.From(Request.Query);
        if (!Request.Query.ContainsKey("minutes"))
            Form["minutes"] = "240";
        if (!Request.Query.ContainsKey("evenings"))
            Form["evenings"] = "5";
        var (minutes, evenings) = (Form.Number("minutes", Minutes, true), Form.Number("evenings", Evenings, true));
        if (!Form.IsGood)
            return Refused();
        Length = (int)minutes!.Value;
        (Plan, More) = await schedule.OfAsync(Length, (int)evenings!.Value);
        return Page();
    }
}
