using System.Text.Json;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <content>Filaments, spools, printers, pairings and what is noted of them.</content>
public sealed partial class DemoLoader
{
    private async Task FilamentAsync(JsonElement e)
    {
        var family = Str(e, "family")!;
        var f = new Filament
        {
            Maker = Str(e, "maker")!,
            Line = Str(e, "line")!,
            Family = family,
            Additive = Str(e, "additive"),
            Currency = "EUR",
            PriceMinor = (long)Math.Round(Num(e, "price")!.Value * 100),
            NetMassUg = (long)(Num(e, "netMassG")!.Value * 1e6),
            SolidDensityGPerCm3 = Num(e, "density") ?? Family.Find(family)?.DensityGPerCm3,
        };
        if (e.TryGetProperty("report", out var words))
            f.ReportJson = Json.Write(new Reports.ReportNotes(Str(words, "summary"), Str(words, "suits"), Str(words, "watch"), Str(words, "strength")));
        if (e.TryGetProperty("drying", out var d))
            (f.DryingC, f.DryingHours) = (d[0].GetDouble(), d[1].GetDouble());
        await new FilamentBook(work).SaveAsync(
            f, true, [.. e.GetProperty("colours").EnumerateArray().Select(c => c.GetString()!)],
            [
                .. e.GetProperty("sources").EnumerateArray().Select(x => new FilamentSource
                {
                    Kind = Str(x, "kind")!, Note = Str(x, "note"), NozzleMinC = x.GetProperty("nozzle")[0].GetDouble(),
                    NozzleMaxC = x.GetProperty("nozzle")[1].GetDouble(), BedMinC = x.GetProperty("bed")[0].GetDouble(),
                    BedMaxC = x.GetProperty("bed")[1].GetDouble(),
                }),
            ]);
        foreach (var x in e.GetProperty("spools").EnumerateArray())
            await SpoolAsync(x, f);
    }

    /// <summary>A spool; what was done with it later is done on its day.</summary>
    private async Task SpoolAsync(JsonElement e, Filament f)
    {
        var spools = new SpoolBook(work);
        var spool = new Spool
        {
            FilamentId = f.Id, Name = Str(e, "name")!, Lot = Str(e, "lot"), Stored = Str(e, "stored"), ChangedAt = work.Now,
            VariantId = f.Variants.FirstOrDefault(v => v.Colour == Str(e, "colour"))?.Id,
        };
        if (Num(e, "openedDaysAgo") is { } opened)
            spool.OpenedAt = Ago(opened);
        if (Num(e, "reelG") is { } reel)
            spool.ReelMassUg = (long)(reel * 1e6);
        await spools.SaveAsync(spool, f, true);
        Task Of(Func<Spool, Task> done) => spools.ToEditAsync(spool.Id).ContinueWith(s => done(s.Result!), TaskScheduler.Default).Unwrap();
        // Places and directions of a diameter follow each other; it counts for all that is planned in this year.
        if (e.TryGetProperty("diameters", out var mm))
            await Of(s => spools.MeasureAsync(s, [.. mm.EnumerateArray().Select((x, i) => new DiameterReading(i / 2 + 1, i % 2 + 1, x.GetDouble()))]));
        if (Num(e, "driedDaysAgo") is { } dried)
            later.Add((dried, () => Of(s => spools.DryAsync(s, work.Now, f.DryingC ?? 45, f.DryingHours ?? 6, null, leftBay.Id))));
        if (Str(e, "loadedOn") is { } head)
            later.Add((1, () => Of(async s => await spools.LoadAsync(s, (await spools.HeadsAsync()).First(h => h.FullName == head).Id, work.Now))));
        if (Num(e, "weighG") is { } g)
            later.Add((2, () => Of(s => spools.WeighAsync(s, (decimal)g, Words.N(g), 0))));
    }

    private async Task PrinterAsync(JsonElement e)
    {
        var p = PrinterOf(e);
        var heads = p.Toolheads.ToList();
        p.Toolheads.Clear();
        var book = new PrinterBook(work, machines, profiles);
        foreach (var (t, i) in heads.Select((t, i) => (t, i)))
        {
            t.FeedCheckedAt = Ago(Num(e.GetProperty("toolheads")[i], "feedCheckedDaysAgo")!.Value);
            if (i == 0)
            {
                await book.AddAsync(p, t);
                continue;
            }

            (t.PrinterId, t.ChangedAt) = (p.Id, work.Now);
            db.Add(t);
            await book.SaveAsync(t, p, null);
        }
    }

