using Glenfrost.Storage;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

/// <summary>One place that find jumps to.</summary>
public sealed record Hit(string Kind, string Name, string More, string Link);

public sealed class FindModel(Bench bench) : BenchPage(bench)
{
    [FromQuery]
    public string? Q { get; set; }

    public List<Hit> Hits { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync()
    {
        await SearchAsync(40);
        return Hits.Count == 1 ? Redirect(Hits[0].Link) : Page();
    }

    public async Task<IActionResult> OnGetListAsync()
    {
        await SearchAsync(8);
        return Partial("_Hits", Hits);
    }

    private async Task SearchAsync(int most)
    {
        var words = (Q ?? "").Trim();
        if (words.Length == 0)
            return;
        var parts = words[..Math.Min(80, words.Length)].Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(6).ToArray();
        bool Fits(string text) => parts.All(p => text.Contains(p, StringComparison.OrdinalIgnoreCase));
        // A bench holds hundreds of names, not millions: they are compared in memory, word by word.
        var filaments = await Db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).ToListAsync();
        Hits.AddRange(filaments.Where(f => Fits($"{f.Name} {f.Family} {f.Additive}")).Select(f => new Hit("filament", f.Name, f.Family, $"/filaments/{f.Id}")));
        var spools = await Db.Spools.AsNoTracking().Include(s => s.Filament).Where(s => s.RemovedAt == null).ToListAsync();
        Hits.AddRange(spools.Where(s => Fits($"{s.Name} {s.Lot} {s.Filament!.Name}")).Select(s => new Hit("spool", s.Name, s.Filament!.Name, $"/spools/{s.Id}")));
        var printers = await Db.Printers.AsNoTracking().Where(p => p.RemovedAt == null).ToListAsync();
        Hits.AddRange(printers.Where(p => Fits($"{p.Name} {p.Maker}")).Select(p => new Hit("printer", p.Name, p.Maker ?? "", $"/printers/{p.Id}")));
        var pairings = await Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null).ToListAsync();
        var fitting = pairings.Where(p => Fits($"{Facts.SubjectOf(p)} {p.Filament!.Family}")).ToList();
        Hits.AddRange(fitting.Select(p => new Hit("pairing", Facts.NameOf(p), p.NozzleName, $"/pairings/{p.Id}")));
        var ids = pairings.Where(p => Fits($"{Facts.SubjectOf(p)} {p.Filament!.Family} temperature tower run")).Select(p => p.Id).ToList();
        var runs = await Db.Runs.AsNoTracking().Where(r => r.RemovedAt == null && r.PairingId != null && ids.Contains(r.PairingId.Value))
            .OrderByDescending(r => r.CreatedAt).Take(most).Select(r => new { r.Id, r.Number, r.PairingId, r.CreatedAt }).ToListAsync();
        Hits.AddRange(runs.Select(r => new Hit("run", $"Temperature tower {r.Number}", $"{Facts.NameOf(pairings.First(p => p.Id == r.PairingId))}, {Words.Day(r.CreatedAt)}", $"/runs/{r.Id}")));
        var files = await Db.GcodeFiles.AsNoTracking().Where(f => f.RemovedAt == null).OrderByDescending(f => f.At).Take(2000).Select(f => new { f.Id, f.Name, f.At }).ToListAsync();
        Hits.AddRange(files.Where(f => Fits($"{f.Name} G-code")).Select(f => new Hit("G-code", f.Name, Words.Day(f.At), $"/gcode/{f.Id}")));
        Hits = [.. Hits.Take(most)];
    }
}
