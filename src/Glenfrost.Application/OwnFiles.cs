using Glenfrost.Application.Gcode;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A file of somebody's own that a run is planned from: what it is, and the row that keeps it.</summary>
/// <param name="Facts">What was read off it.</param>
/// <param name="File">As a run keeps it: by its hash.</param>
public sealed record OwnFileOfRun(OwnFile Facts, RunFile File);

/// <summary>Files of somebody's own on their way into runs: from the G-code room, or from a run that is printed again.</summary>
public sealed class OwnFiles(WorkContext work, GcodeRoom room)
{
    /// <summary>The file that a plan is made from; null where none is named, it is gone, or it lays nothing.</summary>
    /// <param name="pairing">What it is printed on: its limits and filament count.</param>
    /// <param name="file">A file of the G-code room; null for none.</param>
    /// <param name="run">Else a run whose own file it is; null for none.</param>
    public async Task<OwnFileOfRun?> FindAsync(Guid pairing, Guid? file, Guid? run)
    {
        var (name, hash, bytes) = ("", "", 0L);
        if (file is not null && await room.WithContentAsync(file.Value) is { RemovedAt: null } kept)
            (name, hash, bytes) = (kept.Name, kept.Sha256, kept.Bytes);
        else if (run is not null && await work.Db.Runs.AsNoTracking().Include(r => r.Files).FirstOrDefaultAsync(r => r.Id == run && r.PairingId == pairing)
            is { } of && TrialCatalogue.Find(of.Kind) is { TakesOwnFile: true } trial && Pieces.StandingFile(of, trial.ReadPlan(of.PlanJson)) is { } stands)
            (name, hash, bytes) = (stands.Name, stands.Sha256, stands.Bytes);
        if (hash.Length == 0)
            return null;
        try
        {
            var facts = (await room.InspectAsync(new() { Name = name, Sha256 = hash, Bytes = bytes, PairingId = pairing }, work.Left)).Facts;
            return OwnFile.Of(facts) is { } own ? new(own, new() { Kind = "gcode", Name = name, Sha256 = hash, Bytes = bytes }) : null;
        }
        catch (FileNotFoundException)
        {
            return null;
        }
    }
}
