using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Text;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Meshes;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>What a trial's file is made of: the job of a piece, or lines without one.</summary>
/// <param name="Job">A piece ready to print; null where there is none.</param>
/// <param name="Lines">Lines of G-code; null where a piece is printed.</param>
/// <param name="Machine">The machine that it is for.</param>
public sealed record TrialFile(PieceJob? Job, IReadOnlyList<string>? Lines, Machine Machine)
{
    /// <summary>True where the bed cools in steps behind it.</summary>
    public bool CoolsDown => Job?.Settings.CoolDown is { Count: > 0 } || Lines?.Any(l => l.StartsWith(BedRamp.Mark, StringComparison.Ordinal)) == true;
}

/// <summary>Turns pairings into machines and settings, plans into jobs, and jobs into files that are kept.</summary>
public sealed class Pieces(WorkContext work, Profiles profiles, DataPlace place, AnswerCache answers)
{
    /// <summary>Looking through layers, or changing what doesn't touch the piece, makes nothing anew for so long.</summary>
    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(10);

    /// <summary>Version of Glenfrost as files name it.</summary>
    public static string Version { get; } = Trial.EngineVersion;

    /// <summary>The machine of a pairing; needs its toolhead and printer loaded.</summary>
    public Task<Machine> MachineOfAsync(Pairing p) => MachineOfAsync(p.Toolhead!, p.NozzleDiameterMm);

    /// <summary>The machine of a toolhead; needs its printer loaded.</summary>
    public async Task<Machine> MachineOfAsync(Toolhead head, double? nozzleMm = null)
    {
        var heads = await work.Db.Toolheads.AsNoTracking().Where(t => t.PrinterId == head.PrinterId && t.RemovedAt == null).OrderBy(t => t.Id)
            .Select(t => t.Id).ToListAsync();
        return MachineOf(head, nozzleMm) with { Tool = Math.Max(0, heads.IndexOf(head.Id)), Tools = heads.Count };
    }

    /// <summary>A machine with one toolhead, for what doesn't ask which one it is.</summary>
    public static Machine MachineOf(Toolhead head, double? nozzleMm)
    {
        var printer = head.Printer!;
        return new Machine
        {
            Name = head.FullName,
            Dialect = printer.Dialect,
            BedXMm = printer.BedXMm,
            BedYMm = printer.BedYMm,
            HeightMm = printer.HeightMm,
            OriginInMiddle = printer.OriginInMiddle,
            BedMaxC = printer.BedMaxC,
            Enclosure = printer.Enclosure,
            ChamberMaxC = printer.ChamberMaxC,
            MaxSpeedMmPerS = printer.MaxSpeedMmPerS,
            MaxAccelerationMmPerS2 = printer.MaxAccelerationMmPerS2,
            NozzleDiameterMm = nozzleMm ?? head.NozzleDiameterMm,
            LongTube = head.Drive == "long-tube",
            Limits = Facts.LimitsOf(head),
            RelativeE = !printer.AbsoluteE,
            StartCode = printer.StartCode,
            EndCode = printer.EndCode,
            ClearanceMm = printer.ClearanceMm,
            GantryHeightMm = printer.GantryHeightMm,
        };
    }

    /// <summary>What a plan is proposed from without asking the database: enough for ranges and rough costs.</summary>
    public static PlanContext LightContext(Pairing p) => new()
    {
        Machine = MachineOf(p.Toolhead!, p.NozzleDiameterMm),
        AdvisedC = Facts.NozzleRange(p.Filament!).Span,
        Family = Family.Find(p.Filament!.Family),
        DensityGPerCm3 = p.Filament.SolidDensityGPerCm3,
        StepsPerMm = p.Toolhead!.StepsPerMm,
        RotationDistanceMm = p.Toolhead.RotationDistanceMm,
        Use = p.Use,
        Subject = SubjectOf(p, p.Toolhead),
    };

