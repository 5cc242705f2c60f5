using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Pages.Trials;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Runs;

/// <summary>Two to four runs in three bands: what differs, what was read, what may be concluded.</summary>
internal sealed class CompareModel(WorkContext work, RunsSideBySide side, RunComparison comparison, PrintReports reports, SpoolBook spoolBook) : WorkPage(work)
{
    // What somebody may still know of a print that is long over.
    private static readonly HashSet<string> Askable =
    [
        FactorRegistry.Spool, FactorRegistry.Dryness, FactorRegistry.RoomC, FactorRegistry.RoomEndC, FactorRegistry.ChamberC, FactorRegistry.ChamberEndC,
        FactorRegistry.HumidityPercent, FactorRegistry.Enclosure, FactorRegistry.Surface, FactorRegistry.Firmware, FactorRegistry.Slicer, FactorRegistry.Place,
    ];

    [FromQuery(Name = "id")]
    public Guid[] Ids { get; set; } = [];

    /// <summary>Null while fewer than two are chosen.</summary>
    public RunsCompared? All { get; private set; }

    /// <summary>The run that was chosen first, while it is alone.</summary>
    public TrialRunView? First { get; private set; }

    /// <summary>What may be laid beside the runs.</summary>
    public IReadOnlyList<OtherRun> Others { get; private set; } = [];

    private readonly Dictionary<int, IReadOnlyList<Spool>> spools = [];

    public string Query => string.Concat(Ids.Select((id, i) => $"{(i == 0 ? "?" : "&")}id={id}"));

    /// <summary>Without one of them.</summary>
    public string Without(int run) => "/runs/compare" + string.Concat(Ids.Where((_, i) => i != run).Select((id, i) => $"{(i == 0 ? "?" : "&")}id={id}"));

    public static string FieldOf(string factor, int run) => $"{factor}-{run}";

    /// <summary>True for what somebody may still know: conditions, and what a slicer or a plan was set to.</summary>
    public static bool Asks(ComparedFactor f, int run) =>
        f.Turned is null && !f.Swept && f.Values[run] is null && (Askable.Contains(f.Factor.Key) || SettingRegistry.Find(f.Factor.Key) is not null);

    /// <summary>How a value stands to that of the first run: "other" where both are known and differ, "same" where it is the first's; empty for
    /// the rest.</summary>
    public static string Stands(ComparedFactor f, int run) =>
        run == 0 || f.Values[run] is not { } own || f.Values[0] is not { } one ? ""
        : FactorWords.Value(f.Factor, own) == FactorWords.Value(f.Factor, one) ? "same" : "other";

    /// <summary>True where a field of the unknown ones holds something that is refused.</summary>
    public bool Wrong => Form.Errors.Count > 0;

    /// <summary>Choices of a field; null where it is typed.</summary>
    public IReadOnlyList<KeyValuePair<string, string>>? OptionsOf(string factor, int run) => factor switch
    {
        FactorRegistry.Spool => [KeyValuePair.Create("", "not known"), .. spools[run].Select(s => KeyValuePair.Create(s.Id.ToString(), s.Name))],
        FactorRegistry.Dryness or FactorRegistry.Enclosure => ConditionsForm.WordsOf(factor),
        _ => SettingRegistry.Find(factor)?.Words is { } words
            ? [KeyValuePair.Create("", "not known"), .. words.Select(w => KeyValuePair.Create(w, w))] : null,
    };

    /// <summary>What each took and cost, row by row; a row in which no run says anything is left out.</summary>
    public IEnumerable<(string Head, IReadOnlyList<string> Of)> CostRows
    {
        get
        {
            (string Head, Func<RunCost, string?> Of)[] rows =
            [
                ("foreseen", c => Time(c.Foreseen)), ("reckoned again", c => Time(c.Reestimated)), ("it took", c => Time(c.Took)),
                ("filament", c => c.Grams is { } g ? $"{Words.N(g, 1)} g" : null), ("a print", c => c.Tally.PrintSays),
                ("printed again", c => c.Tally.Printed > 0 ? $"{c.Tally.Good} of {c.Tally.Printed} good" : null), ("a good part", c => c.Tally.GoodSays),
            ];
            return rows.Select(r => (r.Head, (IReadOnlyList<string>)[.. All!.Costs.Select(c => r.Of(c) ?? "–")])).Where(r => r.Item2.Any(c => c != "–"));
        }
    }

    private static string? Time(int? minutes) => minutes is { } m ? Words.Minutes(m) : null;

    /// <summary>Letters of the runs, as charts and tables mark them.</summary>
    public const string Letters = "ABCD";

