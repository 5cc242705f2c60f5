namespace Glenfrost.Simulation.Pieces;

/// <summary>A stretch of line that had nothing below it.</summary>
/// <param name="LengthMm">Free length, mm.</param>
/// <param name="DisplayC">Nozzle while it was laid, °C.</param>
/// <param name="Fan">0–1.</param>
/// <param name="FlowMm3PerS">mm³/s.</param>
/// <param name="Count">Alike ones.</param>
public sealed record FreeSpan(double LengthMm, double DisplayC, double Fan, double FlowMm3PerS, int Count);

/// <summary>Travels over a gap between two parts of the piece.</summary>
/// <param name="GapMm">Clear width, mm.</param>
/// <param name="RetractedMm">Filament drawn back meanwhile, mm.</param>
/// <param name="Seconds">Time over the gap.</param>
/// <param name="DisplayC">Nozzle, °C.</param>
/// <param name="Count">Alike ones.</param>
/// <param name="WipedMm">Moved over the line while it was drawn back.</param>
/// <param name="CoastedMm">End of the line that was laid by pressure alone.</param>
/// <param name="HopMm">Lift.</param>
/// <param name="RetractMmPerS">How fast it was drawn back; 0 where it was not.</param>
public sealed record Crossing(
    double GapMm, double RetractedMm, double Seconds, double DisplayC, int Count, double WipedMm = 0, double CoastedMm = 0, double HopMm = 0,
    double RetractMmPerS = 0);

/// <summary>Lines laid with one pressure advance.</summary>
/// <param name="K">s.</param>
/// <param name="ChangeMmPerS">Greatest break of speed within a line, mm/s.</param>
public sealed record PressureRun(double K, double ChangeMmPerS);

/// <summary>What happened while one layer of one object was printed: nothing of the material is in it. Times s, lengths mm, temperatures °C.</summary>
public sealed class LayerTrace
{
    /// <summary>Counts objects printed one after another, from 0.</summary>
    public int Object { get; set; }

    /// <summary>Counts layers of the object, from 1.</summary>
    public int Number { get; set; }

    /// <summary>Upper face above the bed.</summary>
    public double ZMm { get; set; }
    /// <summary>Height of the layer, mm.</summary>
    public double HeightMm { get; set; }

    /// <summary>On the printer's clock.</summary>
    public double StartS { get; set; }
    /// <summary>Time of the layer, s.</summary>
    public double Seconds { get; set; }

    /// <summary>Display of the nozzle, mean over the time that it extruded.</summary>
    public double DisplayC { get; set; }
    /// <summary>Bed while it was printed, °C.</summary>
    public double BedC { get; set; }

    /// <summary>0–1, mean over the time that it extruded.</summary>
    public double Fan { get; set; }

    /// <summary>Filament asked for.</summary>
    public double FedMm { get; set; }

    /// <summary>Length of the lines.</summary>
    public double PathMm { get; set; }
    /// <summary>Time of laying, s.</summary>
    public double ExtrudeSeconds { get; set; }

    /// <summary>Sum of length × speed³ of its lines, mm⁴/s³: what shakes the frame.</summary>
    public double Shaking { get; set; }

    /// <summary>Speed of its lines as far as they shake the frame: the cubic mean over their length, mm/s.</summary>
    public double ShakingMmPerS => PathMm > 0 ? Math.Cbrt(Shaking / PathMm) : 0;

    /// <summary>mm³ asked for by flow: entry n is what was laid at n·0.5 up to (n + 1)·0.5 mm³/s.</summary>
    public double[] FlowMm3 { get; set; } = [];

    /// <summary>Filament asked for by place from left to right, in steps of <see cref="PlaceMm"/>; only of the last layers of an object.</summary>
    public double[] FedByX { get; set; } = [];

    /// <summary>How far the lines reach from front to back at each of these places, mm; 0 where there are none.</summary>
    public double[] DepthByX { get; set; } = [];

