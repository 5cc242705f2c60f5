using System.Linq.Expressions;
using System.Reflection;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Storage.Exchange;

/// <summary>How a column stands in JSON.</summary>
public enum ColumnKind
{
    /// <summary>UUID in its usual text form.</summary>
    Id,

    /// <summary>Text.</summary>
    Text,

    /// <summary>Whole number.</summary>
    Whole,

    /// <summary>Number.</summary>
    Number,

    /// <summary>true or false.</summary>
    Flag,

    /// <summary>UTC time, ISO 8601 with milliseconds and Z.</summary>
    Time,

    /// <summary>One of a few words.</summary>
    Word,

    /// <summary>A JSON value of its own.</summary>
    Json,
}

/// <summary>A column of a table.</summary>
/// <param name="Name">Its name in JSON and CSV.</param>
/// <param name="Property">The record's property.</param>
/// <param name="Kind">How it stands in JSON.</param>
/// <param name="Nullable">True where it may be missing.</param>
public sealed record Column(string Name, PropertyInfo Property, ColumnKind Kind, bool Nullable)
{
    /// <summary>The type without its question mark.</summary>
    public Type Type => System.Nullable.GetUnderlyingType(Property.PropertyType) ?? Property.PropertyType;
}

/// <summary>A table as it goes out and comes in.</summary>
public abstract class ArchiveTable(string name, Type type, bool changes)
{
    private static readonly NullabilityInfoContext Nullability = new();

    /// <summary>Its name in JSON.</summary>
    public string Name => name;

    /// <summary>Its name in words, for example "filament sources".</summary>
    public string Label { get; } = string.Concat(name.Select(c => char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : c.ToString()));

    /// <summary>The record's type.</summary>
    public Type Type => type;

    /// <summary>True where a row may change; false for what is never overwritten, as readings.</summary>
    public bool Changes => changes;

    /// <summary>Its columns, id first.</summary>
    public IReadOnlyList<Column> Columns { get; } = ColumnsOf(type);

    /// <summary>Rows of a selection by id.</summary>
    public abstract IAsyncEnumerable<Record> RowsAsync(GlenfrostDb db, Selection selection);

    /// <summary>Rows that stand here with one of these ids.</summary>
    public abstract Task<Dictionary<Guid, Record>> FindAsync(GlenfrostDb db, IReadOnlyCollection<Guid> ids);

    /// <summary>An empty record.</summary>
    public Record New() => (Record)Activator.CreateInstance(type)!;

    private static List<Column> ColumnsOf(Type type)
    {
        var list = new List<Column>();
        foreach (var p in type.GetProperties(BindingFlags.Public | BindingFlags.Instance).Where(p => p.CanRead && p.SetMethod is { IsPublic: true }))
        {
            var t = System.Nullable.GetUnderlyingType(p.PropertyType) ?? p.PropertyType;
            // Who is at home here is nobody else's business; which revision is the newest follows from their numbers.
            if (p.Name is nameof(Person.Elsewhere) or nameof(Pairing.NewestRevisionId)
                || !(t.IsPrimitive || t.IsEnum || t == typeof(string) || t == typeof(Guid) || t == typeof(DateTime)))
                continue;
            var json = t == typeof(string) && p.Name.EndsWith("Json", StringComparison.Ordinal);
            var kind = json ? ColumnKind.Json
                : t == typeof(Guid) ? ColumnKind.Id
                : t == typeof(DateTime) ? ColumnKind.Time
                : t == typeof(bool) ? ColumnKind.Flag
                : t == typeof(int) || t == typeof(long) ? ColumnKind.Whole
                : t == typeof(double) ? ColumnKind.Number
                : t.IsEnum ? ColumnKind.Word
                : ColumnKind.Text;
            var columnName = json ? p.Name[..^4] : p.Name;
            list.Add(
                new(
                    char.ToLowerInvariant(columnName[0]) + columnName[1..], p, kind, System.Nullable.GetUnderlyingType(p.PropertyType) is not null
                        || (t == typeof(string) && Nullability.Create(p).ReadState == NullabilityState.Nullable)));
        }

        return [.. list.OrderBy(c => c.Name != "id")];
    }
}

/// <summary>A table of one type of record.</summary>
public sealed class ArchiveTable<T>(string name, bool changes) : ArchiveTable(name, typeof(T), changes)
    where T : Record
{
    private const int AtOnce = 500;

    /// <inheritdoc/>
    public override IAsyncEnumerable<Record> RowsAsync(GlenfrostDb db, Selection selection)
    {
        var rows = db.Set<T>().AsNoTracking();
        return selection.All ? rows.OrderBy(r => r.Id).AsAsyncEnumerable()
            : selection.Of<T>() is { } filter ? rows.Where(filter).OrderBy(r => r.Id).AsAsyncEnumerable()
            : AsyncEnumerable.Empty<Record>();
    }

    /// <inheritdoc/>
    public override async Task<Dictionary<Guid, Record>> FindAsync(GlenfrostDb db, IReadOnlyCollection<Guid> ids)
    {
        var found = new Dictionary<Guid, Record>();
        foreach (var some in ids.Chunk(AtOnce))
        {
            foreach (var r in await db.Set<T>().AsNoTracking().Where(r => some.Contains(r.Id)).ToListAsync())
                found[r.Id] = r;
        }

        return found;
    }
}

