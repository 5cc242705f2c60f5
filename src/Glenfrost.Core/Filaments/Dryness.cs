using System.Globalization;

namespace Glenfrost.Core.Filaments;

/// <summary>A weighing of a spool on a moment's clock.</summary>
/// <param name="Hours">Hours on any clock that runs through.</param>
/// <param name="MassG">Filament and reel, g.</param>
public sealed record SpoolMass(double Hours, double MassG);

/// <summary>What is known of a spool's dryness.</summary>
public sealed record DrynessFacts
{
    /// <summary>Family of the filament; null where it is not known.</summary>
    public Family? Family { get; init; }

    /// <summary>Hours open since it was dry; null where nobody knows.</summary>
    public double? OpenHours { get; init; }

    /// <summary>Humidity that advice reckons with where nobody measured it, %.</summary>
    public const double UsualHumidityPercent = 50;

    /// <summary>Of the room, %; null where nobody measured it.</summary>
    public double? HumidityPercent { get; init; }

    /// <summary>Weighings of one spool, any order; those while it dried tell whether it still loses water.</summary>
    public IReadOnlyList<SpoolMass> Weighings { get; init; } = [];

    /// <summary>Hours at which the last drying began and ended, on the weighings' clock; null where it was never dried.</summary>
    public (double From, double To)? LastDrying { get; init; }

    /// <summary>What the maker says, °C and h; null for the family's.</summary>
    public double? DryingC { get; init; }

    /// <summary>See <see cref="DryingC"/>.</summary>
    public double? DryingHours { get; init; }

    /// <summary>What the dryer reaches, °C; null where there is none or nobody said.</summary>
    public double? DryerMaxC { get; init; }

    /// <summary>What the reel bears, °C; null for the usual of a plastic reel.</summary>
    public double? ReelMaxC { get; init; }
}

