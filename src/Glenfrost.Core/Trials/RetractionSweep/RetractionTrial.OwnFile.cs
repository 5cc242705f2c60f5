using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <content>A sweep on somebody's own model, whose sliced file is stepped.</content>
public sealed partial class RetractionTrial : IStepsOwnFile
{
    /// <inheritdoc/>
    public string OwnMode => Own;

    /// <inheritdoc/>
    public string Stepped => "retraction";

    /// <inheritdoc/>
    public PlanValues FromFile(PlanValues values, FileFacts facts)
    {
        var (v, repeats) = OwnModel.ReadHeld(values, facts);
        // What is not swept stays as the file has it.
        if (facts.Retraction.Usual > 0)
            v["retractionLengthMm"] = Math.Round((decimal)facts.Retraction.Usual, 2);
        if (facts.Retraction.UsualSpeed is { } speed)
            v["retractionSpeedMmPerS"] = (decimal)speed;
        if (repeats is { Sections: > 1 } && v.Number("from") is { } least && v.Number("to") is { } most && v.Number("step") is > 0 and var by)
        {
            // As many values as the file has sections; where they would reach twice as far as is usual, in a smaller step.
            if (least + (repeats.Sections - 1) * by > 2 * most)
                by = Math.Floor((2 * most - least) / (repeats.Sections - 1) * 20) / 20;
            if (by > 0)
                (v["step"], v["to"]) = (by, least + (repeats.Sections - 1) * by);
        }

        return v;
    }

    /// <inheritdoc/>
    public IEnumerable<FieldError> Against(ITrialPlan plan, FileFacts facts)
    {
        var r = ((RetractionPlan)plan).Request;
        return
        [
            .. OwnModel.Held("nozzleTemperatureC", "The nozzle", r.NozzleTemperatureC, OwnFile.Of(facts)?.NozzleC, "°C", 0.5m),
            .. r.Factor == "length" ? OwnModel.Held("retractionSpeedMmPerS", "Its speed", r.RetractionSpeedMmPerS, facts.Retraction.UsualSpeed, "mm/s", 1)
                : OwnModel.Held(
                    "retractionLengthMm", "Retraction", r.RetractionLengthMm, facts.Retraction.Usual > 0 ? facts.Retraction.Usual : null, "mm", 0.01m),
        ];
    }

    /// <inheritdoc/>
    public StepRequest StepsOf(ITrialPlan plan)
    {
        var p = (RetractionPlan)plan;
        return p.Request.Model!.Steps(
            p.Request.Factor == "speed" ? Steppable.RetractionSpeed : Steppable.RetractionLength, p.Values[0], p.Values[^1], p.Request.Step);
    }

    /// <inheritdoc/>
    public string FieldOf(string field) => field switch
    {
        "from" => "from",
        "to" => "to",
        "by" => "step",
        "what" => "factor",
        "base" or "baseMm" or "baseLayers" => "baseLayers",
        _ => "totalLayers",
    };

    /// <inheritdoc/>
    public ITrialPlan With(ITrialPlan plan, FileFacts facts, string name)
    {
        var p = (RetractionPlan)plan;
        return p with { OwnFileName = name, Estimate = PieceFields.EstimateOf(p.Estimate, facts) };
    }
}
