using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Storage;

/// <summary>What one more print of a trial would gain, as the verdict said that was decided upon last.</summary>
public static class VerdictGains
{
    private sealed class Row
    {
        public Guid PairingId { get; set; }

        public string Kind { get; set; } = "";

        public long At { get; set; }

        public double? Gain { get; set; }
    }

    /// <summary>The expected gains of pairings by kind of trial, scores; kinds whose last verdict said none are not in it.</summary>
    /// <param name="db">The database.</param>
    /// <param name="pairings">Ids; none gives none.</param>
    public static async Task<ILookup<Guid, (string Kind, double Gain)>> OfAsync(GlenfrostDb db, IReadOnlyList<Guid> pairings)
    {
        var rows = new List<Row>();
        // SQLite takes many parameters, not any number of them.
        foreach (var some in pairings.Chunk(500))
        {
            var holes = string.Join(',', some.Select((_, i) => $"{{{i}}}"));
            rows.AddRange(
                await db.Database.SqlQuery<Row>(
                    FormattableStringFactory.Create(
                        "SELECT r.PairingId, r.Kind, d.At, CASE WHEN json_valid(d.VerdictJson) THEN json_extract(d.VerdictJson, '$.next.gain') END AS Gain " +
                            $"FROM Decisions d JOIN Runs r ON r.Id = d.RunId WHERE d.UndoneAt IS NULL AND r.RemovedAt IS NULL AND r.PairingId IN ({holes})",
                        [.. some.Cast<object>()])).ToListAsync());
        }

        return rows.GroupBy(r => (r.PairingId, r.Kind)).Select(g => g.MaxBy(r => r.At)!).Where(r => r.Gain is { } gain && double.IsFinite(gain))
            .ToLookup(r => r.PairingId, r => (r.Kind, r.Gain!.Value));
    }
}
