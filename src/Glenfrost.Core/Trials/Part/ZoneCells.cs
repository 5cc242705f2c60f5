using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.Part;

/// <summary>The cells in which a piece is read zone by zone: own parts and verification pieces have the same.</summary>
public static class ZoneCells
{
    /// <summary>Score, what became of it, layer at which it failed, and what was seen.</summary>
    public static IReadOnlyList<GridColumn> Columns(ITrialPlan plan)
    {
        var layers = Math.Max(1, plan.TotalLayers);
        var words = new[] { PartDefect.Nothing }.Concat(PartDefect.All.Select(d => d.Word)).ToList();
        return
        [
            new GridColumn(PartTrial.Score, "score", CellKind.Score) { Anchors = ScoreAnchors.Part },
            new GridColumn(CellAspects.State, "what became of it", CellKind.Word, false) { Words = ReadingGrid.States },
            new GridColumn(PartTrial.FailedAt, "failed at layer", CellKind.Number, false)
            {
                Quantity = new Quantity("Layer", "", 1, layers, "layers of the part count from 1", true), Digits = 0, Resolution = 1,
            },
            .. Enumerable.Range(1, PartTrial.MostDefects).Select(i =>
                new GridColumn($"{PartTrial.Defect}{i}", i == 1 ? "seen" : "seen, too", CellKind.Word, false)
            {
                Words = words,
            }),
        ];
    }

    /// <summary>What is asked about a layer that lies in another zone than the row in which it was typed; null where nothing is.</summary>
    public static string? Elsewhere(ITrialPlan plan, int section, string aspect, double layer) =>
        aspect == PartTrial.FailedAt
        && plan.Parts.ElementAtOrDefault(section) is { } row
        && (layer < row.FirstLayer || layer > row.LastLayer)
        && plan.Parts.FirstOrDefault(p => layer >= p.FirstLayer && layer <= p.LastLayer) is { } zone
            ? $"Layer {Say.N(layer, 0)} is in {zone.Label}, layers {zone.FirstLayer} to {zone.LastLayer}. Is it {row.Label} that failed there?"
            : null;

    /// <summary>True for one of their aspects.</summary>
    public static bool IsAspect(string aspect) => aspect is PartTrial.Score or PartTrial.FailedAt || aspect is [.. PartTrial.Defect, >= '1' and <= '2'];

    /// <summary>Zones as they were read, from the bed up.</summary>
    public static IReadOnlyList<PartZone> Zones(ITrialPlan plan, RunReadings readings, IReadOnlyList<SectionState> states) =>
    [
        .. plan.Parts.Select(p => new PartZone(
            p.Label, readings.Value(p.Index, PartTrial.Score), states[p.Index], (int?)readings.Value(p.Index, PartTrial.FailedAt),
            [
                .. Enumerable.Range(1, PartTrial.MostDefects).Select(i => readings.Text(p.Index, $"{PartTrial.Defect}{i}"))
                    .Where(t => t.Length > 0 && t != PartDefect.Nothing).Distinct(),
            ])),
    ];

    /// <summary>Zones as they were sent.</summary>
    public static IReadOnlyList<PartZone> From(JsonFields json) =>
    [
        .. (json.List("zones", true) ?? []).Take(PartJudging.MostZones + 1).Select(row => new PartZone(
            row.Text("label", 80) ?? "", (double?)row.Number("score"),
            Enum.Parse<SectionState>(row.Word("state", [.. ReadingGrid.States]) ?? ReadingGrid.States[0], true), row.Whole("failedAtLayer", 1, 20000),
            row.TextList("defects", PartDefect.All.Count, 40))),
    ];
}