    /// <summary>What a plan is made from: machine, settings in force, what is kept and measured.</summary>
    /// <param name="trial">What is planned.</param>
    /// <param name="p">On which pairing; null for a trial of a toolhead.</param>
    /// <param name="head">On which toolhead.</param>
    /// <param name="held">What is held as it was in another run; null where the profile alone says.</param>
    public async Task<PlanContext> ContextAsync(Trial trial, Pairing? p, Toolhead head, HeldSettings? held = null)
    {
        var m = await MachineOfAsync(head, p?.NozzleDiameterMm);
        if (p is null)
            return new()
            {
                Memory = new LeavingMemory(answers, work.Left), Machine = m, StepsPerMm = head.StepsPerMm, RotationDistanceMm = head.RotationDistanceMm,
                Subject = head.FullName,
            };
        // A diameter is of the spool that it was measured on: one that was opened since is never taken for it.
        var spool = (await work.Db.Spools.AsNoTracking().Include(s => s.Diameters)
            .Where(s => s.FilamentId == p.FilamentId && s.RemovedAt == null && s.World == p.World && (s.OpenedAt != null || s.Diameters.Any()))
            .ToListAsync()).OrderByDescending(s => s.OpenedAt ?? DateTime.MinValue).FirstOrDefault();
        if (spool?.Diameters.Any(d => d.RemovedAt is null) is not true)
            spool = null;
        var latest = await profiles.LatestAsync(p.Id);
        var diameter = spool is null
            ? null
            : DiameterSummary.Of([.. spool.Diameters.Where(d => d.RemovedAt is null).Select(d => new DiameterReading(d.Place, d.Direction, d.Mm))]);
        var settings = await SettingsOfAsync(p, m, held);
        // What finds a multiplier is printed without a trim of it, and what is held as it was in another run stays so.
        if (!trial.AsksFlow && held?.Values.ContainsKey("extrusionMultiplier") != true && await TrimOfAsync(p) is { IsApplied: true } trim)
            settings = Trimmed(settings, trim);
        if (!trial.CoolsDown)
            settings = settings with { CoolDown = null, Sources = [.. settings.Sources.Where(s => s.Key != "coolDown")] };
        // A flow figure counts with the measured filament, unless somebody put another diameter in the profile.
        if (diameter is not null
            && trial.Settles.Contains("extrusionMultiplier")
            && latest?["filamentDiameterMm"] is null or { State: SettingState.Start })
            settings = settings with
            {
                FilamentDiameterMm = Math.Round(diameter.MeanMm, 4),
                Sources =
                [
                    .. settings.Sources.Where(s => s.Key != "filamentDiameterMm"),
                    new("filamentDiameterMm", Math.Round(diameter.MeanMm, 4), $"measured on spool {spool!.Name}"),
                ],
            };
        return LightContext(p) with
        {
            Memory = new LeavingMemory(answers, work.Left),
            Dryness = trial.AsksDryness ? (await SpoolInUseAsync(p))?.Advice : null,
            Machine = m,
            Settings = settings,
            Kept = held is null ? Planned(latest, m) : held.Over(Planned(latest, m)),
            KeptHalf = latest?.Settings.Where(x => x.IsEvidence && x.Uncertainty is > 0).GroupBy(x => x.Key)
                    .ToDictionary(g => g.Key, g => g.First().Uncertainty!.Value)
                ?? new Dictionary<string, double>(),
            MeasuredSoft = trial is Core.Trials.RetractionSweep.RetractionTrial && await MeasuredSoftAsync(p),
            Earlier = trial.LooksBack ? await EarlierAsync(trial, p) : [],
            RigChecks = trial is Core.Trials.LayerBond.LayerBondTrial ? await RigChecksAsync(trial, p) : [],
            Diameter = diameter,
        };
    }

    /// <summary>The trim of the spool that a pairing is printed from; null where it has none.</summary>
    public async Task<SpoolTrimmed?> TrimOfAsync(Pairing p)
    {
        var spools = await work.Db.Spools.AsNoTracking().Include(s => s.Dryings)
            .Where(s => s.FilamentId == p.FilamentId && s.RemovedAt == null && s.World == p.World).ToListAsync();
        if (InUse(spools, p) is not { TrimPercent: { } percent, TrimAt: { } at } spool)
            return null;
        var found = (await profiles.LatestAsync(p.Id))?["extrusionMultiplier"] is { RunId: not null } kept ? kept : null;
        // When it was found, not when a revision last carried it.
        var foundAt = found is null ? null
            : await work.Db.Runs.AsNoTracking().Where(r => r.Id == found.RunId).Select(r => r.DecidedAt ?? r.ReadAt).FirstOrDefaultAsync();
        var dried = spool.Dryings.Where(d => d.RemovedAt is null).Select(d => (DateTime?)d.StartAt).Max();
        return new(spool, percent, SpoolTrim.DoubtOf(at, work.Now, dried, foundAt));
    }