    /// <summary>The photos of the parts that are called alike: a row for each label that at least two runs show.</summary>
    public IEnumerable<(string Label, IReadOnlyList<Photo?> Of)> Shots
    {
        get
        {
            List<Dictionary<string, Photo>> of =
            [
                .. All!.Runs.Select(r => r.Run.Photos.Where(p => p.RemovedAt is null).GroupBy(p => r.Label(p.Section) ?? "the whole piece")
                    .ToDictionary(g => g.Key, g => g.MaxBy(p => p.At)!)),
            ];
            return ReadComparison.Axis(of.SelectMany(x => x.Keys)).Where(l => of.Count(x => x.ContainsKey(l)) > 1)
                .Select(l => (l, (IReadOnlyList<Photo?>)[.. of.Select(x => x.GetValueOrDefault(l))]));
        }
    }

    /// <summary>A mark of a run on a chart: each has a shape of its own, so that none hangs on colour.</summary>
    /// <param name="run">Its place among the runs.</param>
    /// <param name="x">Middle, pixels.</param>
    /// <param name="y">Middle, pixels.</param>
    public static string Mark(int run, double x, double y) => run switch
    {
        0 => $"M{Svg.F(x)} {Svg.F(y - 6)}l6 6-6 6-6-6Z",
        1 => $"M{Svg.F(x - 5)} {Svg.F(y)}a5 5 0 1 0 10 0a5 5 0 1 0-10 0Z",
        2 => $"M{Svg.F(x - 4.5)} {Svg.F(y - 4.5)}h9v9h-9Z",
        _ => $"M{Svg.F(x)} {Svg.F(y - 5)}l5.5 10h-11Z",
    };

    public async Task<IActionResult> OnGetAsync()
    {
        if (!await LoadAsync())
            return NotFound();
        return Page();
    }

    /// <summary>Notes what somebody still knows.</summary>
    public async Task<IActionResult> OnPostAsync()
    {
        if (!await LoadAsync() || All is null)
            return NotFound();
        ReadForm();
        var noted = 0;
        var typed = new List<(TrialRunView Run, Dictionary<string, FactorValue> Values)>();
        for (var i = 0; i < All.Runs.Count; i++)
        {
            var values = new Dictionary<string, FactorValue>();
            foreach (var key in All.Unknown.Concat(All.Differs).Where(f => Asks(f, i) && Form[FieldOf(f.Factor.Key, i)].Trim().Length > 0)
                .Select(f => f.Factor.Key))
            {
                if (SettingRegistry.Find(key) is { } setting)
                {
                    var (number, word, fault) = setting.Read(Form[FieldOf(key, i)]);
                    if (fault is not null)
                        Form.Refuse(FieldOf(key, i), fault);
                    else
                        values[key] = word is null ? FactorValue.Of(number, FactorSource.Typed) : FactorValue.Of(word, FactorSource.Typed);
                    continue;
                }

                var one = new FormState { [key] = Form[FieldOf(key, i)] };
                foreach (var (k, v) in ConditionsForm.Read(one, All.Runs[i], [key], spools[i]))
                    values[k] = v;
                if (one.Errors.TryGetValue(key, out var wrong))
                    Form.Refuse(FieldOf(key, i), wrong);
            }

            typed.Add((All.Runs[i], values));
        }

        if (!Form.IsGood)
            return Refused();
        foreach (var (run, values) in typed.Where(t => t.Values.Count > 0))
        {
            if (!await TryAsync(async () => noted += await reports.ConditionsAsync(run, values)))
                return Refused(409);
        }

        Tell(noted == 0 ? "Nothing was typed." : $"{Words.Plural(noted, "value")} noted; what may be concluded follows it.");
        return Redirect("/runs/compare" + Query);
    }

    private async Task<bool> LoadAsync()
    {
        Ids = [.. Ids.Distinct()];
        if (Ids.Length is 0 or > RunsSideBySide.MostRuns)
            return false;
        First = await comparison.LoadAsync(Ids[0]);
        if (First is null)
            return false;
        if (Ids.Length > 1)
        {
            All = await side.OfAsync(Ids);
            if (All is null)
                return false;
            for (var i = 0; i < All.Runs.Count; i++)
                spools[i] = await spoolBook.OfRunAsync(All.Runs[i]);
        }

        var shown = Ids.ToHashSet();
        if (Ids.Length < RunsSideBySide.MostRuns)
            Others = [.. (await comparison.OthersAsync(First)).Where(o => !shown.Contains(o.Id))];
        return true;
    }
}
