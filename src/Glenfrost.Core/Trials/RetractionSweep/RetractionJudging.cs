using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>
/// The value of least expected loss on a curve with one peak, and the smaller one where about the same is lost: too little leaves strings, too much pulls
/// the melt into the cold zone, and nobody says which side of the peak the readings are on. Counts become scores by 4 − log₂(1 + n), never below 0, with
/// the noise that a Poisson count brings. Equal values are repeats. A value whose own reading is below <see cref="Usable"/> is never offered.
/// </summary>
public static class RetractionJudging
{
    /// <summary>A value that was read below this is not offered, whatever its neighbours say, scores.</summary>
    public const double Usable = 2;

    /// <summary>Where all values are alike and the best is below this, retraction is not the matter, scores.</summary>
    public const double Poor = 2.5;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double Open = 1;

    /// <summary>A best below this at the end of a range that still rises is no best yet, scores.</summary>
    public const double Clean = 3.5;

    /// <summary>More values than this are no sweep.</summary>
    public const int MostValues = 60;

    /// <summary>Nobody's scores are surer than this.</summary>
    private const double LeastNoise = 0.05;

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
        if (r.Points.Select(p => (AtOf(r, p), p.SpeedMmPerS)).Distinct().Count() is > MostValues and var many)
            errors.Add(
                new("points", $"{many} values are no sweep: at most {MostValues} would be right; equal ones are repeats and may be as many as you like."));
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

    private static IReadOnlyList<SweepCell> Cells(RetractionReadings r) =>
        [
            .. r.Points.GroupBy(p => (At: AtOf(r, p), Speed: r.Factor == "length" ? p.SpeedMmPerS : 0)).Select(g =>
            {
                var each = g.SelectMany(p =>
                    p.Scores.Select(s => (Score: s, Sd: Math.Max(LeastNoise, r.ScoreNoise)))
                        .Concat(p.Strings.Select(n => (Score: ScoreOf(n), Sd: NoiseOf(n))))).ToList();
                return new SweepCell(
                    g.Key.At, g.Key.Speed, each.Average(e => e.Score), Math.Sqrt(each.Sum(e => e.Sd * e.Sd)) / each.Count, each.Count, g.Average(p => p.Gaps),
                    each.Average(e => ScoreCurve.Behind(e.Score, e.Sd)));
            }).OrderBy(c => c.At).ThenBy(c => c.SpeedMmPerS),
        ];

    private static double AtOf(RetractionReadings r, RetractionPoint p) =>
        Math.Round(r.Factor switch { "length" => p.LengthMm, "speed" => p.SpeedMmPerS, _ => p.Value ?? 0 }, 4);

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static RetractionVerdict Judge(RetractionReadings r)
    {
        var f = SweepFactor.Of(r.Factor);
        var v = f.Larger ? Turned(JudgeLeast(Turned(r), f), r, f) : JudgeLeast(r, f);
        if (f.SettledBy is not { } trial || v.At is null)
            return v;
        // What strings say of it is told; that it is the one to print with is another trial's to say.
        return v with
        {
            Settings = [],
            Advised = false,
            Cautions = [.. v.Cautions, RetractionCaution.StringsAlone],
            Next = v.Outcome == RetractionOutcome.Clear ? new("settle", "", trial, new Dictionary<string, decimal>()) : v.Next,
            NextPlaces = null,
            NextRange = v.Outcome == RetractionOutcome.Clear ? null : v.NextRange,
        };
    }

    /// <summary>Values with their sign turned: the largest that is about as good is the smallest of these.</summary>
    private static RetractionReadings Turned(RetractionReadings r) => r with
    {
        Points = [.. r.Points.Select(p => p with { Value = -(p.Value ?? 0) })],
        Limits = r.Limits is { } l ? new(-l.Max, -l.Min) : null,
    };

    private static RetractionVerdict Turned(RetractionVerdict v, RetractionReadings from, SweepFactor f)
    {
        SweepCell? Cell(SweepCell? c) => c is null ? null : c with { At = -c.At };
        var range = v.NextRange is { } n ? new SweepRange(-n.To, -n.From, n.Step) : null;
        return v with
        {
            From = from,
            Cells = [.. v.Cells.Select(c => Cell(c)!).Reverse()],
            Values = [.. v.Values.Select(x => -x).Reverse()],
            Means = [.. v.Means.Reverse()],
            Halves = [.. v.Halves.Reverse()],
            Curve = [.. v.Curve.Reverse()],
            AsGood = [.. v.AsGood.Select(x => -x).Reverse()],
            TooLong = [.. v.TooLong.Select(x => -x).Reverse()],
            Best = Cell(v.Best),
            At = Cell(v.At),
            Shorter = Cell(v.Shorter),
            Value = -v.Value,
            NextRange = range,
            Settings = [.. v.Settings.Select(s => s with { Value = -s.Value })],
            Next = range is null || v.Next is null ? v.Next : Range(f, range, v.Next.Kind) with { Gain = v.Next.Gain },
        };
    }

