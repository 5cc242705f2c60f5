using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Glenfrost.Application.Exchange;
using Glenfrost.Storage;
using Glenfrost.Storage.Exchange;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>An archive is read as a stream: however it arrives it reads the same, whatever breaks off is told, and little of it stands in memory.</summary>
public class ArchiveStreamTests(TestApp site, EmptyApp empty) : IClassFixture<TestApp>, IClassFixture<EmptyApp>
{
    /// <summary>A stream that gives a few bytes at a time, or makes its bytes up while it is read.</summary>
    private sealed class Dripping(IEnumerable<byte[]> parts) : Stream
    {
        private readonly IEnumerator<byte[]> left = parts.GetEnumerator();

        private byte[] now = [];

        private int at;

        public override int Read(byte[] buffer, int offset, int count)
        {
            while (at == now.Length)
            {
                if (!left.MoveNext())
                    return 0;
                (now, at) = (left.Current, 0);
            }

            var n = Math.Min(count, now.Length - at);
            Buffer.BlockCopy(now, at, buffer, offset, n);
            at += n;
            return n;
        }

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }

    private static Archive Read(Stream s, long most = long.MaxValue) => ArchiveReader.Read(s, RowRules.Of, most);

    private static Archive Read(string json) => Read(new MemoryStream(Encoding.UTF8.GetBytes(json)));

    private static string Listed(Archive a) => $"{a.Scope} {a.Title} {a.Bad.Count} {string.Join(' ', a.Unknown)} "
        + string.Join(' ', a.Rows.OrderBy(r => r.Key.Name).Select(r => $"{r.Key.Name}:{r.Value.Count}:{string.Join(',', r.Value.Select(x => x.Id).Take(3))}"));

    [Fact]
    public async Task However_it_drips_in_the_demos_archive_reads_the_same_and_half_of_it_is_told_as_half()
    {
        var bytes = await site.Visit().Client.GetByteArrayAsync("/export/archive.json", TestContext.Current.CancellationToken);
        var whole = Listed(Read(new MemoryStream(bytes)));
        Assert.Contains("runs:", whole, StringComparison.Ordinal);
        Assert.DoesNotContain("runs:0", whole, StringComparison.Ordinal);
        foreach (var size in new[] { 17, 4096, 65_536, 65_537 })
            Assert.Equal(whole, Listed(Read(new Dripping(bytes.Chunk(size)))));
        Assert.Equal(whole, Listed(Read(new MemoryStream([0xEF, 0xBB, 0xBF, .. bytes]))));
        foreach (var cut in new[] { 1, 20, 100, 5_000, bytes.Length / 3, bytes.Length / 2, bytes.Length - 2 })
        {
            var told = Assert.Throws<InvalidDataException>(() => Read(new MemoryStream(bytes[..cut]))).Message;
            Assert.True(told.Contains("half a file", StringComparison.Ordinal) || told.Contains("does not say", StringComparison.Ordinal), $"{cut}: {told}");
        }
    }

    private static string Said(ArchiveTable table, Glenfrost.Storage.Records.Record row) =>
        string.Join('|', table.Columns.Select(c => Convert.ToString(c.Property.GetValue(row), System.Globalization.CultureInfo.InvariantCulture)));

