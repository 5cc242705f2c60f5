using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <content>A sweep on somebody's own model, whose sliced file is stepped.</content>
public sealed partial class RetractionTrial : IStepsOwnFile
{
    /// <inheritdoc/>
    public string OwnMode => Own;

    /// <inheritdoc/>
    public string Stepped => "retraction";

    /// <inheritdoc/>
    public PlanValues FromFile(PlanValues values, FileFacts facts) =>
        OwnModel.ReadSwept(values, facts, "from", "to", "step", 2 * (values.Number("to") ?? 2));

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
