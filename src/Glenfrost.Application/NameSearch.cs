using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One place that find jumps to.</summary>
/// <param name="Kind">filament, spool, printer, pairing, run or G-code.</param>
/// <param name="Name">As it is called.</param>
/// <param name="More">What tells it from others of that name.</param>
/// <param name="Link">Where it stands.</param>
public sealed record Hit(string Kind, string Name, string More, string Link);

/// <summary>Finds things by their names.</summary>
public sealed class NameSearch(WorkContext work)
{
    /// <summary>What fits every word, so many at most.</summary>
    public async Task<List<Hit>> FindAsync(string? typed, int most)
    {
        var words = (typed ?? "").Trim();
        var hits = new List<Hit>();
        if (words.Length == 0)
            return hits;
        var parts = words[..Math.Min(80, words.Length)].Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(6).ToArray();
        bool Fits(string text) => parts.All(p => text.Contains(p, StringComparison.OrdinalIgnoreCase));
        // A bench holds hundreds of names, not millions: they are compared in memory, word by word.
        var filaments = await work.Db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).ToListAsync();
        hits.AddRange(filaments.Where(f => Fits($"{f.Name} {f.Family} {f.Additive}")).Select(f => new Hit("filament", f.Name, f.Family, $"/filaments/{f.Id}")));
        var spools = await work.Db.Spools.AsNoTracking().Include(s => s.Filament).Where(s => s.RemovedAt == null && s.World == Worlds.Real).ToListAsync();
        hits.AddRange(
            spools.Where(s => Fits($"{s.Name} {s.Lot} {s.Filament!.Name}")).Select(s => new Hit("spool", s.Name, s.Filament!.Name, $"/spools/{s.Id}")));
        var printers = await work.Db.Printers.AsNoTracking().Where(p => p.RemovedAt == null && p.World == Worlds.Real).ToListAsync();
        hits.AddRange(printers.Where(p => Fits($"{p.Name} {p.Maker}")).Select(p => new Hit("printer", p.Name, p.Maker ?? "", $"/printers/{p.Id}")));
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.World == Worlds.Real).ToListAsync();
        var fitting = pairings.Where(p => Fits($"{Facts.SubjectOf(p)} {p.Filament!.Family}")).ToList();
        hits.AddRange(fitting.Select(p => new Hit("pairing", Facts.NameOf(p), p.NozzleName, $"/pairings/{p.Id}")));
        // Runs by the name of their trial, of pairings and of toolheads; which kinds can fit at all is asked first, so that only those are looked through.
        var heads = (
            await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer)
                .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == Worlds.Real)
                .ToListAsync()).ToDictionary(t => t.Id);
        var subjects = pairings.ToDictionary(p => p.Id);
        var named = TrialCatalogue.All.Select(t =>
                (
                    Trial: t, Pairings: t.Subject == TrialSubject.Pairing
                        ? pairings.Where(p => FitsRun(parts, $"{Facts.SubjectOf(p)} {p.Filament!.Family} {t.Name} run")).Select(p => p.Id).ToList()
                        : [],
                    Heads: t.Subject == TrialSubject.Toolhead
                        ? heads.Values.Where(h => FitsRun(parts, $"{h.FullName} {t.Name} run")).Select(h => h.Id).ToList()
                        : []))
            .Where(x => x.Pairings.Count + x.Heads.Count > 0).ToList();
        var runs = new List<(Guid Id, string Kind, int Number, Guid? PairingId, Guid? ToolheadId, DateTime At)>();
        foreach (var (trial, of, on) in named)
        {
            runs.AddRange(
                (
                    await work.Db.Runs.AsNoTracking()
                        .Where(r =>
                            r.RemovedAt == null
                            && r.Kind == trial.Kind
                            && (
                                (r.PairingId != null && of.Contains(r.PairingId.Value))
                                || (r.PairingId == null && r.ToolheadId != null && on.Contains(r.ToolheadId.Value))))
                        .OrderByDescending(r => r.CreatedAt).Take(most).Select(r => new { r.Id, r.Kind, r.Number, r.PairingId, r.ToolheadId, r.CreatedAt })
                        .ToListAsync()).Select(r => (r.Id, r.Kind, r.Number, r.PairingId, r.ToolheadId, r.CreatedAt)));
        }

        hits.AddRange(
            runs.Where(r =>
                    parts.All(p =>
                        !p.All(char.IsDigit)
                        || $"{(r.PairingId is { } x ? Facts.SubjectOf(subjects[x]) : heads[r.ToolheadId!.Value].FullName)} {r.Number}".Contains(
                            p, StringComparison.Ordinal)))
                .OrderByDescending(r => r.At).Take(most)
                .Select(r => new Hit(
                    "run", $"{TrialCatalogue.Get(r.Kind).Name} {r.Number}",
                    $"{(r.PairingId is { } p ? Facts.NameOf(subjects[p]) : heads[r.ToolheadId!.Value].FullName)}, {Words.Day(r.At)}", $"/runs/{r.Id}")));
        var files = await work.Db.GcodeFiles.AsNoTracking().Where(f => f.RemovedAt == null).OrderByDescending(f => f.At).Take(2000)
            .Select(f => new { f.Id, f.Name, f.At }).ToListAsync();
        hits.AddRange(files.Where(f => Fits($"{f.Name} G-code")).Select(f => new Hit("G-code", f.Name, Words.Day(f.At), $"/gcode/{f.Id}")));
        return [.. hits.Take(most)];
    }

    /// <summary>True where every word fits the names, or is a number, which may be the run's own.</summary>
    private static bool FitsRun(IEnumerable<string> parts, string text) =>
        parts.All(p => text.Contains(p, StringComparison.OrdinalIgnoreCase) || p.All(char.IsDigit));
}
