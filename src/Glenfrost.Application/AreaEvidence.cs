using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What is known of areas that have no setting: bond, warp, top surface, verification, quick check.</summary>
public sealed class AreaEvidence(Bench bench)
{
    private readonly EvidenceBook evidence = new(bench);

    /// <summary>
    /// Says that an area passed, failed, is left out or taken up again. A passed verification confirms nothing by itself: its piece says what it shows.
    /// </summary>
    /// <param name="p">The pairing.</param>
    /// <param name="area">Key of an area without a setting.</param>
    /// <param name="what">passed, failed, skipped or resumed.</param>
    /// <param name="text">In words; null for none.</param>
    /// <param name="spool">The spool that it holds for; null for the product.</param>
    /// <param name="doubts">Areas whose settings become doubtful with it.</param>
    /// <returns>The cause, which takes it back.</returns>
    public async Task<Guid> SayAsync(Pairing p, string area, string what, string? text, Guid? spool = null, IReadOnlyList<string>? doubts = null)
    {
        await bench.PersonAsync();
        var cause = Guid.CreateVersion7();
        await bench.AloneAsync(async () =>
        {
            var kind = what switch
            {
                "passed" => EvidenceKind.Passed,
                "failed" => EvidenceKind.Failed,
                "skipped" => EvidenceKind.Skipped,
                _ => EvidenceKind.Resumed,
            };
            var said = evidence.OfArea(p.Id, area, kind, cause, text);
            said.SpoolId = spool;
            await evidence.RecordAsync(
                p.Id,
                [
                    said, .. (doubts ?? []).SelectMany(a => AgeingRules.Area(a).Settings).Distinct()
                        .Select(k => evidence.Of(p.Id, k, EvidenceKind.Doubted, cause, text ?? $"{AgeingRules.Area(area).Label} {what}")),
                ]);
            await bench.LogAsync(
                "profile", $"{Words.Lower(AgeingRules.Area(area).Label)}: {what}{(text is null ? "" : $", {text}")} · {Facts.NameOf(p)}", $"/pairings/{p.Id}",
                $"evidence:{cause}");
            return await bench.Db.SaveChangesAsync();
        });
        return cause;
    }
}
