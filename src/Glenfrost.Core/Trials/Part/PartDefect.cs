namespace Glenfrost.Core.Trials.Part;

/// <summary>What is seen on a part, and which trials could tell where it comes from.</summary>
/// <param name="Word">As it is ticked.</param>
/// <param name="Suspects">Kinds of trials whose setting is usually behind it, the usual one first; empty where none of ours tells.</param>
/// <param name="Guide">Key of the guide that goes on from it; null where there is none.</param>
public sealed record PartDefect(string Word, IReadOnlyList<string> Suspects, string? Guide = null)
{
    /// <summary>The word for nothing seen.</summary>
    public const string Nothing = "none";

    /// <summary>What may be ticked, in the order of the list.</summary>
    public static IReadOnlyList<PartDefect> All { get; } =
    [
        new("strings", ["retraction-sweep", "temperature-tower", "pressure-advance"], "strings"),
        new("blobs", ["pressure-advance", "retraction-sweep", "wall-flow"], "blobs-and-seams"),
        new("gaps", ["wall-flow", "flow-limit-rising", "extruder-feed"], "under-extrusion"),
        new("starved", ["flow-limit-weighed", "flow-limit-rising", "extruder-feed", "temperature-tower"], "under-extrusion"),
        new("balled on the nozzle", ["first-layer", "temperature-tower"]),
        new("ringing", ["setting-steps"]),
        new("bulged corner", ["pressure-advance", "layer-time", "wall-flow"], "blobs-and-seams"),
        new("bulged seam", ["pressure-advance", "retraction-sweep"], "blobs-and-seams"),
        new("sagging bridge", ["fan-steps", "temperature-tower"], "sagging-bridges"),
        new("curled overhang", ["fan-steps", "layer-time", "temperature-tower"], "sagging-bridges"),
        new("lifted corner", ["first-layer", "temperature-tower"], "warping-corners"),
        new("split layer", ["temperature-tower", "wall-flow", "flow-limit-weighed"], "splitting-layers"),
        new("rough top", ["surface-flow", "wall-flow", "temperature-tower"], "rough-top"),
        new("elephant foot", ["first-layer", "wall-flow"], "elephant-foot"),
        new("stress white", ["temperature-tower"]),
        new("poor fit", ["wall-flow", "first-layer", "extruder-feed"]),
    ];

    /// <summary>The one of that word; null for nothing seen.</summary>
    public static PartDefect? Find(string word) => All.FirstOrDefault(d => d.Word == word);
}
