using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Gcode;

/// <summary>How large a file may be.</summary>
/// <param name="MostBytes">Bytes.</param>
public sealed record GcodeLimit(long MostBytes)
{
    /// <summary>Where nothing else is said, MB.</summary>
    public const int UsualMb = 500;

    /// <summary>From the start's own option.</summary>
    /// <exception cref="ArgumentException">It is no number of megabytes.</exception>
    public static GcodeLimit Of(string? megabytes)
    {
        if (megabytes is null)
            return new(UsualMb * 1_000_000L);
        return int.TryParse(megabytes, out var mb) && mb is >= 1 and <= 20_000 ? new(mb * 1_000_000L)
            : throw new ArgumentException($"--gcode-mb {megabytes}: a whole number of megabytes from 1 to 20000 would be right.");
    }
}

/// <summary>A file with what it was found to be.</summary>
/// <param name="File">The row.</param>
/// <param name="Facts">Its inspection.</param>
/// <param name="Odd">What stands out.</param>
/// <param name="Pairing">Pairing that it is looked at for; null for none.</param>
/// <param name="Machine">The machine of that pairing.</param>
public sealed record InspectedFile(GcodeFile File, FileFacts Facts, IReadOnlyList<Oddity> Odd, Pairing? Pairing, Machine? Machine);

/// <summary>Keeps, inspects, steps and mends files. One at a time is worked on; the last few inspections are remembered.</summary>
public sealed class GcodeRoom(WorkContext work, Profiles profiles, Pieces pieces, DataPlace place, AnswerCache answers)
{
    private static readonly TimeSpan Kept = TimeSpan.FromHours(2);

    private static readonly SemaphoreSlim One = new(1);

    /// <summary>Keeps a file that came in; its bytes are stored first, then the row.</summary>
    public async Task<GcodeFile> KeepAsync(string name, string path, Guid? pairing)
    {
        void Copy(Stream to)
        {
            using var from = File.OpenRead(path);
            from.CopyTo(to);
        }

        var stored = await Task.Run(() => place.Files.Put(Copy));
        return await EnterAsync(
            Copy, new() { Name = Clean(name), Sha256 = stored.Sha256, Bytes = stored.Bytes, At = work.Now, PairingId = pairing },
            f => $"{f.Name} was brought into the G-code room");
    }

    /// <summary>Files that stand, newest first, and the names of those that others were made from.</summary>
    public async Task<(List<GcodeFile> Files, Dictionary<Guid, string> Names)> ListAsync(int most = 200)
    {
        var files = await work.Db.GcodeFiles.AsNoTracking().Where(f => f.RemovedAt == null).OrderByDescending(f => f.At).ThenByDescending(f => f.Id).Take(most)
            .ToListAsync();
        var from = files.Select(f => f.FromId).OfType<Guid>().Distinct().ToList();
        return (files, await work.Db.GcodeFiles.AsNoTracking().Where(f => from.Contains(f.Id)).ToDictionaryAsync(f => f.Id, f => f.Name));
    }

    /// <summary>Files that were made from one, newest first.</summary>
    public Task<List<GcodeFile>> MadeFromAsync(Guid id) =>
        work.Db.GcodeFiles.AsNoTracking().Where(f => f.FromId == id && f.RemovedAt == null).OrderByDescending(f => f.At).ToListAsync();

    /// <summary>Says which pairing a file is for; null for none.</summary>
    public Task BelongsToAsync(GcodeFile file, Guid? pairing)
    {
        file.PairingId = pairing;
        return work.SaveAsync();
    }

    /// <summary>Removes a file from the room; null where there is none.</summary>
    public async Task<GcodeFile?> RemoveAsync(Guid? id)
    {
        if (await work.Db.GcodeFiles.FirstOrDefaultAsync(f => f.Id == id && f.RemovedAt == null) is not { } file)
            return null;
        file.RemovedAt = work.Now;
        await work.LogAsync("gcode", $"{file.Name} was removed from the G-code room", "/gcode", $"gcode:{file.Id}");
        await work.SaveAsync();
        return file;
    }

