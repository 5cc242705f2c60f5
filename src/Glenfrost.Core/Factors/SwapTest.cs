using System.Numerics;

namespace Glenfrost.Core.Factors;

/// <summary>A combination that was printed.</summary>
/// <param name="Factors">What it was made with, by factor: slicer, filament, printer …</param>
/// <param name="Passed">Prints that passed.</param>
/// <param name="Tried">Prints.</param>
/// <param name="LeftOut">Failures that raised the suspicion: they chose what is tested and prove nothing about it.</param>
/// <param name="FailedAtLayers">Layer at which each failure that counts gave up, in any order; null where nobody noted it.</param>
public sealed record SwapRow(
    IReadOnlyDictionary<string, string> Factors, int Passed, int Tried, int LeftOut = 0, IReadOnlyList<int>? FailedAtLayers = null)
{
    /// <summary>Most prints of a row that are told apart by their layers.</summary>
    public const int MostByLayer = 40;

    /// <summary>Prints that count.</summary>
    public int Counted => Tried - LeftOut;

    /// <summary>Failures that count.</summary>
    public int Failures => Counted - Passed;

    /// <summary>How far each print that counts came, layers; one that passed came further than any that failed. Null where it is not known of each.</summary>
    public IReadOnlyList<int>? Reached => Counted > MostByLayer || (FailedAtLayers?.Count ?? 0) != Failures
        ? null
        : [.. FailedAtLayers ?? [], .. Enumerable.Repeat(int.MaxValue, Passed)];
}

/// <summary>What swaps say.</summary>
public enum SwapOutcome
{
    /// <summary>One factor is to blame: exchanging it cures, exchanging others does not.</summary>
    One,

    /// <summary>Several are, each by itself: only exchanging them together cures.</summary>
    Several,

    /// <summary>It fails only in this combination: each of several exchanges cures.</summary>
    Together,

    /// <summary>What looks like a cure happens by luck too often.</summary>
    Luck,

    /// <summary>Nothing was exchanged yet that could tell.</summary>
    Insufficient,
}

/// <summary>The print that would tell most.</summary>
/// <param name="Factors">The combination.</param>
/// <param name="Changed">Factors in which it differs from the failing one.</param>
/// <param name="Prints">How many of it, where all of them pass.</param>
/// <param name="Again">True for a combination that was printed before.</param>
public sealed record SwapNext(IReadOnlyDictionary<string, string> Factors, IReadOnlyList<string> Changed, int Prints, bool Again)
{
    /// <summary>
    /// The order in which to print where something drifts meanwhile: true for this combination, false for the failing one, which stands before, between and
    /// after (A–B–A), so that what drifts is seen at it and not taken for a cure.
    /// </summary>
    public IReadOnlyList<bool> Order => Changed.Count == 0 ? [] : [.. Enumerable.Range(0, (2 * Prints) + 1).Select(i => i % 2 == 1)];
}

/// <summary>What swaps say, with the arithmetic.</summary>
/// <param name="Outcome">In a word.</param>
/// <param name="Blamed">Factors to blame; for luck those that look so.</param>
/// <param name="Acquitted">Factors whose exchange did not cure, as often as it was tried.</param>
/// <param name="Hopeful">Beside one that is to blame: factors whose exchange passed too, not often enough to tell.</param>
/// <param name="ByLuck">Of each other row: how often luck alone would pass it so often, were it no better than the failing one; unadjusted, one-sided.</param>
/// <param name="ByLuckAdjusted">The same, adjusted for looking at several rows (Holm).</param>
/// <param name="Next">What to print next; null where nothing would tell more.</param>
public sealed record SwapVerdict(
    SwapOutcome Outcome, IReadOnlyList<string> Blamed, IReadOnlyList<string> Acquitted, IReadOnlyList<string> Hopeful, IReadOnlyList<double> ByLuck,
    IReadOnlyList<double> ByLuckAdjusted, SwapNext? Next)
{
    /// <summary>True where what was exchanged comes further and still never passed: it is part of the cause, and not all of it.</summary>
    public bool OnlyFurther { get; init; }
}

