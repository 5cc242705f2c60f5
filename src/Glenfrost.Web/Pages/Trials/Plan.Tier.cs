using Glenfrost.Core.Profiles;

namespace Glenfrost.Web.Pages.Trials;

/// <content>Plans that begin with the values of a tier instead of the profile's own.</content>
internal sealed partial class PlanModel
{
    /// <summary>The tier whose values are laid over the profile's; null for the profile itself.</summary>
    public Tier? Tier { get; private set; }

    /// <summary>Tiers that the pairing has; none where something else is held.</summary>
    public IReadOnlyList<Tier> Tiers => Pairing is null || Like is not null ? [] : TierBook.Of(Pairing).Tiers;

    /// <summary>The address of this plan with the values of a tier; of the profile where null.</summary>
    public string WithTier(Tier? tier) => $"?mode={Uri.EscapeDataString(Mode)}&tier={Uri.EscapeDataString(tier?.Name ?? "")}" + string.Concat(
        new[] { ("run", RunId?.ToString() ?? ""), ("after", Form["after"]), ("file", Form["file"]) }.Where(x => x.Item2.Length > 0)
            .Select(x => $"&{x.Item1}={Uri.EscapeDataString(x.Item2)}"));

    private async Task LoadTierAsync()
    {
        var asked = HttpMethods.IsPost(Request.Method) ? Form["tier"] : Request.Query["tier"].ToString();
        // A plan that is opened again goes on with the tier that it was made with, unless another one is asked for.
        if (HttpMethods.IsGet(Request.Method) && !Request.Query.ContainsKey("tier") && Guid.TryParse(Request.Query["run"], out var planned))
            asked = (await runs.OfSubjectAsync(Trial, Pairing, Head, planned))?.Tier ?? "";
        (Tier, Held) = asked.Length > 0 && await tiers.HeldAsync(Pairing!, asked) is var (tier, held) ? (tier, held) : (null, null);
        if (asked.Length > 0 && Tier is null)
            Form.Notice = $"There is no tier \"{asked}\" any more: the profile's own values are used.";
        Form["tier"] = Tier?.Name ?? "";
    }
}
