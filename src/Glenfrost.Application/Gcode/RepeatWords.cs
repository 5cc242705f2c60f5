using Glenfrost.Core.Gcode.Inspection;

namespace Glenfrost.Application.Gcode;

/// <summary>What repeats in a file, in words.</summary>
public static class RepeatWords
{
    /// <summary>Sections and pitch; where a section is no whole number of layers, what that means and at which layer heights it is one.</summary>
    public static string Of(Repeats r)
    {
        if (r.Whole || double.IsNaN(r.LayerHeightMm))
            return $"Read off the file: {Words.Plural(r.Sections, "section")} of {r.SectionLayers} layers.";
        var fitting = r.Fitting.Select(f => $"{Words.N(f.HeightMm, 2)} mm ({f.Layers})").ToList();
        return $"Read off the file: {Words.Plural(r.Sections, "section")} of {Words.N(r.SectionMm, 2)} mm, {Words.N(r.LayersPerSection, 1)} layers each: no " +
            "whole number, so each boundary falls on its nearest layer." +
            (fitting.Count > 0 ? $" Sliced in layers of {string.Join(" or ", fitting)} it comes out whole." : "");
    }
}