/// <summary>
/// Tells from combinations that were printed which factor a failure belongs to: Fisher's exact test of each row against the failing one, adjusted over the rows
/// by Holm's method (Fisher 1935; Holm 1979). Where the layer is noted at which each failure gave up, how far they came says more than whether they passed: the
/// exact rank-sum test then (Wilcoxon 1945), which is Fisher's where all failures gave up alike.
/// </summary>
public static class SwapTest
{
    /// <summary>More often than this by luck is no cure.</summary>
    public const double MostByLuck = 0.05;

    /// <summary>Most prints of one more row that are proposed.</summary>
    private const int MostPrints = 6;

    /// <summary>
    /// How often luck alone would pass at least so many of the second row, were both rows alike: one-sided, with the sums as they are.
    /// </summary>
    /// <param name="failingPassed">Passed of the failing row.</param>
    /// <param name="failingTried">Tried of it.</param>
    /// <param name="passed">Passed of the other row.</param>
    /// <param name="tried">Tried of it.</param>
    /// <returns>0 to 1; 1 where one of them was never tried.</returns>
    public static double ByLuck(int failingPassed, int failingTried, int passed, int tried)
    {
        if (failingTried == 0 || tried == 0)
            return 1;
        var (all, good) = (failingTried + tried, failingPassed + passed);
        BigInteger sum = 0;
        for (var k = passed; k <= Math.Min(good, tried); k++)
            sum += Choose(good, k) * Choose(all - good, tried - k);
        // Exact until here; as many digits as a number holds afterwards.
        return (double)(sum * BigInteger.Pow(10, 18) / Choose(all, tried)) / 1e18;
    }

    /// <summary>
    /// How often luck alone would bring the second row so far, were both rows alike: by the layers reached where they are noted for both, else by what passed.
    /// </summary>
    /// <param name="failing">The failing row.</param>
    /// <param name="row">The other row.</param>
    /// <returns>0 to 1, one-sided; 1 where one of them was never tried.</returns>
    public static double ByLuck(SwapRow failing, SwapRow row) => failing.Counted > 0 && row.Counted > 0 && failing.Reached is { } a && row.Reached is { } b
        ? ByReached(a, b)
        : ByLuck(failing.Passed, failing.Counted, row.Passed, row.Counted);

    /// <summary>Share of all ways to deal the prints out in which the second row's ranks sum up to so much; equal layers share their ranks.</summary>
    private static double ByReached(IReadOnlyList<int> failing, IReadOnlyList<int> row)
    {
        var all = failing.Concat(row).Order().ToList();
        // Twice the middle rank: whole numbers.
        var ranks = all.GroupBy(x => x).ToDictionary(g => g.Key, g => (2 * all.IndexOf(g.Key)) + g.Count() + 1);
        var observed = row.Sum(x => ranks[x]);
        var most = all.Sum(x => ranks[x]);
        var ways = new double[row.Count + 1, most + 1];
        ways[0, 0] = 1;
        foreach (var (x, i) in all.Select((x, i) => (x, i)))
        {
            for (var k = Math.Min(row.Count, i + 1); k >= 1; k--)
            {
                for (var sum = most; sum >= ranks[x]; sum--)
                    ways[k, sum] += ways[k - 1, sum - ranks[x]];
            }
        }

        var (far, of) = (0.0, 0.0);
        for (var sum = 0; sum <= most; sum++)
        {
            of += ways[row.Count, sum];
            far += sum >= observed ? ways[row.Count, sum] : 0;
        }

        return far / of;
    }

