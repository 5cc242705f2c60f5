using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Factors;

/// <summary>Factors of what is printed: settings as our writer used them, and settings as a file says them.</summary>
public static partial class PrintFactors
{
    /// <summary>Every setting that our writer uses, by key of the dictionary.</summary>
    public static IReadOnlyDictionary<string, FactorValue> Of(PrintSettings s)
    {
        var values = new Dictionary<string, double?>
        {
            ["lineWidthMm"] = s.LineWidthMm,
            ["filamentDiameterMm"] = s.FilamentDiameterMm,
            ["extrusionMultiplier"] = s.ExtrusionMultiplier,
            ["outerWallSpeedMmPerS"] = s.OuterWallSpeedMmPerS,
            ["innerWallSpeedMmPerS"] = s.InnerWallSpeedMmPerS,
            ["fillSpeedMmPerS"] = s.FillSpeedMmPerS,
            ["bridgeSpeedMmPerS"] = s.BridgeSpeedMmPerS,
            ["firstLayerSpeedMmPerS"] = s.FirstLayerSpeedMmPerS,
            ["travelSpeedMmPerS"] = s.TravelSpeedMmPerS,
            ["minPrintSpeedMmPerS"] = s.MinPrintSpeedMmPerS,
            ["minLayerTimeS"] = s.MinLayerTimeS,
            ["maxVolumetricFlowMm3PerS"] = s.MaxFlowMm3PerS,
            ["accelerationMmPerS2"] = s.AccelerationMmPerS2,
            ["retractionLengthMm"] = s.RetractionLengthMm,
            ["retractionSpeedMmPerS"] = s.RetractionSpeedMmPerS,
            ["unretractSpeedMmPerS"] = s.UnretractSpeedMmPerS,
            ["retractExtraMm"] = s.RetractExtraMm,
            ["wipeMm"] = s.WipeMm,
            ["zHopMm"] = s.ZHopMm,
            ["fanPercent"] = s.FanPercent,
            ["bridgeFanPercent"] = s.BridgeFanPercent,
            ["fanFirstLayers"] = s.FanFirstLayers,
            ["brimWidthMm"] = s.BrimWidthMm,
            ["bedTemperatureC"] = s.BedTemperatureC,
            ["firstLayerBedTemperatureC"] = s.FirstLayerBedTemperatureC,
            ["chamberTemperatureC"] = s.ChamberTemperatureC,
            ["pressureAdvance"] = s.PressureAdvance,
        };
        var factors = values.Where(v => v.Value is not null).ToDictionary(v => v.Key, v => FactorValue.Of(v.Value!.Value, FactorSource.Plan));
        factors[FactorRegistry.PiecePrefix + "walls"] = FactorValue.Of(s.Walls, FactorSource.Plan);
        factors[FactorRegistry.PiecePrefix + "wallOrder"] = FactorValue.Of(
            s.WallOrder == WallOrder.OuterFirst ? "outer first" : "inner first", FactorSource.Plan);
        factors["coolDown"] = FactorValue.Of(s.CoolDown is { Count: > 0 } ramp ? BedRamp.Of(ramp) : "none", FactorSource.Plan);
        factors[FactorRegistry.WidthModel] = FactorValue.Of(s.Bead == BeadModel.Stadium ? "stadium" : "rectangular", FactorSource.Plan);
        return factors;
    }

    /// <summary>Settings of a job.</summary>
    public static IReadOnlyDictionary<string, FactorValue> Of(PieceJob job) => Of(job.Settings);

