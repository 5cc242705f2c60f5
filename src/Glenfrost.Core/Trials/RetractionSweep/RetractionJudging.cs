using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>A section, or a small piece, as it was read.</summary>
/// <param name="LengthMm">Retraction.</param>
/// <param name="SpeedMmPerS">Its speed.</param>
/// <param name="Scores">One or several, 0–4, for example one a gap.</param>
/// <param name="Strings">Counted strings, one or several.</param>
/// <param name="Gaps">Gaps after travel, counted; 0 for none.</param>
/// <param name="Value">Value of another factor; null where length or speed is the factor.</param>
public sealed record RetractionPoint(
    double LengthMm, double SpeedMmPerS, IReadOnlyList<double> Scores, IReadOnlyList<double> Strings, double Gaps = 0, double? Value = null);

/// <summary>Readings of a sweep and how to judge them.</summary>
public sealed record RetractionReadings
{
    /// <summary>direct or long-tube.</summary>
    public string Drive { get; init; } = "direct";

    /// <summary>length, speed, wipe, coast, hop or travel.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>Sections and pieces in any order; equal ones are repeats.</summary>
    public IReadOnlyList<RetractionPoint> Points { get; init; } = [];

    /// <summary>By how much a value may fall behind the best, scores.</summary>
    public double Margin { get; init; } = 0.5;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>Range that the machine allows; null where nobody said.</summary>
    public Filaments.Span? Limits { get; init; }

    /// <summary>Range that is advised; null for that of the drive.</summary>
    public Filaments.Span? Advised { get; init; }

    /// <summary>True for soft filament, which packs in the path.</summary>
    public bool Soft { get; init; }

    /// <summary>Nozzle, °C, for the next plan; null where nobody said.</summary>
    public double? NozzleTemperatureC { get; init; }
}

/// <summary>The verdict on a sweep: clear, edge, noise, not-retraction or insufficient; on an on/off or dried pair helps, no-difference or noise.</summary>
public sealed record RetractionVerdict : TrialVerdict
{
    /// <summary>The verdict of a pair whose two prints string alike.</summary>
    public const string NoDifference = "no-difference";

    /// <summary>Factor that was swept.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>Values of the factor, in order.</summary>
    public IReadOnlyList<double> Values { get; init; } = [];

    /// <summary>Mean score at each.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>Half of the 95 % interval of each mean.</summary>
    public IReadOnlyList<double?> Halves { get; init; } = [];

    /// <summary>Values not inferior to the best by the margin.</summary>
    public IReadOnlyList<double> AsGood { get; init; } = [];

    /// <summary>Values with gaps after travel: too long.</summary>
    public IReadOnlyList<double> TooLong { get; init; } = [];

    /// <summary>The smallest value not inferior to the best; null where none is proposed.</summary>
    public double? Value { get; init; }

    /// <summary>Retraction, mm; null where none is proposed.</summary>
    public double? LengthMm { get; init; }

    /// <summary>Speed, mm/s; null where none is proposed.</summary>
    public double? SpeedMmPerS { get; init; }

    /// <summary>True where the interval itself shows that it is as good as the best: not only that it can't be told from it.</summary>
    public bool Shown { get; init; }

    /// <summary>Where the next print tells most; null where nothing is left to tell.</summary>
    public BracketPlan? NextPlaces { get; init; }
}

/// <summary>What a factor of a sweep is.</summary>
/// <param name="Word">Fixed word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Unit">mm or mm/s.</param>
/// <param name="From">Usual least for a direct drive.</param>
/// <param name="To">Usual most.</param>
/// <param name="Step">Usual step.</param>
/// <param name="Fine">A width below which nothing is told apart.</param>
public sealed record SweepFactor(string Word, string Label, string Key, string Unit, decimal From, decimal To, decimal Step, double Fine)
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<SweepFactor> All { get; } =
    [
        new("length", "Retraction length", "retractionLengthMm", "mm", 0, 1.6m, 0.2m, 0.1),
        new("speed", "Retraction speed", "retractionSpeedMmPerS", "mm/s", 15, 60, 7.5m, 5),
        new("wipe", "Wipe", "wipeMm", "mm", 0, 3, 0.5m, 0.25),
        new("coast", "Coast", "coastMm", "mm", 0, 1, 0.2m, 0.1),
        new("hop", "Z hop", "zHopMm", "mm", 0, 0.6m, 0.1m, 0.1),
        new("travel", "Travel speed", "travelSpeedMmPerS", "mm/s", 60, 180, 20, 10),
    ];

    /// <summary>That of a word; the length where it is unknown.</summary>
    public static SweepFactor Of(string word) => All.FirstOrDefault(f => f.Word == word) ?? All[0];
}

