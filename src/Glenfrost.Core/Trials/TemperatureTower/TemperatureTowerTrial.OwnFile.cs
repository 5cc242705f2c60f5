using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <content>A tower on somebody's own model, whose sliced file is stepped.</content>
public sealed partial class TemperatureTowerTrial
{
    /// <inheritdoc/>
    public string OwnMode => Own;

    /// <inheritdoc/>
    public string Stepped => "temperature";

    /// <inheritdoc/>
    public PlanValues FromFile(PlanValues values, FileFacts facts)
    {
        var (v, repeats) = OwnModel.Read(values, facts);
        if (repeats is null)
        {
            v.Remove("sections");
            return v;
        }

        // Temperatures follow the sections that the model has: from the hottest down, in the step that was asked for.
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
            Estimate = PieceFields.EstimateOf(tower.Estimate, facts),
        };
    }
}
