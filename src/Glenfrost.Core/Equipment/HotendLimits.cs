namespace Glenfrost.Core.Equipment;

/// <summary>What lines the hotend's throat.</summary>
public enum HotendLiner
{
    /// <summary>A PTFE tube reaches the melt; it gives off toxic gas when overheated.</summary>
    PtfeLined,

    /// <summary>Metal all the way.</summary>
    AllMetal,
}

/// <summary>The temperature limits of a toolhead, put together from its parts. Limits win over every plan and advice.</summary>
/// <param name="MinC">Cold-extrusion limit, °C.</param>
/// <param name="MaxC">Highest temperature that may be set, °C; heater overshoot is already taken off.</param>
/// <param name="ContinuousMaxC">Above it each minute is said and logged, °C; null where there is no such limit.</param>
/// <param name="MaxBecause">Which part sets <paramref name="MaxC"/>, in words.</param>
public sealed record HotendLimits(double MinC, double MaxC, double? ContinuousMaxC, string MaxBecause)
{
    /// <summary>°C a second at which a nozzle follows a new value while it prints; cautious: most are quicker.</summary>
    public const double FollowCPerS = 0.5;

    /// <summary>Cold-extrusion limit unless the printer says otherwise, °C.</summary>
    public const double ColdExtrusionC = 170;

    /// <summary>Continuous limit of a PTFE liner unless its maker says otherwise, °C.</summary>
    public const double PtfeContinuousC = 230;

    /// <summary>Hard limit of a PTFE liner unless its maker says otherwise, °C.</summary>
    public const double PtfeHardC = 240;

    /// <summary>Highest temperature that is proposed by itself, °C: what the liner bears for long where it has such a limit.</summary>
    public double ProposedMaxC => Math.Min(MaxC, ContinuousMaxC ?? MaxC);

    /// <summary>Puts the limits of the parts together: the lowest wins.</summary>
    /// <param name="liner">Hotend liner.</param>
    /// <param name="heaterMaxC">Limit of heater, thermistor and firmware, °C.</param>
    /// <param name="nozzleMaxC">Limit of the nozzle, °C; null where it has none of its own.</param>
    /// <param name="linerContinuousC">The liner maker's own continuous limit, °C.</param>
    /// <param name="linerHardC">The liner maker's own hard limit, °C.</param>
    /// <param name="overshootC">How far the heater overshoots, °C; counts against the hard limits.</param>
    /// <param name="coldExtrusionC">The printer's own cold-extrusion limit, °C.</param>
    public static HotendLimits Of(
        HotendLiner liner, double heaterMaxC, double? nozzleMaxC, double? linerContinuousC, double? linerHardC, double overshootC, double? coldExtrusionC)
    {
        var candidates = new List<(double Max, string Because)> { (heaterMaxC, "heater") };
        if (nozzleMaxC is { } n)
            candidates.Add((n, "nozzle"));
        if (liner == HotendLiner.PtfeLined || linerHardC is not null)
            candidates.Add((linerHardC ?? PtfeHardC, liner == HotendLiner.PtfeLined ? "PTFE liner" : "hotend"));
        var (max, because) = candidates.MinBy(c => c.Max);
        var over = Math.Max(0, overshootC);
        var text = over > 0 ? $"{because}, {max:0} °C less {over:0} °C of heater overshoot" : $"{because}, {max:0} °C";
        double? continuous = linerContinuousC ?? (liner == HotendLiner.PtfeLined ? PtfeContinuousC : null);
        return new(coldExtrusionC ?? ColdExtrusionC, Math.Floor(max - over), continuous, text);
    }
}
