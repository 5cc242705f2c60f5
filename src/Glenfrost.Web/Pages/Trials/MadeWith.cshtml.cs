using Glenfrost.Core.Factors;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>Everything that a run was made with, and where each value is known from; beside another run where one is chosen.</summary>
internal sealed class MadeWithModel(WorkContext work, RunComparison comparison) : WorkPage(work)
{
    public TrialRunView V { get; private set; } = null!;

    /// <summary>Factors by what they belong to; parts that nobody exchanged are left out, what matters and is unknown is not.</summary>
    public IReadOnlyList<(string Group, IReadOnlyList<(FactorDefinition Factor, FactorValue? Value, bool Swept)> Rows)> Groups { get; private set; } = [];

    /// <summary>Firmware and slicer as they were kept together when it was printed; null where nobody noted any.</summary>
    public Core.Equipment.VersionPair? Versions =>
        Core.Equipment.VersionPair.InUse(PrinterBook.VersionsOf(V.Toolhead.Printer!), V.Run.PrintedAt ?? Work.Now);

    /// <summary>Runs that it can be laid beside.</summary>
    public IReadOnlyList<OtherRun> Others { get; private set; } = [];

    /// <summary>The two side by side; null where none is chosen.</summary>
    public ComparedRuns? Beside { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid id, string? beside)
    {
        if (await comparison.LoadAsync(id) is not { } v)
            return NotFound();
        V = v;
        Others = await comparison.OthersAsync(V);
        if (!string.IsNullOrEmpty(beside))
        {
            Beside = Guid.TryParse(beside, out var other) ? await comparison.CompareAsync(V, other) : null;
            if (Beside is null)
                return NotFound();
        }

        Groups = RunComparison.MadeWith(V);
        return Page();
    }
}
