using System.Globalization;
using System.Text;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Meshes;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Glenfrost.Web.Services;

/// <summary>Turns pairings into machines and settings, plans into jobs, and jobs into files that are kept.</summary>
public sealed class Pieces(Bench bench, Profiles profiles, DataPlace place)
{
    /// <summary>The last few jobs: looking through layers, or changing what doesn't touch the piece, makes nothing anew.</summary>
    private static readonly MemoryCache Jobs = new(new MemoryCacheOptions { SizeLimit = 6 });

    private static readonly MemoryCache Meshes = new(new MemoryCacheOptions { SizeLimit = 4 });

    /// <summary>Version of Glenfrost as files name it.</summary>
    public static string Version { get; } = TowerRuns.EngineVersion;

    /// <summary>The machine of a pairing; needs its toolhead and printer loaded.</summary>
    public async Task<Machine> MachineOfAsync(Pairing p)
    {
        var printer = p.Toolhead!.Printer!;
        var heads = await bench.Db.Toolheads.AsNoTracking().Where(t => t.PrinterId == printer.Id && t.RemovedAt == null).OrderBy(t => t.Id).Select(t => t.Id).ToListAsync();
        return new Machine
        {
            Name = p.Toolhead.FullName,
            Dialect = printer.Dialect,
            BedXMm = printer.BedXMm,
            BedYMm = printer.BedYMm,
            HeightMm = printer.HeightMm,
            OriginInMiddle = printer.OriginInMiddle,
            BedMaxC = printer.BedMaxC,
            ChamberMaxC = printer.ChamberMaxC,
            MaxSpeedMmPerS = printer.MaxSpeedMmPerS,
            MaxAccelerationMmPerS2 = printer.MaxAccelerationMmPerS2,
            NozzleDiameterMm = p.NozzleDiameterMm,
            LongTube = p.Toolhead.Drive == "long-tube",
            Limits = Facts.LimitsOf(p.Toolhead),
            Tool = Math.Max(0, heads.IndexOf(p.ToolheadId)),
            Tools = heads.Count,
            RelativeE = !printer.AbsoluteE,
            StartCode = printer.StartCode,
            EndCode = printer.EndCode,
            ClearanceMm = printer.ClearanceMm,
            GantryHeightMm = printer.GantryHeightMm,
        };
    }

    /// <summary>Settings in force for a pairing: its profile, then cautious values.</summary>
    public async Task<PrintSettings> SettingsOfAsync(Pairing p, Machine m)
    {
        var kept = (await profiles.LatestAsync(p.Id))?.Settings.ToDictionary(s => s.Key, s => s.Value) ?? [];
        var f = p.Filament!;
        var s = PrintSettings.From(kept, m, Family.Find(f.Family));
        return s with
        {
            FilamentDiameterMm = kept.TryGetValue("filamentDiameterMm", out var d) ? d : f.DiameterMm,
            DensityGPerCm3 = f.SolidDensityGPerCm3 ?? s.DensityGPerCm3,
            PriceMinorPerKg = f is { PriceMinor: { } price, NetMassUg: > 0 and var net } ? price / (net / 1e9) : null,
            Currency = f.Currency,
        };
    }

    /// <summary>A plan with its file's own figures, and its job; the errors where it can't be made. Plans for somebody's own model come back as they are.</summary>
    public async Task<(TowerPlanV1 Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors)> TowerAsync(Pairing p, TowerPlanV1 plan)
    {
        if (plan.Request.IsOwnModel)
            return (plan, null, []);
        var m = await MachineOfAsync(p);
        var s = await SettingsOfAsync(p, m);
        var subject = $"{Facts.FilamentName(p)} on {p.Toolhead!.FullName}, nozzle {p.NozzleName}";
        var (job, errors) = Once(Json.Write(new { plan.Request, Machine = m, Settings = s, subject }), () => TowerPiece.Make(plan, m, s, subject));
        return job is null ? (plan, null, errors) : (TowerPiece.WithFile(plan, job), job, errors);
    }

    /// <summary>A job by all that it is made from.</summary>
    public static (PieceJob? Job, IReadOnlyList<FieldError> Errors) Once(string key, Func<(PieceJob?, IReadOnlyList<FieldError>)> make) => Jobs.GetOrCreate(key, entry =>
    {
        entry.Size = 1;
        entry.SlidingExpiration = TimeSpan.FromMinutes(10);
        return make();
    });

    /// <summary>Writes a job's G-code, reads it back against the machine's limits and keeps it by its hash.</summary>
    /// <exception cref="InvalidDataException">The written file would leave a limit; nothing is kept.</exception>
    public StoredFile Store(PieceJob job)
    {
        var text = Text(job);
        var wrong = GcodeGuard.Check(new StringReader(text), job.Machine);
        if (wrong.Count > 0)
            throw new InvalidDataException($"the file was not kept, since it would leave the machine's limits: {string.Join("; ", wrong)}");
        return place.Files.Put(to => to.Write(Encoding.ASCII.GetBytes(text)));
    }

    /// <summary>The row of a stored file; added to the database by the caller.</summary>
    public static RunFile Row(Run run, StoredFile stored, string name, DateTime at, Guid person) =>
        new() { RunId = run.Id, Kind = "gcode", Name = name, Sha256 = stored.Sha256, Bytes = stored.Bytes, CreatedAt = at, PersonId = person };

    /// <summary>Opens a stored file; null where it is gone.</summary>
    public Stream? Open(RunFile file) => place.Files.Open(file.Sha256);

    /// <summary>A job's G-code.</summary>
    public string Text(PieceJob job)
    {
        var to = new StringWriter(new StringBuilder(1 << 20), CultureInfo.InvariantCulture);
        GcodeWriter.Write(job, new(Version, bench.Now), to);
        return to.ToString();
    }

    /// <summary>The meshes of pieces where they stand; equal pieces are made once.</summary>
    public static IReadOnlyList<PlacedMesh> MeshesOf(string key, IReadOnlyList<Placed> pieces, double lineWidthMm) => Meshes.GetOrCreate(key, entry =>
    {
        entry.Size = 1;
        entry.SlidingExpiration = TimeSpan.FromMinutes(10);
        return (IReadOnlyList<PlacedMesh>)[.. pieces.Select(p => new PlacedMesh(p.Piece.Name, PieceMesh.Of(p.Piece, lineWidthMm), p.X, p.Y))];
    })!;

    /// <summary>A name for a file from words: small letters, digits and hyphens.</summary>
    public static string FileName(string ending, params string[] words)
    {
        var text = new StringBuilder();
        foreach (var c in string.Join('-', words).Normalize(NormalizationForm.FormD).ToLowerInvariant())
        {
            if (c is >= 'a' and <= 'z' or >= '0' and <= '9')
                text.Append(c);
            else if (text.Length > 0 && text[^1] != '-' && !char.IsLetter(c) && CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                text.Append('-');
        }

        var name = text.ToString().Trim('-');
        return $"{(name.Length > 80 ? name[..80].Trim('-') : name)}.{ending}";
    }
}
