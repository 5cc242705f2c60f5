using System.Globalization;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Everything that happened, by day, filtered and exported.</summary>
internal sealed class LogModel(WorkContext work, LogBook log, PeopleBook everybody) : WorkPage(work)
{
    private const int PageLength = 100;

    private Dictionary<Guid, string> people = [];

    public static IReadOnlyList<string> Kinds { get; } =
    ["", "filament", "spool", "printer", "pairing", "run", "gcode", "reading", "photo", "finding", "tried", "profile", "room", "device", "import", "person"];

    [FromQuery]
    public string? Kind { get; set; }

    [FromQuery]
    public string? Q { get; set; }

    /// <summary>First day, as browsers send it.</summary>
    [FromQuery]
    public string? From { get; set; }

    /// <summary>Last day, itself included.</summary>
    [FromQuery]
    public string? To { get; set; }

    [FromQuery]
    public string? Before { get; set; }

    public List<LogEntry> List { get; private set; } = [];

    public bool More { get; private set; }

    public string Next { get; private set; } = "";

    /// <summary>The filter as a query string, to link with.</summary>
    public string Filter =>
        QueryString
            .Create(new Dictionary<string, string?> { ["kind"] = Kind, ["q"] = Q, ["from"] = From, ["to"] = To }.Where(p => !string.IsNullOrEmpty(p.Value)))
            .ToString().TrimStart('?');

    public bool IsFiltered => Filter.Length > 0;

    public string Who(LogEntry l) => people.Count > 1 && l.PersonId is { } id && people.TryGetValue(id, out var name) ? name : "";

    public async Task OnGetAsync()
    {
        people = await everybody.AllAsync();
        var filter = Wanted();
        Form["from"] = From ?? "";
        Form["to"] = To ?? "";
        Response.StatusCode = Form.IsGood ? StatusCodes.Status200OK : StatusCodes.Status422UnprocessableEntity;
        List = await log.ListAsync(filter, PageLength + 1);
        More = List.Count > PageLength;
        List = [.. List.Take(PageLength)];
        // The time alone would skip what happened in the same millisecond.
        if (More)
            Next = $"{new DateTimeOffset(List[^1].At, TimeSpan.Zero).ToUnixTimeMilliseconds()}.{List[^1].Id}";
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        people = await everybody.AllAsync();
        var lines = new List<LogEntry>();
        await foreach (var line in log.AllAsync(Wanted()))
            lines.Add(line);
        return File(
            Tables.Bytes(
                ["atUtc", "kind", "text", "person", "link", "undone"],
                lines.Select(l =>
                    new object?[] { l.At, l.Kind, l.Text, l.PersonId is { } p ? people.GetValueOrDefault(p) : null, l.Link, l.UndoneAt is not null })),
            "text/csv", "glenfrost-log.csv");
    }

    public async Task<IActionResult> OnGetTextAsync()
    {
        people = await everybody.AllAsync();
        var text = new System.Text.StringBuilder();
        DateTime? day = null;
        await foreach (var l in log.AllAsync(Wanted()))
        {
            if (day != Words.Local(l.At).Date)
            {
                day = Words.Local(l.At).Date;
                text.Append(CultureInfo.InvariantCulture, $"{(text.Length > 0 ? "\n" : "")}{Words.Local(l.At):yyyy-MM-dd}\n");
            }

            text.Append(CultureInfo.InvariantCulture, $"  {Words.Time(l.At)}  {l.Kind,-9} {l.Text.Replace("\n", " ")}\n");
        }

        return Content(text.ToString(), "text/plain; charset=utf-8");
    }

    private LogFilter Wanted() => new(
        Kinds.Contains(Kind) && Kind!.Length > 0 ? Kind : null,
        string.IsNullOrWhiteSpace(Q) ? null : Q.Trim().Length > 100 ? Q.Trim()[..100] : Q.Trim(), Day("from", From), Day("to", To),
        Before?.Split('.') is [var ms, var last]
            && long.TryParse(ms, out var milliseconds)
            && milliseconds is > 0 and < 253402300799000
            && Guid.TryParse(last, out var id)
            ? (DateTimeOffset.FromUnixTimeMilliseconds(milliseconds).UtcDateTime, id)
            : null);

    private DateTime? Day(string field, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return null;
        if (DateTime.TryParseExact(
                text.Trim(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var day
            ) && day.Year is > 1970 and < 9999)
            return day;
        Form.Refuse(field, $"\"{(text.Length > 20 ? text[..20] + "…" : text)}\" is not a day. Type it as 2026-11-23; this filter is left out.");
        return null;
    }
}