    /// <summary>Judges readings of which the smallest value that is about as good is taken.</summary>
    private static RetractionVerdict JudgeLeast(RetractionReadings r, SweepFactor f)
    {
        // Turned values lie below nothing; none of them is "without".
        var floor = f.Larger ? double.NegativeInfinity : 0;
        var all = Cells(r);
        var basis = new RetractionVerdict
        {
            Outcome = RetractionOutcome.Insufficient, Factor = f.Word, From = r, Cells = all, ValuesRead = all.Select(c => c.At).Distinct().Count(),
            Advised = false,
        };
        if (basis.ValuesRead < 2)
            return basis;
        var clean = all.Where(c => c.Gaps <= 0).ToList();
        var usable = clean.Count > 0 ? clean : [.. all];
        // Lengths swept at several speeds are curves side by side.
        var rows = usable.GroupBy(c => c.SpeedMmPerS).OrderBy(g => g.Key).Select(g => g.ToList()).ToList();
        usable = [.. rows.SelectMany(g => g)];
        var curve = ScoreCurve.SideBySide(
            [.. rows.Select(g => ScoreCurve.Through([.. g.Select(c => new ScoredPlace(c.At, c.Behind, c.StandardError))], [.. g.Select(c => c.At)]))]);
        double On(SweepCell c) => usable.IndexOf(c) is >= 0 and var i ? curve.Mean[i] : double.NaN;
        var offered = Enumerable.Range(0, usable.Count).Where(i => usable[i].Mean >= Usable).ToList();
        basis = basis with
        {
            Alike = Enumerable.Range(0, usable.Count).All(i => curve.LossAt(i).Expected < r.Margin),
            TooLong = [.. all.Where(c => c.Gaps > 0).Select(c => c.At).Distinct()],
        };
        if (offered.Count == 0 || (basis.Alike && usable.Max(c => c.Mean) < Poor))
        {
            var row1 = all.Where(c => c.SpeedMmPerS == usable[curve.Least(Enumerable.Range(0, usable.Count))].SpeedMmPerS).ToList();
            return Along(row1) with
            {
                Outcome = RetractionOutcome.NotRetraction,
                Best = usable.MaxBy(c => c.Mean),
                Cautions = [RetractionCaution.Colder],
                Next = new("guide", "") { Guide = "strings" },
            };
        }

        var best = curve.Least(offered);
        var good = offered.Where(i => curve.Mean[i] >= curve.Mean[best] - r.Margin - 1e-9).ToList();
        var most = r.Limits?.Max ?? (f.Word == "length" ? MostMm(r.Drive) : double.MaxValue);
        // Still rising where the range ends, and not clean yet: the peak may lie beyond, and nothing below it is about as good.
        var below = usable.Where(c => c.SpeedMmPerS == usable[best].SpeedMmPerS && c.At < usable[best].At).MaxBy(c => c.At);
        var rises = usable[best].At >= all.Max(c => c.At) - 1e-9 && usable[best].At < most - 1e-9 && f.Word is not "travel" && curve.Mean[best] < Clean
            && below is not null && curve.Mean[best] - On(below) > 0.1;
        // The smallest that is about as good; where speeds differ, the better of those.
        var chosen = rises ? best : good.OrderBy(i => usable[i].At).ThenByDescending(i => curve.Mean[i]).First();
        var (at, loss) = (usable[chosen], curve.LossAt(chosen));
        var row = all.Where(c => c.SpeedMmPerS == at.SpeedMmPerS).ToList();
        var inRow = offered.Where(i => usable[i].SpeedMmPerS == at.SpeedMmPerS).ToList();
        bool Worse(SweepCell c) => usable.IndexOf(c) is >= 0 and var i && curve.Above(chosen, i) >= 0.95;
        var shorter = row.Where(c => c.At < at.At).MaxBy(c => c.At);
        var (low, high) = (row.Min(c => c.At), row.Max(c => c.At));
        var step = row.Zip(row.Skip(1), (a, b) => b.At - a.At).DefaultIfEmpty((double)f.Step).Average();
        var advised = r.Advised ?? Advisory(r.Drive);
        var atTop = at.At >= high - 1e-9 && at.At < most - 1e-9 && f.Word is not "travel" && !basis.TooLong.Any(x => x > at.At);
        var atFoot = shorter is null && at.At > floor + 1e-9 && f.Word is not ("speed" or "travel") && at.At > (r.Limits?.Min ?? floor) + 1e-9;
        var outcome = atTop || atFoot ? RetractionOutcome.Edge : loss.P95 <= Open ? RetractionOutcome.Clear : RetractionOutcome.Noise;
        // The smallest that would do, by each curve that might be true; what lies between two values nobody tried.
        var along = Enumerable.Range(0, usable.Count).Where(i => usable[i].SpeedMmPerS == at.SpeedMmPerS).ToList();
        var apart = curve.FirstWithin(along, r.Margin).Select(x => Math.Abs(x - at.At)).Order().ToList();
        var half = apart[(int)Math.Ceiling(0.95 * apart.Count) - 1] + step / 2;
        List<RetractionCaution> cautions = [];
        if (basis.TooLong.Count > 0)
            cautions.Add(RetractionCaution.Gaps);
        if (f.Word == "length" && at.At > (advised.Max ?? double.MaxValue))
            cautions.Add(RetractionCaution.Long);
        if (f.Word == "length" && at.At >= most - 1e-9)
            cautions.Add(RetractionCaution.AtMost);
        if (!curve.OnePeak)
            cautions.Add(RetractionCaution.TwoPeaks);
        // A long tube has play of its own: finer than a quarter of a millimetre is nothing there.
        var fine = f.Word == "length" && r.Drive == "long-tube" ? 0.25 : f.Fine;
        var shorterIsWorse = shorter is not null && Worse(shorter);
        var place = shorter is null || outcome != RetractionOutcome.Clear || !shorterIsWorse ? null
            : Bracketing.Plan(shorter.At, at.At, fine / 2, fine, low, high, f.Word is "speed" or "travel" ? 1 : 0.05);
        // The rival is what may be better by most: the best of the others beside it.
        var rival = inRow.Where(i => i != chosen).OrderByDescending(i => curve.Mean[i]).Select(i => usable[i]).FirstOrDefault() ?? shorter;
        var range = outcome switch
        {
            RetractionOutcome.Edge when atTop => new SweepRange(at.At, Math.Min(most, at.At + 4 * step), step),
            RetractionOutcome.Edge => new(Math.Max(r.Limits?.Min ?? floor, at.At - 4 * step), at.At, step),
            // The two alone: what lies between them need not fit on a plate.
            RetractionOutcome.Noise when rival is not null => new(Math.Min(at.At, rival.At), Math.Max(at.At, rival.At), Math.Abs(at.At - rival.At)),
            _ when place is not null => new(
                place.Places[0], place.Places.Count > 1 ? place.Places[^1] : at.At,
                place.Places.Count > 1 ? place.Places[1] - place.Places[0] : at.At - place.Places[0]),
            _ => new SweepRange(Math.Max(floor, at.At - step), at.At + step, step),
        };
        var kind = outcome switch
        {
            RetractionOutcome.Edge => "edge",
            RetractionOutcome.Noise => "repeat",
            _ when place is not null => "bracket",
            _ => "repeat",
        };
        var again = inRow.Where(i => outcome == RetractionOutcome.Noise ? usable[i] == at || usable[i] == rival
            : usable[i].At >= range.From - 1e-9 && usable[i].At <= range.To + 1e-9).ToList();
        var perValue = Math.Sqrt(at.StandardError * at.StandardError * at.Count / Math.Max(1, usable.Min(c => c.Count)));
        double? gain = kind == "repeat" && again.Count > 1 ? Math.Round(curve.GainOf(again, perValue / Math.Sqrt(2), inRow), 3) : null;
        return Along(row) with
        {
            Outcome = outcome,
            AsGood = [.. good.Where(i => usable[i].SpeedMmPerS == at.SpeedMmPerS).Select(i => usable[i].At)],
            Loss = new(Math.Round(loss.Expected, 3), Math.Round(loss.P95, 3)),
            Best = usable[best],
            At = at,
            Shorter = shorter,
            ShorterIsWorse = shorterIsWorse,
            AtTop = atTop,
            Cautions = cautions,
            NextRange = range,
            Next = Range(f, range, kind) with { Gain = gain },
            Value = at.At,
            LengthMm = f.Word == "length" ? at.At : null,
            SpeedMmPerS = f.Word == "speed" ? at.At : rows.Count > 1 ? at.SpeedMmPerS : null,
            Settings =
            [
                new(f.Key, at.At, Math.Round(half, 3)),
                .. rows.Count > 1 ? [new SettingValue("retractionSpeedMmPerS", at.SpeedMmPerS, 0)] : Array.Empty<SettingValue>(),
            ],
            Shown = loss.P95 <= r.Margin,
            NextPlaces = place,
            Advised = outcome == RetractionOutcome.Clear,
        };

        RetractionVerdict Along(IReadOnlyList<SweepCell> cells) => basis with
        {
            Values = [.. cells.Select(c => c.At)],
            Means = [.. cells.Select(c => (double?)Math.Round(c.Mean, 3))],
            Halves = [.. cells.Select(c => (double?)Math.Round(1.96 * c.StandardError, 3))],
            Curve = [.. cells.Select(c => On(c) is var m && double.IsNaN(m) ? (double?)null : Math.Round(m, 3))],
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
        var (gain, u) = (b.Mean - a.Mean, Math.Sqrt(a.StandardError * a.StandardError + b.StandardError * b.StandardError));
        var outcome = gain > OneSided * u ? RetractionOutcome.Helps
            : -gain > OneSided * u ? RetractionOutcome.Worse
            : Math.Max(a.Mean + OneSided * a.StandardError, b.Mean + OneSided * b.StandardError) < Usable ? RetractionOutcome.BothFailed
            : Math.Abs(gain) + OneSided * u < 0.5 ? RetractionOutcome.NoDifference
            : RetractionOutcome.Noise;
        TrialNext Sweep() => new("sweep", "", RetractionTrial.Word, new Dictionary<string, decimal>())
        {
            Words = new Dictionary<string, string> { ["mode"] = RetractionTrial.Tower },
        };
        TrialNext Again() => new("repeat", "", RetractionTrial.Word, new Dictionary<string, decimal> { ["repeats"] = 2 })
        {
            Words = new Dictionary<string, string> { ["mode"] = dried ? RetractionTrial.Dried : RetractionTrial.OnOff },
        };
        return new()
        {
            Outcome = outcome, From = r, Cells = cells, Pair = (gain, u), Factor = dried ? "dryness" : "on-off",
            Values = [0, 1],
            Means = [Math.Round(a.Mean, 3), Math.Round(b.Mean, 3)],
            Halves = [Math.Round(1.96 * a.StandardError, 3), Math.Round(1.96 * b.StandardError, 3)],
            Cautions = outcome switch
            {
                RetractionOutcome.Helps when dried => [RetractionCaution.WasDamp],
                RetractionOutcome.Worse when dried => [RetractionCaution.ElseChanged],
                _ => [],
            },
            Next = outcome switch
            {
                RetractionOutcome.Helps => Sweep(),
                RetractionOutcome.Worse => dried ? Again() : Sweep(),
                RetractionOutcome.Noise => Again(),
                RetractionOutcome.NoDifference when dried => null,
                _ => new("guide", "") { Guide = "strings" },
            },
            Advised = false,
        };
    }

    /// <summary>Readings of each of a pair until half a score between them is told.</summary>
    public static int NeededPairs(double noise) => (int)Math.Clamp(Math.Ceiling(2 * Math.Pow(OneSided * noise / 0.5, 2)), 2, 99);

    private static TrialNext Range(SweepFactor f, SweepRange range, string kind)
    {
        var values = new Dictionary<string, decimal>
        {
            ["from"] = (decimal)Math.Round(range.From, 2), ["to"] = (decimal)Math.Round(range.To, 2),
            ["step"] = (decimal)Math.Max(0.05, Math.Round(range.Step, 2)),
        };
        if (kind == "repeat")
            values["repeats"] = 2;
        return new(kind, "", RetractionTrial.Word, values)
        {
            Words = new Dictionary<string, string> { ["mode"] = kind == "edge" ? RetractionTrial.Tower : RetractionTrial.Plate, ["factor"] = f.Word },
        };
    }
}
