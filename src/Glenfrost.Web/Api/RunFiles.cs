using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Meshes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Api;

/// <summary>Hands out a run's files: its G-code as kept, its piece as STL and 3MF.</summary>
public static class RunFiles
{
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/runs/{id:guid}/files/{fileId:guid}", KeptAsync).ExcludeFromDescription();
        app.MapGet("/runs/{id:guid}/piece.{kind:regex(^(stl|3mf)$)}", MeshAsync).ExcludeFromDescription();
    }

    private static async Task<IResult> KeptAsync(Guid id, Guid fileId, GlenfrostDb db, Pieces pieces)
    {
        var file = await db.RunFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == fileId && f.RunId == id);
        var run = await db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id);
        if (file is null || run is null)
            return Results.NotFound();
        if (run.Stage == RunStages.Planned && await RefusedAsync(run, file, db, pieces) is { } refused)
            return Results.Problem(refused, statusCode: StatusCodes.Status409Conflict, title: "Above a limit");
        if (pieces.Open(file) is not { } content)
            return Results.NotFound();
        return Results.File(content, "text/x.gcode", file.Name, file.CreatedAt, new($"\"{file.Sha256}\""), enableRangeProcessing: true);
    }

    /// <summary>Why a file must not be printed; null where it may be. What is still to be printed keeps today's limits, whoever wrote it and wherever it came from; what was printed is a record.</summary>
    private static async Task<string?> RefusedAsync(Run run, RunFile file, GlenfrostDb db, Pieces pieces)
    {
        if (run.PairingId is not { } id)
            return null;
        var pairing = await db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Id == id);
        if (TowerPiece.Refused(Json.Read<TowerPlanV1>(run.PlanJson), Facts.LimitsOf(pairing.Toolhead!)) is { } refused)
            return refused;
        if (pieces.Open(file) is not { } content)
            return null;
        var machine = await pieces.MachineOfAsync(pairing);
        using var reader = new StreamReader(content, System.Text.Encoding.Latin1);
        return GcodeGuard.Check(reader, machine) is { Count: > 0 } wrong
            ? $"This file leaves the limits of {machine.Name}: {string.Join("; ", wrong.Take(3))}. It was not handed out; plan the tower anew, then its file is made within them." : null;
    }

    private static async Task<IResult> MeshAsync(Guid id, string kind, TowerRuns runs, Pieces pieces)
    {
        if (await runs.LoadAsync(id) is not { Plan.Request.IsOwnModel: false } v)
            return Results.NotFound();
        var (_, job, _) = await pieces.TowerAsync(v.Pairing, v.Plan);
        // Where the machine no longer takes the plan, the piece itself still stands: in one row.
        var placed = job?.Layout.Pieces ?? [.. TowerPiece.PiecesOf(v.Plan).Select((p, i) => new Placed(p, i * (p.Footprint.Width + 10), 0))];
        var (bytes, type) = MeshBytes(kind, $"{v.Run.Id}/{v.Run.Version}/{placed[0].X}", placed, job?.Settings.LineWidthMm ?? v.Pairing.NozzleDiameterMm * 1.1, $"Temperature tower {v.Run.Number}", v.Run.CreatedAt);
        return Results.File(bytes, type, Pieces.FileName(kind, "tower", Words.N(v.Plan.Request.HottestC, 0), Words.N(v.Plan.Request.CoolestC, 0), $"run {v.Run.Number}"));
    }

    /// <summary>Placed pieces as STL or 3MF, with the media type.</summary>
    internal static (byte[] Bytes, string Type) MeshBytes(string kind, string key, IReadOnlyList<Placed> placed, double lineWidthMm, string title, DateTime at)
    {
        var meshes = Pieces.MeshesOf(key, placed, lineWidthMm);
        var to = new MemoryStream();
        if (kind == "stl")
            MeshFiles.WriteStl(meshes, to);
        else
            MeshFiles.WriteThreeMf(meshes, title, at, to);
        return (to.ToArray(), kind == "stl" ? "model/stl" : "model/3mf");
    }
}