    /// <summary>True where a row did better than the failing one: came further, where that is noted of both, else passed more often.</summary>
    private static bool IsBetter(SwapRow failing, SwapRow row) => failing.Reached is { Count: > 0 } a && row.Reached is { Count: > 0 } b
        ? b.Sum(x => a.Sum(y => Math.Sign(x.CompareTo(y)))) > 0
        : Share(row) > Share(failing);

    private static BigInteger Choose(int n, int k)
    {
        if (k < 0 || k > n)
            return 0;
        BigInteger c = 1;
        for (var i = 1; i <= Math.Min(k, n - k); i++)
            c = c * (n - i + 1) / i;
        return c;
    }

    /// <summary>Holm's adjustment: the smallest counts for all, the next for one fewer, never below the one before.</summary>
    public static IReadOnlyList<double> Holm(IReadOnlyList<double> p)
    {
        var adjusted = new double[p.Count];
        var before = 0.0;
        foreach (var (i, rank) in Enumerable.Range(0, p.Count).OrderBy(i => p[i]).ThenBy(i => i).Select((i, rank) => (i, rank)))
            adjusted[i] = before = Math.Max(before, Math.Min(1, (p.Count - rank) * p[i]));
        return adjusted;
    }

    /// <summary>
    /// Factors in which a row differs from the failing one; one that either does not name counts as different, since blank is never the same.
    /// </summary>
    public static IReadOnlyList<string> Changed(SwapRow failing, SwapRow row) =>
        [
            .. failing.Factors.Keys.Union(row.Factors.Keys)
                .Where(k =>
                    !failing.Factors.TryGetValue(k, out var a)
                    || !row.Factors.TryGetValue(k, out var b)
                    || !string.Equals(a, b, StringComparison.OrdinalIgnoreCase))
                .Order(StringComparer.Ordinal),
        ];

    /// <summary>Judges rows. One that repeats the failing combination, printed again at the end, counts to it.</summary>
    /// <param name="rows">The failing combination first.</param>
    /// <exception cref="ArgumentException">There is none.</exception>
    public static SwapVerdict Judge(IReadOnlyList<SwapRow> rows)
    {
        if (rows.Count == 0)
            throw new ArgumentException("There is no failing combination.", nameof(rows));
        var others = rows.Skip(1).Select(r => (Row: r, Changed: Changed(rows[0], r))).ToList();
        var again = others.Where(x => x.Changed.Count == 0).ToList();
        var failing = rows[0] with
        {
            Passed = rows[0].Passed + again.Sum(x => x.Row.Passed),
            Tried = rows[0].Tried + again.Sum(x => x.Row.Tried),
            FailedAtLayers = [.. rows[0].FailedAtLayers ?? [], .. again.SelectMany(x => x.Row.FailedAtLayers ?? [])],
        };
        bool Tells((SwapRow Row, IReadOnlyList<string> Changed) x) => x.Changed.Count > 0 && x.Row.Counted > 0;
        var byLuck = others.ConvertAll(x => Tells(x) ? ByLuck(failing, x.Row) : 1);
        // Only what was printed is looked at, and adjusted for.
        var told = new Queue<double>(Holm([.. byLuck.Where((_, i) => Tells(others[i]))]));
        var adjusted = others.ConvertAll(x => Tells(x) ? told.Dequeue() : 1);
        var of = others.Select((x, i) => (x.Row, x.Changed, Luck: adjusted[i])).Where(x => Tells((x.Row, x.Changed))).ToList();
        var better = of.Where(x => IsBetter(failing, x.Row)).ToList();
        var cures = better.Where(x => x.Luck <= MostByLuck).ToList();
        List<string> Singles(IEnumerable<(SwapRow Row, IReadOnlyList<string> Changed, double Luck)> list) =>
            [.. list.Where(x => x.Changed.Count == 1).Select(x => x.Changed[0]).Distinct()];
        var (curing, hopeful) = (Singles(cures), Singles(better));
        // Exchanged by itself, and no better for it.
        var acquitted = Singles(of).Except(hopeful).ToList();
        // Only together: none of what was exchanged in that row cures alone, and each of them was tried alone.
        var several = cures.Where(x => x.Changed.Count > 1 && x.Changed.All(acquitted.Contains)).OrderBy(x => x.Changed.Count).FirstOrDefault();
        // Beside one cure, another exchange that passed too may mean that it fails only together: its print tells.
        List<string> beside = curing.Count == 1 ? [.. hopeful.Except(curing)] : [];
        var next = curing.Count == 0 ? NextOf(failing, of, acquitted) : Hopeful(failing, of.Where(x => !x.Changed.Any(curing.Contains)).ToList(), of.Count);
        var further = cures.Count > 0 && cures.All(x => x.Row.Passed == 0);
        SwapVerdict verdict = curing.Count == 1 ? new(SwapOutcome.One, curing, acquitted, beside, byLuck, adjusted, beside.Count > 0 ? next : null)
            : curing.Count > 1 ? new(SwapOutcome.Together, curing, acquitted, [], byLuck, adjusted, null)
            : several.Row is not null ? new(SwapOutcome.Several, several.Changed, [.. acquitted.Except(several.Changed)], [], byLuck, adjusted, null)
            : hopeful.Count > 0 ? new(SwapOutcome.Luck, hopeful, acquitted, [], byLuck, adjusted, next)
            : new(SwapOutcome.Insufficient, [], acquitted, [], byLuck, adjusted, next);
        return verdict with { OnlyFurther = further };
    }