    /// <summary>Left edge of the first of them, mm.</summary>
    public double FedFromXMm { get; set; }

    /// <summary>Width of a place, mm.</summary>
    public const double PlaceMm = 2;

    /// <summary>Length of lines that hang over the edge below, and by which share of their width.</summary>
    public double OverhangMm { get; set; }
    /// <summary>Share of lines over air, 0 to 1.</summary>
    public double Unsupported { get; set; }
    /// <summary>Bridges.</summary>
    public List<FreeSpan> Spans { get; set; } = [];
    /// <summary>Travels across open air.</summary>
    public List<Crossing> Crossings { get; set; } = [];
    /// <summary>Starts of lines.</summary>
    public int LineStarts { get; set; }

    /// <summary>Filament drawn back before a line begins, mean.</summary>
    public double RetractedMm { get; set; }

    /// <summary>1 for a gear that holds; below it slips.</summary>
    public double Grip { get; set; } = 1;

    /// <summary>1 for a clear nozzle.</summary>
    public double Open { get; set; } = 1;

    /// <summary>True where nothing was fed: a tangle.</summary>
    public bool Starved { get; set; }

    /// <summary>Pressure advance in force, s.</summary>
    public double PressureAdvanceS { get; set; }
    /// <summary>Least X, mm.</summary>
    public double MinX { get; set; } = double.MaxValue;
    /// <summary>Least Y, mm.</summary>
    public double MinY { get; set; } = double.MaxValue;
    /// <summary>Greatest X, mm.</summary>
    public double MaxX { get; set; } = double.MinValue;
    /// <summary>Greatest Y, mm.</summary>
    public double MaxY { get; set; } = double.MinValue;

    /// <summary>Flow at which half of the layer's plastic was laid, mm³/s.</summary>
    public double MeanFlow
    {
        get
        {
            var (sum, by) = (0.0, 0.0);
            for (var i = 0; i < FlowMm3.Length; i++)
                (sum, by) = (sum + FlowMm3[i], by + FlowMm3[i] * (i + 0.5) * 0.5);
            return sum > 0 ? by / sum : 0;
        }
    }
}

/// <summary>Filament fed while the nozzle stood still: into the air.</summary>
/// <param name="AskedMm">Filament asked for, at the steps in force, mm.</param>
/// <param name="FlowMm3PerS">mm³/s.</param>
/// <param name="DisplayC">Nozzle, °C.</param>
public sealed record FreeFeed(double AskedMm, double FlowMm3PerS, double DisplayC);

/// <summary>All that a print left behind, as a trace.</summary>
public sealed class PrintTrace
{
    /// <summary>Layers in the order of printing.</summary>
    public List<LayerTrace> Layers { get; set; } = [];

    /// <summary>What was fed into the air, in turn.</summary>
    public List<FreeFeed> Free { get; set; } = [];

    /// <summary>Lines by pressure advance, in the order in which it was set.</summary>
    public List<PressureRun> Pressure { get; set; } = [];

    /// <summary>True where the gear slipped while it fed into the air.</summary>
    public bool SlipsFree { get; set; }

    /// <summary>Seconds from the first line that was laid to the end of the last one.</summary>
    public double PrintSeconds { get; set; }

    /// <summary>Seconds from switching on to the end, heating included.</summary>
    public double TotalSeconds { get; set; }

    /// <summary>Layer of the first object above which it was knocked off; null where it stands.</summary>
    public double? KnockedAtMm { get; set; }

    /// <summary>Bed once the file had come to its end, with all that it waits for, °C; null in a trace of an earlier version.</summary>
    public double? BedEndC { get; set; }

    /// <summary>Why it ended before its end; null where it did not.</summary>
    public string? EndedBecause { get; set; }

    /// <summary>Filament asked for, without what was drawn back, mm.</summary>
    public double FedMm { get; set; }
}