    [Fact]
    public async Task Every_row_is_read_again_where_it_stands_however_the_document_is_laid_out()
    {
        var bytes = await site.Visit().Client.GetByteArrayAsync("/export/archive.json", TestContext.Current.CancellationToken);
        var document = JsonNode.Parse(bytes)!;
        // Signs of more than one byte, written as themselves and as escapes.
        document["rows"]!["people"]!.AsArray()[0]!["name"] = "Éabha \u2744 𝄞";
        string Text(bool indented, JavaScriptEncoder encoder) =>
            document.ToJsonString(new JsonSerializerOptions { WriteIndented = indented, Encoder = encoder });
        byte[][] forms =
        [
            Encoding.UTF8.GetBytes(Text(false, JavaScriptEncoder.UnsafeRelaxedJsonEscaping)), Encoding.UTF8.GetBytes(Text(false, JavaScriptEncoder.Default)),
            Encoding.UTF8.GetBytes(Text(true, JavaScriptEncoder.UnsafeRelaxedJsonEscaping)),
            [0xEF, 0xBB, 0xBF, .. Encoding.UTF8.GetBytes(Text(true, JavaScriptEncoder.Default).ReplaceLineEndings("\r\n \t "))],
        ];
        var known = new Dictionary<(string, Guid), string>();
        foreach (var form in forms)
        {
            var archive = Read(new Dripping(form.Chunk(4099)));
            Assert.Empty(archive.Bad);
            using var again = new MemoryStream(form);
            foreach (var (table, places) in archive.Rows)
            {
                Assert.Equal(document["rows"]![table.Name]!.AsArray().Count, places.Count);
                // Any order, any part of them.
                var wanted = Enumerable.Reverse(places).Where((_, i) => i % 3 != 1).ToList();
                var rows = ArchiveReader.RowsAt(again, table, wanted);
                Assert.Equal(wanted.Select(p => p.Id), rows.Select(r => r.Id));
                foreach (var row in rows)
                {
                    // Plans and factors are JSON of their own: how they are laid out is no content.
                    if (known.TryGetValue((table.Name, row.Id), out var before) && table.Columns.All(c => c.Kind != ColumnKind.Json))
                        Assert.Equal(before, Said(table, row));
                    known[(table.Name, row.Id)] = Said(table, row);
                }
            }
        }

        Assert.True(known.Count > 500, $"{known.Count} rows");
        using var changed = new MemoryStream(forms[0]);
        var (some, place) = Read(new MemoryStream(forms[0])).Rows.Select(r => (r.Key, r.Value[0])).First();
        Assert.ThrowsAny<Exception>(() => ArchiveReader.RowsAt(changed, some, [place with { Offset = place.Offset + 1 }]));
    }

    [Fact]
    public async Task What_is_compared_a_thousand_rows_at_a_time_knows_of_those_before()
    {
        const int count = 2300, twice = 1500;
        var rows = new JsonArray(
            [
                .. Enumerable.Range(0, count).Select(i => (JsonNode)new JsonObject
                {
                    ["id"] = $"019a2000-0000-7000-8000-{i:d12}", ["key"] = $"k{(i == twice ? 5 : i)}", ["tag"] = "blobs", ["at"] = "2026-11-23T09:00:00.000Z",
                    ["personId"] = "019a2000-0000-7000-8000-a00000000001",
                }),
            ]);
        var document = new JsonObject
        {
            ["format"] = ArchiveWriter.Format, ["version"] = 1,
            ["rows"] = new JsonObject
            {
                ["people"] = new JsonArray(new JsonObject { ["id"] = "019a2000-0000-7000-8000-a00000000001", ["name"] = "Isla" }), ["findings"] = rows,
            },
        };
        await using var scope = empty.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<GlenfrostDb>();
        var findings = ArchiveTables.Find("findings")!;
        async Task<ImportPlan> Compare(bool take)
        {
            using var stream = new MemoryStream(Encoding.UTF8.GetBytes(document.ToJsonString()));
            var archive = Read(stream);
            Assert.Empty(archive.Bad);
            var plan = await ArchiveImport.CompareAsync(db, archive, stream, _ => true);
            if (take)
                Assert.Equal((plan.NewCount, 0), await ArchiveImport.ApplyAsync(db, plan, stream, new HashSet<Guid>(), true));
            return plan;
        }

        // The second of two with one key stands in the second thousand; its place is told as it stands in the whole table.
        var first = await Compare(true);
        Assert.Equal(count - 1, first.New[findings].Count);
        var bad = Assert.Single(first.Bad);
        Assert.Equal(("findings", twice), (bad.Table, bad.Place));
        Assert.Contains("same key", bad.Why, StringComparison.Ordinal);
        Assert.Equal(count - 1, await db.Findings.CountAsync(f => f.Key.StartsWith("k"), TestContext.Current.CancellationToken));
        // Again: all of it stands; the one that could not is refused for what stands now.
        var second = await Compare(false);
        Assert.Equal((0, count - 1, 0), (second.NewCount, second.Same[findings], second.DifferentCount));
        Assert.Equal(twice, Assert.Single(second.Bad).Place);
        // Counted to the last, listed as far as anybody would decide on them.
        for (var i = 100; i < 1400; i++)
            rows[i]!["tag"] = "strings";
        var third = await Compare(false);
        Assert.Equal((1300, 1000), (third.DifferentCount, third.Different.Count));
        // Whoever looks and leaves ends the look.
        using var left = new MemoryStream(Encoding.UTF8.GetBytes(document.ToJsonString()));
        var half = Read(left);
        await Assert.ThrowsAsync<OperationCanceledException>(() => ArchiveImport.CompareAsync(db, half, left, _ => true, new(true)));
    }

