using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

internal sealed class SheetModel(WorkContext work, TrialRuns runs, Pieces pieces) : WorkPage(work)
{
    public TrialRunView V { get; private set; } = null!;

    /// <summary>Where separate pieces stand; null for one tower, or where today's machine does not take the plan.</summary>
    public Core.TestPieces.PieceJob? Job { get; private set; }

    /// <summary>What the profile asks for and no file holds.</summary>
    public IReadOnlyList<Core.Gcode.Writing.InForce> ByHand { get; private set; } = [];

    /// <summary>Conditions that this run asks for, with room to write.</summary>
    public IEnumerable<Core.Factors.FactorDefinition> Asked => PrintReports.Asked(V).Select(k => Core.Factors.FactorRegistry.Find(k)!);

    public RunFile? GcodeFile => Pieces.StandingFile(V.Run, V.Plan);

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        V = (await runs.LoadAsync(id))!;
        if (V is null)
            return NotFound();
        if (V.Plan.LayersPerPiece is not null)
            Job = (await pieces.MakeAsync(V.Trial, V.Plan, V.Pairing, V.Toolhead)).File?.Job;
        if (V.Pairing is { } pairing && V.Plan.TotalLayers > 0)
            ByHand = (await pieces.SettingsOfAsync(pairing, await pieces.MachineOfAsync(V.Toolhead, pairing.NozzleDiameterMm))).ByHand;
        return Page();
    }
}
