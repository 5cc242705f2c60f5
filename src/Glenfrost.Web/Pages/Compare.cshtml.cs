using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class CompareModel(Bench bench, PairingBook pairings) : BenchPage(bench)
{
    public IReadOnlyList<(Pairing Pairing, IReadOnlyDictionary<string, ProfileSetting> Settings)> Columns { get; private set; } = [];

    public async Task OnGetAsync([FromQuery(Name = "id")] Guid[] ids) => Columns = await pairings.SideBySideAsync([.. ids.Distinct().Take(4)]);

    /// <summary>True where a value differs from another column's by more than the joint uncertainty.</summary>
    public bool Differs(string key, ProfileSetting s) =>
        s.Uncertainty is { } u
        && Columns.Any(c => c.Settings.TryGetValue(key, out var o) && o.Uncertainty is { } v && Math.Abs(o.Value - s.Value) > Math.Sqrt(u * u + v * v));
}
