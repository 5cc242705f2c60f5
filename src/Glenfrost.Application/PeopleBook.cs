using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Who works at this bench.</summary>
public sealed class PeopleBook(WorkContext work)
{
    /// <summary>Names of everybody who works here, in their order.</summary>
    public Task<List<string>> NamesAsync() =>
        work.Db.People.AsNoTracking().Where(p => !p.Elsewhere).OrderBy(p => p.Name).Select(p => p.Name).ToListAsync();

    /// <summary>All people by id, those of other benches included.</summary>
    public Task<Dictionary<Guid, string>> AllAsync() => work.Db.People.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.Name);

    /// <summary>Names of some people.</summary>
    public Task<List<string>> NamesOfAsync(IReadOnlyCollection<Guid?> ids) =>
        work.Db.People.AsNoTracking().Where(p => ids.Contains(p.Id)).Select(p => p.Name).ToListAsync();

    /// <summary>
    /// Says who is at this device. Another name is a new name of who is here, unless it is somebody else's, or is said to be somebody else.
    /// </summary>
    /// <param name="name">As it is called.</param>
    /// <param name="other">True where it is somebody else.</param>
    /// <returns>The person who took over, to be remembered by this browser; null where nobody did.</returns>
    public async Task<Guid?> IsHereAsync(string name, bool other)
    {
        var now = await work.PersonAsync();
        if (string.Equals(now.Name, name, StringComparison.Ordinal))
            return null;
        var person = await work.Db.People.Where(p => !p.Elsewhere && p.Id != now.Id).FirstOrDefaultAsync(p => p.Name.ToLower() == name.ToLower());
        if (person is null && !other)
        {
            await work.LogAsync("person", $"{now.Name} is called {name} now", "/preferences");
            (await work.Db.People.FirstAsync(p => p.Id == now.Id)).Name = name;
            await work.SaveAsync();
            return null;
        }

        if (person is null)
        {
            person = new Person { Name = name };
            work.Db.People.Add(person);
        }

        await work.LogAsync("person", $"{person.Name} works here now, in place of {now.Name}", "/preferences");
        await work.SaveAsync();
        return person.Id;
    }
}
