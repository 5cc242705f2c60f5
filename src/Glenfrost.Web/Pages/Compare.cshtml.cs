using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

internal sealed class CompareModel(Bench bench) : BenchPage(bench)
{
    public List<(Pairing Pairing, Dictionary<string, ProfileSetting> Settings)> Columns { get; private set; } = [];

    public async Task OnGetAsync([FromQuery(Name = "id")] Guid[] ids)
    {
        var wanted = ids.Distinct().Take(4).ToList();
        var pairings = await Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && wanted.Contains(p.Id)).ToListAsync();
        // Worlds never mix: what is compared with the first one is of its world.
        pairings = [.. pairings.OrderBy(p => wanted.IndexOf(p.Id)).Where(p => p.World == pairings.OrderBy(x => wanted.IndexOf(x.Id)).First().World)];
        var latest = await Db.ProfilesAsync(wanted);
        Columns = [.. pairings.Select(p => (p, latest.GetValueOrDefault(p.Id)?.Settings.ToDictionary(s => s.Key) ?? []))];
    }

    /// <summary>True where a value differs from another column's by more than the joint uncertainty.</summary>
    public bool Differs(string key, ProfileSetting s) =>
        s.Uncertainty is { } u
        && Columns.Any(c => c.Settings.TryGetValue(key, out var o) && o.Uncertainty is { } v && Math.Abs(o.Value - s.Value) > Math.Sqrt(u * u + v * v));
}
