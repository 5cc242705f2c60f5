using Glenfrost.Core.Profiles;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class CompareModel(WorkContext work, PairingsSideBySide side, PairingBook pairings) : WorkPage(work)
{
    public PairingComparison C { get; private set; } = PairingComparison.None;

    /// <summary>How the columns are called where their heads stand elsewhere: what they have in common is left out.</summary>
    public IReadOnlyList<string> Names { get; private set; } = [];

    public IReadOnlyList<string?> Currencies => [.. C.Columns.Select(c => c.Pairing.Filament!.Currency)];

    public async Task OnGetAsync([FromQuery(Name = "id")] Guid[] ids, Guid? beside)
    {
        C = await side.OfAsync(beside is { } one ? await pairings.BesideAsync(one, PairingsSideBySide.Most) : ids);
        var (oneFilament, oneHead) = (C.Columns.Select(c => c.Pairing.FilamentId).Distinct().Count() == 1, C.Columns.Select(c => c.Pairing.ToolheadId)
            .Distinct().Count() == 1);
        Names =
        [
            .. C.Columns.Select(c => oneFilament && !oneHead ? c.Pairing.Toolhead!.FullName
                : oneHead && !oneFilament ? Facts.FilamentName(c.Pairing) : Facts.NameOf(c.Pairing)),
        ];
        if (Names.Distinct().Count() < Names.Count)
            Names = [.. C.Columns.Select(c => $"{Facts.NameOf(c.Pairing)}, {c.Pairing.NozzleName}")];
    }

    /// <summary>True where a value differs from another column's by more than the joint uncertainty.</summary>
    public bool Differs(string key, ProfileSetting s) =>
        s.Uncertainty is { } u
        && C.Columns.Any(c => c.Settings.TryGetValue(key, out var o) && o.Uncertainty is { } v && Math.Abs(o.Value - s.Value) > Math.Sqrt(u * u + v * v));

    /// <summary>True where a row shows the same everywhere: it is folded away.</summary>
    public bool IsSame(string key) =>
        C.Columns.Select(c => c.Settings.TryGetValue(key, out var s) ? (Words.Value(s), s.State) : ((string, SettingState)?)null).Distinct().Count() == 1;

    /// <summary>Where the stroke of a column's curve is drawn from: told by its dash and by the letter at its mark.</summary>
    public static char Letter(int column) => (char)('A' + column);
}