    private static PrintSettings Trimmed(PrintSettings s, SpoolTrimmed trim) => s with
    {
        ExtrusionMultiplier = Math.Round(s.ExtrusionMultiplier * trim.Percent / 100, 4),
        Sources =
        [
            .. s.Sources.Select(x => x.Key != "extrusionMultiplier" ? x
                : x with
                {
                    Value = Math.Round(x.Value * trim.Percent / 100, 4), From = $"{x.From}; times {Words.N(trim.Percent, 1)} %, spool {trim.Spool.Name}",
                }),
        ],
    };

    /// <summary>More earlier runs than these no plan leans on.</summary>
    private const int MostEarlier = 12;

    /// <summary>True where the newest compression that was read on a pairing is one.</summary>
    private async Task<bool> MeasuredSoftAsync(Pairing p) =>
        await EarlierAsync(TrialCatalogue.Get(Core.Trials.FlexCompression.FlexTrial.Word), p) is { Count: > 0 } read
        && TrialCatalogue.Get(Core.Trials.FlexCompression.FlexTrial.Word).Judge(read[^1].Plan, read[^1].Readings, new()).Verdict == "compression";

    /// <summary>Read runs of a trial on a pairing, the oldest first.</summary>
    private async Task<IReadOnlyList<EarlierRun>> EarlierAsync(Trial trial, Pairing p) => Views(
        trial, p, await work.Db.Runs.AsNoTracking().Include(r => r.Readings)
            .Where(r => r.PairingId == p.Id && r.Kind == trial.Kind && r.World == p.World && r.RemovedAt == null && r.ReadAt != null)
            .OrderBy(r => r.Number).Take(MostEarlier).ToListAsync());

    /// <summary>Read checks of the rig on any pairing, the oldest first: the newest ones, where there are many.</summary>
    private async Task<IReadOnlyList<EarlierRun>> RigChecksAsync(Trial trial, Pairing p)
    {
        var read = work.Db.Runs.AsNoTracking()
            .Where(r => r.Kind == trial.Kind && r.World == p.World && r.RemovedAt == null && r.ReadAt != null && r.PairingId != null);
        var plans = await read.Select(r => new { r.Id, r.ReadAt, r.PlanJson }).ToListAsync();
        List<Guid> checks =
        [
            .. plans.Where(r => Core.Trials.LayerBond.LayerBondTrial.AsksTheRig(r.PlanJson)).OrderByDescending(r => r.ReadAt).Take(MostEarlier)
                .Select(r => r.Id),
        ];
        var rows = await read.Include(r => r.Readings).Where(r => checks.Contains(r.Id)).ToListAsync();
        return Views(trial, p, [.. rows.OrderBy(r => r.ReadAt)]);
    }

    private static IReadOnlyList<EarlierRun> Views(Trial trial, Pairing p, IReadOnlyList<Run> rows) =>
    [
        .. rows.Select(r => TrialRuns.View(trial, r, p, p.Toolhead!, new Dictionary<Guid, Core.Statistics.ScoreNoise>()))
            .Select(v => new EarlierRun(v.Plan, v.Readings, $"run {v.Run.Number}, {Words.Day(v.Run.PrintedAt ?? v.Run.CreatedAt)}")
            {
                Number = v.Run.Number,
            }),
    ];

