namespace Glenfrost.Core.Gcode.Writing;

/// <summary>How the cross-section of a printed line is reckoned. One model a file, named in it.</summary>
public enum BeadModel
{
    /// <summary>Width times height; lines stand side by side.</summary>
    Rectangular,

    /// <summary>A rectangle with half-round ends; lines overlap by what the ends lack.</summary>
    Stadium,
}

/// <summary>Cross-sections of lines, mm and mm².</summary>
public static class Bead
{
    /// <summary>
    /// Distance between neighbouring lines that fills without gap and without surplus: the area over the height.
    /// Rectangular: the width. Stadium: area (w − h)·h + π(h/2)², so w − h(1 − π/4).
    /// </summary>
    public static double Spacing(BeadModel model, double width, double height) => width - RoundEnds(model, height);

    /// <summary>Width of a line that fills the given distance between lines.</summary>
    public static double Width(BeadModel model, double spacing, double height) => spacing + RoundEnds(model, height);

    /// <summary>Cross-section of a line, mm².</summary>
    public static double Area(BeadModel model, double width, double height) => Spacing(model, width, height) * height;

    /// <summary>What round ends take off the width, mm: 0 for a rectangle, h(1 − π/4) for a stadium.</summary>
    public static double RoundEnds(BeadModel model, double height) => model == BeadModel.Stadium ? height * (1 - Math.PI / 4) : 0;
}
