using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Storage;

/// <summary>The checks that stand: the last one of each kind on each toolhead, out of years of them.</summary>
public static class LastChecks
{
    /// <summary>The last check of each kind, of each printer and toolhead; those taken back are not in it.</summary>
    /// <param name="db">The database.</param>
    /// <param name="printers">Ids of printers.</param>
    public static Task<List<MachineCheck>> LastChecksAsync(this GlenfrostDb db, IReadOnlyList<Guid> printers) =>
        // SQLite takes the other columns of a group from the row that holds the greatest value.
        db.Checks.FromSqlRaw(
                """
                SELECT * FROM "Checks" WHERE "Id" IN (SELECT "Id" FROM (SELECT "Id", MAX("At") FROM "Checks" WHERE "RemovedAt" IS NULL
                GROUP BY "PrinterId", "ToolheadId", "Kind"))
                """)
            .AsNoTracking().Where(c => printers.Contains(c.PrinterId)).ToListAsync();
}