    /// <summary>The spool that a pairing is most likely printed from, with what its dryness asks for; null where none is registered.</summary>
    public async Task<(Spool Spool, DrynessAdvice Advice)?> SpoolInUseAsync(Pairing p)
    {
        var spools = await work.Db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings)
            .Include(s => s.Stays).Include(s => s.Weighings).AsSplitQuery()
            .Where(s => s.FilamentId == p.FilamentId && s.RemovedAt == null && s.World == p.World).ToListAsync();
        if (InUse(spools, p) is not { } spool)
            return null;
        var room = await work.RoomAsync();
        // SQLite has no maximum of what it keeps as text; dryers are few.
        var dryers = await work.Db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync();
        return (spool, Facts.Advise(spool, room?.HumidityPercent, dryers.Count > 0 ? dryers.Max() : null, work.Now));
    }

    /// <summary>
    /// Of a filament's spools the one that a pairing is printed from: the one that is loaded, then of its colour the one that was opened last.
    /// </summary>
    internal static Spool? InUse(IEnumerable<Spool> spools, Pairing p) =>
        spools.OrderByDescending(s => s.Id == p.Toolhead?.LoadedSpoolId)
            .ThenByDescending(s => p.VariantId is not null && s.VariantId == p.VariantId).ThenByDescending(s => s.OpenedAt ?? DateTime.MinValue)
            .FirstOrDefault();

    /// <summary>Values to plan with: a nozzle temperature that nobody tried here stays within what the hotend that is fitted now bears for long.</summary>
    private static IReadOnlyDictionary<string, double> Planned(ProfileView? profile, Machine m)
    {
        var values = profile?.ForPlanning ?? new Dictionary<string, double>();
        var above = (profile?.Settings ?? [])
            .Where(s => s.Key is BesideNozzle.Nozzle or BesideNozzle.FirstLayer && !s.IsEvidence && values.GetValueOrDefault(s.Key) > m.Limits.ProposedMaxC)
            .Select(s => s.Key).ToHashSet();
        return above.Count == 0 ? values : values.ToDictionary(v => v.Key, v => above.Contains(v.Key) ? m.Limits.ProposedMaxC : v.Value);
    }

    private static string SubjectOf(Pairing? p, Toolhead head) =>
        p is null ? head.FullName : $"{Facts.FilamentName(p)} on {head.FullName}, nozzle {p.NozzleName}";

    /// <summary>Settings in force for a pairing: its profile, then cautious values.</summary>
    public async Task<PrintSettings> SettingsOfAsync(Pairing p, Machine m, HeldSettings? held = null)
    {
        var profile = await profiles.LatestAsync(p.Id);
        var kept = held is null ? Planned(profile, m) : held.Over(Planned(profile, m));
        var f = p.Filament!;
        var s = PrintSettings.From(kept, m, Family.Find(f.Family));
        // What was found at another temperature says so where the settings in force are listed.
        var elsewhere = profile?.Settings.Where(x => x.NotKnownAtC is not null).ToDictionary(x => x.Key, x => Words.Value(x)) ?? [];
        var air = Math.Max((await work.RoomAsync())?.TemperatureC ?? RoomBook.UsualC, s.ChamberTemperatureC ?? 0);
        var (ramp, why) = profile?.CoolDown(s.BedTemperatureC, air) ?? default;
        var leftOut = ramp is not null && held is { LeftToCool: true };
        InForce[] slow = ramp is null ? [] : [new("coolDown", 0, leftOut ? "profile; left out of this file" : "profile", BedRamp.Of(ramp))];
        return s with
        {
            CoolDown = leftOut ? null : ramp,
            Sources =
            [
                .. slow,
                .. s.Sources.Select(x => held?.Values.ContainsKey(x.Key) == true ? x with { From = held.From }
                    : elsewhere.TryGetValue(x.Key, out var found) ? x with { From = $"{x.From}; {found}" } : x),
            ],
            ByHand =
            [
                .. (profile?.Settings ?? [])
                    .Where(x => PrintSettings.HandKeys.Contains(x.Key) && x.State != SettingState.Start && !(x.Key == "coolDown" && ramp is not null))
                    .Select(x => new InForce(x.Key, x.Value, x.Key == "coolDown" && why is not null ? $"profile; by hand: {why}"
                        : "profile; by hand, no file holds it", x.Word)),
            ],
            FilamentDiameterMm = kept.TryGetValue("filamentDiameterMm", out var d) ? d : f.DiameterMm,
            DensityGPerCm3 = f.SolidDensityGPerCm3 ?? s.DensityGPerCm3,
            PriceMinorPerKg = f is { PriceMinor: { } price, NetMassUg: > 0 and var net } ? price / (net / 1e9) : null,
            Currency = f.Currency,
        };
    }

    /// <summary>
    /// A plan with its file's own figures, and its file; the errors where it can't be made. Plans without a file of Glenfrost's come back as they are.
    /// </summary>
    public (ITrialPlan Plan, TrialFile? File, IReadOnlyList<FieldError> Errors) Make(Trial trial, ITrialPlan plan, PlanContext c)
    {
        if (!plan.WritesFile)
            return (plan, null, []);
        if (trial.Lines(plan, c) is var (lines, misfits))
            return lines is null ? (plan, null, misfits) : (plan, new(null, lines, c.Machine!), []);
        var (made, job, errors) = answers.Once(
            $"trial {Json.Write(new { trial.Kind, Plan = Json.WriteAsIs(plan), c.Machine, c.Settings, c.Subject })}",
            AnswerCache.Piece, () => trial.Make(plan, c), Kept);
        return job is null ? (plan, null, errors) : (made, new(job, null, c.Machine!), errors);
    }

    /// <summary>The same for a stored or posted plan of a pairing or toolhead.</summary>
    public async Task<(ITrialPlan Plan, TrialFile? File, IReadOnlyList<FieldError> Errors)> MakeAsync(
        Trial trial, ITrialPlan plan, Pairing? p, Toolhead head, HeldSettings? held = null) => Make(trial, plan, await ContextAsync(trial, p, head, held));

    /// <summary>Writes a trial's file, reads it back against the machine's limits and keeps it by its hash.</summary>
    /// <exception cref="FileRefusedException">The written file would leave a limit; nothing is kept.</exception>
    public WrittenFile Store(TrialFile file) => file.Job is { } job ? Store(job) : StoreText(string.Join('\n', file.Lines!) + "\n", file.Machine);

    /// <summary>Writes a job's G-code, reads it back against the machine's limits and keeps it by its hash.</summary>
    /// <exception cref="FileRefusedException">The written file would leave a limit; nothing is kept.</exception>
    public WrittenFile Store(PieceJob job) => StoreText(Text(job), job.Machine);

    private WrittenFile StoreText(string text, Machine machine)
    {
        if (FileRefusedException.Of(text, machine) is { } refused)
            throw refused;
        var content = Encoding.ASCII.GetBytes(text);
        return new(place.Files.Put(to => to.Write(content)), content);
    }

    /// <summary>
    /// The row of a written file; added to the database by the caller, inside the gate. The same content may have been erased since it was stored: what a row
    /// names stands before the row does.
    /// </summary>
    public RunFile Row(Run run, WrittenFile file, string name, DateTime at, Guid person)
    {
        if (!place.Files.Exists(file.Stored.Sha256))
            place.Files.Put(to => to.Write(file.Content));
        return new()
        {
            RunId = run.Id, Kind = "gcode", Name = name, Sha256 = file.Stored.Sha256, Bytes = file.Stored.Bytes, CreatedAt = at, PersonId = person,
        };
    }

    /// <summary>
    /// The G-code that a run is printed from: the newest of a plan that has one; null where the plan has none, whatever an earlier plan left.
    /// </summary>
    public static RunFile? StandingFile(Run run, ITrialPlan plan) =>
        plan.WritesFile || plan.HasOwnFile ? run.Files.Where(f => f.Kind == "gcode" && f.RetiredAt is null).MaxBy(f => f.CreatedAt) : null;

    /// <summary>Opens a stored file; null where it is gone.</summary>
    public Stream? Open(RunFile file) => place.Files.Open(file.Sha256);

    /// <summary>A file's G-code.</summary>
    public string Text(TrialFile file) => file.Job is { } job ? Text(job) : string.Join('\n', file.Lines!) + "\n";

    /// <summary>A job's G-code.</summary>
    public string Text(PieceJob job)
    {
        var to = new StringWriter(new StringBuilder(1 << 20), CultureInfo.InvariantCulture);
        GcodeWriter.Write(job, new(Version, work.Now), to);
        return to.ToString();
    }

    /// <summary>The meshes of pieces where they stand; equal pieces are made once.</summary>
    public IReadOnlyList<PlacedMesh> MeshesOf(string key, IReadOnlyList<Placed> pieces, double lineWidthMm) => answers.Once(
        $"mesh {key}", AnswerCache.Piece,
        () => (IReadOnlyList<PlacedMesh>)[.. pieces.Select(p => new PlacedMesh(p.Piece.Name, PieceMesh.Of(p.Piece, lineWidthMm), p.X, p.Y))], Kept);

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