    private const string Head = "{\"format\":\"glenfrost-archive\",\"version\":1";

    [Theory]
    [InlineData("[]", "does not say \"format\"")]
    [InlineData("3", "does not say \"format\"")]
    [InlineData("{\"rows\":{},\"format\":3}", "does not say \"format\"")]
    [InlineData("{\"format\":\"other\"", "calls itself \"other\"")]
    [InlineData("{\"format\":{\"a\":[1,{}]}", "does not say")]
    [InlineData("VERSION\"2\",\"rows\":{}}", "does not say its version")]
    [InlineData("VERSION0,\"rows\":{}}", "does not say its version")]
    [InlineData("VERSION900,\"rows\":{}}", "newer Glenfrost")]
    [InlineData("VERSION1}", "has no \"rows\"")]
    [InlineData("VERSION1,\"rows\":[{},[1]]}", "has no \"rows\"")]
    [InlineData("VERSION1,\"rows\":{\"spools\":{}}}", "rows.spools must be a list")]
    [InlineData("VERSION1,\"rows\":{}} trailing", "half a file")]
    [InlineData("", "half a file")]
    public void What_is_no_archive_is_told(string json, string said)
    {
        var real = json.Replace("VERSION", $"{{\"format\":\"{ArchiveWriter.Format}\",\"version\":", StringComparison.Ordinal);
        Assert.Contains(said, Assert.Throws<InvalidDataException>(() => Read(real)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Rows_before_the_format_unknown_tables_and_rows_of_every_wrong_kind_are_read_and_told()
    {
        var unknown = string.Join(',', Enumerable.Range(0, 1000).Select(i => $"\"t{i}\":[[{{}}],1]"));
        var a = Read(
            $$$"""{"rows":{"spools":[3,"x",null,[1,[2]],{},{"id":"no"},{"id":"019a2000-0000-7000-8000-000000000001","name":"\ud800"}],{{{unknown}}}},"scope":"pairing","format":"{{{ArchiveWriter.Format}}}","version":1}""");
        Assert.Equal(("pairing", 7), (a.Scope, a.Bad.Count));
        Assert.Contains("half of a character", a.Bad[^1].Why, StringComparison.Ordinal);
        Assert.InRange(a.Unknown.Count, 100, 200);
    }

    [Fact]
    public void A_document_that_swells_while_it_is_unpacked_is_read_through_and_stops_at_its_bounds()
    {
        static IEnumerable<byte[]> Swell(string row, int times)
        {
            yield return Encoding.UTF8.GetBytes($"{{\"format\":\"{ArchiveWriter.Format}\",\"version\":1,\"rows\":{{\"spools\":[{row}");
            var block = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat("," + row, 2000)));
            for (var i = 0; i < times; i++)
                yield return block;
            yield return Encoding.UTF8.GetBytes("]}}");
        }

        // 60 MB of rows that are none: read through, the first reasons kept.
        var read = Read(new Dripping(Swell("{\"id\":\"no\",\"name\":\"x\"}", 1200)));
        Assert.Equal(500, read.Bad.Count);
        Assert.Contains("more than 3,000,000 rows", Assert.Throws<InvalidDataException>(() => Read(new Dripping(Swell("{}", 1600)))).Message);
        Assert.Contains("grows beyond 5 MB", Assert.Throws<InvalidDataException>(() => Read(new Dripping(Swell("{}", 1600)), 5_000_000)).Message);
        Assert.Contains(
            "single value",
            Assert.Throws<InvalidDataException>(() => Read(new Dripping(Swell($"{{\"name\":\"{new string('x', 20_000_000)}\"}}", 0)))).Message);
        var deep = Head + ",\"rows\":{\"spools\":[" + new string('[', 200);
        Assert.Throws<InvalidDataException>(() => Read(deep.Replace("glenfrost-archive", ArchiveWriter.Format, StringComparison.Ordinal)));
    }
}