    /// <summary>The file of an id; null where there is none.</summary>
    public Task<GcodeFile?> FindAsync(Guid id) => work.Db.GcodeFiles.FirstOrDefaultAsync(f => f.Id == id);

    /// <summary>The file of an id whose content is here; null where there is none, or it was erased or did not come with an archive.</summary>
    public async Task<GcodeFile?> WithContentAsync(Guid id) => await FindAsync(id) is { } file && place.Files.Exists(file.Sha256) ? file : null;

    /// <summary>Opens its content.</summary>
    /// <exception cref="FileNotFoundException">The data folder lacks it.</exception>
    public Stream Open(GcodeFile file) => place.Files.Exists(file.Sha256)
        ? new FileStream(place.Files.PathOf(file.Sha256), FileMode.Open, FileAccess.Read, FileShare.Read, 1)
        : throw new FileNotFoundException($"The content of {file.Name} is missing from the data folder.");

    /// <summary>
    /// Where a file would leave the limits of the printer that it is looked at for, by the one gate of all files that are handed out; empty where it keeps
    /// them, and where it is looked at for none.
    /// </summary>
    /// <exception cref="FileNotFoundException">The data folder lacks it.</exception>
    public async Task<IReadOnlyList<string>> BeyondAsync(GcodeFile file)
    {
        if ((await RequestAsync(file)).Machine is not { } machine)
            return [];
        return await RememberAsync($"gate|{file.Sha256}|{machine}", () => Task.Run(() =>
        {
            using var from = Open(file);
            return (Core.Gcode.GcodeGuard.Check(from, machine), 10);
        }));
    }

