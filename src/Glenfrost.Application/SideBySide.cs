using System.Text.Json;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One way by which a setting was found.</summary>
/// <param name="Trial">The trial.</param>
/// <param name="RunId">Its newest run that says a value.</param>
/// <param name="Number">That run's number.</param>
/// <param name="Value">In the setting's unit.</param>
/// <param name="Uncertainty">95 % half-width; 0 where none is known.</param>
/// <param name="Counts">True for the one that the profile's value is from.</param>
public sealed record OneWay(Trial Trial, Guid RunId, int Number, double Value, double Uncertainty, bool Counts);

/// <summary>Where several trials settle one setting: what each says, and which counts.</summary>
/// <param name="Key">Key of the setting.</param>
/// <param name="Ways">The ways in the order of the work, two or more.</param>
/// <param name="InForce">The profile's value; null where there is none but a starting one.</param>
public sealed record WaysOf(string Key, IReadOnlyList<OneWay> Ways, double? InForce)
{
    /// <summary>True where two ways differ by more than both are uncertain.</summary>
    public bool Differ => Ways.Any(a => Ways.Any(b => Math.Abs(a.Value - b.Value) > 1e-9 +
        Math.Sqrt(a.Uncertainty * a.Uncertainty + b.Uncertainty * b.Uncertainty)));

    /// <summary>What may make ways of a flow limit differ, of those that are there.</summary>
    private string Because
    {
        get
        {
            string[] why =
            [
                .. Ways.Where(w => w.Trial.Kind == Core.Trials.FlowLimit.FlowStepsTrial.Word).Select(_ => "steps only bracket it"),
                .. Ways.Where(w => w.Trial.Kind == Core.Trials.FlowLimit.FlowWeighedTrial.Word).Select(_ => "free air loses less than a print does"),
            ];
            return why.Length == 0 ? "" : $": {string.Join(", ", why)}";
        }
    }

    /// <summary>In one sentence or two, without a link.</summary>
    public string Sentence
    {
        get
        {
            string Say(OneWay w) => $"{Words.Lower(w.Trial.Name)} {SettingRegistry.Text(Key, w.Value, null, w.Uncertainty)}" +
                $"{(SettingRegistry.Get(Key).HalfText(w.Uncertainty) is { Length: > 0 } half ? $" ± {half}" : "")} (run {w.Number})";
            var unit = SettingRegistry.Get(Key).Quantity.Unit;
            var (counts, lowest) = (Ways.FirstOrDefault(w => w.Counts), Ways.MinBy(w => w.Value)!);
            var limit = Key == Core.Trials.FlowLimit.Flows.Key;
            return $"{SettingRegistry.Get(Key).Label} {(Ways.Count == 2 ? "two" : "three")} ways{(unit.Length > 0 ? $", {unit}" : "")}: " +
                $"{string.Join(", ", Ways.Select(Say))}. " + (counts is not null ? $"The {Words.Lower(counts.Trial.Name)} counts: its value is kept."
                : InForce is { } own ? $"None of them counts: {SettingRegistry.Text(Key, own, null, null)} stands in the profile from elsewhere."
                : limit ? $"None is kept yet; the {Words.Lower(lowest.Trial.Name)} is the lowest, and what one way shows as a limit is one."
                : "None is kept yet.") +
                (!Differ ? "" : limit ? $" They differ by more than they are unsure{Because}."
                : " They differ by more than they are unsure: a wall tells its width, a surface its looks. A check piece at the one that counts settles it.");
        }
    }
}

/// <summary>Gathers what several trials say of one setting of a pairing.</summary>
public sealed class SideBySide(WorkContext work)
{
    /// <summary>Settings that more than one trial settles first.</summary>
    public static IReadOnlyList<string> Keys { get; } =
    [
        .. TrialCatalogue.All.Where(t => t.Settles.Count > 0 && t.Subject == TrialSubject.Pairing).GroupBy(t => t.Settles[0]).Where(g => g.Count() > 1)
            .Select(g => g.Key),
    ];

    /// <summary>What each way says, by its newest run that was decided upon, kept or left; settings with fewer than two ways are left out.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="profile">Its profile as it stands; null before its first revision.</param>
    /// <param name="now">A run that is being judged, with its verdict; null for none.</param>
    public async Task<IReadOnlyList<WaysOf>> OfAsync(Guid pairing, ProfileView? profile, TrialRunView? now = null)
    {
        var runs = await work.Db.Runs.AsNoTracking()
            .Where(r => r.PairingId == pairing && r.RemovedAt == null && (r.Stage == RunStages.Decided || r.Stage == RunStages.Left))
            .Select(r => new
            {
                r.Id, r.Kind, r.Number, r.DecidedAt, r.Decisions.Where(d => d.UndoneAt == null).OrderByDescending(d => d.At).First().VerdictJson,
            })
            .ToListAsync();
        var found = new List<WaysOf>();
        foreach (var key in Keys)
        {
            var from = profile?[key] is { State: not Core.Profiles.SettingState.Start } stands ? stands : null;
            var ways = new List<OneWay>();
            foreach (var trial in TrialCatalogue.All.Where(t => t.Settles.Count > 0 && t.Settles[0] == key))
            {
                var said = now is not null && now.Trial.Kind == trial.Kind && Of(now.Verdict.Settings, key) is { } live
                    ? (now.Run.Id, now.Run.Number, live.Value, live.Uncertainty)
                    : runs.Where(r => r.Kind == trial.Kind && r.VerdictJson is not null).OrderByDescending(r => r.DecidedAt)
                        .Select(r => (Run: r, Said: Of(Settings(r.VerdictJson), key))).Where(x => x.Said is not null)
                        .Select(x => ((Guid, int, double, double)?)(x.Run.Id, x.Run.Number, x.Said!.Value, x.Said.Uncertainty)).FirstOrDefault();
                if (said is var (id, number, value, half))
                    ways.Add(new(trial, id, number, value, half, from?.RunId == id));
            }

            if (ways.Count > 1)
                found.Add(new(key, ways, from?.Value));
        }

        return found;
    }

    private static SettingValue? Of(IReadOnlyList<SettingValue> settings, string key) => settings.FirstOrDefault(s => s.Key == key);

    /// <summary>The values that a stored verdict proposed; none where it is of a version that stored none.</summary>
    private static IReadOnlyList<SettingValue> Settings(string verdict)
    {
        using var json = JsonDocument.Parse(verdict);
        return Settings(json.RootElement);
    }

    /// <summary>The values that a stored verdict proposed; none where it is of a version that stored none.</summary>
    internal static IReadOnlyList<SettingValue> Settings(JsonElement verdict) =>
        verdict.ValueKind == JsonValueKind.Object && verdict.TryGetProperty("settings", out var list) && list.ValueKind == JsonValueKind.Array
            ? [.. list.EnumerateArray().Select(s => s.Deserialize<SettingValue>(Json.Options)!)]
            : [];
}