/// <summary>
/// All tables of an archive in an order in which each row comes after what it belongs to. Devices with their tokens, and jobs, stay at home; states are folded
/// anew from their events.
/// </summary>
public static class ArchiveTables
{
    /// <summary>Every table, those first that others refer to.</summary>
    public static IReadOnlyList<ArchiveTable> All { get; } =
    [
        new ArchiveTable<Person>("people", true),
        new ArchiveTable<Filament>("filaments", true),
        new ArchiveTable<FilamentSource>("filamentSources", true),
        new ArchiveTable<FilamentVariant>("filamentVariants", true),
        new ArchiveTable<Spool>("spools", true),
        new ArchiveTable<SpoolDiameter>("spoolDiameters", true),
        new ArchiveTable<SpoolWeighing>("spoolWeighings", true),
        new ArchiveTable<Dryer>("dryers", true),
        new ArchiveTable<DryingEntry>("dryings", true),
        new ArchiveTable<SpoolStay>("spoolStays", true),
        new ArchiveTable<RoomEntry>("room", true),
        new ArchiveTable<Printer>("printers", true),
        new ArchiveTable<Toolhead>("toolheads", true),
        new ArchiveTable<Part>("parts", true),
        new ArchiveTable<Instrument>("instruments", true),
        new ArchiveTable<InstrumentRevision>("instrumentRevisions", false),
        new ArchiveTable<Pairing>("pairings", true),
        new ArchiveTable<ProfileRevision>("revisions", false),
        new ArchiveTable<SettingRow>("settings", false),
        new ArchiveTable<Run>("runs", true),
        new ArchiveTable<Reading>("readings", false),
        new ArchiveTable<FactorEntry>("factorEntries", false),
        new ArchiveTable<Decision>("decisions", true),
        new ArchiveTable<Finding>("findings", true),
        new ArchiveTable<RunFile>("runFiles", true),
        new ArchiveTable<GcodeFile>("gcodeFiles", true),
        new ArchiveTable<Photo>("photos", true),
        new ArchiveTable<AnchorPhoto>("anchorPhotos", true),
        new ArchiveTable<Sitting>("sittings", true),
        new ArchiveTable<PhotoScore>("photoScores", false),
        new ArchiveTable<MachineCheck>("machineChecks", true),
        new ArchiveTable<MachineValue>("machineValues", false),
        new ArchiveTable<EvidenceEntry>("evidence", false),
        new ArchiveTable<LogEntry>("log", true),
    ];

    /// <summary>The table of a name; null where there is none.</summary>
    public static ArchiveTable? Find(string name) => All.FirstOrDefault(t => t.Name == name);
}

/// <summary>Which rows go out.</summary>
public sealed class Selection
{
    private readonly Dictionary<Type, LambdaExpression> filters = [];

    /// <summary>True for the whole archive.</summary>
    public bool All { get; private init; }

    /// <summary>archive, pairing, profile or run.</summary>
    public required string Scope { get; init; }

    /// <summary>What it is, in words.</summary>
    public required string Title { get; init; }

    /// <summary>The filter of a record type; null for all rows.</summary>
    public Expression<Func<T, bool>>? Of<T>() => filters.GetValueOrDefault(typeof(T)) as Expression<Func<T, bool>>;

    /// <summary>Everything.</summary>
    public static Selection Whole() => new() { All = true, Scope = "archive", Title = "the whole archive" };

    /// <summary>A pairing with its filament, spools, printer, profile and runs.</summary>
    public static async Task<Selection?> PairingAsync(GlenfrostDb db, Guid id, string title)
    {
        var s = new Selection { Scope = "pairing", Title = title };
        if (!await s.PairAsync(db, id))
            return null;
        s.Add<ProfileRevision>(r => r.PairingId == id);
        s.Add<SettingRow>(x => db.Revisions.Any(r => r.Id == x.RevisionId && r.PairingId == id));
        s.Add<EvidenceEntry>(e => e.PairingId == id);
        await s.RunsAsync(db, await db.Runs.Where(r => r.PairingId == id).Select(r => r.Id).ToListAsync(), id);
        return s;
    }

    /// <summary>A profile as it stands: the pairing, what it is made of, and its newest revision.</summary>
    public static async Task<Selection?> ProfileAsync(GlenfrostDb db, Guid id, string title)
    {
        var s = new Selection { Scope = "profile", Title = title };
        if (!await s.PairAsync(db, id))
            return null;
        var newest = await db.Revisions.Where(r => r.PairingId == id).OrderByDescending(r => r.Number).Select(r => r.Id).FirstOrDefaultAsync();
        s.Add<ProfileRevision>(r => r.Id == newest);
        s.Add<SettingRow>(x => x.RevisionId == newest);
        s.Add<EvidenceEntry>(e => e.PairingId == id);
        var people = await db.Revisions.Where(r => r.Id == newest && r.PersonId != null).Select(r => r.PersonId!.Value).ToListAsync();
        s.Add<Person>(p => people.Contains(p.Id));
        return s;
    }