    /// <summary>What a pairing gives to an inspection: limits, filament, flow limit.</summary>
    public async Task<(InspectionRequest Request, Pairing? Pairing, Machine? Machine)> RequestAsync(GcodeFile file)
    {
        var name = file.Name;
        if (file.PairingId is not { } id || await work.Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id) is not { } pairing)
            return (new() { Name = name }, null, null);
        var m = await pieces.MachineOfAsync(pairing);
        var s = await pieces.SettingsOfAsync(pairing, m);
        var limit = (await profiles.LatestAsync(id))?["maxVolumetricFlowMm3PerS"] is { NotKnownAtC: null } kept ? kept.Value : (double?)null;
        return (new()
        {
            Name = name,
            Machine = m,
            Motion = MotionLimits.Of(m.MaxSpeedMmPerS, m.MaxAccelerationMmPerS2),
            FilamentDiameterMm = s.FilamentDiameterMm,
            DensityGPerCm3 = s.DensityGPerCm3,
            PriceMinorPerKg = s.PriceMinorPerKg,
            Currency = s.Currency ?? "",
            FlowLimit = limit,
        }, pairing, m);
    }

    /// <summary>Inspects a file, or remembers it.</summary>
    public async Task<InspectedFile> InspectAsync(GcodeFile file, CancellationToken stop = default)
    {
        var (request, pairing, machine) = await RequestAsync(file);
        var (facts, odd) = await RememberAsync($"{file.Sha256}|{request}", async () =>
        {
            var f = await Task.Run(() =>
            {
                using var from = Open(file);
                return Inspector.Inspect(from, request, stop);
            }, stop);
            return ((f, Oddities.Of(f)), 1 + f.Layers.Count + f.Settings.Count / 10);
        });
        return new(file, facts, odd, pairing, machine);
    }

    /// <summary>Reads a stepped file back; null for a file that was not stepped here, or whose origin is gone.</summary>
    public async Task<(StepPlan Plan, StepProof Proof)?> ProofAsync(GcodeFile file, CancellationToken stop = default)
    {
        if (file is not { StepJson: { } json, FromId: { } from } || await FindAsync(from) is not { } origin || !place.Files.Exists(origin.Sha256))
            return null;
        var was = await PlainAsync(origin, stop);
        return await RememberAsync($"proof|{file.Sha256}|{origin.Sha256}|{json}", async () =>
        {
            var (plan, _) = StepPlanning.Plan(Json.Read<StepRequest>(json), was);
            var proof = plan is null ? null : await Task.Run(() => StepProof.Read(() => Open(origin), was, () => Open(file), plan, stop), stop);
            return (plan is null ? ((StepPlan, StepProof)?)null : (plan, proof!), 50);
        });
    }

    /// <summary>How a file differs from the one that it was made from; null where that is gone.</summary>
    public async Task<LineDiff?> DiffAsync(GcodeFile file, CancellationToken stop = default)
    {
        if (file.FromId is not { } from || await FindAsync(from) is not { } origin || !place.Files.Exists(origin.Sha256))
            return null;
        return await RememberAsync($"diff|{file.Sha256}|{origin.Sha256}", async () =>
            (await Task.Run(() => LineDiff.Of(() => Open(origin), () => Open(file), stop), stop), 50));
    }

    /// <summary>Fits a step plan to a file.</summary>
    public async Task<(StepPlan? Plan, IReadOnlyList<FieldError> Errors)> PlanAsync(InspectedFile file, StepRequest request) =>
        StepPlanning.Plan(request with { Dialect = file.Machine?.Dialect ?? request.Dialect }, await PlainAsync(file.File, default), file.Machine);

    /// <summary>Writes a stepped file beside its origin.</summary>
    public async Task<(GcodeFile? File, IReadOnlyList<FieldError> Errors)> StepAsync(InspectedFile file, StepRequest request)
    {
        request = request with { Dialect = file.Machine?.Dialect ?? request.Dialect };
        var facts = await PlainAsync(file.File, default);
        var (plan, errors) = StepPlanning.Plan(request, facts, file.Machine);
        if (plan is null)
            return (null, errors);
        void Write(Stream to) => Stepper.Write(() => Open(file.File), facts, plan, to);
        var stored = await WriteAsync(Write);
        var made = await EnterAsync(Write, new()
        {
            Name = Added(file.File.Name, $"{plan.What.Key}-{Words.N(plan.Values[0])}-{Words.N(plan.Values[^1])}"),
            Sha256 = stored.Sha256,
            Bytes = stored.Bytes,
            At = work.Now,
            PairingId = file.File.PairingId,
            FromId = file.File.Id,
            Made = $"Stepped by height: {plan.Line}",
            StepJson = Json.Write(request),
        }, f => $"{file.File.Name} was stepped by height: {plan.Line}");
        return (made, []);
    }

    /// <summary>What a cool-down of a file goes by.</summary>
    public async Task<CoolingOfFile> CoolingAsync(InspectedFile file)
    {
        var settings = file.File.PairingId is { } id ? await profiles.LatestAsync(id) : null;
        var printing = file.Facts.Settings.LastOrDefault(s => s.Kind == SettingKind.Chamber && s.Line < file.Facts.LastExtrudeLine);
        var chamber = printing?.Value ?? settings?["chamberTemperatureC"]?.Value;
        var cooling = new CoolingOfFile(
            (await work.RoomAsync())?.TemperatureC ?? RoomBook.UsualC, chamber is > 0 ? chamber : null, settings?["releaseBedTemperatureC"]?.Value);
        var (ramp, why) = settings?.CoolDown(file.Facts.BedC, cooling.SurroundingsC) ?? default;
        return cooling with { Ramp = ramp, NoRampWhy = why };
    }

    /// <summary>
    /// Writes the cool-down of its pairing behind each of some files: the ramp that is kept there, else equal steps to where its parts let go.
    /// </summary>
    /// <param name="ids">The files.</param>
    /// <returns>Each file's name, with the file that was made or why none was.</returns>
    public async Task<IReadOnlyList<(string Name, GcodeFile? Made, string? Why)>> CoolAsync(IReadOnlyList<Guid> ids)
    {
        var done = new List<(string, GcodeFile?, string?)>();
        foreach (var id in ids.Distinct())
        {
            if (await FindAsync(id) is not { RemovedAt: null } row)
                continue;
            try
            {
                var file = await InspectAsync(row);
                var cooling = await CoolingAsync(file);
                var begin = FormStart.Of(file, null, null, cooling);
                var (made, errors) = cooling.ReleaseC is null && cooling.Ramp is null
                    ? (null, [new("", cooling.NoRampWhy ?? (file.Pairing is null ? "no pairing is said, so nothing tells where its parts let go"
                        : "its pairing keeps neither a cool-down nor where its parts let go"))])
                    : await FixAsync(file, new()
                    {
                        Key = "cool-down", Ramp = cooling.Ramp, ToC = (decimal)begin.ToC, StepC = (decimal)FormStart.StepC,
                        HoldMinutes = (decimal)FormStart.HoldMinutes,
                    });
                done.Add((row.Name, made, made is null ? string.Join(" ", errors.Select(e => e.Message)) : null));
            }
            catch (FileNotFoundException)
            {
                done.Add((row.Name, null, "its content is not there any more"));
            }
        }

        return done;
    }

    /// <summary>The trim of the spool that a file's pairing is printed from; null where it has none, or the file was made by a trim.</summary>
    public async Task<SpoolTrimmed?> TrimOfAsync(InspectedFile file) =>
        file.Pairing is { } p && file.File.Made?.StartsWith(Trim.Title, StringComparison.Ordinal) != true
            && await pieces.TrimOfAsync(p) is { IsApplied: true } trim
            ? trim : null;

    /// <summary>Writes a mended file beside its origin.</summary>
    public async Task<(GcodeFile? File, IReadOnlyList<FieldError> Errors)> FixAsync(InspectedFile file, FixRequest request)
    {
        request = request with
        {
            Dialect = file.Machine?.Dialect ?? request.Dialect,
            SurroundingsC = (await CoolingAsync(file)).SurroundingsC,
        };
        var (fix, errors) = FixPlanning.Plan(request, file.Facts, () => Open(file.File), file.Machine);
        if (fix is null)
            return (null, errors);
        void Write(Stream to) => fix.Write(() => Open(file.File), to);
        var stored = await WriteAsync(Write);
        var readBack = "";
        if (request is { Key: "trim", Trim: { } trim })
        {
            var was = await PlainAsync(file.File, default);
            var found = await Task.Run(() =>
            {
                using var written = place.Files.Open(stored.Sha256)!;
                return Trim.ReadBack(trim, was, Inspector.Inspect(written, new() { Name = file.File.Name, Motion = null }));
            });
            // What can't be read back as it was asked is not handed out.
            if (found.Where(x => !x.Holds).ToList() is { Count: > 0 } wrong)
                return (null,
                    [new("flowPercent", $"Not written, since it reads back otherwise: {string.Join(", ", wrong.Select(x => $"{x.What} {x.Found}"))}.")]);
            readBack = $" Read back: {string.Join(", ", found.Select(x => $"{x.What} {x.Found}"))}.";
        }

        var made = await EnterAsync(Write, new()
        {
            Name = Added(file.File.Name, request.Key!),
            Sha256 = stored.Sha256,
            Bytes = stored.Bytes,
            At = work.Now,
            PairingId = file.File.PairingId,
            FromId = file.File.Id,
            Made = $"{fix.Title}. {string.Join(" ", fix.Notes)}{readBack}",
        }, f => $"{file.File.Name}: {fix.Title}");
        return (made, []);
    }

    /// <summary>The file without time estimate and machine: steps only need its layers.</summary>
    private async Task<FileFacts> PlainAsync(GcodeFile file, CancellationToken stop)
    {
        var request = new InspectionRequest { Name = file.Name, Motion = null };
        return await RememberAsync($"plain|{file.Sha256}|{file.Name}", async () =>
        {
            var f = await Task.Run(() =>
            {
                using var from = Open(file);
                return Inspector.Inspect(from, request, stop);
            }, stop);
            return (f, 1 + f.Layers.Count + f.Settings.Count / 10);
        });
    }

    private async Task<StoredFile> WriteAsync(Action<Stream> write)
    {
        await One.WaitAsync();
        try
        {
            return await Task.Run(() => place.Files.Put(write));
        }
        finally
        {
            One.Release();
        }
    }

    /// <summary>Adds the row of a stored file; its content is written once more where it was erased since.</summary>
    private async Task<GcodeFile> EnterAsync(Action<Stream> content, GcodeFile file, Func<GcodeFile, string> says)
    {
        file.PersonId = (await work.PersonAsync()).Id;
        return await work.AloneAsync(async () =>
        {
            if (file.FromId is not null)
                file.Name = await OwnNameAsync(file.Name);
            if (!place.Files.Exists(file.Sha256))
                place.Files.Put(content);
            work.Db.GcodeFiles.Add(file);
            await work.LogAsync("gcode", says(file), $"/gcode/{file.Id}");
            await work.Db.SaveChangesAsync();
            return file;
        });
    }

    /// <summary>A name that no file here has: two rewrites of one file are told apart on the printer too. Inside the gate only.</summary>
    private async Task<string> OwnNameAsync(string name)
    {
        var dot = name.LastIndexOf('.');
        var (stem, end) = dot > 0 ? (name[..dot], name[dot..]) : (name, "");
        var own = name;
        for (var n = 2; await work.Db.GcodeFiles.AnyAsync(f => f.Name == own && f.RemovedAt == null); n++)
            own = $"{stem}-{n}{end}";
        return own;
    }

    private async Task<T> RememberAsync<T>(string key, Func<Task<(T Value, int Size)>> make)
    {
        if (answers.TryGet(key, out T? known))
            return known!;
        await One.WaitAsync();
        try
        {
            if (answers.TryGet(key, out known))
                return known!;
            var (value, size) = await make();
            return answers.Put(key, size, value, Kept);
        }
        finally
        {
            One.Release();
        }
    }

    private static string Added(string name, string what)
    {
        var dot = name.LastIndexOf('.');
        var (stem, end) = dot > 0 ? (name[..dot], name[dot..]) : (name, ".gcode");
        return Clean($"{(stem.Length > 80 ? stem[..80] : stem)}-{what}{end}");
    }

    /// <summary>A name without what could be a path or a control character.</summary>
    private static string Clean(string name)
    {
        var clean = string.Concat(name.Where(c => !char.IsControl(c) && c is not ('/' or '\\' or '"'))).Trim('.', ' ');
        return clean.Length == 0 ? "file.gcode" : clean.Length > 120 ? clean[^120..] : clean;
    }
}

/// <summary>What a cool-down of a file goes by, °C.</summary>
/// <param name="RoomC">The room, as last logged; 22 where it never was.</param>
/// <param name="ChamberC">The chamber while the file prints; null without one.</param>
/// <param name="ReleaseC">Where parts of the file's pairing let go; null where that is not kept.</param>
public sealed record CoolingOfFile(double RoomC, double? ChamberC, double? ReleaseC)
{
    /// <summary>The cool-down that the pairing keeps, from this file's bed; null where it keeps none that a file can hold.</summary>
    public IReadOnlyList<RampStep>? Ramp { get; init; }

    /// <summary>Why what is kept can't be held; null where nothing is kept, or it can.</summary>
    public string? NoRampWhy { get; init; }

    /// <summary>The warmer of room and chamber.</summary>
    public double SurroundingsC => Math.Max(RoomC, ChamberC ?? 0);
}
