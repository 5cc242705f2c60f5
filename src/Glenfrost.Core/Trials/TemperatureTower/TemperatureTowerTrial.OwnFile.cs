using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <content>A tower on somebody's own model, whose sliced file is stepped.</content>
public sealed partial class TemperatureTowerTrial
{
    /// <inheritdoc/>
    public string OwnMode => Own;

    /// <inheritdoc/>
    public PlanValues FromFile(PlanValues values, FileFacts facts)
    {
        var model = facts.Model.TakeWhile(l => l.Object == 0).ToList();
        if (model.Count == 0)
            return values;
        var v = values.With(null);
        v["totalLayers"] = (decimal)model.Count;
        v["layerHeightMm"] = Mm(StepPlanning.Usual(model));
        v["firstLayerHeightMm"] = Mm(model[0].Thickness);
        if (Repeats.Of(facts) is not { } repeats)
        {
            v.Remove("baseLayers");
            v.Remove("sections");
            return v;
        }

        // Temperatures follow the sections that the model has: from the hottest down, in the step that was asked for.
        v["baseLayers"] = (decimal)repeats.BaseLayers;
        v["sections"] = (decimal)repeats.Sections;
        v["roundByHeight"] = !repeats.Whole;
        if (v.Number("hottestC") is { } hot && v.Number("stepC") is { } step)
            v["coolestC"] = hot - (repeats.Sections - 1) * step;
        return v;
    }

    /// <inheritdoc/>
    public StepRequest StepsOf(ITrialPlan plan)
    {
        var tower = (TowerPlan)plan;
        var (first, last) = (tower.Sections[0], tower.Sections[^1]);
        var request = new StepRequest
        {
            What = "temperature", From = first.TemperatureC, To = last.TemperatureC, By = tower.StepC, BaseToo = true, BaseLayers = tower.BaseLayers,
        };
        return tower.LayersPerSection is { } layers
            ? request with { SectionLayers = layers }
            : request with
            {
                BaseLayers = null,
                BaseMm = first.FromZMm,
                SectionMm = last.ToZMm is { } top && first.FromZMm is { } foot
                    ? Math.Round((top - foot) / tower.Sections.Count, 3) : null,
            };
    }

    /// <inheritdoc/>
    public string FieldOf(string field) => field switch
    {
        "from" => "hottestC",
        "to" => "coolestC",
        "by" => "stepC",
        "base" or "baseMm" or "baseLayers" => "baseLayers",
        _ => "sections",
    };

    /// <inheritdoc/>
    public ITrialPlan With(ITrialPlan plan, FileFacts facts, string name)
    {
        var tower = (TowerPlan)plan;
        return tower with
        {
            OwnFileName = name,
            Estimate = tower.Estimate with { Minutes = (int)Math.Ceiling(facts.Seconds / 60), MassG = Math.Round(facts.Grams, 1), FromFile = true },
        };
    }

    private static decimal Mm(double mm) => Math.Round((decimal)mm, 3);
}
