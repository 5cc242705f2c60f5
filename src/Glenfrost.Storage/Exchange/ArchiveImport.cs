using System.Text.Json;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace Glenfrost.Storage.Exchange;

/// <summary>A field that differs.</summary>
public sealed record FieldDifference(string Field, string Here, string There);

/// <summary>A row that stands here with other content.</summary>
/// <param name="Table">Its table.</param>
/// <param name="Row">The row as it comes in.</param>
/// <param name="Fields">What differs.</param>
public sealed record DifferentRow(ArchiveTable Table, Record Row, IReadOnlyList<FieldDifference> Fields)
{
    /// <summary>True where the incoming row may take the place of the one here; readings and revisions never change.</summary>
    public bool MayBeTaken => Table.Changes;
}

/// <summary>What would come of an import.</summary>
public sealed class ImportPlan
{
    /// <summary>Rows that are not here yet, by table: where they stand in the document.</summary>
    public Dictionary<ArchiveTable, List<RowPlace>> New { get; } = [];

    /// <summary>SHA-256 of the files that new rows name.</summary>
    public HashSet<string> Hashes { get; } = [];

    /// <summary>How many rows stand here already, by table.</summary>
    public Dictionary<ArchiveTable, int> Same { get; } = [];

    /// <summary>Rows that stand here with other content: the first of them, as many as anybody would decide on one by one.</summary>
    public List<DifferentRow> Different { get; } = [];

    /// <summary>How many rows stand here with other content, by table.</summary>
    public Dictionary<ArchiveTable, int> DifferentBy { get; } = [];

    /// <summary>How many rows stand here with other content.</summary>
    public int DifferentCount => DifferentBy.Values.Sum();

    /// <summary>Rows that can't be taken, with the reason.</summary>
    public List<BadRow> Bad { get; } = [];

    /// <summary>Files that new rows name and that are neither here nor in the archive.</summary>
    public List<string> MissingFiles { get; } = [];

    /// <summary>Names of new filaments, spools and printers that something else here bears already: both will stand.</summary>
    public List<string> NamesTwice { get; } = [];

    /// <summary>Rows that are not there yet.</summary>
    public int NewCount => New.Values.Sum(r => r.Count);
}

/// <summary>Compares an archive with what stands here, and takes it in.</summary>
public static class ArchiveImport
{
    private const int AtOnce = 1000;

    private const int MostBad = 500;

    private const int MostDifferent = 1000;

    /// <summary>Tells new, same and different rows apart and finds what can't be taken.</summary>
    /// <param name="db">What stands here.</param>
    /// <param name="archive">What comes in.</param>
    /// <param name="document">Its document; it can be read at any place.</param>
    /// <param name="hasFile">True for a file that is here or comes with the archive.</param>
    /// <param name="stop">Ends it between two parts of a table.</param>
    public static async Task<ImportPlan> CompareAsync(
        GlenfrostDb db, Archive archive, Stream document, Func<string, bool> hasFile, CancellationToken stop = default)
    {
        var plan = new ImportPlan();
        plan.Bad.AddRange(archive.Bad);
        var taken = new Dictionary<Type, HashSet<Guid>>();
        var named = new List<Record>();
        foreach (var table in ArchiveTables.All.Where(archive.Rows.ContainsKey))
        {
            plan.New[table] = [];
            var uniques = new Uniques(db, db.Model.FindEntityType(table.Type)!);
            // A thousand at a time: never more of an archive stands in memory.
            foreach (var (some, at) in archive.Rows[table].Chunk(AtOnce).Select((c, i) => (c, i * AtOnce)))
            {
                stop.ThrowIfCancellationRequested();
                named.AddRange(await CompareAsync(db, plan, table, some, at, document, taken, uniques, hasFile));
            }

            taken[table.Type] = [.. plan.New[table].Select(r => r.Id)];
        }

        await NamesAsync(db, plan, named);
        return plan;
    }

