using Glenfrost.Core.Profiles;
using Glenfrost.Core.TestPieces;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Simulated;

/// <summary>
/// The practice world: a simulated twin of a printer, with a pairing and runs of its own. Real runs never see it; what is learned in one world stays there.
/// </summary>
public sealed class PracticeWorld(WorkContext work, Profiles profiles, Pieces pieces, PlanRuns plans)
{
    /// <summary>The same plan as a run of the practice world.</summary>
    /// <returns>The run, or what is wrong.</returns>
    public async Task<(Run? Run, string? Error)> TryAsync(TrialRunView v)
    {
        var own = v.Plan.HasOwnFile ? Pieces.StandingFile(v.Run, v.Plan) : null;
        if (!v.Plan.WritesFile && own is null)
            return (null, "Somebody's own model has no file here that the simulated printer could run.");
        var twin = v.Pairing is null ? null : await PairingAsync(v.Pairing);
        var headId = twin?.ToolheadId ?? await HeadAsync(v.Toolhead);
        var head = twin?.Toolhead ?? await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstAsync(t => t.Id == headId);
        // The same plan is not made twice: one that waits there is taken.
        if (await work.Db.Runs.FirstOrDefaultAsync(r =>
                r.LinkedRunId == v.Run.Id && r.LinkKind == "simulates" && r.RemovedAt == null && r.Stage == RunStages.Planned)
                is { } waiting
            && waiting.PlanJson == v.Run.PlanJson)
            return (waiting, null);
        if (own is not null)
        {
            try
            {
                return (await plans.CreateAsync(v.Trial, twin, head, v.Plan, null, v.Run.Id, "simulates", own), null);
            }
            catch (ChangedMeanwhileException)
            {
                return (null, "Its file is not there any more.");
            }
        }

        // What was planned with the values of a tier is tried with them.
        var tier = v.Run.Tier is { } name && v.Pairing is not null ? await new TierBook(work).HeldAsync(v.Pairing, name) : null;
        var held = v.Run.LeftToCool == true ? (tier?.Held ?? HeldSettings.Nothing) with { LeftToCool = true } : tier?.Held;
        var (plan, file, errors) = await pieces.MakeAsync(v.Trial, v.Plan, twin, head, held);
        if (file is null)
            return (null, $"The file can't be made: {string.Join(" ", errors.Select(e => e.Message))}");
        try
        {
            return (
                await plans.CreateAsync(
                    v.Trial, twin, head, plan, file, v.Run.Id, "simulates", tier: tier?.Tier.Name, leftToCool: v.Run.LeftToCool == true), null);
        }
        catch (FileRefusedException e)
        {
            return (null, e.Message);
        }
    }