    /// <summary>
    /// What a file says as far as it tells: temperatures, fan, retraction, pressure advance, flow override, layer height, speeds. What changes within the model
    /// is left out: it is swept there.
    /// </summary>
    public static IReadOnlyDictionary<string, FactorValue> Read(FileFacts f)
    {
        var read = new Dictionary<string, FactorValue>();
        void Put(string key, double? value)
        {
            if (value is { } v && double.IsFinite(v))
                read[key] = FactorValue.Of(Math.Round(v, 6), FactorSource.File);
        }

        IEnumerable<SettingLine> Of(params SettingKind[] kinds) => f.Settings.Where(s => kinds.Contains(s.Kind) && s.Line <= f.LastExtrudeLine);
        var model = f.Model.ToList();
        if (model.Count == 0)
        {
            Put("nozzleTemperatureC", Only(Of(SettingKind.Nozzle, SettingKind.NozzleAndWait).Where(s => s.Value > 0).Select(s => s.Value)));
            return read;
        }

        var nozzle = Of(SettingKind.Nozzle, SettingKind.NozzleAndWait).Where(s => s.Value > 0).ToList();
        Put("firstLayerNozzleTemperatureC", nozzle.LastOrDefault(s => s.Layer < model[0].Index + 1 && s.Line < model[0].FirstLine)?.Value);
        Put("nozzleTemperatureC", Within(nozzle, model));
        var bed = Of(SettingKind.Bed, SettingKind.BedAndWait).Where(s => s.Value > 0).ToList();
        Put("firstLayerBedTemperatureC", bed.LastOrDefault(s => s.Line < model[0].FirstLine)?.Value);
        Put("bedTemperatureC", Within(bed, model));
        Put("fanPercent", Within([.. Of(SettingKind.Fan)], model));
        Put("pressureAdvance", Only(Of(SettingKind.PressureAdvance).Where(s => s.Line < model[0].FirstLine || s.Layer >= 0).Select(s => s.Value)));
        Put("accelerationMmPerS2", Only(Of(SettingKind.Acceleration).Select(s => s.Value)));
        Put(
            FactorRegistry.FlowOverride,
            Within([.. Of(SettingKind.FlowPercent)], model) ?? (f.Settings.Any(s => s.Kind == SettingKind.FlowPercent) ? null : 100));
        if (f.Retraction.Count > 0)
        {
            read[FactorRegistry.FirmwareRetraction] = FactorValue.Of(f.Retraction.Firmware > 0 ? "yes" : "no", FactorSource.File);
            if (f.Retraction.Firmware == 0 && f.Retraction.Length.Weights.Count(w => w > 0) == 1)
                Put("retractionLengthMm", f.Retraction.Usual);
        }

        // Pieces printed one after another stand alone while they are printed, however many there are.
        read[FactorRegistry.Place] = FactorValue.Of(
            f.Objects > 1
                ? "pieces one after another"
                : FormattableString.Invariant($"one piece around {(f.Box.MinX + f.Box.MaxX) / 2:0}, {(f.Box.MinY + f.Box.MaxY) / 2:0} mm"),
            FactorSource.File);
        if (model.Count > 1 && Only(model.Skip(1).Where(l => l.Object == 0 && !l.Spiral).Select(l => Math.Round(l.Thickness, 3))) is { } height)
            Put("layerHeightMm", height);
        foreach (var (key, value) in Moves(f, model))
            Put(key, value);
        return read;
    }

    /// <summary>Lays what a file says over what the plan says: where both agree the value is proven; where they do not, the file was printed.</summary>
    /// <param name="plan">Values as planned.</param>
    /// <param name="file">From <see cref="Read"/>.</param>
    /// <param name="swept">Factors that the run goes through.</param>
    public static IReadOnlyDictionary<string, FactorValue> Prove(
        IReadOnlyDictionary<string, FactorValue> plan, IReadOnlyDictionary<string, FactorValue> file, IReadOnlyCollection<string> swept)
    {
        var all = new Dictionary<string, FactorValue>(plan);
        foreach (var (key, said) in file)
        {
            if (swept.Contains(key))
                continue;
            var tolerance = Math.Max(FactorRegistry.Find(key)?.Tolerance ?? 0, 1e-6);
            all[key] =
                plan.TryGetValue(key, out var planned) && planned.Number is { } a && said.Number is { } b && Math.Abs(a - b) <= tolerance
                    ? planned with { Proven = true }
                    // What is read off moves may be slowed by a layer time, and does not say that something else was set.
                    : planned is not null && OfMoves.Contains(key) ? planned : said;
        }

        return all;
    }

    /// <summary>The value in force through the model above its first layers; null where it changes there.</summary>
    private static double? Within(IReadOnlyList<SettingLine> lines, IReadOnlyList<LayerFacts> model)
    {
        const int settled = 4;
        var from = model[Math.Min(settled, model.Count - 1)].FirstLine;
        var start = lines.LastOrDefault(s => s.Line <= from);
        var later = lines.Where(s => s.Line > from).Select(s => s.Value).Prepend(start?.Value ?? double.NaN).Where(double.IsFinite).ToList();
        return Only(later);
    }

    private static double? Only(IEnumerable<double> values)
    {
        double? only = null;
        foreach (var v in values)
        {
            if (only is { } o && Math.Abs(o - v) > 1e-6)
                return null;
            only ??= v;
        }

        return only;
    }
}
