using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FanSteps;

/// <content>A fan sweep on somebody's own model, whose sliced file is stepped.</content>
public sealed partial class FanTrial : IStepsOwnFile
{
    /// <inheritdoc/>
    public string OwnMode => Own;

    /// <inheritdoc/>
    public string Stepped => "fan";

    /// <summary>The most fan stands at the bottom: the range ends where so many sections leave it.</summary>
    public PlanValues FromFile(PlanValues values, FileFacts facts)
    {
        var (v, repeats) = OwnModel.ReadHeld(values, facts);
        if (repeats is not { Sections: > 1 } || v.Number("fanToPercent") is not { } most)
            return v;
        var steps = repeats.Sections - 1;
        var by = Math.Min(v.Number("fanStepPercent") ?? 20, Math.Floor(most / steps));
        (v["fanStepPercent"], v["fanFromPercent"]) = (by, most - steps * by);
        return v;
    }

    /// <inheritdoc/>
    public IEnumerable<FieldError> Against(ITrialPlan plan, FileFacts facts) => OwnModel.Held(
        "nozzleTemperatureC", "The nozzle", ((FanPlan)plan).Request.NozzleTemperatureC, OwnFile.Of(facts)?.NozzleC, "°C", 0.5m);

    /// <inheritdoc/>
    public StepRequest StepsOf(ITrialPlan plan)
    {
        var p = (FanPlan)plan;
        return p.Model!.Steps(Steppable.Fan, (decimal)p.Fans[0], (decimal)p.Fans[^1], p.Request.FanStepPercent);
    }

    /// <inheritdoc/>
    public string FieldOf(string field) => field switch
    {
        "from" => "fanToPercent",
        "to" => "fanFromPercent",
        "by" => "fanStepPercent",
        "base" or "baseMm" or "baseLayers" => "baseLayers",
        _ => "totalLayers",
    };

    /// <inheritdoc/>
    public ITrialPlan With(ITrialPlan plan, FileFacts facts, string name)
    {
        var p = (FanPlan)plan;
        return p with { OwnFileName = name, Estimate = PieceFields.EstimateOf(p.Estimate, facts) };
    }
}
