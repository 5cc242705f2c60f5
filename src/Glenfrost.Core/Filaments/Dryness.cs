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
public sealed record DrynessAdvice(string State, bool DryFirst, double Hours, double TemperatureC, double? LossGPerH)
{
    /// <summary>Hours open since it was dry; null where nobody knows.</summary>
    public double? OpenHours { get; init; }

    /// <summary>Hours that it bears open at <see cref="HumidityPercent"/>.</summary>
    public double BearsHours { get; init; }

    /// <summary>Humidity that was reckoned with, %.</summary>
    public double HumidityPercent { get; init; }

    /// <summary>True where somebody logged that humidity.</summary>
    public bool HumidityLogged { get; init; }

    /// <summary>The family that bears those hours; null where it is not known.</summary>
    public string? FamilyName { get; init; }

    /// <summary>What would be right were it not for reel or dryer, °C.</summary>
    public double WantedC { get; init; }

    /// <summary>What reel and dryer allow, °C.</summary>
    public double AllowedC { get; init; }

    /// <summary>True where the reel is what bears no more, false where the dryer reaches no more.</summary>
    public bool ReelBounds { get; init; }

    /// <summary>True where somebody said what the reel bears.</summary>
    public bool ReelSaid { get; init; }

    /// <summary>How many times as long it takes at what reel and dryer allow; 1 where they allow what is right.</summary>
    public double TimesLonger { get; init; } = 1;

    /// <summary>
    /// What a sentence of it needs: hours, °C, loss in g/h, hours open, hours borne, %RH, 1 where somebody logged it; 0 for what is not
    /// known.
    /// </summary>
    public IReadOnlyList<double> Numbers =>
        [Hours, TemperatureC, LossGPerH ?? 0, OpenHours ?? 0, BearsHours, HumidityPercent, HumidityLogged ? 1 : 0];

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
        var want = f.DryingC ?? f.Family?.DryingC ?? 45;
        var hours = f.DryingHours ?? f.Family?.DryingHours ?? 6;
        var reel = f.ReelMaxC ?? UsualReelC;
        var most = Math.Min(reel, f.DryerMaxC ?? double.MaxValue);
        var at = Math.Min(want, most);
        var longer = at < want ? Math.Min(4, Math.Pow(2, (want - at) / 10)) : 1;
        if (at < want)
            hours = Math.Ceiling(hours * longer * 2) / 2;
        var loss = Loss(f);
        var humidity = f.HumidityPercent ?? DrynessFacts.UsualHumidityPercent;
        var bears = f.Family is { } family ? family.OpenHoursLeft(0, humidity) : 150;
        DrynessAdvice Said(string state, bool first, double dryHours, double dryC) => new(state, first, dryHours, dryC, loss)
        {
            OpenHours = f.OpenHours, BearsHours = bears, HumidityPercent = humidity, HumidityLogged = f.HumidityPercent is not null,
            FamilyName = f.Family?.Name,
            WantedC = want, AllowedC = at, ReelBounds = reel <= (f.DryerMaxC ?? double.MaxValue), ReelSaid = f.ReelMaxC is not null,
            TimesLonger = longer,
        };

        if (loss is { } l && l >= StillG)
            return Said("drying", true, Math.Clamp(Math.Ceiling(l / GPerHPerHour), 1, 12), at);
        if (f.OpenHours is not { } open)
            return Said("unknown", true, hours, at);
        if (open <= 0.7 * bears)
            return Said("dry", false, 0, 0);
        if (open <= bears)
            return Said("doubtful", false, hours, at);
        // What is far past its tolerance holds more, and lets go of it more slowly.
        var over = open / bears > 4 ? 1.5 : 1;
        return Said("damp", true, Math.Ceiling(hours * over * 2) / 2, at);
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
