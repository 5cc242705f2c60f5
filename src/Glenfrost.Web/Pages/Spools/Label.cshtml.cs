using System.Text;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using QRCoder;

namespace Glenfrost.Web.Pages.Spools;

public sealed class LabelModel(Bench bench) : BenchPage(bench)
{
    public Spool S { get; private set; } = null!;

    public string Nozzle { get; private set; } = "";

    /// <summary>Modules of the code as an SVG path, one unit a module.</summary>
    public string Path { get; private set; } = "";

    public int Side { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        var s = await Db.Spools.AsNoTracking().Include(x => x.Filament!).ThenInclude(f => f.Sources).Include(x => x.Variant).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return NotFound();
        S = s;
        var (span, _) = Facts.NozzleRange(s.Filament!);
        Nozzle = span is null ? "–" : $"{Words.N(span.Min, 0)}–{Words.N(span.Max, 0)} °C";
        using var generator = new QRCodeGenerator();
        using var code = generator.CreateQrCode($"{Request.Scheme}://{Request.Host}/spools/{id}", QRCodeGenerator.ECCLevel.M);
        var path = new StringBuilder();
        for (var y = 0; y < code.ModuleMatrix.Count; y++)
        {
            for (var x = 0; x < code.ModuleMatrix[y].Length; x++)
            {
                if (code.ModuleMatrix[y][x])
                    path.Append($"M{x} {y}h1v1h-1z");
            }
        }

        (Path, Side) = (path.ToString(), code.ModuleMatrix.Count);
        return Page();
    }
}