    /// <summary>The twin of a pairing; made where there is none.</summary>
    public async Task<Pairing> PairingAsync(Pairing real)
    {
        var head = await HeadAsync(real.Toolhead!);
        var id = await work.AloneAsync(async () =>
        {
            if (await work
                    .Db.Pairings.Where(p =>
                        p.World == Worlds.Practice
                        && p.ToolheadId == head
                        && p.FilamentId == real.FilamentId
                        && p.VariantId == real.VariantId
                        && p.NozzleDiameterMm == real.NozzleDiameterMm
                        && p.NozzleFlow == real.NozzleFlow
                        && p.RemovedAt == null)
                    .Select(p => (Guid?)p.Id).FirstOrDefaultAsync() is
                { } stands)
                return stands;
            var twin = new Pairing
            {
                FilamentId = real.FilamentId,
                VariantId = real.VariantId,
                ToolheadId = head,
                NozzleDiameterMm = real.NozzleDiameterMm,
                NozzleFlow = real.NozzleFlow,
                Use = real.Use,
                CreatedAt = work.Now,
                ChangedAt = work.Now,
                CopiedFromId = real.Id,
                World = Worlds.Practice,
            };
            work.Db.Pairings.Add(twin);
            var settings = (await profiles.LatestAsync(real.Id))?.Settings ?? [];
            await profiles.BeginAsync(
                twin, ProfileRules.Inherit(settings, Facts.NameOf(real), Facts.LimitsOf(real.Toolhead!).MaxC, new(true, true)),
                $"Simulated twin of {Facts.NameOf(real)}");
            if (!await work.Db.Spools.AnyAsync(s => s.FilamentId == real.FilamentId && s.World == Worlds.Practice && s.RemovedAt == null))
                work.Db.Spools.Add(
                    new Spool
                    {
                        FilamentId = real.FilamentId, VariantId = real.VariantId, Name = "Practice", World = Worlds.Practice, Stored = "dry box",
                        ChangedAt = work.Now,
                    });
            await work.LogAsync("pairing", $"Simulated twin of {Facts.NameOf(real)} set up", $"/pairings/{twin.Id}");
            await work.Db.SaveChangesAsync();
            return twin.Id;
        });
        return await work.Db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Id == id);
    }

    /// <summary>The twin's toolhead; it follows the real one's parts.</summary>
    private Task<Guid> HeadAsync(Toolhead real) =>
        work.AloneAsync(async () =>
        {
            var printer = await work.Db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Id == real.PrinterId);
            var name = printer.Name + BenchOf.Suffix;
            var twin = await work.Db.Printers.Include(p => p.Toolheads)
                .FirstOrDefaultAsync(p => p.World == Worlds.Practice && p.Name == name && p.RemovedAt == null);
            if (twin is null)
            {
                twin = new Printer
                {
                    Name = name, World = Worlds.Practice, ChangedAt = work.Now,
                    Notes = $"A stand-in for {printer.Name}: simulated, with properties of its own that nobody knows.",
                };
                work.Db.Printers.Add(twin);
                await work.LogAsync("printer", $"{name} set up", $"/printers/{twin.Id}");
            }

            Follow(work.Db.Entry(twin), work.Db.Entry(printer), [nameof(Printer.Name), nameof(Printer.World), nameof(Printer.Notes)]);
            foreach (var head in printer.Toolheads.Where(t => t.RemovedAt is null))
            {
                var copy = twin.Toolheads.FirstOrDefault(t => t.Name == head.Name && t.RemovedAt is null);
                if (copy is null)
                {
                    // The feed is the twin's own from then on: a run of practice may change it.
                    copy = new Toolhead
                    {
                        PrinterId = twin.Id, Name = head.Name, ChangedAt = work.Now, StepsPerMm = head.StepsPerMm,
                        RotationDistanceMm = head.RotationDistanceMm, FirstFeedValue = head.FirstFeedValue,
                    };
                    work.Db.Toolheads.Add(copy);
                    await new MachineBook(work, profiles, new(work, profiles)).TypedAsync(copy, null);
                    twin.Toolheads.Add(copy);
                }

                Follow(
                    work.Db.Entry(copy), work.Db.Entry(head),
                    [
                        nameof(Toolhead.PrinterId), nameof(Toolhead.FeedCheckedAt), nameof(Toolhead.StepsPerMm), nameof(Toolhead.RotationDistanceMm),
                        nameof(Toolhead.FirstFeedValue), nameof(Toolhead.LoadedSpoolId), nameof(Toolhead.LoadedAt),
                    ]);
            }

            await work.Db.SaveChangesAsync();
            return twin.Toolheads.First(t => t.Name == real.Name).Id;
        });

    /// <summary>Copies what describes a thing, not what makes it this one.</summary>
    private static void Follow(
        Microsoft.EntityFrameworkCore.ChangeTracking.EntityEntry to, Microsoft.EntityFrameworkCore.ChangeTracking.EntityEntry from,
        IReadOnlyCollection<string> without)
    {
        string[] own = [nameof(Record.Id), nameof(EditableRecord.Version), nameof(EditableRecord.ChangedAt), nameof(EditableRecord.RemovedAt), .. without];
        foreach (var p in to.Properties.Where(p => !own.Contains(p.Metadata.Name)))
            p.CurrentValue = from.Property(p.Metadata.Name).CurrentValue;
    }
}