/// <summary>Whether to dry a spool before strings, flow limit or bond are measured.</summary>
/// <param name="State">dry, drying, doubtful, damp or unknown.</param>
/// <param name="DryFirst">True where it should be dried before.</param>
/// <param name="Hours">For how long, h; 0 for not at all.</param>
/// <param name="TemperatureC">How hot, °C; 0 for not at all.</param>
/// <param name="LossGPerH">What it last lost, g/h; null where it was not weighed while it dried.</param>
/// <param name="Sentence">In one sentence.</param>
/// <param name="Reasons">With their numbers.</param>
public sealed record DrynessAdvice(
    string State, bool DryFirst, double Hours, double TemperatureC, double? LossGPerH, string Sentence, IReadOnlyList<string> Reasons)
{
    /// <summary>What a plastic reel bears where nobody said, °C.</summary>
    public const double UsualReelC = 80;

    /// <summary>A spool that loses less than this is dry, g/h.</summary>
    public const double StillG = 0.1;

    /// <summary>Grams an hour that another hour of drying settles: 0.4 g an hour are two hours more.</summary>
    public const double GPerHPerHour = 0.2;

    /// <summary>
    /// Advises. Open hours are scaled by humidity (uptake is taken as proportional to it), drying time by temperature: 10 °C less is twice as long (rule of
    /// thumb for diffusion, at
    /// most four times). A spool that still loses mass while it dries is not dry, whatever the clock says.
    /// </summary>
    public static DrynessAdvice Of(DrynessFacts f)
    {
        string N(double v, int d = 0) => v.ToString(d == 0 ? "0" : "0." + new string('#', d), CultureInfo.InvariantCulture);
        var reasons = new List<string>();
        var want = f.DryingC ?? f.Family?.DryingC ?? 45;
        var hours = f.DryingHours ?? f.Family?.DryingHours ?? 6;
        var reel = f.ReelMaxC ?? UsualReelC;
        var most = Math.Min(reel, f.DryerMaxC ?? double.MaxValue);
        var at = Math.Min(want, most);
        if (at < want)
        {
            var longer = Math.Min(4, Math.Pow(2, (want - at) / 10));
            reasons.Add(
                $"{N(want)} °C would be right, but {(reel <= (f.DryerMaxC ?? double.MaxValue) ? $"the reel bears {N(reel)} °C{(f.ReelMaxC is null ? " as a rule" : "")}" : $"the dryer reaches {N(most)} °C")}: {N(longer, 1)} times as long at {N(at)} °C."
            );
            hours = Math.Ceiling(hours * longer * 2) / 2;
        }

        var loss = Loss(f);
        if (loss is { } l && l >= StillG)
        {
            var more = Math.Clamp(Math.Ceiling(l / GPerHPerHour), 1, 12);
            reasons.Insert(0, $"While it dried it still lost {N(l, 2)} g an hour: below {N(StillG, 1)} it is dry.");
            return new(
                "drying", true, more, at, loss, $"It still loses {N(l, 2)} g an hour: {N(more)} {(more == 1 ? "hour" : "hours")} more at {N(at)} °C.", reasons);
        }

        if (f.OpenHours is not { } open)
            return new(
                "unknown", true, hours, at, loss, $"Nobody knows how long it stood open: {N(hours, 1)} h at {N(at)} °C makes it sure.",
                [.. reasons, "It was never noted when it was opened or dried."]);
        var humidity = f.HumidityPercent ?? DrynessFacts.UsualHumidityPercent;
        var bears = f.Family is { } family ? family.OpenHoursLeft(0, humidity) : 150;
        reasons.Add(
            $"Open for {N(open)} h; {f.Family?.Name ?? "this filament"} bears {N(bears)} h at {N(humidity)} " +
                $"%RH{(f.HumidityPercent is null ? ", which is taken for usual: nobody logged the humidity" : "")}."
        );
        if (loss is not null)
            reasons.Add($"When it was weighed last while drying it lost {N(loss.Value, 2)} g an hour: that is dry.");
        var usual = f.HumidityPercent is null ? $" at the usual {N(humidity)} %RH, which nobody logged" : "";
        if (open <= 0.7 * bears)
            return new("dry", false, 0, 0, loss, $"Dry enough: open for {N(open)} of the {N(bears)} h that it bears{usual}.", reasons);
        if (open <= bears)
            return new(
                "doubtful", false, hours, at, loss,
                $"Near its limit: open for {N(open)} of {N(bears)} h{usual}. {N(hours, 1)} h at {N(at)} °C before strings or flow limit costs little.", reasons);
        // What is far past its tolerance holds more, and lets go of it more slowly.
        var over = open / bears > 4 ? 1.5 : 1;
        return new(
            "damp", true, Math.Ceiling(hours * over * 2) / 2, at, loss,
            $"Damp: open for {N(open)} h, {N(open - bears)} h more than it bears{usual}. Dry it for {N(Math.Ceiling(hours * over * 2) / 2, 1)} h at {N(at)} °C first.",
            reasons);
    }

    /// <summary>Humidities that a room in which people work may have, %.</summary>
    private static readonly double[] RoomsMayHave = [20, 40, 60, 80];

    /// <summary>
    /// What the record of a spool says of its state without anybody's advice: "dry" or "damp". Null where it says nothing, and where nobody measured the
    /// humidity and the answer hangs on it.
    /// </summary>
    /// <param name="f">What is known.</param>
    public static string? Recorded(DrynessFacts f)
    {
        static string? Word(DrynessFacts facts) => Of(facts).State switch { "dry" or "doubtful" => "dry", "damp" or "drying" => "damp", _ => null };
        if (f.HumidityPercent is not null)
            return Word(f);
        var answers = RoomsMayHave.Select(h => Word(f with { HumidityPercent = h })).Distinct().ToList();
        return answers.Count == 1 ? answers[0] : null;
    }

    /// <summary>
    /// What a spool lost between its last two weighings of the last drying, g/h; null where it was not weighed twice, half an hour apart or more.
    /// </summary>
    private static double? Loss(DrynessFacts f)
    {
        if (f.LastDrying is not { } d)
            return null;
        var during = f.Weighings.Where(w => w.Hours >= d.From - 0.5 && w.Hours <= d.To + 1).OrderBy(w => w.Hours).ToList();
        if (during.Count < 2)
            return null;
        var last = during[^1];
        var before = during.LastOrDefault(w => last.Hours - w.Hours >= 0.5);
        return before is null ? null : Math.Max(0, (before.MassG - last.MassG) / (last.Hours - before.Hours));
    }
}
