using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What a page works with: the database, the gate for writes, the clock and who is at the bench.</summary>
public sealed class WorkContext(GlenfrostDb db, WriteGate gate, TimeProvider clock, Caller? caller = null)
{
    /// <summary>Alike things within this time stand as one line of the log.</summary>
    private static readonly TimeSpan OneLine = TimeSpan.FromMinutes(30);

    private Person? person;

    /// <summary>The database of this request.</summary>
    public GlenfrostDb Db => db;

    /// <summary>Now, UTC.</summary>
    public DateTime Now => clock.GetUtcNow().UtcDateTime;

    /// <summary>The tablet, phone or posting device that asks; null at the bench's own machine.</summary>
    public Guid? DeviceId => caller?.DeviceId;

    /// <summary>Told when the visitor leaves before the answer came; none outside of a request.</summary>
    public CancellationToken Left => caller?.Left ?? CancellationToken.None;

    /// <summary>Who is at this device: the one who was named when it was let in, else whoever is at the bench.</summary>
    public async Task<Person> PersonAsync()
    {
        if (person is not null)
            return person;
        if (caller?.PersonId is { } id)
            person = await db.People.FirstOrDefaultAsync(p => p.Id == id && !p.Elsewhere);
        person ??= await db.People.Where(p => !p.Elsewhere).OrderBy(p => p.Id).FirstOrDefaultAsync();
        if (person is null)
        {
            person = new Person { Name = "You" };
            db.People.Add(person);
            await gate.Through(() => db.SaveChangesAsync());
        }

        return person;
    }

    /// <summary>Adds a line to the log; it is saved with the write that it belongs to.</summary>
    /// <param name="kind">Kind of thing.</param>
    /// <param name="text">What happened.</param>
    /// <param name="link">Where it can be seen.</param>
    /// <param name="undo">What takes it back, for example <c>finding:ID</c>.</param>
    public async Task LogAsync(string kind, string text, string? link, string? undo = null) =>
        db.Log.Add(
            new LogEntry
            {
                At = Now, Kind = kind, Text = text.Length > 400 ? text[..400] + "…" : text, Link = link, Undo = undo, PersonId = (await PersonAsync()).Id,
            });

    /// <summary>The version that a record has in the database now; null where it is gone.</summary>
    public async Task<int?> VersionNowAsync(EditableRecord record) =>
        (await db.Entry(record).GetDatabaseValuesAsync())?.GetValue<int>(nameof(EditableRecord.Version));

    /// <summary>Adds to a line of the log that counts alike things of one person, or begins one. Inside the gate only.</summary>
    public Task LogCountAsync(string kind, string link, int count, Func<int, string> text) => LogCountAsync(kind, link, count, text, () => Task.FromResult(""));

    /// <summary>The same with words behind the count that are asked for only where a line begins.</summary>
    public async Task LogCountAsync(string kind, string link, int count, Func<int, string> text, Func<Task<string>> rest)
    {
        var (who, since) = ((await PersonAsync()).Id, Now - OneLine);
        var line = await db.Log.Where(l => l.At > since && l.Kind == kind && l.Link == link && l.PersonId == who && l.Count != null)
            .OrderByDescending(l => l.At).FirstOrDefaultAsync();
        if (line is null)
        {
            line = new LogEntry { At = Now, Kind = kind, Text = "", Link = link, PersonId = who, Count = 0 };
            db.Log.Add(line);
            line.Text = text(0) + await rest();
        }

        var behind = line.Text.StartsWith(text(line.Count!.Value), StringComparison.Ordinal) ? line.Text[text(line.Count.Value).Length..] : await rest();
        line.Count += count;
        line.Text = text(line.Count.Value) + behind;
    }

    /// <summary>Saves through the gate.</summary>
    /// <exception cref="ChangedMeanwhileException">Somebody else saved the same record meanwhile; nothing is written.</exception>
    public Task<int> SaveAsync(CancellationToken stop = default) => ToldAsync(() => gate.Through(() => db.SaveChangesAsync(stop), stop));

    /// <summary>Runs a read-then-write alone, so that numbering and checks hold.</summary>
    /// <exception cref="ChangedMeanwhileException">Somebody else saved the same record meanwhile; nothing is written.</exception>
    public Task<T> AloneAsync<T>(Func<Task<T>> work) => ToldAsync(() => gate.Through(work));

    private static async Task<T> ToldAsync<T>(Func<Task<T>> work)
    {
        try
        {
            return await work();
        }
        catch (DbUpdateConcurrencyException e)
        {
            throw new ChangedMeanwhileException(e);
        }
    }

    /// <summary>Touches an edited record.</summary>
    public void Touch(EditableRecord record)
    {
        record.Version++;
        record.ChangedAt = Now;
    }

    /// <summary>The newest entry of the room log.</summary>
    public Task<RoomEntry?> RoomAsync() => db.Room.AsNoTracking().OrderByDescending(r => r.At).FirstOrDefaultAsync();
}
