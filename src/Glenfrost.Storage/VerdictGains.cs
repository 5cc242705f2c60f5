using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Storage;

/// <summary>What one more print of a trial would gain, as the verdict said that was decided upon last.</summary>
public static class VerdictGains
{
    private sealed class Row
    {
        public Guid Id { get; set; }

        public double? Gain { get; set; }
    }

    /// <summary>The expected gains of pairings by kind of trial, scores; kinds whose last verdict said none are not in it.</summary>
    /// <param name="db">The database.</param>
    /// <param name="pairings">Ids; none gives none.</param>
    /// <param name="kinds">Kinds of trials that are asked about; null for all.</param>
    public static async Task<ILookup<Guid, (string Kind, double Gain)>> OfAsync(
        GlenfrostDb db, IReadOnlyList<Guid> pairings, IReadOnlyList<string>? kinds = null)
    {
        // Verdicts are long: only those are opened that were decided upon last.
        var last = (await db.Decisions.AsNoTracking().Where(d => d.UndoneAt == null)
                .Join(
                    db.Runs.Where(r => r.RemovedAt == null && r.PairingId != null && pairings.Contains(r.PairingId.Value)
                        && (kinds == null || kinds.Contains(r.Kind))),
                    d => d.RunId, r => r.Id, (d, r) => new { d.Id, d.At, Pairing = r.PairingId!.Value, r.Kind }).ToListAsync())
            .GroupBy(x => (x.Pairing, x.Kind)).Select(g => g.MaxBy(x => x.At)!).ToList();
        var rows = new List<Row>();
        // SQLite takes many parameters, not any number of them.
        foreach (var some in last.Select(x => x.Id).Chunk(500))
        {
            var holes = string.Join(',', some.Select((_, i) => $"{{{i}}}"));
            rows.AddRange(
                await db.Database.SqlQuery<Row>(
                    FormattableStringFactory.Create(
                        "SELECT Id, CASE WHEN json_valid(VerdictJson) THEN json_extract(VerdictJson, '$.next.gain') END AS Gain FROM Decisions " +
                            $"WHERE Id IN ({holes})", [.. some.Cast<object>()])).ToListAsync());
        }

        var gains = rows.Where(r => r.Gain is { } gain && double.IsFinite(gain)).ToDictionary(r => r.Id, r => r.Gain!.Value);
        return last.Where(x => gains.ContainsKey(x.Id)).ToLookup(x => x.Pairing, x => (x.Kind, gains[x.Id]));
    }
}
