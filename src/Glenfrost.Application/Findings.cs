using System.Globalization;
using System.Linq.Expressions;
using System.Security.Cryptography;
using System.Text;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>The words of findings and of the diary of what was tried.</summary>
public static class FindingWords
{
    /// <summary>What tags of tries begin with.</summary>
    public const string TriedPrefix = "tried: ";

    /// <summary>Tags offered; any other word is taken too.</summary>
    public static IReadOnlyList<string> Tags { get; } =
    ["strings", "blobs", "gaps", "clicking", "nozzle coated", "tower fell", "lifted corner", "grind", "lintel sags", "curled flare", "note"];

    /// <summary>How a try went.</summary>
    public static IReadOnlyList<string> OutcomeWords { get; } = ["helped", "no difference", "worse"];

    /// <summary>Outcomes of what was tried.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Outcomes { get; } =
    [KeyValuePair.Create("helped", "helped"), KeyValuePair.Create("no difference", "made no difference"), KeyValuePair.Create("worse", "made it worse")];

    /// <summary>The same to be chosen from: nothing is chosen before somebody says it.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Asked => Outcomes.Prepend(KeyValuePair.Create("", "say how it went"));

    /// <summary>The tag of a try.</summary>
    public static string Tried(string outcome) => TriedPrefix + outcome;

    /// <summary>How another try of the same went, as a clause begins with it.</summary>
    public static string Said(Finding f) =>
        OutcomeOf(f.Tag) switch { "helped" => "The same helped", "worse" => "The same made it worse", _ => "The same made no difference" };

    /// <summary>What was tried, without capitals, spaces and signs: the same try is the same however it is written.</summary>
    public static string Bare(string? text) => string.Concat((text ?? "").Where(char.IsLetterOrDigit)).ToLowerInvariant();

    /// <summary>How a try went; null for other findings.</summary>
    public static string? OutcomeOf(string tag) => tag.StartsWith(TriedPrefix, StringComparison.Ordinal) ? tag[TriedPrefix.Length..] : null;
}

/// <summary>Findings as a list shows them.</summary>
public sealed record FindingList(IReadOnlyList<(Finding Finding, string? Where, string? Link)> Items, bool Removable)
{
    /// <summary>Tries of the same pairing that stand elsewhere, for a list that shows only some.</summary>
    public IReadOnlyList<Finding> Elsewhere { get; init; } = [];

    /// <summary>Tries of the same thing that went otherwise than this one: what helped once and made no difference another time.</summary>
    public IReadOnlyList<Finding> Against(Finding f) =>
        FindingWords.OutcomeOf(f.Tag) is not { } outcome || FindingWords.Bare(f.Text) is not { Length: > 0 } tried
            ? []
            :
            [
                .. Items.Select(i => i.Finding).Concat(Elsewhere).DistinctBy(o => o.Id)
                    .Where(o => o.Id != f.Id && o.RemovedAt is null && FindingWords.OutcomeOf(o.Tag) is { } other && other != outcome
                        && FindingWords.Bare(o.Text) == tried).OrderBy(o => o.At),
            ];

    /// <summary>Findings of one run.</summary>
    public static FindingList Of(IEnumerable<Finding> findings, IReadOnlyList<PlanPart> parts, bool removable) =>
        new(
            [
                .. findings.Where(f => f.RemovedAt is null && !TallyBook.IsPress(f)).OrderBy(f => f.At)
                    .Select(f => (f, f.Section is { } i && i >= 0 && i < parts.Count ? parts[i].Label : null, (string?)null)),
            ],
            removable);
}

/// <summary>Adds and removes findings, with their line in the log.</summary>
public sealed class Findings(WorkContext work)
{
    /// <summary>What was tried on a pairing, oldest first.</summary>
    public Task<List<Finding>> TriesAsync(Guid pairing)
    {
        var tried = FindingWords.Tried("");
        return work.Db.Findings.AsNoTracking().Where(f => f.RemovedAt == null && f.PairingId == pairing && f.Tag.StartsWith(tried)).OrderBy(f => f.At)
            .ToListAsync();
    }

    /// <summary>The tag of a value that is known good in practice.</summary>
    public const string KnownGood = "known good";

    /// <summary>Adds a finding; the same one under the same key, sent a second time, is stored once. Another one that came from a form before its page was
    /// drawn anew carries the same key, and is not the same: it is stored too.</summary>
    /// <param name="practice">A value that is known good in practice; null for other findings.</param>
    public async Task AddAsync(
        string key, string tag, string? text, Guid? runId, Guid? pairingId, int? section, Guid? photoId, string where, string link,
        (string Key, double Value, double? AtC)? practice = null)
    {
        if (key.Length is 0 or > 80)
            key = Guid.CreateVersion7().ToString();
        var person = await work.PersonAsync();
        await work.AloneAsync(async () =>
        {
            if (await work.Db.Findings.AsNoTracking().FirstOrDefaultAsync(f => f.Key == key) is { } first)
            {
                if ((first.Tag, first.Text, first.Section, first.PhotoId, first.SettingKey, first.SettingValue, first.AtC)
                    == (tag, text, section, photoId, practice?.Key, practice?.Value, practice?.AtC))
                    return 0;
                var said = string.Create(CultureInfo.InvariantCulture, $"{tag}|{text}|{section}|{photoId}|{practice?.Key}|{practice?.Value}|{practice?.AtC}");
                var own = $"{key}+{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(said)))[..12]}";
                if (await work.Db.Findings.AnyAsync(f => f.Key == own))
                    return 0;
                key = own;
            }

            work.Db.Findings.Add(
                new Finding
                {
                    Key = key, RunId = runId, PairingId = pairingId, Section = section, PhotoId = photoId, Tag = tag, Text = text, SettingKey = practice?.Key,
                    SettingValue = practice?.Value, AtC = practice?.AtC, At = work.Now, PersonId = person.Id,
                });
            var outcome = FindingWords.OutcomeOf(tag);
            await work.LogAsync(
                outcome is null ? "finding" : "tried", outcome is null ? $"{tag}{(text is null ? "" : $": {text}")} · {where}" : $"{outcome}: {text} · {where}",
                link);
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>Removes a finding that fits; null where there is none.</summary>
    public async Task<Finding?> RemoveAsync(Guid id, Expression<Func<Finding, bool>> fits)
    {
        var f = await work.Db.Findings.Where(fits).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (f is null)
            return null;
        f.RemovedAt = work.Now;
        var back = f.RunId is { } run ? $"/runs/{run}?open=read#findings" : $"/pairings/{f.PairingId}#findings";
        await work.LogAsync(
            FindingWords.OutcomeOf(f.Tag) is null ? "finding" : "tried", $"Removed: {f.Tag}{(f.Text is null ? "" : $", {f.Text}")}", back, $"finding:{id}");
        await work.SaveAsync();
        return f;
    }
}
