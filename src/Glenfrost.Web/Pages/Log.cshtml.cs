using System.Text;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

public sealed class LogModel(Bench bench) : BenchPage(bench)
{
    private const int PageLength = 100;

    public static IReadOnlyList<string> Kinds { get; } = ["", "filament", "spool", "printer", "pairing", "run", "profile", "room"];

    [FromQuery]
    public string? Kind { get; set; }

    [FromQuery]
    public string? Q { get; set; }

    [FromQuery]
    public long? Before { get; set; }

    public List<LogEntry> List { get; private set; } = [];

    public bool More { get; private set; }

    public long Next { get; private set; }

    public async Task OnGetAsync()
    {
        List = await Query().Take(PageLength + 1).ToListAsync();
        More = List.Count > PageLength;
        List = [.. List.Take(PageLength)];
        if (More)
            Next = new DateTimeOffset(List[^1].At, TimeSpan.Zero).ToUnixTimeMilliseconds();
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        // A leading = + - @ would be run as a formula by table programs; a quote in front keeps it text.
        static string Cell(string? s) => "\"" + (s is { Length: > 0 } && "=+-@".Contains(s[0]) ? "'" : "") + (s ?? "").Replace("\"", "\"\"") + "\"";
        var csv = new StringBuilder("atUtc,kind,text,link\r\n");
        await foreach (var l in Query().AsAsyncEnumerable())
            csv.Append($"{l.At:yyyy-MM-ddTHH:mm:ssZ},{Cell(l.Kind)},{Cell(l.Text)},{Cell(l.Link)}\r\n");
        return File(Encoding.UTF8.GetPreamble().Concat(Encoding.UTF8.GetBytes(csv.ToString())).ToArray(), "text/csv", "glenfrost-log.csv");
    }

    private IQueryable<LogEntry> Query()
    {
        var q = Db.Log.AsNoTracking().AsQueryable();
        if (Kinds.Contains(Kind) && Kind!.Length > 0)
            q = q.Where(l => l.Kind == Kind);
        if (!string.IsNullOrWhiteSpace(Q))
        {
            var words = Q.Trim().Length > 100 ? Q.Trim()[..100] : Q.Trim();
            q = q.Where(l => EF.Functions.Like(l.Text, "%" + words.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_") + "%", "\\"));
        }

        if (Before is > 0 and < 253402300799000)
        {
            var at = DateTimeOffset.FromUnixTimeMilliseconds(Before.Value).UtcDateTime;
            q = q.Where(l => l.At < at);
        }

        return q.OrderByDescending(l => l.At).ThenByDescending(l => l.Id);
    }
}
