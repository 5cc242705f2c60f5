using System.Text;
using System.Text.Json;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Pairings;

/// <summary>A profile as JSON, or as plain text to type from.</summary>
public sealed class ExportModel(Bench bench, Glenfrost.Web.Services.Profiles profiles) : BenchPage(bench)
{
    public async Task<IActionResult> OnGetAsync(Guid id, string form)
    {
        var p = await Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        var revision = p is null ? null : await profiles.LatestAsync(id);
        if (p is null || revision is null)
            return NotFound();
        var order = SettingRegistry.All.Select((d, i) => (d.Key, i)).ToDictionary(x => x.Key, x => x.i);
        var settings = revision.Settings.OrderBy(s => order.GetValueOrDefault(s.Key, 99)).ToList();
        if (form == "json")
        {
            var body = new
            {
                format = "glenfrost-profile",
                version = 1,
                pairing = Facts.SubjectOf(p),
                pairingId = id,
                revision = revision.Number,
                at = revision.At,
                settings = settings.Select(s => new { s.Key, s.Value, s.Uncertainty, unit = Words.Unit(s.Key), origin = s.Origin, s.OriginText, state = s.State, s.StateWhy, s.RunId }),
            };
            return File(JsonSerializer.SerializeToUtf8Bytes(body, new JsonSerializerOptions(Json.Options) { WriteIndented = true }), "application/json", "profile.json");
        }

        if (form != "txt")
            return NotFound();
        var text = new StringBuilder($"{Facts.SubjectOf(p)}\nprofile revision {revision.Number}, {revision.At:yyyy-MM-dd}\n\n");
        foreach (var s in settings)
            text.AppendLine($"{SettingRegistry.Get(s.Key).Label,-24} {Words.Setting(s.Key, s.Value),8} {Words.Unit(s.Key),-6} {s.State.ToString().ToLowerInvariant(),-12} {s.OriginText}");
        return Content(text.ToString(), "text/plain; charset=utf-8");
    }
}
