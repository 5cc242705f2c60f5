using Glenfrost.Core.Statistics;
using System.IO.Compression;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Application;
using Glenfrost.Web.Services;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.EntityFrameworkCore;
using SkiaSharp;

namespace Glenfrost.Web.Tests;

public class PhotoTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    /// <summary>A picture that is red in its upper left quarter and blue elsewhere.</summary>
    public static byte[] Picture(int width, int height, SKEncodedImageFormat format = SKEncodedImageFormat.Jpeg)
    {
        using var bitmap = new SKBitmap(width, height);
        using (var canvas = new SKCanvas(bitmap))
        {
            canvas.Clear(SKColors.Blue);
            canvas.DrawRect(0, 0, width / 2f, height / 2f, new SKPaint { Color = SKColors.Red });
        }

        using var data = bitmap.Encode(format, 92);
        return data.ToArray();
    }

    /// <summary>Adds an Exif block with an orientation and a secret place to a JPEG.</summary>
    private static byte[] WithExif(byte[] jpeg, byte orientation)
    {
        byte[] tiff = [.. "Exif\0\0MM"u8, 0, 42, 0, 0, 0, 8, 0, 1, 0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, orientation, 0, 0, 0, 0, 0, 0, .. "HUT-AT-57.12N"u8];
        return [0xFF, 0xD8, 0xFF, 0xE1, (byte)((tiff.Length + 2) >> 8), (byte)(tiff.Length + 2), .. tiff, .. jpeg[2..]];
    }

    /// <summary>A PNG of any claimed size, with next to nothing in it.</summary>
    private static byte[] HollowPng(int width, int height, bool bombChunk = false)
    {
        var to = new MemoryStream();
        to.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        void Chunk(string name, byte[] data)
        {
            Span<byte> n = stackalloc byte[4];
            System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(n, data.Length);
            to.Write(n);
            byte[] body = [.. Encoding.ASCII.GetBytes(name), .. data];
            to.Write(body);
            System.Buffers.Binary.BinaryPrimitives.WriteUInt32BigEndian(n, Crc(body));
            to.Write(n);
        }

        byte[] Int(int x) => [(byte)(x >> 24), (byte)(x >> 16), (byte)(x >> 8), (byte)x];
        Chunk("IHDR", [.. Int(width), .. Int(height), 8, 2, 0, 0, 0]);
        if (bombChunk)
            Chunk("zTXt", [.. "note\0\0"u8, .. Deflated(200_000_000)]);
        Chunk("IDAT", Deflated(1000));
        Chunk("IEND", []);
        return to.ToArray();
    }

    private static byte[] Deflated(int zeros)
    {
        var to = new MemoryStream();
        using (var z = new ZLibStream(to, CompressionLevel.Optimal, true))
        {
            var block = new byte[1 << 16];
            for (var i = 0; i < zeros; i += block.Length)
                z.Write(block, 0, Math.Min(block.Length, zeros - i));
        }

        return to.ToArray();
    }

    private static uint Crc(byte[] data)
    {
        var c = 0xFFFFFFFFu;
        foreach (var b in data)
        {
            c ^= b;
            for (var k = 0; k < 8; k++)
                c = (c & 1) != 0 ? 0xEDB88320 ^ (c >> 1) : c >> 1;
        }

        return c ^ 0xFFFFFFFF;
    }

    private Task<Run> HalfRead() => site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed));

    private async Task<(HttpStatusCode Code, JsonElement Body)> Send(
        Guid run, byte[] content, string name = "a.jpg", string? section = "2", string? key = null, string? ticket = null, HttpContent? body = null)
    {
        await v.Go($"/runs/{run}/photos");
        var form = new MultipartFormDataContent
        {
            { new StringContent(key ?? Guid.NewGuid().ToString()), "key" }, { new StringContent(section ?? ""), "section" },
        };
        form.Add(body ?? new ByteArrayContent(content), "photo", name);
        var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}/photos/add") { Content = form };
        request.Headers.Add("X-Ticket", ticket ?? v.Value("__RequestVerificationToken"));
        request.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json"));
        var reply = await v.Client.SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    private static string Refused((HttpStatusCode, JsonElement Body) r) =>
        string.Join(" ", r.Body.GetProperty("refused").EnumerateArray().Select(x => x.GetString()));

    private static Guid IdOf((HttpStatusCode, JsonElement Body) r) => r.Body.GetProperty("photos")[0].GetProperty("id").GetGuid();

    [Theory]
    [InlineData("-1")]
    [InlineData("-2147483648")]
    [InlineData("9")]
    [InlineData("4000000000")]
    [InlineData("two")]
    public async Task Nothing_is_stored_after_a_refusal_whatever_section_was_named(string section)
    {
        var run = (await HalfRead()).Id;
        var (before, files) = (await Count(), Directory.GetFiles(Path.Combine(site.Folder, "files"), "*", SearchOption.AllDirectories).Length);
        var sent = await Send(run, Picture(640, 481), section: section);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, sent.Code);
        Assert.Contains($"Section {section} is not part of this piece", Refused(sent));
        Assert.Equal((before, files), (await Count(), Directory.GetFiles(Path.Combine(site.Folder, "files"), "*", SearchOption.AllDirectories).Length));
        await v.Go($"/runs/{run}/photos");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }

    [Fact]
    public async Task A_photo_that_an_earlier_version_stored_of_section_minus_one_shows_the_whole_piece_at_once_and_after_a_start()
    {
        var run = (await HalfRead()).Id;
        var id = IdOf(await Send(run, Picture(640, 482)));
        await site.WithDb(db => db.Photos.Where(p => p.Id == id).ExecuteUpdateAsync(s => s.SetProperty(p => p.Section, -1)));
        foreach (var page in new[] { $"/runs/{run}/photos", $"/runs/{run}/photos?c={id}", $"/runs/{run}?open=read" })
        {
            await v.Go(page);
            Assert.Equal((page, HttpStatusCode.OK), (page, v.Last.StatusCode));
        }

        await using (var scope = site.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<Upgrade>().RecordsAsync();
        Assert.Null((await site.WithDb(db => db.Photos.AsNoTracking().FirstAsync(p => p.Id == id))).Section);
    }

    [Fact]
    public async Task A_photo_is_erased_for_good_and_one_with_the_same_content_keeps_it()
    {
        var run = (await HalfRead()).Id;
        string FileOf(Photo p) => Path.Combine(site.Folder, "files", p.Sha256[..2], p.Sha256);
        Task<Photo> Row(Guid id) => site.WithDb(db => db.Photos.AsNoTracking().FirstAsync(p => p.Id == id));
        var (first, twin) = (IdOf(await Send(run, Picture(640, 483))), IdOf(await Send(run, Picture(640, 483), section: "3")));
        var file = FileOf(await Row(first));
        Assert.Equal(file, FileOf(await Row(twin)));
        async Task Erase(Guid id)
        {
            await v.Go($"/runs/{run}/photos?c={id}");
            await v.Submit("form[action*='Erase']");
        }

        await Erase(first);
        Assert.Contains("something else here holds the same", v.Text(".told"));
        Assert.True(File.Exists(file));
        await Erase(twin);
        Assert.Contains("erased from this disk", v.Text(".told"));
        Assert.False(File.Exists(file));
        // Nothing brings it back, and nothing of what stands breaks.
        await v.Press("form[method=post]", "/undo", ("what", $"photo:{twin}"));
        Assert.Equal(HttpStatusCode.NotFound, v.Last.StatusCode);
        Assert.NotNull((await Row(twin)).RemovedAt);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/photos/{twin}/large")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync("/export/archive.zip")).StatusCode);
    }

    [Fact]
    public async Task A_photo_whose_content_is_erased_while_it_comes_in_stands_with_its_content()
    {
        var run = await HalfRead();
        var held = new TaskCompletionSource();
        var gate = site.Services.GetRequiredService<Glenfrost.Storage.WriteGate>();
        // Somebody holds the gate; the photo has stored its content and waits with its row.
        var holding = gate.Through(async () =>
        {
            await held.Task;
            return 0;
        });
        var files = Path.Combine(site.Folder, "files");
        List<string> All() => [.. Directory.EnumerateFiles(files, "*", SearchOption.AllDirectories).Where(f => !f.EndsWith(".part", StringComparison.Ordinal))];
        var before = All();
        var sending = Send(run.Id, Picture(611, 407));
        List<string> fresh;
        var patience = System.Diagnostics.Stopwatch.StartNew();
        while ((fresh = [.. All().Except(before)]).Count < 2)
        {
            Assert.True(patience.Elapsed < TimeSpan.FromMinutes(2), "no content came");
            await Task.Delay(10);
        }


        fresh.ForEach(File.Delete);
        held.SetResult();
        await holding;
        var id = IdOf(await sending);
        foreach (var size in new[] { "large", "small" })
            Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync($"/photos/{id}/{size}")).StatusCode);
    }

    private async Task<int> Count() => await site.WithDb(db => db.Photos.CountAsync());

    private int Parts() => Directory.Exists(Path.Combine(site.Folder, "incoming")) ? Directory.GetFiles(Path.Combine(site.Folder, "incoming")).Length : 0;

    [Theory]
    [InlineData(SKEncodedImageFormat.Jpeg)]
    [InlineData(SKEncodedImageFormat.Png)]
    [InlineData(SKEncodedImageFormat.Webp)]
    public async Task A_picture_is_kept_at_two_sizes(SKEncodedImageFormat format)
    {
        var run = (await HalfRead()).Id;
        var sent = await Send(run, Picture(3000, 2000, format));
        Assert.Equal(HttpStatusCode.OK, sent.Code);
        foreach (var (size, width, height) in new[] { ("large", 2048, 1365), ("small", 320, 213) })
        {
            var reply = await v.Client.GetAsync($"/photos/{IdOf(sent)}/{size}");
            Assert.Equal("image/jpeg", reply.Content.Headers.ContentType!.MediaType);
            using var kept = SKBitmap.Decode(await reply.Content.ReadAsByteArrayAsync());
            Assert.Equal((width, height), (kept.Width, kept.Height));
            Assert.True(kept.GetPixel(width / 4, height / 4) is { Red: > 200, Blue: < 60 });
            Assert.True(kept.GetPixel(width * 3 / 4, height * 3 / 4) is { Red: < 60, Blue: > 200 });
        }
    }

    [Theory]
    // Where the red quarter of the stored picture stands once it is upright, by Exif orientation.
    [InlineData(1, false, 0.25, 0.25)]
    [InlineData(2, false, 0.75, 0.25)]
    [InlineData(3, false, 0.75, 0.75)]
    [InlineData(4, false, 0.25, 0.75)]
    [InlineData(5, true, 0.25, 0.25)]
    [InlineData(6, true, 0.75, 0.25)]
    [InlineData(7, true, 0.75, 0.75)]
    [InlineData(8, true, 0.25, 0.75)]
    public async Task A_turned_picture_stands_upright_and_tells_nothing_of_its_camera(byte orientation, bool turned, double x, double y)
    {
        var sent = await Send((await HalfRead()).Id, WithExif(Picture(600, 400), orientation));
        var bytes = await v.Client.GetByteArrayAsync($"/photos/{IdOf(sent)}/large");
        using var kept = SKBitmap.Decode(bytes);
        Assert.Equal(turned ? (400, 600) : (600, 400), (kept.Width, kept.Height));
        Assert.True(kept.GetPixel((int)(kept.Width * x), (int)(kept.Height * y)) is { Red: > 200, Blue: < 60 });
        Assert.True(kept.GetPixel((int)(kept.Width * (1 - x)), (int)(kept.Height * (1 - y))) is { Red: < 60, Blue: > 200 });
        Assert.DoesNotContain("HUT-AT", Encoding.Latin1.GetString(bytes));
        Assert.DoesNotContain("Exif", Encoding.Latin1.GetString(bytes));
    }

    public static TheoryData<string, string, string> Bad =>
        new()
        {
            { "text", "no picture", "" }, { "gif", "no picture that can be read", "" }, { "heic", "HEIF", "" }, { "half", "ends in the middle", "" },
            { "empty", "empty or cut off", "" }, { "30000", "30000 × 30000 pixels are too many", "" }, { "bomb", "cut off|damaged|middle", "" },
            { "tiny", "show nothing", "" }, { "section", "not part of this piece", "99" },
        };

    [Theory]
    [MemberData(nameof(Bad))]
    public async Task What_is_no_picture_is_told_and_leaves_nothing(string what, string says, string section)
    {
        var (run, before) = ((await HalfRead()).Id, await Count());
        var bytes = what switch
        {
            "text" => Encoding.UTF8.GetBytes(new string('x', 4000)),
            "gif" => [.. "GIF89a"u8, 1, 0, 1, 0, 0x80, 0, 0, 0, 0, 0, 255, 255, 255, 0x2C, 0, 0, 0, 0, 1, 0, 1, 0, 0, 2, 2, 0x44, 1, 0, 0x3B],
            "heic" => [0, 0, 0, 24, .. "ftypheic"u8, 0, 0, 0, 0, .. "mif1heic"u8],
            "half" => Picture(2000, 1500)[..9000],
            "empty" => [],
            "30000" => HollowPng(30_000, 30_000),
            "bomb" => HollowPng(5000, 5000, true),
            "tiny" => Picture(8, 8),
            _ => Picture(100, 100),
        };
        var sent = await Send(run, bytes, section: section.Length > 0 ? section : "2");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, sent.Code);
        Assert.Matches(says, Refused(sent));
        Assert.Equal(before, await Count());
        Assert.Equal(0, Parts());
    }

    private sealed class Zeros(long length) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            var block = new byte[1 << 20];
            for (long sent = 0; sent < length; sent += block.Length)
                await stream.WriteAsync(block.AsMemory(0, (int)Math.Min(block.Length, length - sent)));
        }

        protected override bool TryComputeLength(out long n) => (n = length) >= 0;
    }

    [Fact]
    public async Task Two_hundred_megabytes_are_read_to_their_end_and_told_without_keeping_them()
    {
        var before = await Count();
        var sent = await Send((await HalfRead()).Id, [], "long.jpg", body: new Zeros(200_000_000));
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, sent.Code);
        Assert.Contains("long.jpg has 200 MB; at most 40 MB", Refused(sent));
        Assert.Equal((before, 0), (await Count(), Parts()));
    }

    [Fact]
    public async Task Without_its_ticket_nothing_is_stored_and_without_a_form_neither()
    {
        var (run, before) = ((await HalfRead()).Id, await Count());
        var sent = await Send(run, Picture(100, 100), ticket: "stolen");
        Assert.Equal(HttpStatusCode.BadRequest, sent.Code);
        Assert.Contains("ticket", Refused(sent));
        var raw = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}/photos/add") { Content = new ByteArrayContent(Picture(100, 100)) };
        raw.Headers.Accept.ParseAdd("application/json");
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await v.Client.SendAsync(raw)).StatusCode);
        var half = new ByteArrayContent(Encoding.ASCII.GetBytes("--b\r\nContent-Disposition: form-data; name=\"photo\"; filename=\"x.jpg\"\r\n\r\nabc"));
        half.Headers.TryAddWithoutValidation("Content-Type", "multipart/form-data; boundary=b");
        var broken = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}/photos/add") { Content = half };
        broken.Headers.Add("X-Ticket", v.Value("__RequestVerificationToken"));
        broken.Headers.Accept.ParseAdd("application/json");
        Assert.Equal(HttpStatusCode.BadRequest, (await v.Client.SendAsync(broken)).StatusCode);
        Assert.Equal((before, 0), (await Count(), Parts()));
        Assert.Equal(HttpStatusCode.OK, (await Send(run, Picture(100, 100))).Code);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/photos/{Guid.NewGuid()}/large")).StatusCode);
        Assert.Equal((before + 1, 0), (await Count(), Parts()));
    }

    [Fact]
    public async Task The_same_key_is_stored_once_and_a_removed_photo_comes_back()
    {
        var run = (await HalfRead()).Id;
        var key = Guid.NewGuid().ToString();
        var first = await Send(run, Picture(300, 200), key: key);
        var again = await Send(run, Picture(300, 200), key: key);
        Assert.Equal(IdOf(first), IdOf(again));
        await v.Go($"/runs/{run}/photos?c={IdOf(first)}");
        await v.Submit("form[action*='Note']", ("note", "light from the left"));
        Assert.Contains("light from the left", v.Page.Body!.InnerHtml);
        await v.Submit("form[action*='Finding']", ("tag", "lifted corner"));
        Assert.Contains("noted with this photo", v.Text(".told"));
        Assert.Equal(IdOf(first), (await site.WithDb(db => db.Findings.FirstAsync(f => f.Tag == "lifted corner" && f.PhotoId != null))).PhotoId);
        await v.Submit("form[action*='Remove']");
        Assert.DoesNotContain(IdOf(first).ToString(), v.Page.QuerySelector("main .shots")?.InnerHtml ?? "");
        await v.Submit(".told form");
        await v.Go($"/runs/{run}/photos");
        Assert.Contains(IdOf(first).ToString(), v.Page.QuerySelector("main")!.InnerHtml);
    }

    [Fact]
    public async Task Photos_stand_beside_other_runs_at_the_same_height_and_at_the_same_temperature()
    {
        var runs = await site.WithDb(db =>
            db.Runs.AsNoTracking().Where(r => r.Pairing!.Filament!.Line == "Heath" && r.Pairing.Toolhead!.Printer!.Name == "Dunnock 180").OrderBy(r => r.Number)
                .ToListAsync());
        await v.Go($"/runs/{runs[0].Id}/photos?across=4");
        Assert.Contains("Run 2, 212 °C", v.Text("#across"));
        await v.Go($"/runs/{runs[0].Id}/photos?across=4&by=temperature");
        Assert.Contains("Run 2, 210 °C", v.Text("#across"));
        var two = await site.WithDb(db => db.Photos.Where(p => runs.Select(r => r.Id).Contains(p.RunId) && p.Section == 4).Select(p => p.Id).ToListAsync());
        await v.Go($"/runs/{runs[0].Id}/photos?c={two[0]}&c={two[1]}");
        Assert.Equal(2, v.Page.QuerySelectorAll(".beside figure").Length);
    }

    [Fact]
    public async Task Photos_scored_again_blind_teach_the_noise_and_the_verdict_takes_it()
    {
        var run = await site.WithDb(db =>
            db.Runs.AsNoTracking().Include(r => r.Readings)
                .FirstAsync(r => r.Number == 1 && r.Pairing!.Filament!.Line == "Heath" && r.Pairing.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go($"/runs/{run.Id}");
        Assert.Contains("Score noise 0.5, taken until photos are scored again", v.Text("body"));
        await v.Go($"/runs/{run.Id}/photos");
        await v.Submit("form[action='/sittings']");
        var pairs = new List<(double, double)>();
        var seen = new List<int>();
        for (var n = 1; v.Text("h1").StartsWith("Score again", StringComparison.Ordinal); n++)
        {
            var main = v.Page.QuerySelector("main")!.TextContent;
            Assert.DoesNotContain("°C", main);
            Assert.DoesNotContain("section 1", main, StringComparison.OrdinalIgnoreCase);
            var photo = Guid.Parse(v.Value("photo"));
            var section = (await site.WithDb(db => db.Photos.FirstAsync(p => p.Id == photo))).Section!.Value;
            seen.Add(section);
            var given = Aspects.All.ToDictionary(a => a, a => run.Readings.First(r => r.Section == section && r.Aspect == a).Value!.Value);
            // Every second photo gets one bridge score more or less than the piece did.
            var bridge = n % 2 == 0 ? given["bridge"] == 4 ? 3 : given["bridge"] + 1 : given["bridge"];
            pairs.AddRange(given.Select(g => (g.Value, g.Key == "bridge" ? bridge : g.Value)));
            await v.Submit("#blind", [.. given.Select(g => ($"s.{g.Key}", Words.N(g.Key == "bridge" ? bridge : g.Value)))]);
        }

        Assert.Equal(8, seen.Count);
        Assert.NotEqual(seen.Order(), seen);
        Assert.NotEqual(seen.OrderDescending(), seen);
        var learned = Words.N(Core.Statistics.ScoreNoise.Learn([pairs]).Sd);
        Assert.StartsWith($"{learned} scores.", v.Text(".lead-text"));
        await v.Go($"/runs/{run.Id}");
        Assert.Contains($"Score noise {learned}, learned from 40 scores given twice", v.Text("body"));
        Assert.Matches(@"kept \d+ °C", v.Text("body"));
        await v.Go("/sittings");
        await v.Submit("form[action*='Remove']");
        await v.Go($"/runs/{run.Id}");
        Assert.Contains("Score noise 0.5,", v.Text("body"));
    }

    [Fact]
    public async Task A_blind_form_with_nothing_in_it_comes_back()
    {
        var run = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Number == 2 && r.Pairing!.Filament!.Line == "Heath" && r.Photos.Any()));
        await v.Go($"/runs/{run.Id}/photos");
        await v.Submit("form[action='/sittings']");
        await v.Submit("#blind");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("Score at least one aspect", v.Text("body"));
        await v.Submit("#blind", ("s.bridge", "9"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Submit("#blind", ("skip", "1"));
        Assert.StartsWith("Score again, 2 of", v.Text("h1"));
        await v.Go("/sittings");
        Assert.Contains("open", v.Page.QuerySelector("table")!.TextContent);
    }

    [Fact]
    public async Task Own_photos_stand_for_scores_beside_the_cells_and_in_a_sitting_until_they_are_taken_back()
    {
        var run = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Photos)
            .FirstAsync(r => r.Number == 2 && r.Pairing!.Filament!.Line == "Heath" && r.Photos.Count > 1));
        var (first, second) = (run.Photos[0].Id, run.Photos[1].Id);
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Null(v.Page.QuerySelector("#own-anchors"));
        await v.Go($"/runs/{run.Id}/photos?c={first}");
        await v.Submit("#anchor", ("anchorKey", "strings"), ("anchorScore", "9"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Submit("#anchor", ("anchorKey", "strings"), ("anchorScore", "3"));
        Assert.Contains("stands for 3 of strings", v.Text("body"), StringComparison.Ordinal);
        await v.Go($"/runs/{run.Id}/photos?c={second}");
        await v.Submit("#anchor", ("anchorKey", "strings"), ("anchorScore", "0"));
        // The best score comes first; a photo that is chosen later for the same score takes its place.
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Equal(["3", "0"], v.Page.QuerySelectorAll("#own-anchors b").Select(b => b.TextContent));
        Assert.Contains($"/photos/{first}/small", v.Page.QuerySelector("#own-anchors img")!.GetAttribute("src")!, StringComparison.Ordinal);
        await v.Go($"/runs/{run.Id}/photos?c={second}");
        await v.Submit("#anchor", ("anchorKey", "strings"), ("anchorScore", "3"));
        await v.Go($"/runs/{run.Id}?open=read");
        // It stands for one score of an aspect: the 0 gave way to the 3.
        Assert.Equal(["3"], v.Page.QuerySelectorAll("#own-anchors b").Select(b => b.TextContent));
        Assert.Contains($"/photos/{second}/", v.Page.QuerySelector("#own-anchors img")!.GetAttribute("src")!, StringComparison.Ordinal);
        // A sitting says that they stand beside; without the tick they do not.
        await v.Go("/sittings");
        await v.Submit("#begin", ("anchors", "true"));
        Assert.Single(v.Page.QuerySelectorAll("#blind .own-anchors a"));
        var with = await site.WithDb(db => db.Sittings.OrderByDescending(s => s.At).FirstAsync());
        Assert.True(with.WithAnchors is true);
        Assert.DoesNotContain(second.ToString(), with.OrderJson, StringComparison.OrdinalIgnoreCase);
        await v.Go("/sittings");
        Assert.Contains("own photos beside", v.Page.QuerySelector("table")!.TextContent, StringComparison.Ordinal);
        Assert.Contains("Whether your own photos make you steadier", v.Text("#anchored"), StringComparison.Ordinal);
        // Taken back, the one before stands again.
        await v.Go($"/runs/{run.Id}/photos?c={second}");
        foreach (var choice in v.Page.QuerySelectorAll("button[form=unanchor]").Select(b => b.GetAttribute("value")!).ToList())
            await v.Press("#unanchor", $"?handler=Unanchor&photo={second}", ("anchor", choice));
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Contains($"/photos/{first}/", v.Page.QuerySelector("#own-anchors img")!.GetAttribute("src")!, StringComparison.Ordinal);
        Assert.Equal(["3", "0"], v.Page.QuerySelectorAll("#own-anchors b").Select(b => b.TextContent));
        // Somebody else's photos are not mine.
        await site.WithDb(async db =>
        {
            foreach (var a in await db.AnchorPhotos.ToListAsync())
                a.PersonId = Guid.NewGuid();
            return await db.SaveChangesAsync();
        });
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Null(v.Page.QuerySelector("#own-anchors"));
    }
}
