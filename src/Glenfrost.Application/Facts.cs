using Glenfrost.Core.Costs;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Turns records into what the core computes with.</summary>
public static class Facts
{
    /// <summary>Pairings with all that their names, limits and traits need.</summary>
    public static IQueryable<Pairing> Full(this IQueryable<Pairing> pairings) => pairings
        .Include(p => p.Filament!).ThenInclude(f => f.Sources)
        .Include(p => p.Variant)
        .Include(p => p.Toolhead!).ThenInclude(t => t.Printer);

    /// <summary>What a toolhead bears, with its printer loaded.</summary>
    public static HotendLimits LimitsOf(Toolhead t) => HotendLimits.Of(
        t.Liner == "ptfe" ? HotendLiner.PtfeLined : HotendLiner.AllMetal, t.HeaterMaxC, t.NozzleMaxC, t.LinerContinuousC, t.LinerHardC,
        t.OvershootC, t.Printer?.ColdExtrusionC);

    /// <summary>What a pairing's filament costs, in minor units a gram; null where its price or mass is not known.</summary>
    public static double? MinorPerGram(Filament? f) => f is { PriceMinor: { } price, NetMassUg: > 0 and var net } ? price / (net / 1e6) : null;

    /// <summary>What a print on a pairing costs, with its filament, toolhead and printer loaded.</summary>
    public static PrintCost PrintCost(Pairing p, double? grams, double? minutes, double? dryingPerGram = null) =>
        Core.Costs.PrintCost.Of(grams, MinorPerGram(p.Filament), minutes, PowerOf(p.Toolhead?.Printer), dryingPerGram);

    /// <summary>What a printer draws, as far as it was noted.</summary>
    public static Electricity PowerOf(Printer? printer) => printer is null ? Electricity.Unknown : new(printer.PowerW, printer.MinorPerKwh);

    /// <summary>What is said where the toolhead carries another nozzle than the one that a pairing is of; null where it carries that one.</summary>
    public static string? OtherNozzle(Pairing p) =>
        p.Toolhead is not { } t || (t.NozzleDiameterMm == p.NozzleDiameterMm && t.NozzleFlow == p.NozzleFlow)
            ? null
            : $"{t.FullName} carries a {Words.N(t.NozzleDiameterMm)} mm {t.NozzleFlow} nozzle now; this pairing is of {p.NozzleName}. Fit that one first, " +
                "or add a pairing of this filament for the nozzle that is fitted.";

    /// <summary>Union of what the sources say, or the family's range where they say nothing.</summary>
    public static (Span? Span, bool FromLabel) NozzleRange(Filament f)
    {
        var label = Span.Union(f.Sources.Where(s => s.RemovedAt is null).Select(s => new Span(s.NozzleMinC, s.NozzleMaxC)));
        return label is { Min: not null, Max: not null } ? (label, true) : (Family.Find(f.Family)?.NozzleC, false);
    }

    /// <summary>Union of what the sources say of the bed; null where they say nothing.</summary>
    public static Span? BedRange(Filament f) =>
        Span.Union(f.Sources.Where(s => s.RemovedAt is null).Select(s => new Span(s.BedMinC, s.BedMaxC)));

    /// <summary>Filament on toolhead, within a sentence.</summary>
    public static string NameOf(Pairing p) => $"{FilamentName(p)} on {p.Toolhead!.FullName}";

    /// <summary>The filament with its colour.</summary>
    public static string FilamentName(Pairing p) => p.Variant is null ? p.Filament!.Name : $"{p.Filament!.Name}, {p.Variant.Colour}";

    /// <summary>Filament, toolhead and nozzle, for heads.</summary>
    public static string SubjectOf(Pairing p) => $"{FilamentName(p)} · on {p.Toolhead!.FullName}, {p.NozzleName}";

    /// <summary>What makes pairings alike.</summary>
    public static PairingTraits TraitsOf(Pairing p, bool hasKept) => new(
        p.Id, NameOf(p), p.FilamentId, p.Filament!.Family, p.Filament.Additive, p.Toolhead!.Drive == "long-tube", p.NozzleDiameterMm, p.NozzleFlow,
        p.Toolhead.Liner == "ptfe", p.Toolhead.Printer!.Enclosure, hasKept);

