using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <content>How it is printed, and how that ended.</content>
internal sealed partial class RunModel
{
    /// <summary>Settings that may have been turned while it printed.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Turnable { get; } =
    [
        KeyValuePair.Create("", "nothing"), .. new[]
        {
            "extrusionMultiplier", "nozzleTemperatureC", "bedTemperatureC", "fanPercent", "nozzleOffsetMm", "outerWallSpeedMmPerS", "retractionLengthMm",
            "pressureAdvance",
        }
            .Select(k => SettingRegistry.Get(k))
            .Select(d => KeyValuePair.Create(d.Key, d.Quantity.Unit.Length > 0 ? $"{d.Label}, {d.Quantity.Unit}" : d.Label)),
    ];

    public IEnumerable<KeyValuePair<string, string>> Outcomes =>
        [KeyValuePair.Create("whole", "stands whole"), KeyValuePair.Create("ended early", "ended early or was knocked over")];

    /// <summary>Why the kept file must not be printed any more; null where it may be.</summary>
    public string? FileRefused => V.Trial.Refused(V.Plan, Facts.LimitsOf(V.Toolhead));

    public async Task<IActionResult> OnPostStartAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        await OrTellAsync("changed", async () =>
        {
            await reports.StartAsync(
                V, V.Run.ForeseenMinutes is { } foreseen && Simulated.Pace.Prints > 0 ? (int)Math.Ceiling(Simulated.Pace.Of(foreseen)) : null);
        });

        return Redirect($"/runs/{id}#print");
    }

    /// <summary>Makes the file of a run that was planned before files were written, with the file's own times and masses.</summary>
    public async Task<IActionResult> OnPostMakeFileAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage != RunStages.Planned || GcodeFile is not null)
            return Redirect($"/runs/{id}#print");
        try
        {
            if (await plans.MakeFileAsync(V) is { Count: > 0 } errors)
            {
                Form.Notice = $"The file can't be made: {string.Join(" ", errors.Select(e => e.Message))} Change the plan, then it is made with it.";
                Prefill();
                return Refused();
            }

            Tell("The file is ready.");
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab changed this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#print");
    }

    public async Task<IActionResult> OnPostPrintedAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        var run = V.Run;
        ReadForm();
        if (run.Stage != RunStages.Planned)
        {
            Tell($"It was said already that this {V.Trial.Noun} is printed; here are its readings.");
            return Redirect($"/runs/{id}#read");
        }

        var outcome = V.Plan.TotalLayers == 0 ? "whole" : Form.Choice("outcome", "How it ended", ["whole", "ended early"]);
        var early = outcome == "ended early";
        var typed = V.Plan.TotalLayers == 0 ? null
            : (int?)Form.Number("endedAtLayer", V.Plan.LayersPerPiece is null ? RecordFields.Layer : RecordFields.WholePieces, early);
        if (V.Plan.LayersPerPiece is not null && outcome == "whole")
        {
            // Pieces that stand whole are all of them: the field is asked only where fewer do.
            Form["endedAtLayer"] = "";
            typed = null;
        }

        var (layer, wrong) = PrintEnd.Of(V.Plan, V.Trial.Noun, early, Form.IsGood ? typed : null);
        if (wrong is not null)
            Form.Refuse("endedAtLayer", wrong);
        var turned = ReadTurned();
        var minutes = (int?)Form.Number("minutes", RecordFields.PrintMinutes);
        var mass = Form.Number("massG", RecordFields.PieceMassG);
        if (!Form.IsGood)
            return RefusedHere();
        if (IsStale(run, new Dictionary<string, string>()))
            return RefusedHere(409);
        // Only what was pressed: the run before's conditions are said to hold here by the button that says so.
        var conditions = Form["as"] == "last" ? Offers.ToDictionary(o => o.Factor.Key, o => o.Value with { Source = FactorSource.Typed, Proven = false }) : [];
        var report = new PrintReport(outcome, layer, minutes, (double?)mass, Form.Ticked("followed") ? true : null);
        if (!await TryAsync(() => reports.ReportAsync(V, report, conditions, turned)))
            return RefusedHere(409);

        return Redirect($"/runs/{id}#read");
    }

    /// <summary>What was turned at the printer while it printed; null for nothing, or where a field is refused.</summary>
    private LiveTurn? ReadTurned()
    {
        if (Form["turned"].Length == 0)
        {
            if (Form["turnedTo"].Trim().Length > 0)
                Form.Refuse("turned", "Choose what was turned to that value.");
            return null;
        }

        var key = Form.Choice("turned", "what was turned", [.. Turnable.Select(t => t.Key)]);
        if (SettingRegistry.Find(key) is not { } d)
            return null;
        var value = Form.Double("turnedTo", d.Quantity, true);
        var layer = (int?)Form.Number("turnedLayer", RecordFields.Layer);
        if (layer > V.Plan.TotalLayers && V.Plan.TotalLayers > 0)
            Form.Refuse("turnedLayer", $"The plan has {Words.Plural(V.Plan.TotalLayers, "layer")}.");
        return value is { } v ? new(key, FactorValue.Of(v, FactorSource.Live), layer) : null;
    }
}
