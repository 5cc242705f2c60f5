namespace Glenfrost.Core.Profiles;

/// <summary>What of a pairing counts when another one's profile is to start from it.</summary>
public sealed record PairingTraits(
    Guid Id, string Name, Guid FilamentId, string Family, string? Additive, bool LongTube, double NozzleDiameterMm, string NozzleFlow, bool PtfeLined,
    string Enclosure, bool HasKeptValues);

/// <summary>Finds the most alike pairing and says why: product, family, additive, drive, nozzle, environment.</summary>
public static class Likeness
{
    /// <summary>Candidates with their score and reasons, most alike first. Those of another family, or without kept values, are left out.</summary>
    public static IReadOnlyList<(PairingTraits Pairing, double Score, string Why)> Rank(PairingTraits wanted, IEnumerable<PairingTraits> candidates) =>
        candidates.Where(c => c.Id != wanted.Id && c.HasKeptValues && string.Equals(c.Family, wanted.Family, StringComparison.OrdinalIgnoreCase))
            .Select(c =>
            {
                var reasons = new List<string>();
                double score = 0;
                void If(bool same, double points, string why)
                {
                    if (!same)
                        return;
                    score += points;
                    reasons.Add(why);
                }

                If(c.FilamentId == wanted.FilamentId, 5, "same product");
                If(c.FilamentId != wanted.FilamentId, 3, $"same family, {c.Family}");
                If(
                    string.Equals(c.Additive ?? "", wanted.Additive ?? "", StringComparison.OrdinalIgnoreCase) && !string.IsNullOrEmpty(c.Additive), 1,
                    "same additive");
                If(c.LongTube == wanted.LongTube, 2, c.LongTube ? "long tube too" : "direct drive too");
                If(Math.Abs(c.NozzleDiameterMm - wanted.NozzleDiameterMm) < 0.01, 2, "same nozzle diameter");
                If(c.NozzleFlow == wanted.NozzleFlow, 1, "same nozzle type");
                If(c.PtfeLined == wanted.PtfeLined, 1, c.PtfeLined ? "PTFE-lined too" : "all-metal too");
                If(c.Enclosure == wanted.Enclosure, 0.5, "same surroundings");
                return (c, score, string.Join(", ", reasons));
            })
            .OrderByDescending(x => x.score).ThenBy(x => x.c.Id).ToList();
}
