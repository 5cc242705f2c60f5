using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Services;

/// <summary>What a page works with: the database, the gate for writes, the clock and who is at the bench.</summary>
public sealed class Bench(GlenfrostDb db, WriteGate gate, TimeProvider clock)
{
    private Person? person;

    public GlenfrostDb Db => db;

    /// <summary>Now, UTC.</summary>
    public DateTime Now => clock.GetUtcNow().UtcDateTime;

    /// <summary>Who is at the bench. Accounts come later; until then there is one person.</summary>
    public async Task<Person> PersonAsync()
    {
        if (person is not null)
            return person;
        person = await db.People.OrderBy(p => p.Id).FirstOrDefaultAsync();
        if (person is null)
        {
            person = new Person { Name = "You" };
            db.People.Add(person);
            await gate.Through(() => db.SaveChangesAsync());
        }

        return person;
    }

    /// <summary>Adds a line to the log; it is saved with the write that it belongs to.</summary>
    public async Task LogAsync(string kind, string text, string? link) =>
        db.Log.Add(new LogEntry { At = Now, Kind = kind, Text = text.Length > 400 ? text[..400] + "…" : text, Link = link, PersonId = (await PersonAsync()).Id });

    /// <summary>Saves through the gate.</summary>
    /// <exception cref="DbUpdateConcurrencyException">Somebody else saved the same record meanwhile.</exception>
    public Task<int> SaveAsync(CancellationToken stop = default) => gate.Through(() => db.SaveChangesAsync(stop), stop);

    /// <summary>Runs a read-then-write alone, so that numbering and checks hold.</summary>
    public Task<T> AloneAsync<T>(Func<Task<T>> work) => gate.Through(work);

    /// <summary>Touches an edited record.</summary>
    public void Touch(EditableRecord record)
    {
        record.Version++;
        record.ChangedAt = Now;
    }

    /// <summary>The newest entry of the room log.</summary>
    public Task<RoomEntry?> RoomAsync() => db.Room.AsNoTracking().OrderByDescending(r => r.At).FirstOrDefaultAsync();
}
