using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>What one feature is in one layer.</summary>
public sealed class FeatureInLayer
{
    /// <summary>Index into <see cref="FileFacts.Features"/>.</summary>
    public required int Feature { get; init; }

    /// <summary>mm of path, mm³, and seconds at the speeds that the file asks for.</summary>
    public double Length, Volume, Asked;
}

/// <summary>One layer as it was really extruded. Lengths in mm, volumes in mm³, times in s.</summary>
public sealed class LayerFacts
{
    /// <summary>From 0, in the order of the file.</summary>
    public required int Index { get; init; }

    /// <summary>Which of several objects printed one after another, from 0.</summary>
    public int Object { get; set; }

    /// <summary>Height of the nozzle, and of its end in a spiral.</summary>
    public double Z { get; set; }

    /// <summary>To what is beneath.</summary>
    public double Thickness { get; set; }

    /// <summary>Rises while it extrudes.</summary>
    public bool Spiral { get; set; }

    /// <summary>Not part of the model: priming before it.</summary>
    public bool Priming { get; set; }

    /// <summary>Line and offset of its first extruding move.</summary>
    public int FirstLine { get; set; }

    /// <summary>See <see cref="FirstLine"/>.</summary>
    public long FirstOffset { get; set; }

    /// <summary>The machine before that move.</summary>
    public required MachineState Before { get; init; }

    /// <summary>Time of the layer, s.</summary>
    public double Seconds { get; set; }

    /// <summary>Of <see cref="Seconds"/>, those that extrude.</summary>
    public double ExtrudeSeconds { get; set; }
    /// <summary>Plastic laid, mm³.</summary>
    public double Volume { get; set; }
    /// <summary>Path laid, mm.</summary>
    public double Length { get; set; }
    /// <summary>Path travelled, mm.</summary>
    public double TravelLength { get; set; }
    /// <summary>Moves.</summary>
    public int Moves { get; set; }
    /// <summary>Retractions.</summary>
    public int Retractions { get; set; }

    /// <summary>Fastest flow reached in it, mm³/s, and its line.</summary>
    public double MaxFlow { get; set; }

    /// <summary>See <see cref="MaxFlow"/>.</summary>
    public int MaxFlowLine { get; set; }

    /// <summary>Seconds and fastest flow asked for, before acceleration takes its part.</summary>
    public double AskedSeconds { get; set; }

    /// <summary>See <see cref="AskedSeconds"/>.</summary>
    public double MaxFlowAsked { get; set; }

    /// <summary>Seconds above the flow limit that was asked about.</summary>
    public double SecondsAbove { get; set; }

    /// <summary>Fastest speed asked for while extruding, mm/s.</summary>
    public double MaxSpeed { get; set; }

    /// <summary>Nozzle temperatures while it is extruded, °C; NaN where none was set.</summary>
    public double NozzleMin { get; set; } = double.NaN;

    /// <summary>See <see cref="NozzleMin"/>.</summary>
    public double NozzleMax { get; set; } = double.NaN;

    /// <summary>Fan while it is extruded, %.</summary>
    public double FanMin { get; set; } = 100;

    /// <summary>See <see cref="FanMin"/>.</summary>
    public double FanMax { get; set; }

    /// <summary>Pressure advance while it is extruded, s; NaN where none was set.</summary>
    public double AdvanceMin { get; set; } = double.NaN;

    /// <summary>See <see cref="AdvanceMin"/>.</summary>
    public double AdvanceMax { get; set; } = double.NaN;

    /// <summary>Shortest and longest retraction in it, mm, and its slowest and fastest, mm/s; NaN where there is none.</summary>
    public double RetractMin { get; set; } = double.NaN;

    /// <summary>See <see cref="RetractMin"/>.</summary>
    public double RetractMax { get; set; } = double.NaN;

    /// <summary>See <see cref="RetractMin"/>.</summary>
    public double RetractSpeedMin { get; set; } = double.NaN;

    /// <summary>See <see cref="RetractMin"/>.</summary>
    public double RetractSpeedMax { get; set; } = double.NaN;

    /// <summary>Slowest speed asked for while extruding, mm/s.</summary>
    public double MinSpeed { get; set; } = double.MaxValue;

    /// <summary>Where it lies, mm.</summary>
    public double MinX { get; set; } = double.MaxValue;
    /// <summary>Least Y, mm.</summary>
    public double MinY { get; set; } = double.MaxValue;
    /// <summary>Greatest X, mm.</summary>
    public double MaxX { get; set; } = double.MinValue;
    /// <summary>Greatest Y, mm.</summary>
    public double MaxY { get; set; } = double.MinValue;

    /// <summary>Its features in the order in which they come first.</summary>
    public List<FeatureInLayer> Features { get; } = new(4);

    /// <summary>The order of its lines, island by island.</summary>
    public LayerOrder Order { get; set; }

    /// <summary>Mean flow while it extrudes, mm³/s.</summary>
    public double MeanFlow => ExtrudeSeconds > 0 ? Volume / ExtrudeSeconds : 0;

    /// <summary>Mean width of a rectangular bead, mm: volume ÷ length ÷ thickness.</summary>
    public double MeanWidth => Length > 0 && Thickness > 0 ? Volume / Length / Thickness : 0;
}
