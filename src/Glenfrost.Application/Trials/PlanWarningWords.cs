using System.Text.Json;
using System.Text.Json.Serialization;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;

namespace Glenfrost.Application.Trials;

/// <summary>The words of what a plan warns of.</summary>
public static class PlanWarningWords
{
    private const string Liner = "the liner's continuous limit. An overheated PTFE liner gives off toxic gas: ventilate and stay with it.";
    private const string Advice = "Advice, not a limit: allowed and marked.";
    private const string StillAir = "Lifted corners and parted layers are told from a wrong temperature only where the air is still.";

    /// <summary>A warning in words.</summary>
    public static string Say(PlanWarning warning)
    {
        var (n, names) = (warning.Numbers, warning.Names);
        string N(int i, int digits = 2) => Core.Settings.Say.N(n[i], digits);
        return warning.Kind switch
        {
            PlanWarningKind.Said => names[0],
            PlanWarningKind.AboveAdvised => $"{N(0)} °C is above the advised {N(1)} °C. {Advice}",
            PlanWarningKind.BelowAdvised => $"{N(0)} °C is below the advised {N(1)} °C. {Advice}",
            PlanWarningKind.AboveContinuous => $"{N(0)} °C is above {N(1)} °C, {Liner}",
            PlanWarningKind.SectionsAboveContinuous => $"{(n.Count > 1 ? $"About {N(1, 0)} min" : "Some sections")} above {N(0)} °C, {Liner}",
            PlanWarningKind.DiameterUnknown =>
                "Nobody measured this spool's diameter: 0.03 mm are 3 % of flow. Three places, two directions, on the spool's page.",
            PlanWarningKind.Oval =>
                $"The filament is oval by {N(0, 3)} mm: flow swings with how it lies in the gear. A figure found on it holds less.",
            PlanWarningKind.Uneven =>
                $"The filament's diameter differs by {N(0, 3)} mm along the spool, {Core.Settings.Say.N(200 * n[0] / n[1], 1)} % of flow: more than a " +
                    "multiplier can settle.",
            PlanWarningKind.OtherDiameter =>
                $"The profile counts with {N(0, 3)} mm, this spool measures {N(1, 3)}: {Core.Settings.Say.Signed(100 * (n[1] * n[1] / (n[0] * n[0]) - 1))} % " +
                    "plastic. Put the measured diameter in the profile first.",
            PlanWarningKind.DryFirst =>
                $"Dry first: {DrynessWords.Sentence(names[0], n)} " +
                    (names[1] == "flow" ? "Damp filament gives a false flow limit." : "Damp filament strings whatever the retraction."),
            PlanWarningKind.DrynessUnknown => "Nobody knows whether the spool is dry: what comes out is suspect until a dry one agrees.",
            PlanWarningKind.Slowed =>
                $"{N(0)} of {Words.Plural((int)n[1], "layer")} {(n[0] == 1 ? "is" : "are")} slowed, to " +
                    $"{(n[2] == n[3] ? N(2) : $"{N(2)} to {N(3)}")} mm/s, by the least layer time of {N(4)} " +
                    $"s{(names is [var from, ..] ? $" ({from})" : "")}: so little plastic a layer would not set. A larger piece or a shorter least " +
                    "time prints " +
                    "nearer the speeds in force.",
            PlanWarningKind.TooShort => $"{Words.Plural((int)n[0], "layer takes", "layers take")} less than {N(1)} s even at " +
                $"{N(2)} mm/s: the shortest {(n[3] < 1 ? N(3, 1) : N(3))} s.",
            PlanWarningKind.WaitsAtChanges => "The print waits at each change until the nozzle is there; the waiting is not in the minutes.",
            PlanWarningKind.NoPrimeLine => "The piece leaves no room for a prime line; its brim or skirt primes the nozzle.",
            PlanWarningKind.OpenPrinter =>
                $"{names[0]} shrinks much, and {names[1]} stands open: keep doors and windows shut and other fans off it, or put something around it. " +
                    StillAir,
            PlanWarningKind.DraughtShieldOnly =>
                $"{names[0]} shrinks much, and {names[1]} has a draught shield alone, which keeps wind off and no warmth in. {StillAir}",
            PlanWarningKind.FanTooFast => $"The fan runs at {N(0, 1)} %; above {N(1, 1)} % {names[0]} lifts and its layers part.",
            PlanWarningKind.NarrowBrim => n[0] > 0 ? $"The brim is {N(0, 1)} mm; {N(1, 1)} mm hold the corners of {names[0]} better."
                : $"There is no brim: {N(1, 1)} mm hold the corners of {names[0]}.",
            PlanWarningKind.CoolBed => $"The bed is at {N(0, 1)} °C; {names[0]} lets go below {N(1, 1)} °C" +
                (n.Count > 2 ? $", and this bed reaches {N(2, 1)} °C: an adhesive for grip, and a small piece." : "."),
            PlanWarningKind.CoolFirstBed => $"The first layer is laid on a bed at {N(0, 1)} °C; {names[0]} asks for {N(1, 1)} °C and more.",
            PlanWarningKind.StiffFilament => $"{names[0]} is stiff: it hardly packs. This is for soft filament.",
            PlanWarningKind.ShortStub => "A stub below 25 mm packs too little to be measured.",
            PlanWarningKind.HeaterLag =>
                $"The heater's lag spoils {N(0)} of {N(1)} layers of a section. A taller section, a smaller step or waiting at each change would leave more " +
                    "to score.",
            PlanWarningKind.Slender =>
                $"Slender: {N(0)} mm tall on {N(1)} mm, {FormattableString.Invariant($"{n[2]:0.0}")} to 1. From {N(3, 0)} to 1 on, a knock of the " +
                    "nozzle fells " +
                    $"it.{(n[4] > 0 ? " The brim helps; it does not make it stiff." : "")}",
            PlanWarningKind.ColderThanPrint =>
                $"{N(0)} °C is colder than the print at {N(1)} °C: a first layer grips worse so. As warm or a little warmer is usual.",
            PlanWarningKind.GripAdhesive => "With an adhesive for grip: note which; it is a factor.",
            PlanWarningKind.ReleaseLayer => "With a release layer: parts that bond too well tear glass or coating.",
            PlanWarningKind.CoarseScale =>
                $"The scale is too coarse for {N(0)} %: with {N(1, 4)} g steps a sample of {N(2, 3)} g tells a loss within ± {N(3, 1)} points. {N(4)} " +
                    "mm would do.",
            PlanWarningKind.CoarseRise => $"Half a millimetre of height is {N(0)} mm³/s: a taller rise, or a narrower range, tells finer.",
            PlanWarningKind.TubeReaches =>
                $"Its fastest part runs at {N(0, 0)} mm/s; acceleration lets a circle of {N(1)} mm run at {N(2)}. Nothing flattens it: the file has no flow " +
                    $"cap and no least layer time, and the extruder needs {N(3, 1)} mm/s of filament.",
            PlanWarningKind.NoReferenceWall =>
                "Nobody measured a wall where it does not foam: the sliced line stands for it. A wall printed cool, at the foot of its range, would be better.",
            PlanWarningKind.ShortLines =>
                $"Of the {N(0, 0)} mm that are fast, {N(1, 0)} are speeding up and braking: a longer line or less speed shows more.",
            PlanWarningKind.FastPartStarved =>
                $"The fast part asks {N(0, 1)} mm³/s, more than the {N(1, 1)} that stand as flow limit: a thin fast part may be starved, not lagging.",
            PlanWarningKind.FineTolerance =>
                $"{N(0)} readings with a 0.01 mm calliper usually tell {N(1, 3)} mm to ± {N(2, 1)} %: {N(3, 1)} % will hardly be shown. Read at more " +
                    "heights, or " +
                    $"take {N(4, 1)} %.",
            PlanWarningKind.LongRetraction =>
                $"Above {N(0)} mm is longer than usual for a {(names[0] == "long-tube" ? "long tube" : "direct drive")}" +
                    $"{(names.Count > 1 ? "; soft filament packs and may need more than that" : "")}: watch for gaps after travel, they are a reading.",
            PlanWarningKind.WideReeds => "Reeds wider than 5 mm hide fine strings.",
            PlanWarningKind.ShortTip =>
                $"At {N(1)} mm/s the last layers of a cone last {N(0, 1)} s at most: of {N(2, 1)} s only what is further down tells.",
            PlanWarningKind.SameFile =>
                $"The other arm was printed from {names[0]} too, and what differs here stands in the file: drop the other slicing, unless this is another " +
                    "file of that name.",
            PlanWarningKind.OverrideInStart =>
                $"The start code of {names[0]} sets the flow to {N(0, 1)} % (M221). The measuring file sets 100 % first, since the feed is what the " +
                    "gear does; " +
                    "measured by hand, send M221 S100 before.",
            PlanWarningKind.FeedBelowAdvised =>
                $"{N(0)} °C is below what this filament is advised at, {N(1)} °C: it may slip for cold. The middle of its range is better.",
            PlanWarningKind.FastFeed => $"{N(0)} mm/min: a gear that slips for want of melting looks like wrong steps. 60 to 100 would be right.",
            PlanWarningKind.FewRepeats => "Fewer than three repeats can't tell slip from a wrong value.",
            _ => throw new ArgumentOutOfRangeException(nameof(warning), $"{warning.Kind} has no words."),
        };
    }

    /// <summary>The warnings of a plan in words.</summary>
    public static IReadOnlyList<string> Said(ITrialPlan plan) => [.. plan.Warnings.Select(Say)];
}

/// <summary>Writes a plan's warnings as the API has always answered them: in words.</summary>
public sealed class SaidWarningConverter : JsonConverter<PlanWarning>
{
    /// <inheritdoc/>
    public override PlanWarning Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        new(PlanWarningKind.Said, [], [reader.GetString() ?? ""]);

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, PlanWarning value, JsonSerializerOptions options) => writer.WriteStringValue(PlanWarningWords.Say(value));
}
