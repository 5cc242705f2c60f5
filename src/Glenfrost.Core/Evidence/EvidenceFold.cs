using Glenfrost.Core.Ageing;

namespace Glenfrost.Core.Evidence;

/// <summary>The one function from events to states. Pure: the same events in any order of arrival give the same states.</summary>
public static class EvidenceFold
{
    private const string Repeated = "repeated: two runs agree";

    /// <summary>The state of each area and setting that events speak of; what none speaks of is open.</summary>
    public static IReadOnlyList<EvidenceItem> States(IEnumerable<EvidenceEvent> events)
    {
        var all = events.OrderBy(e => e.At).ThenBy(e => e.Id).ToList();
        var withdrawn = all.Where(e => e.Kind == EvidenceKind.Withdrawn).ToLookup(e => e.CauseId, e => (e.At, e.Id));
        var items = new Dictionary<(string Area, string? Key, double? AtC), Standing>();
        foreach (var e in all)
        {
            if (e.Kind == EvidenceKind.Withdrawn || withdrawn[e.CauseId].Any(w => w.At > e.At || (w.At == e.At && w.Id.CompareTo(e.Id) > 0)))
                continue;
            if (e.Kind is EvidenceKind.Doubted or EvidenceKind.Confirmed or EvidenceKind.Carried)
            {
                // What changed concerns a setting at whatever condition it was found.
                foreach (var standing in items.Where(i => i.Key.Area == e.Area && i.Key.Key == e.Key).Select(i => i.Value).ToList())
                    standing.Take(e, []);
                continue;
            }

            var at = (e.Area, e.Key, e.AtC);
            if (!items.TryGetValue(at, out var item))
                items[at] = item = new Standing();
            item.Take(e, items.Where(i => i.Key.Area == e.Area && i.Key.Key == e.Key && SameCondition(i.Key.AtC, e.AtC)).Select(i => i.Value));
        }

        return
        [
            .. items.Select(i => i.Value.Of(i.Key.Area, i.Key.Key, i.Key.AtC)).OrderBy(i => i.Area, StringComparer.Ordinal)
                .ThenBy(i => i.Key, StringComparer.Ordinal).ThenBy(i => i.AtC),
        ];
    }

    /// <summary>True where values found at these nozzle temperatures may stand for each other, °C; a value without condition stands for any.</summary>
    public static bool SameCondition(double? a, double? b) => a is null || b is null || Math.Abs(a.Value - b.Value) <= AgeingRules.TemperatureMoveC;

    /// <summary>
    /// True where two kept values agree within their joint uncertainty, and each is narrow enough to exclude something that one would otherwise try:
    /// 1.003 ± 0.087 found twice excludes nothing.
    /// </summary>
    public static bool Agree(string key, double a, double? uncertaintyOfA, double b, double? uncertaintyOfB)
    {
        var usual = key.EndsWith("TemperatureC", StringComparison.Ordinal) ? SameTemperatureC : SameShare * Math.Abs(a);
        var joint = Math.Sqrt(Math.Pow(uncertaintyOfA ?? usual, 2) + Math.Pow(uncertaintyOfB ?? usual, 2));
        return Math.Abs(a - b) <= joint && Excludes(key, a, uncertaintyOfA ?? usual) && Excludes(key, b, uncertaintyOfB ?? usual);
    }

    /// <summary>True where an interval is narrow enough to leave out the next value that anybody would set.</summary>
    /// <param name="key">Key of the settings dictionary.</param>
    /// <param name="value">In its unit.</param>
    /// <param name="uncertainty">95 % half-width in its unit.</param>
    public static bool Excludes(string key, double value, double uncertainty) => uncertainty <= key switch
    {
        "extrusionMultiplier" => 0.03,
        "nozzleOffsetMm" => 0.04,
        "retractionLengthMm" => Math.Max(0.4, 0.3 * Math.Abs(value)),
        _ when key.EndsWith("TemperatureC", StringComparison.Ordinal) => 10,
        _ => 0.2 * Math.Abs(value),
    };

    // How near a repeated value must be where no uncertainty is known: °C, and as a share of the value.
    private const double SameTemperatureC = 4, SameShare = 0.02;