    /// <summary>Compares some rows of a table.</summary>
    /// <returns>The new ones among them that people know by name.</returns>
    private static async Task<List<Record>> CompareAsync(
        GlenfrostDb db, ImportPlan plan, ArchiveTable table, RowPlace[] places, int at, Stream document, Dictionary<Type, HashSet<Guid>> taken, Uniques uniques,
        Func<string, bool> hasFile)
    {
        var rows = ArchiveReader.RowsAt(document, table, places);
        var here = await table.FindAsync(db, [.. rows.Select(r => r.Id)]);
        var (fresh, named) = (new List<(Record Row, int Place)>(), new List<Record>());
        foreach (var (row, i) in rows.Select((r, i) => (r, i)))
        {
            if (!here.TryGetValue(row.Id, out var stands))
                fresh.Add((row, i));
            else if (Differences(table, stands, row) is { Count: > 0 } differences)
            {
                plan.DifferentBy[table] = plan.DifferentBy.GetValueOrDefault(table) + 1;
                if (plan.Different.Count < MostDifferent)
                    plan.Different.Add(new(table, row, differences));
            }
            else
                plan.Same[table] = plan.Same.GetValueOrDefault(table) + 1;
        }

        var news = fresh.ConvertAll(f => f.Row);
        var parents = await ParentsAsync(db, uniques.Type, news, taken);
        var own = await uniques.OfAsync(news);
        foreach (var (row, i) in fresh)
        {
            var why = parents(row) ?? own(row);
            if (why is null)
            {
                plan.New[table].Add(places[i]);
                foreach (var hash in ArchiveWriter.HashesOf(row))
                {
                    plan.Hashes.Add(hash);
                    if (!hasFile(hash))
                        plan.MissingFiles.Add(hash);
                }

                if (row is Filament or Spool or Printer)
                    named.Add(row);
            }
            else if (plan.Bad.Count < MostBad)
            {
                plan.Bad.Add(new(table.Name, at + i, row.Id, why));
            }
        }

        return named;
    }

    /// <summary>Takes new rows in, and those different ones that were chosen. Inside the write gate; files are in their place before.</summary>
    /// <param name="db">A context of its own.</param>
    /// <param name="plan">From a comparison on the same state.</param>
    /// <param name="document">The archive's document; it can be read at any place.</param>
    /// <param name="take">Ids of different rows whose incoming content takes the place of what is here.</param>
    /// <param name="elsewhere">True where incoming people do not work at this bench.</param>
    /// <returns>How many rows were added and how many replaced.</returns>
    public static async Task<(int Added, int Replaced)> ApplyAsync(
        GlenfrostDb db, ImportPlan plan, Stream document, IReadOnlySet<Guid> take, bool elsewhere)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        db.ChangeTracker.Clear();
        var (added, touched) = (0, new HashSet<Guid>());
        foreach (var table in ArchiveTables.All.Where(plan.New.ContainsKey))
        {
            foreach (var places in plan.New[table].Chunk(AtOnce))
            {
                var some = ArchiveReader.RowsAt(document, table, places);
                touched.UnionWith(some.OfType<EvidenceEntry>().Select(e => e.PairingId));
                foreach (var person in some.OfType<Person>())
                    person.Elsewhere = elsewhere;
                db.AddRange(some);
                added += await db.SaveChangesAsync();
                db.ChangeTracker.Clear();
            }
        }

        var replaced = 0;
        foreach (var different in plan.Different.Where(d => d.MayBeTaken && take.Contains(d.Row.Id)))
        {
            var standing = (Record?)await db.FindAsync(different.Table.Type, different.Row.Id);
            if (standing is null)
                continue;
            foreach (var column in different.Table.Columns)
            {
                if (column.Property.Name != nameof(EditableRecord.Version)
                    && !(column.Property.GetValue(different.Row) is null && LaterColumns.Contains((different.Table.Name, column.Name))))
                    column.Property.SetValue(standing, column.Property.GetValue(different.Row));
            }

            // A form that stands open elsewhere learns that the record changed.
            if (standing is EditableRecord edited)
                edited.Version = Math.Max(edited.Version, ((EditableRecord)different.Row).Version) + 1;
            await db.SaveChangesAsync();
            db.ChangeTracker.Clear();
            replaced++;
        }

