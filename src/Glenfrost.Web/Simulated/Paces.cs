using Glenfrost.Core.Equipment;
using Glenfrost.Storage;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Simulated;

/// <summary>What is known of how printers keep to their files. Worlds never mix: simulated prints teach nothing about real ones.</summary>
public sealed class Paces(GlenfrostDb db)
{
    private const int Newest = 20;

    /// <summary>The pace of a printer in a world, from its last whole prints that had a file.</summary>
    public async Task<PrinterPace> OfAsync(Guid printerId, string world)
    {
        var prints = await db.Runs.AsNoTracking()
            .Where(r => r.World == world && r.RemovedAt == null && r.Outcome == "whole" && r.PairingId != null && r.ForeseenMinutes != null && r.ActualMinutes != null && r.Pairing!.Toolhead!.PrinterId == printerId && r.Files.Any(f => f.Kind == "gcode"))
            .OrderByDescending(r => r.PrintedAt).Take(Newest).Select(r => new { r.ForeseenMinutes, r.ActualMinutes }).ToListAsync();
        return PrinterPace.Learn(prints.Select(p => new PrintTimes(p.ForeseenMinutes!.Value, p.ActualMinutes!.Value)));
    }
}
