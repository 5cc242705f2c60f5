using System.Text.Encodings.Web;
using Glenfrost.Core.Trials;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Glenfrost.Web.Forms;

/// <summary>A form of a trial's plan, whose fields are declared by the trial.</summary>
public interface IPlanForm
{
    /// <summary>What was typed, and what is wrong with it.</summary>
    FormState Form { get; }

    /// <summary>The trial.</summary>
    Trial Trial { get; }

    /// <summary>Machine and filament that it is planned for.</summary>
    PlanContext Context { get; }

    /// <summary>One of the trial's modes.</summary>
    string Mode { get; }
}

/// <summary>
/// A labelled field with its unit, help beside it, message and offers: <c>&lt;gf-field state="Model.Form" name="diameterMm" label="Diameter" unit="mm"
/// /&gt;</c>; or one that a trial declares, with all that it says of it: <c>&lt;gf-field form="Model" for="diameterMm" /&gt;</c>.
/// </summary>
[HtmlTargetElement("gf-field", TagStructure = TagStructure.NormalOrSelfClosing)]
public sealed class FieldTagHelper : TagHelper
{
    /// <summary>The plan's form, for a field that its trial declares; null for one that says all here.</summary>
    public IPlanForm? Form { get; set; }

    /// <summary>Name of a declared field.</summary>
    public string? For { get; set; }

    public FormState State { get; set; } = null!;
    public string Name { get; set; } = "";
    public string Label { get; set; } = "";
    public string? Unit { get; set; }
    public string? Help { get; set; }

    /// <summary>text, number, date, area, select or tick.</summary>
    public string Kind { get; set; } = "text";
    public IEnumerable<KeyValuePair<string, string>>? Options { get; set; }
    public IEnumerable<string>? Suggestions { get; set; }
    public bool Required { get; set; }
    public int Rows { get; set; } = 5;
    public bool Wide { get; set; }

    /// <summary>True where its choice gives other fields values: the form comes anew.</summary>
    public bool Refits { get; set; }

    private void Declared(IPlanForm form, string name)
    {
        var field = form.Trial.Fields[name];
        (State, Name, Label) = (form.Form, name, field.Label);
        Unit = field.Quantity is not null && form.Trial.UnitOf(name, f => form.Form[f]) is { Length: > 0 } unit ? unit : null;
        Help = form.Trial.HelpOf(name, form.Context, f => form.Form[f]) is { Length: > 0 } help ? help : null;
        Kind = field.IsTick ? "tick" : field.IsText ? "text" : field.Words is null ? "number" : "select";
        Options = field.Choices;
        Refits = form.Trial.Refits.Contains(name);
        Required = field.Quantity is not null && form.Trial.IsNeeded(name, form.Mode);
    }

    private const string RefitNow =
        " hx-post=\"?handler=Preview&amp;refit=1\" hx-trigger=\"change\" hx-include=\"#plan\" hx-target=\"#plan\" hx-select=\"#plan\" hx-swap=\"outerHTML\" " +
            "hx-select-oob=\"#preview\"";

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Form is { } form && For is { } declared)
            Declared(form, declared);
        var e = HtmlEncoder.Default;
        var id = "f-" + Name;
        var value = e.Encode(State[Name]);
        var error = State.Errors.GetValueOrDefault(Name);
        var described = $"aria-describedby=\"err-{Name}{(Help is null ? "" : $" help-{Name}")}\"{(error is null ? "" : " aria-invalid=\"true\"")}";
        var common = $"id=\"{id}\" name=\"{Name}\" {described}{(Required ? " required" : "")}";
        output.TagName = "div";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", $"field{(Wide ? " wide" : "")}{(Kind == "number" ? " num" : "")}{(error is null ? "" : " bad")}");
        string Option(KeyValuePair<string, string> o) =>
            $"<option value=\"{e.Encode(o.Key)}\"{(o.Key == State[Name] ? " selected" : "")}>{e.Encode(o.Value)}</option>";
        var input = Kind switch
        {
            "select" =>
                $"<select {common}{(Refits ? RefitNow : "")}>{string.Concat((Options ?? []).Select(Option))}</select>",
            "area" => $"<textarea {common} rows=\"{Rows}\" spellcheck=\"false\">\n{value}</textarea>",
            "date" => $"<input type=\"date\" value=\"{value}\" {common}>",
            "tick" => $"<input type=\"checkbox\" value=\"1\" {common}{(State.Ticked(Name) ? " checked" : "")}>",
            "number" => $"<input type=\"text\" inputmode=\"decimal\" autocomplete=\"off\" value=\"{value}\" {common}>",
            _ => $"<input type=\"text\" autocomplete=\"off\" value=\"{value}\" {common}{(Suggestions is null ? "" : $" list=\"list-{Name}\"")}>",
        };
        var html = output.Content;
        if (Kind == "tick")
        {
            html.AppendHtml($"<label class=\"tick\" for=\"{id}\">{input}<span>{e.Encode(Label)}</span></label>");
        }
        else
        {
            html.AppendHtml($"<label for=\"{id}\">{e.Encode(Label)}</label>");
            html.AppendHtml($"<span class=\"box\">{input}{(Unit is null ? "" : $"<span class=\"unit\">{e.Encode(Unit)}</span>")}</span>");
        }

        if (Suggestions is not null)
            html.AppendHtml($"<datalist id=\"list-{Name}\">{string.Concat(Suggestions.Select(s => $"<option value=\"{e.Encode(s)}\"></option>"))}</datalist>");
        if (Help is not null)
            html.AppendHtml($"<p class=\"help\" id=\"help-{Name}\">{e.Encode(Help)}</p>");
        html.AppendHtml(MessageHtml(State, Name));
    }

    /// <summary>The message of a field with its offers; always present, so that it can be swapped in.</summary>
    public static string MessageHtml(FormState state, string name)
    {
        var e = HtmlEncoder.Default;
        var error = state.Errors.GetValueOrDefault(name);
        var offers = state.Offers.GetValueOrDefault(name) ?? [];
        var buttons = string.Concat(
            offers.Select(o =>
                $"<button type=\"submit\" class=\"offer\" name=\"offer\" value=\"" +
                    $"{e.Encode(string.Join(";", o.Changes.Select(c => FormattableString.Invariant($"{c.Key}={c.Value}"))))}\" " +
                    $"formaction=\"?handler=Offer\" formnovalidate>{e.Encode(o.Label)}{(o.Note is null ? "" : $" <small>{e.Encode(o.Note)}</small>")}</button>"
            ));
        return $"<div class=\"err\" id=\"err-{name}\" aria-live=\"polite\">{(error is null ? "" : $"<p>{e.Encode(error)}</p>")}" +
            $"{(buttons.Length > 0 ? $"<div class=\"offers\">{buttons}</div>" : "")}</div>";
    }
}
