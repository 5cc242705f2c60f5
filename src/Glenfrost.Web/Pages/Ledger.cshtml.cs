using Glenfrost.Application.Exchange;
using Glenfrost.Core.Trials;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Everything that was tried on some pairings: filtered, sorted, exported. All of it stands in the address.</summary>
internal sealed class LedgerModel(WorkContext work, LedgerBook book, PairingBook pairings) : WorkPage(work)
{
    /// <summary>Rows a page; a table of more is an export.</summary>
    public const int MostRows = 200;

    private static readonly Dictionary<string, Func<LedgerRow, object?>> Orders = new()
    {
        ["when"] = r => r.At, ["what"] = r => r.What, ["answer"] = r => r.Answer, ["minutes"] = r => r.Minutes, ["grams"] = r => r.Grams,
        ["effect"] = r => r.Effect,
    };

    [FromQuery(Name = "id")]
    public Guid[] Ids { get; set; } = [];

    [FromQuery]
    public string? Q { get; set; }

    /// <summary>Key of a trial, tried, own-file, stepped-file, or decided for what changed the answer; nothing for all.</summary>
    [FromQuery]
    public string? Kind { get; set; }

    /// <summary>Name of a column, with a minus before it for the other way.</summary>
    [FromQuery]
    public string? Sort { get; set; }

    public Ledger All { get; private set; } = new([], [], 0);

    public IReadOnlyList<LedgerRow> Rows { get; private set; } = [];

    /// <summary>Rows that fit and are not shown.</summary>
    public int Hidden { get; private set; }

    /// <summary>Other pairings that may be laid beside: those of the same filament or printer first.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Others { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> Kinds =>
        All.Rows.Select(r => r.Kind).Distinct().Select(k => KeyValuePair.Create(k, NameOf(k))).OrderBy(k => k.Value, StringComparer.Ordinal)
            .Append(KeyValuePair.Create("decided", "what changed the answer"));

    public static string NameOf(string kind) => TrialCatalogue.Find(kind)?.Name ?? kind switch
    {
        LedgerBook.TriedKind => "Tried",
        "own-file" => "Own file",
        _ => "Stepped file",
    };

    public string Filter(string? sort = null) => QueryString.Create(
        new Dictionary<string, string?> { ["q"] = Q, ["kind"] = Kind, ["sort"] = sort ?? Sort }.Where(p => !string.IsNullOrEmpty(p.Value))
            .Concat(Ids.Select(i => KeyValuePair.Create("id", (string?)i.ToString())))).ToString();

    /// <summary>Everything of the same pairings.</summary>
    public string Whole => "/ledger" + QueryString.Create(Ids.Select(i => KeyValuePair.Create("id", (string?)i.ToString())));

    /// <summary>Where a head of a column leads: sorted by it, or the other way where it is already.</summary>
    public string SortBy(string column) => "/ledger" + Filter(Sort == column ? "-" + column : column);

    public string? SortedBy(string column) => Sort == column ? "ascending" : Sort == "-" + column || (Sort is null && column == "when") ? "descending" : null;

    public async Task<IActionResult> OnGetAsync()
    {
        if (!await LoadAsync())
            return NotFound();
        (Hidden, Rows) = (Math.Max(0, Rows.Count - MostRows), [.. Rows.Take(MostRows)]);
        var shown = Ids.Select(i => i.ToString()).ToHashSet();
        Others = [.. (await pairings.NamesAsync()).Where(n => !shown.Contains(n.Key))];
        return Page();
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        if (!await LoadAsync())
            return NotFound();
        return File(
            Tables.Bytes(
                ["atUtc", "pairing", "kind", "what", "with", "differsFromTheOneBefore", "answer", "effect", "minutes", "grams", "printed", "link"],
                Rows.Select(r => new object?[]
                {
                    r.At, Facts.NameOf(All.Pairings.First(p => p.Id == r.PairingId)), r.Kind, r.What, r.With, r.Differs, r.Answer,
                    r.Effect.ToString().ToLowerInvariant(), r.Minutes, r.Grams, r.Printed, r.Link,
                })), "text/csv", "glenfrost-ledger.csv");
    }

    private async Task<bool> LoadAsync()
    {
        Ids = [.. Ids.Distinct()];
        if (Ids.Length is 0 or > LedgerBook.MostPairings || await book.OfAsync(Ids) is not { } ledger)
            return false;
        All = ledger;
        var words = (Q ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var rows = ledger.Rows.Where(r => Kind switch
        {
            null or "" => true,
            "decided" => r.Effect == Core.Routes.HuntEffect.Changed,
            _ => r.Kind == Kind,
        }).Where(r => words.All(w => $"{r.What} {r.With} {r.Differs} {r.Answer}".Contains(w, StringComparison.OrdinalIgnoreCase)));
        if (Sort is { } sort && Orders.TryGetValue(sort.TrimStart('-'), out var by))
            rows = sort[0] == '-' ? rows.OrderByDescending(by) : rows.OrderBy(by);
        Rows = [.. rows];
        return true;
    }
}
