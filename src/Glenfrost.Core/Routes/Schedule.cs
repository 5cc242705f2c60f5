namespace Glenfrost.Core.Routes;

/// <summary>Something to be done on the way of a pairing.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Minutes">That it keeps its printer, or the dryer; of reading and deciding, what it takes at the desk.</param>
/// <param name="Printer">The printer that it keeps; null where it needs none.</param>
/// <param name="Link">Where it is done; null for nowhere.</param>
/// <param name="Shared">What it is the same as on other ways: a check of a machine, the drying of a spool. Null for none.</param>
public sealed record ScheduleItem(string Title, int Minutes, string? Printer, string? Link, string? Shared = null);

/// <summary>What a pairing still wants, in order: each waits for the answer of the one before.</summary>
/// <param name="Name">Of the pairing.</param>
/// <param name="Items">In order.</param>
public sealed record ScheduleWay(string Name, IReadOnlyList<ScheduleItem> Items);

/// <summary>One thing of an evening.</summary>
/// <param name="Way">The pairing.</param>
/// <param name="Item">What is done.</param>
/// <param name="FromMinute">When it begins, minutes after the evening does.</param>
/// <param name="TooLong">True where it takes longer than the evening: begin it when somebody can stay with it.</param>
public sealed record ScheduledItem(string Way, ScheduleItem Item, int FromMinute, bool TooLong);

/// <summary>The evenings ahead.</summary>
/// <param name="Evenings">What is done in each, in the order of printers and time; the last ones may be empty and are left out.</param>
/// <param name="Left">Things that found no place within the evenings asked for.</param>
public sealed record Schedule(IReadOnlyList<IReadOnlyList<ScheduledItem>> Evenings, int Left)
{
    /// <summary>Minutes for changing filament and plate between two prints of a printer.</summary>
    public const int BetweenMinutes = 10;

    /// <summary>
    /// Lays out what pairings want over evenings. Of one pairing one thing an evening, since the next one waits for its answer; the printers work beside each
    /// other; a print ends within the evening, because a hot machine is not left alone. One that is longer has its printer to itself, and says so. Whoever
    /// stands first in the list is served first.
    /// </summary>
    /// <param name="ways">The most pressing first.</param>
    /// <param name="eveningMinutes">Length of an evening, 30 and more.</param>
    /// <param name="evenings">How many, 1 and more.</param>
    /// <exception cref="ArgumentOutOfRangeException">Either is less.</exception>
    public static Schedule Of(IReadOnlyList<ScheduleWay> ways, int eveningMinutes, int evenings)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(eveningMinutes, 30);
        ArgumentOutOfRangeException.ThrowIfLessThan(evenings, 1);
        var next = new int[ways.Count];
        var (laid, shared) = (new List<IReadOnlyList<ScheduledItem>>(), new HashSet<string>());
        for (var evening = 0; evening < evenings; evening++)
        {
            var (used, done, today) = (new Dictionary<string, int>(), new List<ScheduledItem>(), new HashSet<string>());
            for (var w = 0; w < ways.Count; w++)
            {
                while (next[w] < ways[w].Items.Count && ways[w].Items[next[w]].Shared is { } before && shared.Contains(before))
                    next[w]++;
                if (next[w] >= ways[w].Items.Count)
                    continue;
                var item = ways[w].Items[next[w]];
                // Somebody does it this evening already, for this one too.
                if (item.Shared is { } same && !today.Add(same))
                {
                    next[w]++;
                    continue;
                }

                var tooLong = item.Printer is not null && item.Minutes > eveningMinutes;
                var from = item.Printer is { } p && used.TryGetValue(p, out var until) ? until + BetweenMinutes : 0;
                if (item.Printer is not null && (tooLong ? from > 0 : from + item.Minutes > eveningMinutes))
                    continue;
                if (item.Printer is { } keeps)
                    used[keeps] = tooLong ? eveningMinutes : from + item.Minutes;
                done.Add(new(ways[w].Name, item, from, tooLong));
                next[w]++;
            }

            shared.UnionWith(today);
            laid.Add([.. done.OrderBy(d => d.Item.Printer is null).ThenBy(d => d.Item.Printer, StringComparer.Ordinal).ThenBy(d => d.FromMinute)]);
        }

        while (laid.Count > 0 && laid[^1].Count == 0)
            laid.RemoveAt(laid.Count - 1);
        return new(laid, ways.Select((w, i) => w.Items.Count - next[i]).Sum());
    }
}
