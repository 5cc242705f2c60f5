using Glenfrost.Application.Photos;
using Glenfrost.Application.Reports;
using Glenfrost.Storage;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Filaments;

/// <summary>A report as it is drawn.</summary>
/// <param name="R">The report.</param>
/// <param name="Source">Where a photo of it is found; null where it is not there.</param>
/// <param name="IsFile">True in a file of its own, which leads nowhere.</param>
internal sealed record ReportView(FilamentReport R, Func<Guid, string?> Source, bool IsFile);

/// <summary>One page of paper about a filament over its machines.</summary>
internal sealed class ReportModel(WorkContext work, ReportBook reports, PhotoBook photos, DataPlace place) : WorkPage(work)
{
    private static readonly string[] Fields = ["summary", "suits", "watch", "strength"];

    public FilamentReport R { get; private set; } = null!;

    public ReportView View => new(R, id => $"/photos/{id}/small", false);

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        foreach (var (field, text) in Standing())
            Form[field] = text;
        Form["version"] = R.Filament.Version.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return Page();
    }

    /// <summary>The report in one file that needs nothing else: styles and photos are within it.</summary>
    public async Task<IActionResult> OnGetFileAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        var sources = new Dictionary<Guid, string>();
        foreach (var photo in R.Machines.SelectMany(m => m.Photos))
        {
            if ((await photos.FindAsync(photo.Id))?.SmallSha256 is { } hash && place.Files.Open(hash) is { } content)
            {
                using var memory = new MemoryStream();
                await using (content)
                    await content.CopyToAsync(memory);
                sources[photo.Id] = $"data:image/jpeg;base64,{Convert.ToBase64String(memory.ToArray())}";
            }
        }

        Response.Headers.ContentDisposition = new Microsoft.Net.Http.Headers.ContentDispositionHeaderValue("attachment")
        {
            FileName = $"{string.Concat(R.Filament.Name.Select(c => char.IsAsciiLetterOrDigit(c) ? char.ToLowerInvariant(c) : '-'))}-report.html",
        }.ToString();
        return Partial("_ReportFile", new ReportView(R, photo => sources.GetValueOrDefault(photo), true));
    }

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var text = Fields.Select(f => Form.Text(f, "This", ReportNotes.Longest)).ToArray();
        if (!Form.IsGood)
            return Refused();
        if (IsStale(R.Filament, Standing()))
            return Refused(StatusCodes.Status409Conflict);
        if (!await TryAsync(async () =>
        {
            await reports.NoteAsync(id, new(text[0], text[1], text[2], text[3]));
            Tell("Your words stand in the report.");
        }))
            return Refused(StatusCodes.Status409Conflict);
        return Redirect($"/filaments/{id}/report");
    }

    /// <summary>The style of a file of its own.</summary>
    public static string Style()
    {
        using var css = new StreamReader(typeof(ReportModel).Assembly.GetManifestResourceStream("report.css")!);
        return css.ReadToEnd();
    }

    private Dictionary<string, string> Standing()
    {
        var n = R.Notes;
        return Fields.Zip([n.Summary, n.Suits, n.Watch, n.Strength]).ToDictionary(x => x.First, x => x.Second ?? "");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await reports.OfAsync(id) is not { } found)
            return false;
        R = found;
        return true;
    }
}
