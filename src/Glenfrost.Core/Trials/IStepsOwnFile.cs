using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Core.Trials;

/// <summary>A trial that can be printed on somebody's own model: its sliced file is stepped by height, and the steps are the plan's sections.</summary>
public interface IStepsOwnFile
{
    /// <summary>Mode in which it takes one.</summary>
    string OwnMode { get; }

    /// <summary>What is stepped in it, in the middle of a sentence.</summary>
    string Stepped { get; }

    /// <summary>What the file says of itself put into the fields: layers and heights, and base and sections where its layers repeat.</summary>
    /// <param name="values">The plan's fields so far.</param>
    /// <param name="facts">The file as it was read.</param>
    PlanValues FromFile(PlanValues values, FileFacts facts);

    /// <summary>How its file is stepped, as a plan asks for it.</summary>
    StepRequest StepsOf(ITrialPlan plan);

    /// <summary>The field that a refusal of stepping belongs to.</summary>
    /// <param name="field">A field of <see cref="StepRequest"/>.</param>
    string FieldOf(string field);

    /// <summary>What the plan says of its file that the file does not say, at the plan's fields; empty where they agree.</summary>
    IEnumerable<Settings.FieldError> Against(ITrialPlan plan, FileFacts facts) => [];

    /// <summary>The plan with its own file: its name, minutes and mass.</summary>
    ITrialPlan With(ITrialPlan plan, FileFacts facts, string name);
}
