using System.Globalization;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Fixes;

/// <summary>A bed that cools slowly at the end of a print, so that a part doesn't let go at a corner while it shrinks.</summary>
/// <param name="FromC">Bed at the end of the print, °C.</param>
/// <param name="ToC">Where the ramp ends and the bed is switched off, °C.</param>
/// <param name="StepC">Largest step, °C; all steps are equal and none is larger.</param>
/// <param name="HoldMinutes">How long each step is held.</param>
public sealed record CoolDown(double FromC, double ToC, double StepC, double HoldMinutes)
{
    /// <summary>How far above its surroundings a bed gets in any bearable time, °C.</summary>
    public const double AboveSurroundingsC = BedRamp.AboveSurroundingsC;

    /// <summary>Temperatures of the steps, the last one being <see cref="ToC"/>.</summary>
    public IReadOnlyList<double> Steps => [.. Held.Select(s => s.C)];

    /// <summary>The steps with their minutes.</summary>
    public IReadOnlyList<RampStep> Held => BedRamp.Even(FromC, ToC, StepC, HoldMinutes);

    /// <summary>How long it takes at least: an insulated bed may be slower than its steps.</summary>
    public double AtLeastMinutes => Steps.Count * HoldMinutes;

    /// <summary>Checks it.</summary>
    /// <param name="fromC">Bed of the file's end, °C; 0 where none is set.</param>
    /// <param name="toC">As typed.</param>
    /// <param name="stepC">As typed.</param>
    /// <param name="holdMinutes">As typed.</param>
    /// <param name="surroundingsC">The warmer of room and chamber, °C.</param>
    public static (CoolDown? Ramp, IReadOnlyList<FieldError> Errors) Of(double fromC, decimal? toC, decimal? stepC, decimal? holdMinutes, double surroundingsC)
    {
        var errors = new List<FieldError>();
        if (!(fromC > 0))
            errors.Add(new("", "The file sets no bed temperature; there is nothing to cool down from."));
        if (toC is null)
            errors.Add(new("toC", "Down to which temperature? The one at which the part lets go, for example 35 °C."));
        else if ((double)toC < surroundingsC + AboveSurroundingsC)
            errors.Add(
                new(
                    "toC",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{toC} °C may never be reached: the surroundings have {surroundingsC:0.#} °C. " +
                            $"{Math.Ceiling(surroundingsC + AboveSurroundingsC):0} °C or more would be right."
                    ),
                    [
                        new(
                            string.Create(CultureInfo.InvariantCulture, $"{Math.Ceiling(surroundingsC + AboveSurroundingsC):0} °C"),
                            new Dictionary<string, decimal> { ["toC"] = (decimal)Math.Ceiling(surroundingsC + AboveSurroundingsC) }),
                    ]));
        else if (fromC > 0 && (double)toC >= fromC)
            errors.Add(new("toC", string.Create(CultureInfo.InvariantCulture, $"{toC} °C is not below the bed's {fromC:0.#} °C.")));
        if (stepC is null or < 1 or > 50)
            errors.Add(new("stepC", "Steps of 1 to 50 °C would be right; 5 is usual."));
        if (holdMinutes is null or < 0.5m or > 120)
            errors.Add(new("holdMinutes", "0.5 to 120 minutes a step would be right; 3 is usual."));
        if (errors.Count > 0)
            return (null, errors);
        var ramp = new CoolDown(fromC, (double)toC!, (double)stepC!, (double)holdMinutes!);
        if (ramp.AtLeastMinutes > 24 * 60)
            return (
                null,
                [
                    new(
                        "holdMinutes",
                        string.Create(CultureInfo.InvariantCulture, $"That makes {ramp.AtLeastMinutes / 60:0} hours; a day at most would be right.")),
                ]);
        return (ramp, []);
    }
}
