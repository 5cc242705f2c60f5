using Glenfrost.Core.Equipment;
using Glenfrost.Core.Trials;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Simulated;

/// <summary>What a simulated print was begun with, kept with its job: the same again gives the same piece.</summary>
/// <param name="Fault">One of <see cref="Faults.Names"/>; null for none.</param>
/// <param name="AtMm">Height at which it begins, mm; for garbled lines every how many.</param>
/// <param name="RoomC">°C.</param>
/// <param name="OpenHours">Hours that the spool stood open since it was dry.</param>
/// <param name="HumidityPercent">Of the room.</param>
public sealed record BenchConditions(string? Fault, double? AtMm, double RoomC = 20, double OpenHours = 0, double HumidityPercent = 50)
{
    /// <summary>As the printer knows them.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public Faults Faults => Fault is null ? new Faults() : new Faults().With(Fault, AtMm ?? 0);
}

/// <summary>
/// Puts what is recorded of a pairing on the simulated bench. What is hidden follows from names alone, so that the same filament is the same tomorrow.
/// </summary>
public static class BenchOf
{
    /// <summary>What the name of a simulated printer ends with.</summary>
    public const string Suffix = " (simulated)";

    /// <summary>The printer as it is known; nothing of a plan is in it.</summary>
    public static PrinterSpec Spec(Printer p, Toolhead t, int tools, double roomC, double filamentMm = 1.75) => new()
    {
        Name = p.Name,
        BedXMm = p.BedXMm,
        BedYMm = p.BedYMm,
        HeightMm = p.HeightMm,
        OriginInMiddle = p.OriginInMiddle,
        HeaterMaxC = t.HeaterMaxC,
        BedMaxC = p.BedMaxC,
        ColdExtrusionC = p.ColdExtrusionC ?? 170,
        NozzleMm = t.NozzleDiameterMm,
        FilamentMm = filamentMm,
        Tools = Math.Max(1, tools),
        RoomC = roomC,
        WaitsForCooling = p.Dialect == "macro",
        TalksMacros = p.Dialect == "macro",
        Factory = new PrinterSettings
        {
            StepsPerMm = t.StepsPerMm ?? (t.RotationDistanceMm is { } turn and > 0 ? SimulatedPrinter.StepsPerTurn / turn : 96),
            MaxX = p.MaxSpeedMmPerS,
            MaxY = p.MaxSpeedMmPerS,
            AccelerationX = p.MaxAccelerationMmPerS2,
            AccelerationY = p.MaxAccelerationMmPerS2,
            Print = Math.Min(1000, p.MaxAccelerationMmPerS2),
            Travel = Math.Min(1500, p.MaxAccelerationMmPerS2),
            CornerMm = CornerMm(p),
        },
    };

    /// <summary>Each machine rounds its corners in its own way: between 0.012 and 0.028 mm.</summary>
    private static double CornerMm(Printer p) => 0.012 + 0.016 * new Chance(Chance.Hash(Plain(p.Name))).Of("corner").Uniform();

    /// <summary>The hidden toolhead.</summary>
    public static HiddenMachine Machine(Printer p, Toolhead t) =>
        HiddenMachine.Draw(
            Chance.Hash($"{Plain(p.Name)}/{t.Name}"), t.NozzleDiameterMm, t.NozzleFlow == "high-flow", t.Drive == "long-tube" ? t.TubeLengthMm ?? 420 : null,
            p.Enclosure);

    /// <summary>The hidden filament.</summary>
    /// <param name="openHours">Hours that its spool stood open since it was dry; 0 where nothing is known.</param>
    public static HiddenMaterial Material(Filament f, double openHours = 0, double humidityPercent = 50) =>
        HiddenMaterial.Draw(f.Family, Chance.Hash($"{f.Maker}/{f.Line}")).After(openHours, humidityPercent);

    /// <summary>What is loaded where a trial is of a toolhead and nobody says what: plain PLA of no particular make.</summary>
    public static Filament Whatever { get; } = new() { Maker = "whatever", Line = "is loaded", Family = "PLA" };

    /// <summary>All of it for one print.</summary>
    public static SimulatedBench For(Pairing? p, Toolhead head, int tools, ulong seed, BenchConditions conditions)
    {
        var (printer, filament) = (head.Printer!, p?.Filament ?? Whatever);
        var (nozzle, highFlow) = (p?.NozzleDiameterMm ?? head.NozzleDiameterMm, (p?.NozzleFlow ?? head.NozzleFlow) == "high-flow");
        // The pairing's nozzle is the one that is fitted for its runs.
        var machine = Machine(printer, head);
        var fitted = machine with { NozzleMm = nozzle, HighFlow = highFlow, FeedRatio = machine.FeedRatio * FeedShare(head) };
        return new(
            Spec(printer, head, tools, conditions.RoomC, filament.DiameterMm) with { NozzleMm = nozzle },
            Material(filament, conditions.OpenHours, conditions.HumidityPercent), fitted, seed);
    }

    /// <summary>What a new value of the feed makes of it, against the value that the hidden feed was drawn for: the first one that stood.</summary>
    public static double FeedShare(Toolhead t) => t.FirstFeedValue is not { } first || first <= 0 ? 1
        : t.StepsPerMm is { } steps ? steps / first : t.RotationDistanceMm is { } distance && distance > 0 ? first / distance : 1;

    private static string Plain(string name) => name.EndsWith(Suffix, StringComparison.Ordinal) ? name[..^Suffix.Length] : name;
}