        // States are folded anew from what stands now: a projection that is gone is made again, also after a kill in between.
        foreach (var some in touched.Chunk(500))
            await db.Standings.Where(s => some.Contains(s.PairingId)).ExecuteDeleteAsync();
        await transaction.CommitAsync();
        return (added, replaced);
    }

    private static async Task NamesAsync(GlenfrostDb db, ImportPlan plan, List<Record> fresh)
    {
        var filaments = (await db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).Select(f => f.Maker + " " + f.Line).ToListAsync()).ToHashSet(
            StringComparer.OrdinalIgnoreCase);
        var spools = (await db.Spools.AsNoTracking().Where(s => s.RemovedAt == null).Select(s => s.Name).ToListAsync()).ToHashSet(
            StringComparer.OrdinalIgnoreCase);
        var printers = (await db.Printers.AsNoTracking().Where(p => p.RemovedAt == null).Select(p => p.Name).ToListAsync()).ToHashSet(
            StringComparer.OrdinalIgnoreCase);
        plan.NamesTwice.AddRange(fresh.OfType<Filament>().Where(f => f.RemovedAt is null && filaments.Contains(f.Name)).Select(f => f.Name));
        plan.NamesTwice.AddRange(fresh.OfType<Spool>().Where(s => s.RemovedAt is null && spools.Contains(s.Name)).Select(s => $"spool {s.Name}"));
        plan.NamesTwice.AddRange(fresh.OfType<Printer>().Where(p => p.RemovedAt is null && printers.Contains(p.Name)).Select(p => p.Name));
    }

    private static List<FieldDifference> Differences(ArchiveTable table, Record here, Record there)
    {
        var list = new List<FieldDifference>();
        foreach (var c in table.Columns)
        {
            var (a, b) = (Shown(c, here), Shown(c, there));
            // An archive from before factors says nothing of them, and an older one nothing of a retired file: that is no other content.
            if (b.Length == 0 && LaterColumns.Contains((table.Name, c.Name)))
                continue;
            if (a != b && !(c.Kind == ColumnKind.Json && a.Length > 0 && b.Length > 0 && SameJson(a, b)))
                list.Add(new(c.Name, a, b));
        }

        // The counter of edits alone is no other content.
        return list.Count == 1 && list[0].Field == "version" ? [] : list;
    }

    // Columns that earlier versions did not have and that a row of theirs is filled with afterwards.
    private static readonly HashSet<(string Table, string Column)> LaterColumns =
    [
        ("runs", "factors"), ("runs", "tier"), ("runs", "leftToCool"), ("runFiles", "retiredAt"),
        ("pairings", "route"), ("pairings", "routeBefore"), ("pairings", "goal"), ("pairings", "tiers"),
        ("printers", "ownChecks"),
        ("printers", "versions"), ("printers", "pulse"), ("printers", "powerW"), ("printers", "minorPerKwh"),
        ("filaments", "report"), ("dryers", "powerW"), ("toolheads", "loadedSpoolId"),
        ("toolheads", "loadedAt"),
        ("spools", "trimPercent"), ("spools", "trimWhy"), ("spools", "trimRunId"), ("spools", "trimAt"),
    ];

    private static string Shown(Column c, Record r) => c.Property.GetValue(r) switch
    {
        null => "",
        string s when c.Kind == ColumnKind.Json => Compact(s),
        DateTime t => ArchiveWriter.Time(t),
        IFormattable f and not Enum => f.ToString(c.Kind == ColumnKind.Number ? "R" : null, System.Globalization.CultureInfo.InvariantCulture),
        bool b => b ? "true" : "false",
        Enum e => ArchiveWriter.Word(e),
        var x => x.ToString()!,
    };

    /// <summary>Other programs write 0.2 for 0.20 and order fields anew; that is no other content.</summary>
    private static bool SameJson(string a, string b)
    {
        using var left = JsonDocument.Parse(a);
        using var right = JsonDocument.Parse(b);
        return JsonElement.DeepEquals(left.RootElement, right.RootElement);
    }

    private static string Compact(string json)
    {
        using var document = JsonDocument.Parse(json);
        return JsonSerializer.Serialize(document.RootElement);
    }

    /// <summary>Finds rows whose parent is neither here nor comes in.</summary>
    private static async Task<Func<Record, string?>> ParentsAsync(GlenfrostDb db, IEntityType type, List<Record> fresh, Dictionary<Type, HashSet<Guid>> taken)
    {
        var checks = new List<Func<Record, string?>>();
        foreach (var key in type.GetForeignKeys().Where(k => k.Properties.Count == 1))
        {
            var property = key.Properties[0].PropertyInfo!;
            var wanted = fresh.Select(r => (Guid?)property.GetValue(r)).OfType<Guid>().ToHashSet();
            var parent = ArchiveTables.All.First(t => t.Type == key.PrincipalEntityType.ClrType);
            var here = await parent.FindAsync(db, wanted);
            var coming = taken.GetValueOrDefault(parent.Type) ?? [];
            checks.Add(r => property.GetValue(r) is Guid id && !here.ContainsKey(id) && !coming.Contains(id)
                ? $"it belongs to a row of {parent.Name} ({id}) that is neither here nor can be taken from the file" : null);
        }

        return r => checks.Select(c => c(r)).FirstOrDefault(w => w is not null);
    }

    /// <summary>Finds rows of a table that another one here or in the file leaves no place for.</summary>
    private sealed class Uniques(GlenfrostDb db, IEntityType type)
    {
        private readonly List<(List<System.Reflection.PropertyInfo> Properties, bool First, HashSet<string> Coming)> indexes =
        [
            .. type.GetIndexes().Where(i => i.IsUnique).Select(i => (
                i.Properties.Select(p => p.PropertyInfo!).ToList(), typeof(Reading) == type.ClrType && i.GetFilter() is not null, new HashSet<string>())),
        ];

        // Of tables whose rows have no parent that would bound them: read once.
        private List<Record>? all;

        public IEntityType Type => type;

        /// <summary>Asks some rows; what came in by earlier ones of the file counts.</summary>
        public async Task<Func<Record, string?>> OfAsync(List<Record> fresh)
        {
            var checks = new List<Func<Record, string?>>();
            foreach (var (properties, first, coming) in indexes)
            {
                string? Key(object r) =>
                    properties.Any(p => p.GetValue(r) is null && p.Name != nameof(Reading.PersonId)) || (first && r is Reading { SupersedesId: not null })
                        ? null
                        : string.Join('|', properties.Select(p => p.GetValue(r)));
                var standing = await StandingAsync(fresh, Key);
                var names = string.Join(", ", properties.Select(p => char.ToLowerInvariant(p.Name[0]) + p.Name[1..]));
                checks.Add(r =>
                    Key(r) is { } k && (standing.Contains(k) || !coming.Add(k))
                        ? $"another row has the same {names} already; it was made apart from this one, so both can't stand"
                        : null);
            }

            return r =>
            {
                // Each check notes what comes in: all of them are asked.
                var why = checks.Select(c => c(r)).ToList();
                return why.FirstOrDefault(w => w is not null);
            };
        }

        private async Task<HashSet<string>> StandingAsync(List<Record> fresh, Func<object, string?> key)
        {
            if (fresh.Count == 0)
                return [];
            // Only rows of the same parents can be in the way.
            IEnumerable<Record> rows = type.ClrType.Name switch
            {
                nameof(Reading) => await Of<Reading>(r => r.RunId),
                nameof(ProfileRevision) => await Of<ProfileRevision>(r => r.PairingId),
                nameof(EvidenceEntry) or nameof(MachineValue) or nameof(FactorEntry) => [],
                nameof(SettingRow) => await Of<SettingRow>(r => r.RevisionId),
                nameof(PhotoScore) => await Of<PhotoScore>(r => r.SittingId),
                nameof(Finding) => all ??= [.. await db.Findings.AsNoTracking().ToListAsync()],
                nameof(Photo) => all ??= [.. await db.Photos.AsNoTracking().ToListAsync()],
                _ => [],
            };
            return [.. rows.Select(r => key(r)).OfType<string>()];

            async Task<List<T>> Of<T>(Func<T, Guid> parentOf)
                where T : Record
            {
                var parents = fresh.Cast<T>().Select(parentOf).ToHashSet();
                var list = new List<T>();
                var name =
                    typeof(T) == typeof(Reading) ? nameof(Reading.RunId)
                    : typeof(T) == typeof(ProfileRevision) ? nameof(ProfileRevision.PairingId)
                    : typeof(T) == typeof(SettingRow) ? nameof(SettingRow.RevisionId)
                    : nameof(PhotoScore.SittingId);
                foreach (var some in parents.Chunk(500))
                    list.AddRange(await db.Set<T>().AsNoTracking().Where(r => some.Contains(EF.Property<Guid>(r, name))).ToListAsync());
                return list;
            }
        }
    }
}