    /// <summary>A run with its readings, decisions, findings, files and photos, and the pairing that it belongs to.</summary>
    public static async Task<Selection?> RunAsync(GlenfrostDb db, Guid id, string title)
    {
        var s = new Selection { Scope = "run", Title = title };
        var of = await db.Runs.Where(r => r.Id == id).Select(r => new { r.PairingId, r.ToolheadId }).FirstOrDefaultAsync();
        if (of is null || !(of.PairingId is { } pairing ? await s.PairAsync(db, pairing) : await s.HeadAsync(db, of.ToolheadId)))
            return null;
        await s.RunsAsync(db, [id], null);
        return s;
    }

    private async Task<bool> PairAsync(GlenfrostDb db, Guid id)
    {
        var p = await db.Pairings.AsNoTracking().Include(x => x.Toolhead).FirstOrDefaultAsync(x => x.Id == id);
        if (p is null)
            return false;
        var (filament, head, printer) = (p.FilamentId, p.ToolheadId, p.Toolhead!.PrinterId);
        Add<Pairing>(x => x.Id == id);
        Add<Filament>(x => x.Id == filament);
        Add<FilamentSource>(x => x.FilamentId == filament);
        Add<FilamentVariant>(x => x.FilamentId == filament);
        Add<Spool>(x => x.FilamentId == filament);
        Add<SpoolDiameter>(x => db.Spools.Any(s => s.Id == x.SpoolId && s.FilamentId == filament));
        Add<SpoolWeighing>(x => db.Spools.Any(s => s.Id == x.SpoolId && s.FilamentId == filament));
        Add<DryingEntry>(x => db.Spools.Any(s => s.Id == x.SpoolId && s.FilamentId == filament));
        Add<SpoolStay>(x => db.Spools.Any(s => s.Id == x.SpoolId && s.FilamentId == filament));
        OfPrinter(db, printer);
        return head != Guid.Empty;
    }

    private async Task<bool> HeadAsync(GlenfrostDb db, Guid? head)
    {
        if (await db.Toolheads.Where(t => t.Id == head).Select(t => (Guid?)t.PrinterId).FirstOrDefaultAsync() is not { } printer)
            return false;
        OfPrinter(db, printer);
        return true;
    }

    private void OfPrinter(GlenfrostDb db, Guid printer)
    {
        Add<Printer>(x => x.Id == printer);
        Add<Toolhead>(x => x.PrinterId == printer);
        Add<Part>(x => x.PrinterId == printer);
        Add<MachineCheck>(x => x.PrinterId == printer);
        Add<MachineValue>(x => db.Toolheads.Any(t => t.Id == x.ToolheadId && t.PrinterId == printer));
    }

    private async Task RunsAsync(GlenfrostDb db, List<Guid> runs, Guid? pairing)
    {
        Add<Run>(r => runs.Contains(r.Id));
        Add<Reading>(r => runs.Contains(r.RunId));
        Add<FactorEntry>(e => runs.Contains(e.RunId));
        Add<Decision>(d => runs.Contains(d.RunId));
        Add<Finding>(f => (f.RunId != null && runs.Contains(f.RunId.Value)) || (f.RunId == null && pairing != null && f.PairingId == pairing));
        Add<RunFile>(f => runs.Contains(f.RunId));
        Add<Photo>(p => runs.Contains(p.RunId));
        var revisions = await db.Readings.Where(r => runs.Contains(r.RunId) && r.InstrumentRevisionId != null).Select(r => r.InstrumentRevisionId!.Value)
            .Distinct().ToListAsync();
        Add<InstrumentRevision>(r => revisions.Contains(r.Id));
        Add<Instrument>(i => i.Revisions.Any(r => revisions.Contains(r.Id)));
        var people = (await db.Readings.Where(r => runs.Contains(r.RunId)).Select(r => r.PersonId).Distinct().ToListAsync())
            .Concat(await db.Runs.Where(r => runs.Contains(r.Id)).Select(r => r.PersonId).Distinct().ToListAsync())
            .Concat(await db.Decisions.Where(r => runs.Contains(r.RunId)).Select(r => r.PersonId).Distinct().ToListAsync())
            .Concat(await db.Photos.Where(r => runs.Contains(r.RunId)).Select(r => r.PersonId).Distinct().ToListAsync())
            .Concat(await db.Revisions.Where(r => r.PairingId == pairing).Select(r => r.PersonId).Distinct().ToListAsync()).OfType<Guid>().Distinct().ToList();
        Add<Person>(p => people.Contains(p.Id));
    }

    private void Add<T>(Expression<Func<T, bool>> filter) => filters[typeof(T)] = filter;
}
