using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;

namespace Glenfrost.Application.Trials.ExtruderFeed;

/// <summary>What a feed measurement says, in words.</summary>
internal sealed class FeedWords : VerdictWords<FeedVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(FeedVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        var r = v.From;
        if (v.Numbers is not { } n)
            return r.Readings.Count == 0
                ? new("Nothing is read yet.")
                : new($"The mark went in: more than {Say.N(r.Readings.Max(x => x.MarkMm))} mm were fed where {Say.N(r.CommandedMm)} were asked.")
                {
                    Reasons = ["A mark that went in says \"more than\", not how much."],
                    Next = $"Mark at {Say.N(v.Next!.Values!["markMm"])} mm and feed again.",
                };
        return new(Sentence(v, n))
        {
            Reasons = Reasons(v, n), Warnings = [.. v.Cautions.Select(c => Caution(c, v, n))], Next = Next(v, n), Arithmetic = Arithmetic(v, n),
        };
    }

    /// <inheritdoc/>
    protected override FeedVerdict WithInner(FeedVerdict v) =>
        v with { Commands = [.. v.Commands.Select(c => c with { Note = Note(Dialect.Of(v.From.Dialect), c) })] };

    /// <summary>What a way to make the value last overwrites or leaves.</summary>
    private static string Note(Dialect dialect, FeedCommand command)
    {
        // Where steps are not set by a command, the value lives in a file that the printer reads as it starts.
        var inFile = dialect.StepsPerMm is null;
        return command.Way switch
        {
            "until-restart" => "Holds until the printer restarts; nothing else changes.",
            "store" when inFile =>
                "Goes into the extruder's part of the configuration file, in place of the line that stands there; the printer restarts to read it, and what " +
                    "was set but not saved (mesh, offset) is gone. Note bed mesh and nozzle offset first.",
            "store" =>
                $"{dialect.Store} stores every other value that is set now too, tried ones among them, over what was stored before. Note bed mesh and nozzle " +
                    "offset first.",
            "start-code" =>
                $"A line in the start code sets it before each print; it beats the {(inFile ? "file" : "stored value")}, so a later change there has no " +
                    "effect until this line goes.",
            _ => $"This printer's dialect ({dialect.Label}) takes the other form of the value: enter it there, note bed mesh and nozzle offset first.",
        };
    }

    private static string Unit(FeedVerdict v) => v.From.StepsPerMm is null ? "mm a turn" : "steps per mm";

    private static string Sentence(FeedVerdict v, FeedNumbers n)
    {
        var (mean, asked) = (Say.N(n.Mean.Mean), Say.N(v.From.CommandedMm));
        return v.Outcome switch
        {
            FeedOutcome.Unsteady => $"The repeats differ by {Say.N(n.SpreadPercent, 1)} %: it slips or loses steps, and no value mends that.",
            FeedOutcome.WithinTolerance => $"{mean} mm for {asked}: within {Say.N(n.ToleranceMm)} mm. {Say.N(n.Tried, 3)} {Unit(v)} stands.",
            _ => $"{Say.N(n.Value, 3)} {Unit(v)}. {mean} mm came where {asked} were asked, at {Say.N(n.Tried, 3)}.",
        };
    }

    private static IReadOnlyList<string> Reasons(FeedVerdict v, FeedNumbers n)
    {
        if (v.Outcome == FeedOutcome.Unsteady)
            return
            [
                $"{Say.N(n.LeastMm)} to {Say.N(n.MostMm)} mm: {Say.N(n.RangeMm)} mm apart, where ruler and marker alone make {Say.N(n.RulerMm)}.",
                "Hold the filament while it feeds: does it stop while the gear turns (slip), or does the gear stop (skipped steps)?",
            ];
        var off = v.Outcome == FeedOutcome.WithinTolerance ? ""
            : $"; off by {Say.Signed(100 * (n.Mean.Mean / v.From.CommandedMm - 1))} %, more than the tolerance of {Say.N(n.ToleranceMm)} mm";
        return [$"{Say.Plural(n.Mean.Count, "repeat")}, {Say.N(n.SpreadPercent, 1)} % apart{off}."];
    }

    private static string Caution(FeedCaution caution, FeedVerdict v, FeedNumbers n)
    {
        switch (caution)
        {
            case FeedCaution.MarksWentIn:
                var gone = v.From.Readings.Where(x => x.MarkGone).ToList();
                return $"{Say.Plural(gone.Count, "mark")} went in and {(gone.Count == 1 ? "counts" : "count")} as \"more than " +
                    $"{Say.N(gone.Min(x => x.MarkMm))} mm\"; the mean leaves {(gone.Count == 1 ? "it" : "them")} out and is too low for it. Use a longer mark.";
            case FeedCaution.LargeChange:
                return $"A change of {Say.N(Math.Abs(n.ChangePercent), 1)} % is no wear: look at the unit (steps or rotation distance), the gear that is " +
                    "fitted and the microsteps before you take it.";
            default:
                return $"{Say.Plural(n.Mean.Count, "repeat")} can't tell a feed that slips from one that is off: three would.";
        }
    }

    private static string? Next(FeedVerdict v, FeedNumbers n) => v.Outcome switch
    {
        FeedOutcome.Unsteady => "Find out whether it slips or skips, mend that, then measure again.",
        FeedOutcome.WithinTolerance => null,
        _ => $"One check run at {Say.N(n.Value, 3)} {Unit(v)}: the printer's value changes when that is within tolerance.",
    };

    private static IReadOnlyList<string> Arithmetic(FeedVerdict v, FeedNumbers n)
    {
        var (r, m) = (v.From, n.Mean);
        return
        [
            $"delivered = mark − left: {string.Join(", ", v.DeliveredMm.Select(d => d is { } mm ? Say.N(mm) : "more than the mark"))} mm",
            $"mean {Say.N(m.Mean)} mm, range {Say.N(n.RangeMm)} mm = {Say.N(n.SpreadPercent, 1)} %; ruler and marker alone stay within {Say.N(n.RulerMm)} mm " +
                "in 95 of 100",
            double.IsFinite(m.HalfWidth)
                ? $"u² = s²/n + r²/12 = {Say.N(m.Sd, 3)}²/{m.Count} + {Say.N(r.ResolutionMm)}²/12, so ± {Say.N(m.HalfWidth)} mm at 95 %"
                : "one value: its scatter is not known",
            r.StepsPerMm is null
                ? $"{Say.N(n.Tried, 3)} × {Say.N(m.Mean)} ÷ {Say.N(r.CommandedMm)} = {Say.N(n.Value, 3)} mm a turn"
                : $"{Say.N(n.Tried)} × {Say.N(r.CommandedMm)} ÷ {Say.N(m.Mean)} = {Say.N(n.Value)} steps per mm",
        ];
    }
}