    private sealed class Standing
    {
        private EvidenceState state = EvidenceState.Open;
        private string? why;
        private Guid? run;
        private DateTime at;
        private EvidenceEvent? kept;
        private bool skipped;
        private string? skippedWhy;
        private readonly List<EvidenceEvent> doubts = [];

        public void Take(EvidenceEvent e, IEnumerable<Standing> alike)
        {
            switch (e.Kind)
            {
                case EvidenceKind.Inherited when state == EvidenceState.Open:
                    Become(EvidenceState.Inherited, e.Text ?? "not tried here", e);
                    break;
                case EvidenceKind.Kept or EvidenceKind.KeptUnproven:
                    var agrees =
                        e.Kind == EvidenceKind.Kept
                        && e.Number is { } b
                        && alike.Any(s =>
                            s.doubts.Count == 0
                            && (s.state is EvidenceState.Provisional or EvidenceState.Confirmed)
                            && s.kept is { Number: { } a } before
                            && before.RunId is not null
                            && before.RunId != e.RunId
                            // What was kept unproven and without an uncertainty was only printed at: it is no second finding.
                            && (before.Kind != EvidenceKind.KeptUnproven || before.Uncertainty is not null)
                            && Agree(e.Key ?? "", a, before.Uncertainty, b, e.Uncertainty));
                    Become(agrees ? EvidenceState.Confirmed : EvidenceState.Provisional, agrees ? Repeated : e.Text ?? "one run", e);
                    kept = e;
                    break;
                case EvidenceKind.OwnChoice:
                    Become(EvidenceState.Provisional, e.Text ?? "own choice", e);
                    kept = null;
                    break;
                case EvidenceKind.Carried when state != EvidenceState.Open:
                    Become(EvidenceState.Provisional, e.Text, e);
                    kept = null;
                    break;
                case EvidenceKind.Confirmed when state is EvidenceState.Provisional or EvidenceState.Confirmed or EvidenceState.Inherited:
                    Become(EvidenceState.Confirmed, e.Text, e);
                    break;
                case EvidenceKind.Doubted when state is EvidenceState.Provisional or EvidenceState.Confirmed:
                    doubts.Add(e);
                    break;
                case EvidenceKind.Passed:
                    Become(
                        kept is { Kind: EvidenceKind.Passed } first && first.CauseId != e.CauseId && state == EvidenceState.Provisional && doubts.Count == 0
                            ? EvidenceState.Confirmed
                            : EvidenceState.Provisional,
                        e.Text ?? "passed", e);
                    kept = e;
                    break;
                case EvidenceKind.Failed:
                    Become(EvidenceState.Open, e.Text ?? "failed", e);
                    kept = e;
                    break;
                case EvidenceKind.Skipped:
                    (skipped, skippedWhy, at) = (true, e.Text, e.At);
                    break;
                case EvidenceKind.Resumed:
                    (skipped, skippedWhy, at) = (false, null, e.At);
                    break;
                case EvidenceKind.NotApplicable:
                    Become(EvidenceState.NotApplicable, e.Text, e);
                    break;
                case EvidenceKind.Stood when e.State is { } stood:
                    Become(stood == EvidenceState.Doubtful ? EvidenceState.Provisional : stood, e.Text, e);
                    kept = e.RunId is null ? null : e;
                    if (stood == EvidenceState.Doubtful)
                        doubts.Add(e);
                    break;
            }
        }

        public EvidenceItem Of(string area, string? key, double? atC)
        {
            if (skipped && (state is EvidenceState.Open or EvidenceState.Inherited))
                return new(area, key, atC, EvidenceState.Skipped, skippedWhy, run, at);
            return doubts.Count == 0
                ? new(area, key, atC, state, why, run, at)
                : new(
                    area, key, atC, EvidenceState.Doubtful, doubts.Count == 1 ? doubts[0].Text : $"{doubts[0].Text}, and {doubts.Count - 1} more", run,
                    doubts[0].At);
        }

        private void Become(EvidenceState next, string? because, EvidenceEvent e)
        {
            (state, why, run, at) = (
                next, because, e.RunId
                    ?? (
                        next is EvidenceState.Confirmed or EvidenceState.Provisional && e.Kind is EvidenceKind.Confirmed or EvidenceKind.Carried ? run : e.RunId
                    ),
                e.At);
            doubts.Clear();
        }
    }
}
