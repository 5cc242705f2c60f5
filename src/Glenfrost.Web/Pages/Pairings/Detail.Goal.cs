using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

/// <summary>When it is good enough: the form and its saving.</summary>
internal sealed partial class DetailModel
{
    /// <summary>Targets that the form holds.</summary>
    public const int GoalRows = 3;

    private static readonly Quantity Score = new("A score", "", 0.5m, 4, "scores go from 0 to 4", false);

    private static readonly Quantity Times = new("Pieces that reach it", "", 1, 9, "one piece may be luck", true);

    private static readonly Quantity Pieces = new("Pieces", "", 1, 10_000, "a whole number", true);

    private static readonly Quantity Grams = new("Filament", "g", 1, 1_000_000, "of all prints together", false);

    private static readonly Quantity Hours = new("Printing", "h", 0.5m, 100_000, "of all prints together", false);

    private static readonly Quantity Money = new("Money", "", 0.01m, 10_000_000, "in the currency of the filament's price", false);

    /// <summary>Puts the goal that stands into the form, where nothing was typed.</summary>
    private void FillGoal()
    {
        var g = Goal.Goal;
        if (Form.Values.ContainsKey("times"))
            return;
        Form.Put("goalWords", g.Words);
        Form.Put("times", (double)g.Times);
        Form.Put("pieces", (double?)g.Pieces);
        Form.Put("grams", g.Grams);
        Form.Put("hours", g.Hours);
        Form.Put("money", g.MoneyMinor / 100);
        foreach (var (t, i) in g.Targets.Take(GoalRows).Select((t, i) => (t, i)))
        {
            Form.Put($"target{i}", t.Key);
            Form.Put($"atLeast{i}", t.AtLeast);
        }
    }

    /// <summary>Says when it is good enough.</summary>
    public async Task<IActionResult> OnPostGoalAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var targets = new List<GoalTarget>();
        for (var i = 0; i < GoalRows; i++)
        {
            var key = Form.Choice($"target{i}", "What is to be reached", [.. GoalWords.Choices.Select(c => c.Key)], "");
            var field = $"atLeast{i}";
            if (Form.Errors.ContainsKey($"target{i}"))
                continue;
            if (key.Length == 0)
            {
                if (Form[field].Trim().Length > 0)
                    Form.Refuse($"target{i}", $"Say what is to reach {Form[field].Trim()}, or empty it.");
                continue;
            }

            var t = new GoalTarget(key, 0);
            var value = Form.Double(field, t.IsScore ? Score : SettingRegistry.Get(key).Quantity, true);
            if (targets.Any(x => x.Key == key))
                Form.Refuse($"target{i}", "It stands above already: one of each.");
            if (value is { } v)
                targets.Add(t with { AtLeast = v });
        }

        var goal = new Goal
        {
            Words = Form.Text("goalWords", "In words", 200), Targets = targets, Times = (int)(Form.Number("times", Times) ?? 1),
            Pieces = (int?)Form.Number("pieces", Pieces), Grams = Form.Double("grams", Grams), Hours = Form.Double("hours", Hours),
            MoneyMinor = Form.Double("money", Money) * 100,
        };
        if (goal.MoneyMinor is not null && P.Filament?.PriceMinor is null)
            Form.Refuse(
                "money", "The filament has no price yet, so nothing can be reckoned against it. Type its price on its page first, or bound the grams.");
        if (!Form.IsGood)
            return Refused();
        await goals.SetAsync(id, goal);
        Tell("Noted: the page says when it is good enough.", "goal", id);
        return Redirect($"/pairings/{id}#goal");
    }

    /// <summary>The budget is spent, and that was read.</summary>
    public async Task<IActionResult> OnPostOverAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        await goals.SeenAsync(id);
        return Redirect($"/pairings/{id}#goal");
    }
}