    private static double Share(SwapRow r) => r.Counted == 0 ? 0 : (double)r.Passed / r.Counted;

    /// <summary>
    /// The cheapest row that decides: a single exchange that looks like a cure once more, else one that cured only with others by itself, else the failing
    /// combination until it is known to fail.
    /// </summary>
    private static SwapNext? NextOf(SwapRow failing, List<(SwapRow Row, IReadOnlyList<string> Changed, double Luck)> of, List<string> acquitted)
    {
        if (Hopeful(failing, of, of.Count) is { } best)
            return best;
        // A row in which several were exchanged at once and that did better: each of them alone, the first that nobody tried.
        foreach (var x in of.Where(x => x.Changed.Count > 1 && IsBetter(failing, x.Row)))
        {
            foreach (var factor in x.Changed.Where(f => !acquitted.Contains(f) && x.Row.Factors.ContainsKey(f)))
            {
                var alone = new Dictionary<string, string>(failing.Factors) { [factor] = x.Row.Factors[factor] };
                return new(alone, [factor], PrintsOf(failing, new(alone, 0, 0), of.Count + 1) ?? MostPrints, false);
            }
        }

        return Share(failing) < 1 && failing.Counted < 3 ? new(failing.Factors, [], 3 - failing.Counted, failing.Tried > 0) : null;
    }

    /// <summary>The single exchange that did better and needs the fewest prints to show it; null where there is none.</summary>
    private static SwapNext? Hopeful(SwapRow failing, List<(SwapRow Row, IReadOnlyList<string> Changed, double Luck)> of, int rows)
    {
        SwapNext? best = null;
        foreach (var (row, changed, _) in of.Where(x => x.Changed.Count == 1 && IsBetter(failing, x.Row)))
        {
            if (PrintsOf(failing, row, rows) is { } n && (best is null || n < best.Prints))
                best = new(row.Factors, changed, n, true);
        }

        return best;
    }

    /// <summary>How many more prints of a row would show the cure, were all of them to pass; null where not even several would.</summary>
    private static int? PrintsOf(SwapRow failing, SwapRow row, int rows)
    {
        for (var n = 1; n <= MostPrints; n++)
        {
            if (rows * ByLuck(failing, row with { Passed = row.Passed + n, Tried = row.Tried + n }) <= MostByLuck)
                return n;
        }

        return null;
    }
}