    /// <summary>Feed of a toolhead as the lowest stone: confirmed by a check, doubtful after a part that touches it.</summary>
    public static (StoneState State, string? Why) MachineStone(Toolhead t, IEnumerable<Part> parts)
    {
        if (t.FeedCheckedAt is not { } at)
            return (StoneState.Open, null);
        var since = parts
            .Where(p =>
                p.RemovedAt is null
                && p.PrinterId == t.PrinterId
                && p.PairingId is null
                && p.FilamentId is null
                && (p.ToolheadId is null || p.ToolheadId == t.Id)
                && p.FittedAt > at
                && Core.Ageing.AgeingRules.MakesFeedDoubtful(p.Slot))
            .MaxBy(p => p.FittedAt);
        return since is null
            ? (StoneState.Confirmed, null)
            : (
                StoneState.Doubtful,
                $"{(PartSlot.Find(since.Slot)?.Label ?? Core.Ageing.AgeingRules.Find(since.Slot)?.Label ?? since.Slot).InSentence()} changed " +
                    $"{Words.ShortDay(since.FittedAt)}"
            );
    }

    /// <summary>A spool's dryness: hours open since it was opened or last dried, and what its family still tolerates.</summary>
    public static (double? OpenHours, double? HoursLeft, string Text) Dryness(Spool s, string family, double humidityPercent, DateTime now)
    {
        var last = s.Dryings.Where(d => d.RemovedAt is null).MaxBy(d => d.StartAt);
        var dryFrom = last is null ? s.OpenedAt : last.StartAt.AddHours(last.Hours);
        if (dryFrom is not { } from)
            return (null, null, "not opened yet");
        var stays = s.Stays.Where(x => x.RemovedAt is null).Select(x => ((x.At - from).TotalHours, x.Place));
        var (open, sheltered) = SpoolPlaces.Hours(0, Math.Max(0, (now - from).TotalHours), stays);
        var left = Family.Find(family)?.OpenHoursLeft(open, humidityPercent);
        var text = last is null ? $"opened {Words.Ago(from, now)}" : $"dried {Words.Ago(from, now)}";
        return (open, left, sheltered < 1 ? text : $"{text}, {Hours(sheltered)} of it in shelter");
    }

    /// <summary>Hours, or days where they are many.</summary>
    private static string Hours(double hours) => hours < 72 ? Words.Plural((int)Math.Round(hours), "hour") : Words.Plural((int)Math.Round(hours / 24), "day");

    /// <summary>Where a spool lies at a moment: a key of <see cref="SpoolPlaces"/>.</summary>
    public static string PlaceOf(Spool s, DateTime now) =>
        s.Stays.Where(x => x.RemovedAt is null && x.At <= now).OrderBy(x => x.At).LastOrDefault()?.Place ?? SpoolPlaces.Open;

    /// <summary>Whether to dry a spool before strings, flow limit or bond are measured.</summary>
    /// <param name="s">The spool with its filament, dryings and weighings.</param>
    /// <param name="humidityPercent">Of the room; null where nobody measured it.</param>
    /// <param name="dryerMaxC">What the hottest dryer reaches; null where there is none.</param>
    public static DrynessAdvice Advise(Spool s, double? humidityPercent, double? dryerMaxC, DateTime now) =>
        DrynessAdvice.Of(DrynessFactsOf(s, humidityPercent, dryerMaxC, now));

    /// <summary>What is recorded of a spool's dryness at a moment.</summary>
    /// <param name="s">The spool with its filament, dryings and weighings.</param>
    /// <param name="humidityPercent">Of the room; null where nobody measured it.</param>
    /// <param name="dryerMaxC">What the hottest dryer reaches; null where there is none.</param>
    /// <param name="now">The moment.</param>
    public static DrynessFacts DrynessFactsOf(Spool s, double? humidityPercent, double? dryerMaxC, DateTime now)
    {
        double Hours(DateTime at) => (at - now).TotalHours;
        var last = s.Dryings.Where(d => d.RemovedAt is null).MaxBy(d => d.StartAt);
        return new()
        {
            Family = Family.Find(s.Filament?.Family),
            OpenHours =
                s.OpenedAt is null && last is null
                    ? 0
                    : Dryness(s, s.Filament?.Family ?? "", humidityPercent ?? DrynessFacts.UsualHumidityPercent, now).OpenHours,
            HumidityPercent = humidityPercent,
            Weighings = [.. s.Weighings.Where(w => w.RemovedAt is null).Select(w => new SpoolMass(Hours(w.At), w.MassUg / 1e6))],
            LastDrying = last is null ? null : (Hours(last.StartAt), Hours(last.StartAt.AddHours(last.Hours))),
            DryingC = s.Filament?.DryingC,
            DryingHours = s.Filament?.DryingHours,
            DryerMaxC = dryerMaxC,
            ReelMaxC = s.ReelMaxC,
        };
    }
}
