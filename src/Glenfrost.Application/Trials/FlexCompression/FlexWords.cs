using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlexCompression;

namespace Glenfrost.Application.Trials.FlexCompression;

/// <summary>What cut pieces of soft filament say, in words.</summary>
internal sealed class FlexWords : VerdictWords<FlexVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(FlexVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        var r = v.From;
        if (v.Numbers is { } n)
            return v.Outcome == FlexOutcome.Compression ? Packs(v, n) : PacksNot(v, n);
        var (hand, driven) = (r.HandLengthsMm, r.DrivenLengthsMm);
        if (v.Outcome == FlexOutcome.Repeat)
            return new($"The hand lengths are {Say.N(hand.Max() - hand.Min())} mm apart: repeat them first.")
            {
                Reasons = [$"More than {Say.N(FlexJudging.HandApartMm)} mm between pieces pushed by hand is cutting or stop, not compression."],
                Next = "Square the stub's stop, cut with a fresh blade held flat, and push each piece home with the same slow hand.",
            };
        return new(hand.Count + driven.Count == 0 ? "Nothing is read yet." : $"{hand.Count} by hand and {driven.Count} driven: three of each are the least.");
    }

    private static Wording PacksNot(FlexVerdict v, FlexNumbers n) => new(
        n.CompressionMm < 0
            ? $"The driven pieces are shorter by {Say.N(-n.CompressionMm)} mm: no compression."
            : $"{Say.N(n.CompressionMm)} mm ± {Say.N(n.HalfWidthMm)}: no compression beyond the scatter.")
    {
        Reasons = ["It does not pack in the path, or less than cutting and measuring scatter: the drive's usual retraction is where to begin."],
        Next = "Sweep the retraction over the drive's usual range.",
        Arithmetic = Arithmetic(v, n),
    };

    private static Wording Packs(FlexVerdict v, FlexNumbers n)
    {
        var (start, whole) = (Say.N(n.StartMm), n.PathOverStub != 1);
        return new(
            $"{start} mm is the ceiling. It packs {Say.N(n.CompressionMm)} ± {Say.N(n.HalfWidthMm)} mm in the stub" +
                $"{(whole ? $", {start} over the whole path" : "")}: a sweep begins there and goes down; it is no retraction to keep.")
        {
            Reasons = ["The force at which the gear slips is more than printing needs, so the true retraction lies below it."],
            Warnings = whole ? [] : ["Without the lengths of stub and path it is the stub's own compression: a longer path packs more."],
            Next = $"Sweep the retraction downward from {start} mm.",
            Arithmetic =
            [
                .. Arithmetic(v, n),
                .. whole
                    ? (string[])[$"over the whole path: {Say.N(n.CompressionMm, 3)} × {Say.N(v.From.PathLengthMm!.Value)} ÷ " +
                        $"{Say.N(v.From.StubLengthMm!.Value)} = {start} mm"]
                    : [],
            ],
        };
    }

    private static IReadOnlyList<string> Arithmetic(FlexVerdict v, FlexNumbers n) =>
    [
        $"by hand {string.Join(", ", v.From.HandLengthsMm.Select(x => Say.N(x)))}: mean {Say.N(n.Hand.Mean, 3)} mm",
        $"driven {string.Join(", ", v.From.DrivenLengthsMm.Select(x => Say.N(x)))}: mean {Say.N(n.Driven.Mean, 3)} mm",
        $"compression = {Say.N(n.Driven.Mean, 3)} − {Say.N(n.Hand.Mean, 3)} = {Say.N(n.CompressionMm, 3)} mm ± {Say.N(n.HalfWidthMm, 3)} (Welch, " +
            $"{Say.N(n.Freedom, 1)} degrees of freedom, step {Say.N(v.From.ResolutionMm, 3)} mm)",
    ];
}
