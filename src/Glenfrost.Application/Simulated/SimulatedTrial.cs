using Glenfrost.Core.Trials;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Simulated;

/// <summary>What a simulated instrument says of a cell.</summary>
/// <param name="Section">From 0.</param>
/// <param name="Aspect">Of the reading.</param>
/// <param name="Instrument">scale, eyes, calliper, ruler or display.</param>
/// <param name="Shown">Number, unit, step.</param>
/// <param name="Word">A word in place of the number; null for a number.</param>
public sealed record SimulatedReading(int Section, string Aspect, string Instrument, Shown Shown, string? Word = null);

/// <summary>How the pieces of a trial are read on the simulated bench. One for each kind in the catalogue, in the folder of its pages.</summary>
public abstract class SimulatedTrial
{
    private static readonly Lazy<Dictionary<string, SimulatedTrial>> All = new(() =>
        typeof(SimulatedTrial).Assembly.GetTypes().Where(t => !t.IsAbstract && t.IsSubclassOf(typeof(SimulatedTrial)))
            .Select(t => (SimulatedTrial)Activator.CreateInstance(t)!)
            .ToDictionary(t => t.Kind));

    /// <summary>That of a kind.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public static SimulatedTrial Of(string kind) => All.Value[kind];

    /// <summary>Kinds that can be read.</summary>
    public static IReadOnlyCollection<string> Kinds => All.Value.Keys;

    /// <summary>Kind of the trial.</summary>
    public abstract string Kind { get; }

    /// <summary>What the simulated instruments read, in the order of the table.</summary>
    public abstract IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed);

    /// <summary>What a part is like, for its drawn picture; null where there is none.</summary>
    public virtual PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => null;

    /// <summary>A photo of a part as a PNG; null where there is none.</summary>
    public virtual byte[]? Photo(SimulatedPiece piece, ITrialPlan plan, int section) =>
        Picture(piece, plan, section) is { Layers: > 0 } look ? Simulation.Pictures.SectionPicture.Png(look, piece.Seed * 31 + (ulong)section) : null;

    /// <summary>True where the display followed the plan.</summary>
    public virtual bool Followed(SimulatedPiece piece, ITrialPlan plan)
    {
        var planned = LivePrint.Planned(plan);
        return piece.Trace.Layers.Count == 0
            || piece.Trace.Layers.Take(planned.Count).Select((l, i) => Math.Abs(l.DisplayC - planned[i])).Order()
                .ElementAt(Math.Min(planned.Count, piece.Trace.Layers.Count) / 2) < 3;
    }
}
