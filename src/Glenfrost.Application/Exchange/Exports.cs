using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Profiles;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Exchange;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Exchange;

/// <summary>Writes what goes out: JSON, zip, CSV and text.</summary>
public sealed class Exports(WorkContext work, DataPlace place, Profiles profiles, TrialRuns runs)
{
    /// <summary>Name of the document in a zip.</summary>
    public const string DocumentName = "glenfrost.json";

    /// <summary>The pairing's name; null where there is none.</summary>
    public async Task<string?> PairingTitleAsync(Guid id) =>
        await work.Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id) is { } p ? Facts.SubjectOf(p) : null;

    /// <summary>Selects a run, profile or pairing; null where it is not there.</summary>
    public async Task<Selection?> SelectAsync(string scope, Guid id)
    {
        if (scope == "run")
        {
            try
            {
                return await runs.LoadAsync(id) is { } v ? await Selection.RunAsync(work.Db, id, $"{v.Title}: {v.Subject}") : null;
            }
            catch (Exception e) when (Disk.FaultOf(e) is null && e is not OperationCanceledException)
            {
                // A run whose plan can't be read goes out all the same: somebody may mend it.
                return await work.Db.Runs.AnyAsync(r => r.Id == id) ? await Selection.RunAsync(work.Db, id, "A run whose page can't be drawn") : null;
            }
        }

        if (await PairingTitleAsync(id) is not { } title)
            return null;
        return scope == "profile" ? await Selection.ProfileAsync(work.Db, id, title) : await Selection.PairingAsync(work.Db, id, title);
    }

    /// <summary>Writes the document of a selection into a file of its own that goes away when it is closed.</summary>
    public async Task<Stream> JsonAsync(Selection selection, Guid? profileOf)
    {
        var file = Scratch();
        await ArchiveWriter.WriteAsync(work.Db, selection, Trial.EngineVersion, work.Now, await ReadableAsync(profileOf), file);
        file.Position = 0;
        return file;
    }

    /// <summary>Writes document, tables and files of a selection as a zip.</summary>
    public async Task<Stream> ZipAsync(Selection selection, Guid? profileOf)
    {
        var file = Scratch();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, true))
        {
            IReadOnlyCollection<string> hashes;
            await using (var document = zip.CreateEntry(DocumentName, CompressionLevel.Fastest).Open())
                hashes = await ArchiveWriter.WriteAsync(work.Db, selection, Trial.EngineVersion, work.Now, await ReadableAsync(profileOf), document);
            foreach (var table in ArchiveTables.All)
            {
                await using var csv = zip.CreateEntry($"tables/{table.Name}.csv", CompressionLevel.Fastest).Open();
                await TableAsync(table, selection, csv);
            }

            foreach (var hash in hashes)
            {
                if (place.Files.Open(hash) is not { } content)
                    continue;
                await using (content)
                {
                    await using var entry = zip.CreateEntry($"files/{hash}", CompressionLevel.Fastest).Open();
                    await content.CopyToAsync(entry);
                }
            }
        }

        file.Position = 0;
        return file;
    }

    /// <summary>One table as CSV.</summary>
    public async Task TableAsync(ArchiveTable table, Selection selection, Stream to)
    {
        var rows = new List<IReadOnlyList<object?>>();
        await foreach (var row in table.RowsAsync(work.Db, selection))
            rows.Add([.. table.Columns.Select(c => c.Property.GetValue(row))]);
        Tables.Write(to, [.. table.Columns.Select(c => c.Name)], rows);
    }

    /// <summary>Settings of a profile in the order of the dictionary.</summary>
    public async Task<(ProfileView Revision, List<ProfileSetting> Settings)?> ProfileAsync(Guid id)
    {
        if (await profiles.LatestAsync(id) is not { } revision)
            return null;
        var order = SettingRegistry.All.Select((d, i) => (d.Key, i)).ToDictionary(x => x.Key, x => x.i);
        return (revision, [.. revision.Rows.OrderBy(s => order.GetValueOrDefault(s.Key, 99))]);
    }

    /// <summary>True for the value of its key that counts at the temperature in force.</summary>
    private static bool InForce(ProfileView profile, ProfileSetting s) => profile[s.Key] is { NotKnownAtC: null } used && used.AtC == s.AtC;

    /// <summary>Where a value was found, for text: and that none is known for the temperature in force.</summary>
    private static string Found(ProfileView profile, ProfileSetting s) =>
        s.AtC is not { } at
            ? ""
            : $", found at {Words.N(at)} °C{(s.FoundWith is null ? "" : $", {s.FoundWith}")}" +
                $"{(InForce(profile, s) ? "" : profile[s.Key] is { NotKnownAtC: { } t } ? $"; not known at {Words.N(t)} °C" : "; not in force")}";

    /// <summary>A profile as CSV.</summary>
    public async Task<byte[]?> ProfileCsvAsync(Guid id) =>
        await ProfileAsync(id) is not { } p
            ? null
            : Tables.Bytes(
                [
                    "key", "label", "value", "unit", "uncertainty", "state", "stateWhy", "origin", "originText", "runId", "word", "foundAtC", "foundWith",
                    "inForce",
                ],
                p.Settings.Select(s =>
                    new object?[]
                    {
                        s.Key, SettingRegistry.Get(s.Key).Label, s.Word is null ? s.Value : null, Words.Unit(s.Key), s.Uncertainty, s.State, s.StateWhy,
                        s.Origin, s.OriginText, s.RunId, s.Word, s.AtC, s.FoundWith, InForce(p.Revision, s),
                    }));

    /// <summary>A profile as text to type from.</summary>
    /// <param name="id">The pairing.</param>
    /// <param name="tier">A tier whose values stand in place of the profile's; empty for the profile. Null is answered where there is none.</param>
    public async Task<string?> ProfileTextAsync(Guid id, string? tier = null)
    {
        if (await ProfileAsync(id) is not { } p)
            return null;
        var own = string.IsNullOrEmpty(tier) ? null : TierBook.Of(await work.Db.Pairings.AsNoTracking().FirstAsync(x => x.Id == id)).Find(tier);
        if (own is null && !string.IsNullOrEmpty(tier))
            return null;
        var text = new StringBuilder($"{await PairingTitleAsync(id)}\nprofile revision {p.Revision.Number}, {p.Revision.At:yyyy-MM-dd}" +
            $"{(own is null ? "" : $", tier {own.Name}")}\n\n");
        foreach (var v in own?.Values ?? [])
            text.AppendLine($"{SettingRegistry.Get(v.Key).Label,-24} {Words.Setting(v.Key, v.Value),8} {Words.Unit(v.Key),-6} {"chosen",-12} tier {own!.Name}")
                .AppendLine(Meant(v.Key));
        foreach (var s in p.Settings.Where(s => own?.Values.All(v => v.Key != s.Key) ?? true))
            text.AppendLine(
                $"{SettingRegistry.Get(s.Key).Label,-24} {s.ValueText,8} {Words.Unit(s.Key),-6} {s.State.ToString().ToLowerInvariant(),-12} " +
                    $"{s.OriginText}{Found(p.Revision, s)}"
            ).AppendLine(Meant(s.Key));
        return text.ToString();
    }

    /// <summary>What a setting means and what other forms call it, beneath its value.</summary>
    private static string Meant(string key) => $"    {SettingRegistry.Get(key).Help}";

    /// <summary>The readings of a run as CSV: one row a section.</summary>
    public async Task<byte[]?> ReadingsCsvAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { } v)
            return null;
        var (columns, figures) = (v.Grid.Columns.Where(c => c.Aspect != CellAspects.State).ToList(), v.Trial.Figures(v.Plan, v.Verdict));
        var steps = v.Parts.Select(p => p.NozzleC).Distinct().Count() > 1;
        return Tables.Bytes(
            ["section", steps ? "temperatureC" : "part", "state", .. columns.Select(c => c.Aspect), .. figures.Select(f => f.Name), "findings", "photos"],
            v.Parts.Select(p =>
                (IReadOnlyList<object?>)
                    [
                        p.Index, steps ? p.NozzleC : p.Label, v.States[p.Index], .. columns.Select(c => (object?)v.Text(p.Index, c.Aspect)),
                        .. figures.Select(f => (object?)f.Values.ElementAtOrDefault(p.Index)),
                        string.Join(
                            "; ",
                            v.Run.Findings.Where(f => f.Section == p.Index && f.RemovedAt is null).Select(f => f.Text is null ? f.Tag : $"{f.Tag}: {f.Text}")),
                        v.Run.Photos.Count(x => x.Section == p.Index && x.RemovedAt is null),
                    ]));
    }

    /// <summary>A run as text.</summary>
    public async Task<string?> RunTextAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { } v)
            return null;
        var columns = v.Grid.Columns.Where(c => c.Wanted).ToList();
        var steps = v.Parts.Select(p => p.NozzleC).Distinct().Count() > 1;
        var first = Math.Max(7, v.Parts.Max(p => p.Label.Length) + (steps ? -3 : 1));
        var text = new StringBuilder($"{v.Title}: {v.Subject}\n{v.Run.PrintedAt ?? v.Run.CreatedAt:yyyy-MM-dd}, {v.Run.Stage}\n\n");
        text.Append((steps ? "°C" : "").PadLeft(first));
        foreach (var c in columns)
            text.Append((c.Kind == CellKind.Score ? c.Aspect : c.Label).PadLeft(c.Kind == CellKind.Score ? 10 : c.Label.Length + 2));
        text.AppendLine();
        foreach (var row in v.Grid.Rows)
        {
            text.Append((steps ? Words.N(v.Parts[row.Section].NozzleC, 1) : v.Parts[row.Section].Label).PadLeft(first));
            foreach (var c in columns)
                text.Append(
                    (
                        v.States[row.Section] == SectionState.Judged
                            ? v.Text(row.Section, c.Aspect) is { Length: > 0 } t
                                ? t
                                : "-"
                            : v.States[row.Section].ToString().ToLowerInvariant()).PadLeft(c.Kind == CellKind.Score ? 10 : c.Label.Length + 2));
            text.AppendLine();
        }

        text.AppendLine().AppendLine(v.Verdict.Sentence);
        foreach (var r in v.Verdict.Reasons)
            text.AppendLine(r);
        foreach (var f in v.Run.Findings.Where(f => f.RemovedAt is null).OrderBy(f => f.At))
            text.AppendLine($"{f.Tag}{(v.Label(f.Section) is { } label ? $" at {label}" : "")}{(f.Text is null ? "" : $": {f.Text}")}");
        return text.ToString();
    }

    private async Task<Action<Utf8JsonWriter>?> ReadableAsync(Guid? pairing)
    {
        if (pairing is not { } id || await ProfileAsync(id) is not { } p || await PairingTitleAsync(id) is not { } title)
            return null;
        return json =>
        {
            json.WriteStartObject();
            json.WriteString("pairing", title);
            json.WriteNumber("revision", p.Revision.Number);
            json.WriteStartArray("settings");
            foreach (var s in p.Settings)
            {
                json.WriteStartObject();
                json.WriteString("key", s.Key);
                json.WriteString("label", SettingRegistry.Get(s.Key).Label);
                if (s.Word is { } word)
                    json.WriteString("word", word);
                else
                    json.WriteNumber("value", s.Value);
                json.WriteString("unit", Words.Unit(s.Key));
                if (s.Uncertainty is { } u)
                    json.WriteNumber("uncertainty", u);
                json.WriteString("state", ArchiveWriter.Word(s.State));
                json.WriteString("from", s.OriginText);
                if (s.AtC is { } at)
                    json.WriteNumber("foundAtC", at);
                if (s.FoundWith is { } with)
                    json.WriteString("foundWith", with);
                json.WriteBoolean("inForce", InForce(p.Revision, s));
                json.WriteEndObject();
            }

            json.WriteEndArray();
            json.WriteEndObject();
        };
    }

    private FileStream Scratch()
    {
        Directory.CreateDirectory(place.IncomingFolder);
        return new(
            Path.Combine(place.IncomingFolder, $"{Guid.NewGuid():N}.part"), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16,
            FileOptions.DeleteOnClose);
    }
}
