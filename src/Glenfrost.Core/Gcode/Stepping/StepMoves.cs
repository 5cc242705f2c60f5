using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;

namespace Glenfrost.Core.Gcode.Stepping;

/// <summary>From which byte on a value holds; NaN for the file's own.</summary>
/// <param name="Offset">First byte.</param>
/// <param name="Value">The value.</param>
public readonly record struct ValueFrom(long Offset, double Value);

/// <summary>Changes amounts or speeds of moves, by where they stand in the file.</summary>
public sealed class StepMoves : IMoveEdit
{
    private readonly bool stepsLength, stepsRetractSpeed, stepsFlow, stepsSpeed, stepsShare;
    private readonly ValueFrom[] values;
    private readonly double usualLength;
    private int at = -1;
    private double debt, newDebt, value = double.NaN;
    private long next;

    /// <param name="what">Flow (%), retraction length (mm) or speed (mm/s), print speed (mm/s or %).</param>
    /// <param name="values">In order of their offsets.</param>
    /// <param name="usualRetractionMm">Length of the file's own whole retraction: shorter ones stay shorter in proportion.</param>
    public StepMoves(Steppable what, IReadOnlyList<ValueFrom> values, double usualRetractionMm)
    {
        (this.values, usualLength) = ([.. values], usualRetractionMm);
        // Asked for each of millions of moves.
        (stepsLength, stepsRetractSpeed, stepsFlow, stepsSpeed, stepsShare) = (
            what == Steppable.RetractionLength, what == Steppable.RetractionSpeed, what == Steppable.Flow, what == Steppable.Speed,
            what == Steppable.SpeedPercent);
        From = values.Count > 0 ? values[0].Offset : long.MaxValue;
        next = From;
    }

    /// <summary>The first step is at an extruding move: no retraction is open there.</summary>
    public long From { get; }

    /// <summary>What becomes of a move.</summary>
    public MoveChange Change(ref readonly GcodeMove m, MachineState s)
    {
        while (m.Offset >= next)
        {
            value = values[++at].Value;
            next = at + 1 < values.Length ? values[at + 1].Offset : long.MaxValue;
        }

        var e = m.E;
        var feed = m.Feed;
        if (e < 0)
        {
            var pull = e;
            // What is far more than a retraction unloads the filament.
            if (!double.IsNaN(value) && stepsLength && debt - e < 1.5 * usualLength)
                pull = e * value / usualLength;
            if (!double.IsNaN(value) && stepsRetractSpeed && m.Length == 0)
                feed = value;
            debt -= e;
            newDebt -= pull;
            return new(pull, feed);
        }

        if (e == 0)
            return new(0, feed);
        // First what was pulled back comes again, then filament is laid.
        var back = Math.Min(e, debt);
        var laid = e - back;
        if (laid < 1e-7)
            (back, laid) = (e, 0);
        var again = back <= 0 ? 0 : back >= debt - 1e-7 ? newDebt : newDebt * back / debt;
        debt = Math.Max(0, debt - back);
        newDebt -= again;
        if (debt < 1e-7)
            (debt, newDebt) = (0, 0);
        if (double.IsNaN(value))
            return new(back == again ? e : again + laid, feed);
        var prints = laid > 0 && (m.X1 != m.X0 || m.Y1 != m.Y0 || m.Arc != 0);
        if (prints && stepsFlow)
            return new(again + laid * value / 100, feed);
        if (prints && stepsSpeed)
            return new(e, value);
        if (prints && stepsShare)
            return new(e, feed * value / 100);
        if (!prints && m.Length == 0 && stepsRetractSpeed)
            return new(e, value);
        return new(back == again ? e : again + laid, feed);
    }
}
