using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What is known of areas that have no setting: bond, warp, top surface, verification, quick check.</summary>
public sealed class AreaEvidence(WorkContext work)
{
    private readonly EvidenceBook evidence = new(work);

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
        await work.PersonAsync();
        var cause = Guid.CreateVersion7();
        await work.AloneAsync(async () =>
        {
            var kind = what switch
            {
                "passed" => EvidenceKind.Passed,
                "failed" => EvidenceKind.Failed,
                "skipped" => EvidenceKind.Skipped,
                _ => EvidenceKind.Resumed,
            };
            await RecordAsync(p.Id, area, kind, cause, text, spool, doubts ?? []);
            await work.LogAsync(
                "profile", $"{Words.Lower(AgeingRules.Area(area).Label)}: {what}{(text is null ? "" : $", {text}")} · {Facts.NameOf(p)}", $"/pairings/{p.Id}",
                $"evidence:{cause}");
            return await work.Db.SaveChangesAsync();
        });
        return cause;
    }

    /// <summary>Adds what is said of an area and the settings that become doubtful with it; the caller saves.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="area">Key of an area without a setting.</param>
    /// <param name="kind">What happened.</param>
    /// <param name="cause">What takes it back.</param>
    /// <param name="text">In words; null for none.</param>
    /// <param name="spool">The spool that it holds for; null for the product.</param>
    /// <param name="doubts">Areas whose settings become doubtful with it.</param>
    /// <param name="run">The run that shows it; null where none does.</param>
    public Task RecordAsync(
        Guid pairing, string area, EvidenceKind kind, Guid cause, string? text, Guid? spool, IReadOnlyList<string> doubts, Guid? run = null)
    {
        var said = evidence.OfArea(pairing, area, kind, cause, text);
        (said.SpoolId, said.RunId) = (spool, run);
        return evidence.RecordAsync(
            pairing,
            [
                said, .. doubts.SelectMany(a => AgeingRules.Area(a).Settings).Distinct()
                    .Select(k => evidence.Of(pairing, k, EvidenceKind.Doubted, cause, text ?? AgeingRules.Area(area).Label)),
            ]);
    }
}
