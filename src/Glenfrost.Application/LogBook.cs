using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Which lines of the log are wanted.</summary>
/// <param name="Kind">Kind of thing; null for all.</param>
/// <param name="Words">Words that a line holds; null for all.</param>
/// <param name="From">First day, of the place; null for all.</param>
/// <param name="To">Last day, itself included; null for all.</param>
/// <param name="Before">Only lines before this one: its time and id; null from the newest on.</param>
public sealed record LogFilter(string? Kind, string? Words, DateTime? From, DateTime? To, (DateTime At, Guid Id)? Before);

/// <summary>Everything that happened, the newest first.</summary>
public sealed class LogBook(WorkContext work)
{
    /// <summary>So many lines.</summary>
    public Task<List<LogEntry>> ListAsync(LogFilter filter, int most) => Query(filter).Take(most).ToListAsync();

    /// <summary>All lines, one after the other.</summary>
    public IAsyncEnumerable<LogEntry> AllAsync(LogFilter filter) => Query(filter).AsAsyncEnumerable();

    private IQueryable<LogEntry> Query(LogFilter filter)
    {
        var q = work.Db.Log.AsNoTracking().AsQueryable();
        if (filter.Kind is { } kind)
            q = q.Where(l => l.Kind == kind);
        if (filter.Words is { } words)
            q = q.Where(l => EF.Functions.Like(l.Text, "%" + words.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_") + "%", "\\"));
        if (filter.From is { } from)
        {
            var begin = Application.Words.DayBegins(from);
            q = q.Where(l => l.At >= begin);
        }

        if (filter.To is { } to)
        {
            var end = Application.Words.DayBegins(to.AddDays(1));
            q = q.Where(l => l.At < end);
        }

        // The time alone would skip what happened in the same millisecond.
        if (filter.Before is var (at, id))
            q = q.Where(l => l.At < at || (l.At == at && l.Id.CompareTo(id) < 0));
        return q.OrderByDescending(l => l.At).ThenByDescending(l => l.Id);
    }
}
