using Glenfrost.Core.Trials;

namespace Glenfrost.Application.Trials;

/// <summary>What the form of a plan begins with: what is usual, an earlier plan's values, and what a link asked for.</summary>
public static class PlanStart
{
    /// <summary>Puts what a link asked for over values; what a field does not take is left out, since nobody typed it.</summary>
    /// <param name="trial">The trial.</param>
    /// <param name="context">Machine, settings in force, what is kept and measured.</param>
    /// <param name="values">What is usual, or the values of the plan that is begun from.</param>
    /// <param name="mode">The mode that is asked for; null for the values' own.</param>
    /// <param name="asked">What the link says of a field; empty where it says nothing.</param>
    /// <returns>A mode of the trial, and its values.</returns>
    public static (string Mode, PlanValues Values) Of(Trial trial, PlanContext context, PlanValues values, string? mode, Func<string, string> asked)
    {
        var wanted = mode ?? values.Word("mode");
        var now = trial.Modes.Contains(wanted) ? wanted : trial.Modes[0];
        if (values.Word("mode") != now)
            values = trial.InMode(now, values, context);
        // A field that others follow comes first: they take what is usual for it, and what is asked of them comes over that.
        foreach (var name in trial.Refits)
        {
            if (asked(name) is { Length: > 0 } chosen && trial.Fields[name].Words!.Contains(chosen) && values.Word(name) != chosen)
            {
                values[name] = chosen;
                values = trial.Refit(values, context);
            }
        }

        foreach (var (name, field) in trial.Fields)
        {
            if (asked(name) is not { Length: > 0 } word)
                continue;
            if (field.Quantity is { } q && q.Parse(word).Value is { } number)
                values[name] = number;
            else if (field.Words?.Contains(word) == true)
                values[name] = word;
            else if (field.IsText)
                values[name] = word.Length > field.Longest ? word[..field.Longest] : word;
            else if (field.IsTick)
                values[name] = word == "1";
        }

        return (now, values);
    }
}
