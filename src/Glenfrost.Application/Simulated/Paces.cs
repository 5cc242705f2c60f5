using Glenfrost.Core.Equipment;
using Glenfrost.Storage;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Simulated;

/// <summary>What is known of how printers keep to their files. Worlds never mix: simulated prints teach nothing about real ones.</summary>
public sealed class Paces(GlenfrostDb db)
{
    private const int Newest = 20;

    /// <summary>The pace of a printer in a world, from its last whole prints that had a file.</summary>
    public async Task<PrinterPace> OfAsync(Guid printerId, string world)
    {
        // By the pairings of the printer: their runs are found by an index, not by looking through all of them.
        var pairings = await db.Pairings.AsNoTracking().Where(p => p.Toolhead!.PrinterId == printerId).Select(p => (Guid?)p.Id).ToListAsync();
        var prints = await db.Runs.AsNoTracking()
            .Where(r =>
                pairings.Contains(r.PairingId)
                && r.World == world
                && r.RemovedAt == null
                && r.Outcome == "whole"
                && r.ForeseenMinutes != null
                && r.ActualMinutes != null
                && r.Files.Any(f => f.Kind == "gcode"))
            .OrderByDescending(r => r.PrintedAt).Take(Newest).Select(r => new { r.ForeseenMinutes, r.ActualMinutes }).ToListAsync();
        return PrinterPace.Learn(prints.Select(p => new PrintTimes(p.ForeseenMinutes!.Value, p.ActualMinutes!.Value)));
    }
}
