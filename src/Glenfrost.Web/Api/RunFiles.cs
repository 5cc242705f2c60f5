using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Meshes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Api;

/// <summary>Hands out a run's files: its G-code as kept, its piece as STL and 3MF.</summary>
public static class RunFiles
{
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/runs/{id:guid}/files/{fileId:guid}", KeptAsync).ExcludeFromDescription();
        app.MapGet("/runs/{id:guid}/piece.{kind:regex(^(stl|3mf)$)}", MeshAsync).ExcludeFromDescription();
    }

    private static async Task<IResult> KeptAsync(Guid id, Guid fileId, RunFileBook files) =>
        await files.TakeAsync(id, fileId) switch
        {
            (FileAnswer.Here, { } file, { } content, _) => Results.File(
                content, "text/x.gcode", file.Name, file.CreatedAt, new($"\"{file.Sha256}\""), enableRangeProcessing: true),
            (FileAnswer.Replaced, _, _, _) => Results.Problem(
                "This run is planned anew: the file of its earlier plan is handed out no more. Take the one on the run's page, where there is one.",
                statusCode: StatusCodes.Status410Gone, title: "Another plan took its place"),
            (FileAnswer.Refused, _, _, var why) => Results.Problem(why, statusCode: StatusCodes.Status409Conflict, title: "Above a limit"),
            _ => Results.NotFound(),
        };

    private static async Task<IResult> MeshAsync(Guid id, string kind, TrialRuns runs, Pieces pieces, AnswerCache answers, CancellationToken left)
    {
        if (await runs.LoadAsync(id) is not { } v || v.Trial.Pieces(v.Plan, new LeavingMemory(answers, left)) is not { Count: > 0 } shapes)
            return Results.NotFound();
        var job = (await pieces.MakeAsync(v.Trial, v.Plan, v.Pairing, v.Toolhead)).File?.Job;
        // Where the machine no longer takes the plan, the piece itself still stands: in one row.
        var placed = job?.Layout.Pieces ?? [.. shapes.Select((p, i) => new Placed(p, i * (p.Footprint.Width + 10), 0))];
        var (bytes, type) = MeshBytes(
            pieces, kind, $"{v.Run.Id}/{v.Run.Version}/{placed[0].X}", placed,
            job?.Settings.LineWidthMm ?? (v.Pairing?.NozzleDiameterMm ?? v.Toolhead.NozzleDiameterMm) * 1.1, v.Title, v.Run.CreatedAt);
        return Results.File(bytes, type, Pieces.FileName(kind, v.Trial.Noun, v.Trial.FileWords(v.Plan), $"run {v.Run.Number}"));
    }

    /// <summary>Placed pieces as STL or 3MF, with the media type.</summary>
    private static (byte[] Bytes, string Type) MeshBytes(
        Pieces pieces, string kind, string key, IReadOnlyList<Placed> placed, double lineWidthMm, string title, DateTime at)
    {
        var meshes = pieces.MeshesOf(key, placed, lineWidthMm);
        var to = new MemoryStream();
        if (kind == "stl")
            MeshFiles.WriteStl(meshes, to);
        else
            MeshFiles.WriteThreeMf(meshes, title, at, to);
        return (to.ToArray(), kind == "stl" ? "model/stl" : "model/3mf");
    }
}