    /// <summary>A printer as it stands in the demo's file.</summary>
    public static Printer PrinterOf(JsonElement e)
    {
        var bed = e.GetProperty("bed");
        var p = new Printer
        {
            Name = Str(e, "name")!,
            Maker = Str(e, "maker"),
            Enclosure = Str(e, "enclosure")!,
            BedXMm = bed[0].GetDouble(),
            BedYMm = bed[1].GetDouble(),
            HeightMm = bed[2].GetDouble(),
            BedMaxC = Num(e, "bedMaxC")!.Value,
            BedSurface = Str(e, "surface"),
            MaxSpeedMmPerS = Num(e, "speed")!.Value,
            MaxAccelerationMmPerS2 = Num(e, "acceleration")!.Value,
            Dialect = Str(e, "dialect")!,
            Firmware = Str(e, "firmware"),
            ChamberMaxC = Num(e, "chamberMaxC") ?? 0,
            PowerW = Num(e, "powerW"),
            MinorPerKwh = Num(e, "kwhPrice") * 100,
            StartCode = Str(e, "startCode"),
            EndCode = Str(e, "endCode"),
        };
        foreach (var t in e.GetProperty("toolheads").EnumerateArray())
        {
            var nozzle = t.GetProperty("nozzle");
            p.Toolheads.Add(new Toolhead
            {
                Name = Str(t, "name") ?? "",
                Drive = Str(t, "drive")!,
                TubeLengthMm = Num(t, "tubeMm"),
                StepsPerMm = Num(t, "steps"),
                RotationDistanceMm = Num(t, "rotationMm"),
                Liner = Str(t, "liner")!,
                HeaterMaxC = Num(t, "heaterMaxC")!.Value,
                OvershootC = Num(t, "overshootC") ?? 3,
                NozzleDiameterMm = nozzle[0].GetDouble(),
                NozzleFlow = nozzle[1].GetString()!,
                NozzleMaterial = nozzle[2].GetString()!,
                PartFan = Str(t, "fan"),
            });
        }

        return p;
    }

    private async Task<Pairing> FindAsync(JsonElement names)
    {
        var all = await db.Pairings.AsNoTracking().Full().ToListAsync();
        return all.First(p => p.Filament!.Line == names[0].GetString() && p.Toolhead!.FullName == names[1].GetString());
    }

    private async Task PairAsync(JsonElement e, JsonElement names)
    {
        var filament = await db.Filaments.AsNoTracking().Include(f => f.Sources).FirstAsync(f => f.Line == names[0].GetString());
        var heads = await db.Toolheads.AsNoTracking().Include(t => t.Printer).ToListAsync();
        var head = heads.First(t => t.FullName == names[1].GetString());
        var p = new Pairing
        {
            FilamentId = filament.Id, ToolheadId = head.Id, NozzleDiameterMm = head.NozzleDiameterMm, NozzleFlow = head.NozzleFlow,
            Use = Str(e, "use") ?? "balanced", Filament = filament, Toolhead = head,
        };
        var settings = Profiles.Starting(p, []);
        var why = "Started from label and family";
        if (e.TryGetProperty("from", out var from))
        {
            var source = await FindAsync(from);
            p.CopiedFromId = source.Id;
            settings = Profiles.Copied(settings, (await profiles.LatestAsync(source.Id))!, p, source);
            why = $"Started from {Facts.NameOf(source)}";
        }

        await new PairingBook(work, profiles, findings).AddAsync(p, settings, why);
    }

    private Task SetAsync(JsonElement e, Pairing p)
    {
        var why = Str(e, "why")!;
        return new PairingBook(work, profiles, findings).TypeAsync(
            p, [
                .. e.GetProperty("values").EnumerateObject()
                    .Select(v => new ProfileSetting(v.Name, v.Value.GetDouble(), null, SettingOrigin.Typed, $"typed: {why}", SettingState.Start)),
            ], why, "passed the verification print");
    }

    private async Task FitAsync(JsonElement e, JsonElement fit)
    {
        var printer = await db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Name == fit[0].GetString());
        var head = printer.Toolheads.First(t => t.Name == fit[1].GetString());
        await profiles.FitAsync(new Part
        {
            PrinterId = printer.Id,
            ToolheadId = head.Id,
            Slot = fit[2].GetString()!,
            Description = fit[3].GetString()!,
            FittedAt = work.Now,
            Why = Str(e, "why"),
            PersonId = (await work.PersonAsync()).Id,
        }, printer.Name, fit.GetArrayLength() > 4
            ? new() { NozzleDiameterMm = head.NozzleDiameterMm, NozzleFlow = head.NozzleFlow, NozzleMaterial = fit[4].GetString() } : null);
    }

    /// <summary>A dated check of a printer or toolhead.</summary>
    private async Task CheckAsync(JsonElement e, JsonElement check)
    {
        var printer = await db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Name == check[0].GetString());
        var kind = Core.Equipment.CheckKind.Find(check[2].GetString())
            ?? throw new InvalidDataException($"the demo's check \"{check[2].GetString()}\" is not known");
        var head = kind.OnToolhead ? printer.Toolheads.First(t => t.Name == check[1].GetString()) : printer.Toolheads[0];
        head.Printer = printer;
        var values = e.TryGetProperty("values", out var v) ? v.EnumerateObject().ToDictionary(x => x.Name, x => x.Value.GetDouble()) : [];
        await new PrinterBook(work, machines, profiles).CheckAsync(
            printer, head, kind, values, _ => "", Str(e, "note"), !e.TryGetProperty("bad", out _));
    }
}
