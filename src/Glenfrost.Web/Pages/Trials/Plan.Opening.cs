using System.Globalization;

namespace Glenfrost.Web.Pages.Trials;

/// <content>A plan that a link opens: what somebody is asked to print next is a plan that is accepted.</content>
internal sealed partial class PlanModel
{
    /// <summary>Where what a link asks for is refused and one offer makes it fit, the offer stands in the fields, and what was changed is said. Nobody typed
    /// anything yet; where the offer does not fit either, the refusal stands with what was asked.</summary>
    private void Open()
    {
        Compute();
        // What is read off somebody's own file is a fact: an offer never changes it unasked.
        if (TakesDrop || Trial.PrintsOwnFile(Mode))
            return;
        if (Plan is not null || RunId is not null || Like is not null || Form.Errors.Count != 1 || Form.Offers.Values.FirstOrDefault() is not [var offer, ..])
            return;
        var (why, before) = (Form.Errors.Values.First(), offer.Changes.Keys.ToDictionary(name => name, name => Form[name]));
        foreach (var (name, value) in offer.Changes)
            Form.Put(name, value);
        Anew();
        if (Plan is not null)
        {
            var now = string.Join(", ", offer.Changes.Select(c =>
                $"{Words.Lower(Trial.Fields[c.Key].Label)} {c.Value.ToString(CultureInfo.InvariantCulture)} instead of {before[c.Key]}"));
            Form.Notice = $"{why} To make it fit: {now}.";
            return;
        }

        foreach (var (name, value) in before)
            Form[name] = value;
        Anew();

        void Anew()
        {
            Form.Errors.Clear();
            Form.Offers.Clear();
            Compute();
        }
    }
}
