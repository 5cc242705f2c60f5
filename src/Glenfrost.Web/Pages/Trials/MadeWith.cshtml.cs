using Glenfrost.Core.Factors;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>Everything that a run was made with, and where each value is known from.</summary>
public sealed class MadeWithModel(Bench bench, TrialRuns runs) : BenchPage(bench)
{
    public TrialRunView V { get; private set; } = null!;

    /// <summary>Factors by what they belong to; parts that nobody exchanged are left out, what matters and is unknown is not.</summary>
    public IReadOnlyList<(string Group, IReadOnlyList<(FactorDefinition Factor, FactorValue? Value, bool Swept)> Rows)> Groups { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        V = (await runs.LoadAsync(id))!;
        if (V is null)
            return NotFound();
        var rule = V.Trial.Pools(V.Plan, FactorBook.Situation(V.Run, V.Pairing, V.Toolhead, V.Plan));
        var known = FactorRegistry.All.Concat(V.Factors.Values.Keys.Where(k => FactorRegistry.Find(k) is null).Order(StringComparer.Ordinal).Select(k => FactorWords.Define(V.Trial, k)));
        var rows = known.Select(d => (Factor: d, Value: V.Factors[d.Key], Swept: V.Factors.Swept.Contains(d.Key)))
            .Where(r => r.Value is { Applies: true } ? !(r.Factor.Key.StartsWith(FactorRegistry.PartPrefix, StringComparison.Ordinal) && r.Value.Thing is null)
                : r.Value is null && V.Run.Stage != Storage.Records.RunStages.Planned && rule.Matters(r.Factor.Key) && (r.Factor.Always || r.Factor.Group is not (FactorGroup.Setting or FactorGroup.Piece)));
        Groups = [.. rows.GroupBy(r => r.Factor.Group).OrderBy(g => g.Key).Select(g => (g.Key switch { FactorGroup.Setting => "Settings", FactorGroup.Piece => "Piece", FactorGroup.Spool => "Spool", FactorGroup.Surroundings => "Surroundings", FactorGroup.Machine => "Machine", FactorGroup.Software => "Software", _ => "Reading" }, (IReadOnlyList<(FactorDefinition, FactorValue?, bool)>)[.. g]))];
        return Page();
    }
}
