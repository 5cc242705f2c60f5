using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Glenfrost.Web.Forms;

/// <summary>
/// A labelled field with its unit, help beside it, message and offers: <c>&lt;gf-field sheet="Model.Sheet" name="diameterMm" label="Diameter" unit="mm"
/// /&gt;</c>.
/// </summary>
[HtmlTargetElement("gf-field", TagStructure = TagStructure.NormalOrSelfClosing)]
public sealed class FieldTagHelper : TagHelper
{
    public required Sheet Sheet { get; set; }
    public required string Name { get; set; }
    public required string Label { get; set; }
    public string? Unit { get; set; }
    public string? Help { get; set; }

    /// <summary>text, number, date, area, select or tick.</summary>
    public string Kind { get; set; } = "text";
    public IEnumerable<KeyValuePair<string, string>>? Options { get; set; }
    public IEnumerable<string>? Suggestions { get; set; }
    public bool Required { get; set; }
    public int Rows { get; set; } = 5;
    public bool Wide { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var e = HtmlEncoder.Default;
        var id = "f-" + Name;
        var value = e.Encode(Sheet[Name]);
        var error = Sheet.Errors.GetValueOrDefault(Name);
        var described = $"aria-describedby=\"err-{Name}{(Help is null ? "" : $" help-{Name}")}\"{(error is null ? "" : " aria-invalid=\"true\"")}";
        var common = $"id=\"{id}\" name=\"{Name}\" {described}{(Required ? " required" : "")}";
        output.TagName = "div";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", $"field{(Wide ? " wide" : "")}{(Kind == "number" ? " num" : "")}{(error is null ? "" : " bad")}");
        var input = Kind switch
        {
            "select" =>
                $"<select {common}>{string.Concat((Options ?? []).Select(o => $"<option value=\"{e.Encode(o.Key)}\"{(o.Key == Sheet[Name] ? " selected" : "")}>{e.Encode(o.Value)}</option>"))}</select>",
            "area" => $"<textarea {common} rows=\"{Rows}\" spellcheck=\"false\">\n{value}</textarea>",
            "date" => $"<input type=\"date\" value=\"{value}\" {common}>",
            "tick" => $"<input type=\"checkbox\" value=\"1\" {common}{(Sheet.Ticked(Name) ? " checked" : "")}>",
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
        html.AppendHtml(MessageHtml(Sheet, Name));
    }

    /// <summary>The message of a field with its offers; always present, so that it can be swapped in.</summary>
    public static string MessageHtml(Sheet sheet, string name)
    {
        var e = HtmlEncoder.Default;
        var error = sheet.Errors.GetValueOrDefault(name);
        var offers = sheet.Offers.GetValueOrDefault(name) ?? [];
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