/// <summary>
/// The smallest value that is not inferior to the best by the margin. Counts become scores by 4 − log₂(1 + n), never below 0, with the noise that a Poisson
/// count brings.
/// Equal values are repeats. Whether it is told from the next smaller one is a one-sided normal test against the pooled values from it upward.
/// </summary>
public static class RetractionJudging
{
    /// <summary>Below this best score the strings are no matter of retraction.</summary>
    public const double NothingHelps = 1.75;

    private const double OneSided = 1.645;

    /// <summary>Advisory lengths, mm.</summary>
    public static Filaments.Span Advisory(string drive) => drive == "long-tube" ? new(2, 7) : new(0.2, 2);

    /// <summary>The longest that a drive may be asked for, mm: beyond it the melt is drawn into the cold zone, or the filament out of the gear.</summary>
    public static double MostMm(string drive) => drive == "long-tube" ? 12 : 5;

    /// <summary>Score of a count of strings.</summary>
    public static double ScoreOf(double strings) => Math.Max(0, 4 - Math.Log2(1 + strings));

    private static double NoiseOf(double strings) => Math.Sqrt(strings + 0.5) / ((strings + 1) * Math.Log(2));

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(RetractionReadings r)
    {
        var errors = new List<FieldError>();
        if (r.Points.Count < 2)
            errors.Add(new("points", $"{Say.Plural(r.Points.Count, "point")} can't be compared: two for a pair, three or more for a sweep would be right."));
        foreach (var (p, i) in r.Points.Select((p, i) => (p, i)))
        {
            if (!(p.LengthMm is >= 0 and <= 15))
                errors.Add(new($"points[{i}].lengthMm", $"{Say.N(p.LengthMm)} mm is no retraction: 0 to 15 would be right."));
            if (!(p.SpeedMmPerS is > 0 and <= 200))
                errors.Add(
                    new(
                        $"points[{i}].speedMmPerS",
                        $"{Say.N(p.SpeedMmPerS)} mm/s is no speed of retraction: above 0 to 200 would be right; per second, not per minute."));
            if (p.Scores.Any(s => !(s is >= 0 and <= 4)))
                errors.Add(new($"points[{i}].score", "A score is 0 (unusable) to 4 (clean)."));
            if (p.Strings.Any(s => !(s is >= 0 and <= 10000)))
                errors.Add(new($"points[{i}].strings", "Strings are counted from 0 up."));
            if (!(p.Gaps is >= 0 and <= 1000))
                errors.Add(new($"points[{i}].gaps", "Gaps after travel are counted from 0 up."));
            if (p.Scores.Count + p.Strings.Count == 0)
                errors.Add(new($"points[{i}].score", "A point needs a score (0–4) or a count of strings."));
        }

        if (!(r.Margin is > 0 and <= 2))
            errors.Add(new("margin", $"A margin of {Say.N(r.Margin)} scores is none: above 0 to 2 would be right, 0.5 is usual."));
        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    private sealed record Cell(double At, double Speed, double Mean, double Se, int Count, double Gaps);

    private static IReadOnlyList<Cell> Cells(RetractionReadings r) =>
        [
            .. r.Points.GroupBy(p => (At: AtOf(r, p), Speed: r.Factor == "length" ? p.SpeedMmPerS : 0))
                .Select(g =>
                {
                    var each = g.SelectMany(p =>
                            p.Scores.Select(s => (Score: s, Sd: r.ScoreNoise)).Concat(p.Strings.Select(n => (Score: ScoreOf(n), Sd: NoiseOf(n)))))
                        .ToList();
                    return new Cell(
                        g.Key.At, g.Key.Speed, each.Average(e => e.Score), Math.Sqrt(each.Sum(e => e.Sd * e.Sd)) / each.Count, each.Count,
                        g.Average(p => p.Gaps));
                }).OrderBy(c => c.At).ThenBy(c => c.Speed),
        ];

    private static double AtOf(RetractionReadings r, RetractionPoint p) =>
        Math.Round(r.Factor switch { "length" => p.LengthMm, "speed" => p.SpeedMmPerS, _ => p.Value ?? 0 }, 4);

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static RetractionVerdict Judge(RetractionReadings r)
    {
        var f = SweepFactor.Of(r.Factor);
        var all = Cells(r);
        var speeds = all.Select(c => c.Speed).Distinct().Order().ToList();
        if (all.Select(c => c.At).Distinct().Count() < 2)
            return new() { Verdict = "insufficient", Sentence = "All points have the same value: nothing to compare.", Factor = f.Word, Advised = false };
        var clean = all.Where(c => c.Gaps <= 0).ToList();
        var usable = clean.Count > 0 ? clean : [.. all];
        var best = usable.MaxBy(c => c.Mean)!;
        // Strings never get more with more retraction, wipe or speed, until gaps rule it out: means are smoothed so (isotonic), which takes the luck out of the
        // highest one.
        var smooth = f.Word == "hop" ? usable.ToDictionary(c => c, c => c.Mean) : usable.GroupBy(c => c.Speed).SelectMany(g =>
        {
            var rising = g.OrderBy(c => c.At).ToList();
            return rising.Zip(Isotonic.Falling([.. rising.Select(c => -c.Mean)], [.. rising.Select(c => (double)c.Count)]), (c, m) => (c, m: -m));
        }).ToDictionary(x => x.c, x => x.m);
        var height = smooth.Values.Max();
        var good = usable.Where(c => smooth[c] >= height - r.Margin - 1e-9).ToList();
        var at = good.OrderBy(c => c.At).ThenByDescending(c => c.Mean).ThenBy(c => c.Speed).First();
        // The rest of the judgement is made along the speed at which it was found.
        var row = all.Where(c => c.Speed == at.Speed).ToList();
        var shorter = row.Where(c => c.At < at.At).MaxBy(c => c.At);
        var plateau = row.Where(c => c.At >= at.At && smooth.TryGetValue(c, out var m) && m >= height - r.Margin - 1e-9).ToList();
        if (plateau.Count == 0)
            plateau = [at];
        var (level, se) = Pool(plateau);
        var tellsShorter = shorter is null || level - shorter.Mean > OneSided * Math.Sqrt(se * se + shorter.Se * shorter.Se);
        var worst = all.MinBy(c => c.Mean)!;
        var alike = best.Mean - worst.Mean <= OneSided * Math.Sqrt(best.Se * best.Se + worst.Se * worst.Se);
        var others = plateau.Where(c => c.At > at.At).ToList();
        // Near the margin's edge a point that is likely worse is not called as good: at most half of the margin behind the rest of what is as good.
        var behind = others.Count == 0 ? 0 : Pool(others).Mean - at.Mean;
        var shown =
            others.Count == 0 || Pool(others) is var (rest, restSe) && rest - at.Mean + OneSided * Math.Sqrt(restSe * restSe + at.Se * at.Se) <= r.Margin;
        var (low, high) = (row.Min(c => c.At), row.Max(c => c.At));
        var step = row.Zip(row.Skip(1), (a, b) => b.At - a.At).DefaultIfEmpty((double)f.Step).Average();
        var advised = r.Advised ?? Advisory(r.Drive);
        var most = r.Limits?.Max ?? (f.Word == "length" ? MostMm(r.Drive) : double.MaxValue);
        string V(double v) => $"{Say.N(v)} {f.Unit}";
        var tooLong = all.Where(c => c.Gaps > 0).Select(c => c.At).Distinct().ToList();
        var lines = all.Select(c =>
                $"{V(c.At)}{(speeds.Count > 1 ? $" at {Say.N(c.Speed)} mm/s" : "")}: mean {Say.N(c.Mean)} ± {Say.N(1.96 * c.Se)} from " +
                    $"{Say.Plural(c.Count, "reading")}{(c.Gaps > 0 ? ", gaps after travel" : "")}"
            ).ToList();
        lines.Add($"smoothed, so that it never falls with the factor: {string.Join(", ", usable.Select(c => $"{V(c.At)} {Say.N(smooth[c])}"))}");
        lines.Add(
            $"best {Say.N(height)}; not inferior from {Say.N(height - r.Margin)} on (margin {Say.N(r.Margin)}): {string.Join(", ", good.Select(c => V(c.At)))}"
        );
        if (shorter is not null)
            lines.Add(
                $"from {V(at.At)} on {Say.N(level)} ± {Say.N(1.96 * se)} against {Say.N(shorter.Mean)} at {V(shorter.At)}: told apart from " +
                    $"{Say.N(OneSided * Math.Sqrt(se * se + shorter.Se * shorter.Se))} on"
            );
        var basis = new RetractionVerdict
        {
            Verdict = "insufficient",
            Sentence = "",
            Factor = f.Word,
            Values = [.. row.Select(c => c.At)],
            Means = [.. row.Select(c => (double?)Math.Round(c.Mean, 3))],
            Halves = [.. row.Select(c => (double?)Math.Round(1.96 * c.Se, 3))],
            AsGood = [.. good.Where(c => c.Speed == at.Speed).Select(c => c.At)],
            TooLong = tooLong,
            Arithmetic = lines,
        };
        if (best.Mean < NothingHelps || (alike && best.Mean < 2.5))
        {
            return basis with
            {
                Verdict = "not-retraction",
                Sentence = $"No {Words(f)} helps: the best scores {Say.N(best.Mean, 1)} of 4{(alike ? ", and none can be told from another" : "")}.",
                Reasons =
                [
                    "Strings that stay whatever is set come from somewhere else: nozzle, moisture, temperature, wipe and coast, travel speed, an idle " +
                        "toolhead, in that order.",
                ],
                Warnings = ["Colder until it stops is a trap: the part goes weak and starved before the strings are gone."],
                Next = new("guide", "Find out where the strings come from.") { Guide = "strings" },
                Advised = false,
            };
        }

        var atEnd = at.At >= high - 1e-9 && at.At < most - 1e-9 && f.Word is not "travel" && !tooLong.Any(x => x > at.At);
        var atStart = shorter is null && at.At > 1e-9 && f.Word is not ("speed" or "travel") && at.At > (r.Limits?.Min ?? 0) + 1e-9;
        var near = behind > r.Margin / 2 + 1e-9 && !shown;
        var word = atEnd || atStart ? "edge" : tellsShorter && !near ? "clear" : "noise";
        // The shortest that would do lies between the longest that is told to be worse and this one.
        var worse = row.Where(c => c.At < at.At && level - c.Mean > OneSided * Math.Sqrt(se * se + c.Se * c.Se)).MaxBy(c => c.At);
        var half = shorter is null ? step : at.At - (worse?.At ?? Math.Max(0, low - step));
        var warnings = new List<string>();
        if (tooLong.Count > 0)
            warnings.Add($"Gaps after travel at {Say.List(tooLong.Select(V))}: too much is pulled back. Longer is not better; it clogs, too.");
        if (f.Word == "length" && at.At > (advised.Max ?? double.MaxValue))
            warnings.Add(
                $"{V(at.At)} is longer than the {Say.N(advised.Max!.Value)} mm that is usual for a " +
                    $"{(r.Drive == "long-tube" ? "long tube" : "direct drive")}." +
                    $"{(r.Soft ? " Soft filament may need more than that." : " Is the nozzle clean and the filament dry? Long retraction clogs.")}"
            );
        if (f.Word == "length" && at.At >= most - 1e-9)
            warnings.Add($"{V(most)} is the most for this machine: the range is not extended.");
        var notShown =
            !shown && word is "clear" or "noise" && others.Count > 0
                ? $"That it is as good as {Say.List(others.Select(c => V(c.At)))} is not shown: the interval is wider than the margin. " +
                    $"{Say.Plural(More(at, r), "more reading")} at it would show it."
                : null;
        // A long tube has play of its own: finer than a quarter of a millimetre is nothing there.
        var fine = f.Word == "length" && r.Drive == "long-tube" ? 0.25 : f.Fine;
        var place =
            shorter is null || word != "clear" ? null : Bracketing.Plan(shorter.At, at.At, fine / 2, fine, low, high, f.Word is "speed" or "travel" ? 1 : 0.05);
        var speedNote = speeds.Count > 1 ? $" at {Say.N(at.Speed)} mm/s" : "";
        TrialNext next = word switch
        {
            "edge" => Range(
                r, f, atEnd ? $"Go on from {V(at.At)} upward: the best may lie beyond." : $"Go below {V(at.At)}: shorter may be as clean.",
                atEnd ? at.At : Math.Max(0, at.At - 4 * step), atEnd ? Math.Min(most, at.At + 4 * step) : at.At, step, "edge"),
            "noise" when near => Range(
                r, f, $"{V(at.At)} and {V(others[0].At)} once more on one plate, twice each.", at.At, others[0].At, others[0].At - at.At, "repeat"),
            "noise" => Range(r, f, $"{V(shorter!.At)} and {V(at.At)} once more on one plate, twice each.", shorter.At, at.At, at.At - shorter.At, "repeat"),
            _ when place is not null => Range(
                r, f,
                $"{Say.Plural(place.Places.Count, "value")} between {V(shorter!.At)} and {V(at.At)} ({Say.List(place.Places.Select(p => Say.N(p)))}) would " +
                    $"bring ± {Say.N(place.HalfNow)} to about ± {Say.N(place.HalfThen)} {f.Unit}; a plain grid needs {place.GridPieces} pieces for as much.",
                place.Places[0], place.Places.Count > 1 ? place.Places[^1] : at.At,
                place.Places.Count > 1 ? place.Places[1] - place.Places[0] : at.At - place.Places[0], "bracket"),
            _ => Range(r, f, $"{V(at.At)} again on one plate, beside its neighbour, confirms it.", Math.Max(0, at.At - step), at.At + step, step, "repeat"),
        };
        return basis with
        {
            Verdict = word,
            Sentence = word switch
            {
                "edge" when atEnd => $"{V(at.At)}{speedNote} is the best, and the end of the range: the best may lie beyond.",
                "edge" => $"{V(at.At)}{speedNote} is as clean as the best, and the shortest that was tried: shorter may do.",
                "noise" when near => $"{V(at.At)}{speedNote}, but that it is as good as longer ones is not shown: {Say.N(behind, 1)} behind them.",
                "noise" => $"{V(at.At)}{speedNote}, but it can't be told from {V(shorter!.At)}.",
                _ when at.At <= 1e-9 => $"{V(0)}. As clean as the best without it.",
                _ =>
                    $"{V(at.At)}{speedNote}. The shortest that is not inferior to the best by {Say.N(r.Margin)}; " +
                        $"{(shorter is null ? "nothing shorter was tried" : $"{V(shorter.At)} is worse by {Say.N(level - shorter.Mean, 1)}")}.",
            },
            Reasons =
            [
                $"Best mean {Say.N(best.Mean, 1)} of 4 at {V(best.At)}; {(good.Count == 1 ? "nothing else is" : $"{Say.List(good.Where(c => c.Speed == at.Speed).Select(c => V(c.At)))} are")} within {Say.N(r.Margin)} of the best level, {Say.N(height, 1)}.",
                .. notShown is null ? Array.Empty<string>() : [notShown],
            ],
            Warnings = warnings,
            Next = next,
            Value = at.At,
            LengthMm = f.Word == "length" ? at.At : null,
            SpeedMmPerS =
                f.Word == "speed" ? at.At
                : speeds.Count > 1 ? at.Speed
                : null,
            Settings = word is "clear" or "edge" or "noise"
                ?
                [
                    new(f.Key, at.At, Math.Round(half, 3)),
                    .. speeds.Count > 1 ? [new SettingValue("retractionSpeedMmPerS", at.Speed, 0)] : Array.Empty<SettingValue>(),
                ]
                : [],
            Shown = shown,
            NextPlaces = place,
            Advised = word == "clear",
        };
    }

    /// <summary>Two groups beside each other: retraction off and on, or the spool as it was and dried.</summary>
    /// <param name="first">Scores of the first group.</param>
    /// <param name="second">Of the second.</param>
    /// <param name="noise">Standard deviation of one score.</param>
    /// <param name="dried">True for a dried pair.</param>
    public static RetractionVerdict Pair(RetractionPoint first, RetractionPoint second, double noise, bool dried)
    {
        var r = new RetractionReadings { Factor = "pair", ScoreNoise = noise, Points = [first with { Value = 0 }, second with { Value = 1 }] };
        var cells = Cells(r);
        var (a, b) = (cells[0], cells[1]);
        var gain = b.Mean - a.Mean;
        var u = Math.Sqrt(a.Se * a.Se + b.Se * b.Se);
        var word = gain > OneSided * u ? "helps" : gain + OneSided * u < 0.5 ? RetractionVerdict.NoDifference : "noise";
        var (was, now) = dried ? ("as it was", "dried") : ("off", "on");
        return new()
        {
            Verdict = word,
            Factor = dried ? "dryness" : "on-off",
            Values = [0, 1],
            Means = [Math.Round(a.Mean, 3), Math.Round(b.Mean, 3)],
            Halves = [Math.Round(1.96 * a.Se, 3), Math.Round(1.96 * b.Se, 3)],
            Sentence = word switch
            {
                "helps" when dried => $"The spool was damp: dried it strings less by {Say.N(gain, 1)} of 4.",
                "helps" => $"Retraction helps: {Say.N(gain, 1)} of 4 better than without.",
                RetractionVerdict.NoDifference when dried => "Drying changed nothing: the spool was dry enough for strings.",
                RetractionVerdict.NoDifference => "On and off string alike: no length will help.",
                _ => $"{(dried ? "Dried" : "On")} is {(gain >= 0 ? "better" : "worse")} by {Say.N(Math.Abs(gain), 1)} of 4, within what scores scatter.",
            },
            Reasons = [$"{char.ToUpperInvariant(was[0])}{was[1..]} {Say.N(a.Mean, 1)}, {now} {Say.N(b.Mean, 1)}; told apart from {Say.N(OneSided * u)} on."],
            Warnings = word == "helps" && dried ? ["What was measured on this spool before is suspect: strings, flow limit and bond."] : [],
            Next = word switch
            {
                "helps" when dried => new(
                    "sweep", "Keep it dry, and sweep the retraction on the dried spool.", RetractionTrial.Word, new Dictionary<string, decimal>()
                )
                { Words = new Dictionary<string, string> { ["mode"] = RetractionTrial.Tower } },
                "helps" => new("sweep", "Sweep the length, and keep the shortest that is not worse.", RetractionTrial.Word, new Dictionary<string, decimal>())
                {
                    Words = new Dictionary<string, string> { ["mode"] = RetractionTrial.Tower },
                },
                RetractionVerdict.NoDifference when !dried => new("guide", "Find out where the strings come from.") { Guide = "strings" },
                "noise" => new(
                    "repeat", $"{Say.Plural(NeededPairs(noise), "more reading")} of each would tell a difference of half a score.", RetractionTrial.Word,
                    new Dictionary<string, decimal> { ["repeats"] = 2 }
                )
                { Words = new Dictionary<string, string> { ["mode"] = dried ? RetractionTrial.Dried : RetractionTrial.OnOff } },
                _ => null,
            },
            Arithmetic =
            [
                $"{was}: mean {Say.N(a.Mean)} from {a.Count}, {now}: mean {Say.N(b.Mean)} from {b.Count}",
                $"difference {Say.Signed(gain, 2)}, standard error {Say.N(u)}; one-sided 95 %: {Say.N(OneSided * u)}",
            ],
            Advised = false,
        };
    }

    private static int NeededPairs(double noise) => (int)Math.Clamp(Math.Ceiling(2 * Math.Pow(OneSided * noise / 0.5, 2)), 2, 99);

    private static (double Mean, double Se) Pool(IReadOnlyList<Cell> cells)
    {
        double n = cells.Sum(c => c.Count);
        return (cells.Sum(c => c.Mean * c.Count) / n, Math.Sqrt(cells.Sum(c => c.Se * c.Se * c.Count * c.Count)) / n);
    }

    /// <summary>Further readings at a value until its interval is within the margin, others being as sure.</summary>
    private static int More(Cell at, RetractionReadings r) =>
        (int)Math.Clamp(Math.Ceiling(2 * Math.Pow(OneSided * at.Se * Math.Sqrt(at.Count) / r.Margin, 2)) - at.Count, 1, 99);

    private static string Words(SweepFactor f) => f.Label.ToLowerInvariant();

    private static TrialNext Range(RetractionReadings r, SweepFactor f, string text, double from, double to, double step, string kind)
    {
        var values = new Dictionary<string, decimal>
        {
            ["from"] = (decimal)Math.Round(from, 2), ["to"] = (decimal)Math.Round(to, 2), ["step"] = (decimal)Math.Max(0.05, Math.Round(step, 2)),
        };
        if (kind == "repeat")
            values["repeats"] = 2;
        return new(kind, text, RetractionTrial.Word, values)
        {
            Words = new Dictionary<string, string> { ["mode"] = kind == "edge" ? RetractionTrial.Tower : RetractionTrial.Plate, ["factor"] = f.Word },
        };
    }
}
