using Glenfrost.Storage;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace Glenfrost.Web.Services;

/// <summary>
/// A multipart form read as a stream: files go straight into the data place, in flat memory, and are deleted when this is disposed. The framework's own
/// reader would buffer them in the system's folder for temporary files.
/// </summary>
public sealed class Upload : IDisposable
{
    private const int LongestField = 100_000;

    private const int LongestTicket = 2_000;

    private const int MostFields = 100;

    /// <summary>Characters of all fields together.</summary>
    private const int MostText = 400_000;

    /// <summary>Beyond this nothing is even read to its end.</summary>
    private const long MostDrained = 1L << 30;

    public Dictionary<string, string> Fields { get; } = [];

    public List<UploadedFile> Files { get; } = [];

    /// <summary>What is wrong with the whole form; null where it could be read.</summary>
    public string? Error { get; private set; }

    /// <summary>Status that says so.</summary>
    public int Status { get; private set; } = StatusCodes.Status200OK;

    /// <summary>Reads a form.</summary>
    /// <param name="context">The request; its ticket comes in a header or in the first field.</param>
    /// <param name="place">Where the files wait.</param>
    /// <param name="mostBytes">Most bytes of one file.</param>
    /// <param name="mostFiles">Most files of one form.</param>
    public static async Task<Upload> ReadAsync(HttpContext context, DataPlace place, long mostBytes, int mostFiles)
    {
        var upload = new Upload();
        var request = context.Request;
        if (!MediaTypeHeaderValue.TryParse(request.ContentType, out var type)
            || type.MediaType != "multipart/form-data"
            || HeaderUtilities.RemoveQuotes(type.Boundary).Value is not { Length: > 0 and <= 200 } boundary)
            return upload.Refuse(StatusCodes.Status415UnsupportedMediaType, "A form with files was expected (multipart/form-data). Nothing was stored.");
        var mostDrained = Math.Max(MostDrained, mostBytes + 64_000_000);
        if (request.ContentLength > mostDrained)
            return upload.Refuse(
                StatusCodes.Status413PayloadTooLarge,
                $"{Words.Size(request.ContentLength.Value)} is too large: at most {Words.Size(mostBytes)} a file. Nothing was stored.");
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size)
            size.MaxRequestBodySize = mostDrained;
        try
        {
            await upload.ReadAsync(context, new MultipartReader(boundary, request.Body), place.IncomingFolder, mostBytes, mostFiles);
        }
        catch (AntiforgeryValidationException)
        {
            upload.Refuse(
                StatusCodes.Status400BadRequest,
                "The form's ticket is missing or older than this browser's visit. Nothing was stored: open the page again and send it once more.");
        }
        catch (Exception e) when ((e is IOException or InvalidDataException or BadHttpRequestException) && Disk.FaultOf(e) is null)
        {
            upload.Refuse(StatusCodes.Status400BadRequest, "The upload broke off before its end. Nothing was stored: send it again.");
        }

        return upload;
    }

    public void Dispose()
    {
        foreach (var f in Files)
            File.Delete(f.Path);
    }

    private async Task ReadAsync(HttpContext context, MultipartReader reader, string folder, long mostBytes, int mostFiles)
    {
        var stop = context.RequestAborted;
        var antiforgery = context.RequestServices.GetRequiredService<IAntiforgery>();
        // Before anything of a form is kept its ticket is known: from the header, or from the first field.
        var trusted = false;
        if (context.Request.Headers["X-Ticket"].Count > 0)
        {
            await antiforgery.ValidateRequestAsync(context);
            trusted = true;
        }

        var sum = 0;
        while (await reader.ReadNextSectionAsync(stop) is { } section)
        {
            if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition))
                continue;
            var field = HeaderUtilities.RemoveQuotes(disposition.Name).Value ?? "";
            if (!trusted)
            {
                context.Request.Headers["X-Ticket"] =
                    !disposition.IsFileDisposition() && field == "__RequestVerificationToken" ? await TextAsync(section.Body, LongestTicket, stop) : "-";
                await antiforgery.ValidateRequestAsync(context);
                trusted = true;
                continue;
            }

            if (!disposition.IsFileDisposition())
            {
                if (Fields.Count == MostFields)
                    throw new InvalidDataException("too many fields");
                Fields[field] = await TextAsync(section.Body, Math.Min(LongestField, MostText - sum), stop);
                sum += Fields[field].Length;
                continue;
            }

            var name = Path.GetFileName(
                (disposition.FileNameStar.HasValue ? disposition.FileNameStar : HeaderUtilities.RemoveQuotes(disposition.FileName)).Value ?? "");
            if (Files.Count == mostFiles)
            {
                Refuse(StatusCodes.Status422UnprocessableEntity, $"More than {mostFiles} files came at once. Send them in parts.");
                await section.Body.CopyToAsync(Stream.Null, stop);
            }
            else if (await FileAsync(section.Body, field, name, folder, mostBytes, stop) is { } file)
            {
                Files.Add(file);
            }
        }

        if (!trusted)
        {
            context.Request.Headers["X-Ticket"] = "-";
            await antiforgery.ValidateRequestAsync(context);
        }
    }

    /// <exception cref="InvalidDataException">It is longer.</exception>
    private static async Task<string> TextAsync(Stream body, int most, CancellationToken stop)
    {
        using var reader = new StreamReader(body);
        var text = new System.Text.StringBuilder();
        var buffer = new char[1024];
        int n;
        while ((n = await reader.ReadAsync(buffer, stop)) > 0)
        {
            if (text.Length + n > most)
                throw new InvalidDataException("field too long");
            text.Append(buffer, 0, n);
        }

        return text.ToString();
    }

    private static async Task<UploadedFile?> FileAsync(Stream body, string field, string name, string folder, long mostBytes, CancellationToken stop)
    {
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, $"{Guid.NewGuid():N}.part");
        var whole = false;
        try
        {
            long bytes = 0;
            await using (var to = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1 << 16))
            {
                var buffer = new byte[1 << 16];
                int n;
                while ((n = await body.ReadAsync(buffer, stop)) > 0)
                {
                    bytes += n;
                    if (bytes <= mostBytes)
                        await to.WriteAsync(buffer.AsMemory(0, n), stop);
                    else if (to.Length > 0)
                        to.SetLength(0);
                }
            }

            // A browser sends an empty, nameless file where none was chosen.
            if (bytes == 0 && name.Length == 0)
                return null;
            whole = true;
            return new(field, name.Length == 0 ? "file" : name.Length > 120 ? name[^120..] : name, path, bytes, bytes > mostBytes);
        }
        finally
        {
            if (!whole)
                File.Delete(path);
        }
    }

    private Upload Refuse(int status, string error)
    {
        (Status, Error) = (status, error);
        return this;
    }
}
