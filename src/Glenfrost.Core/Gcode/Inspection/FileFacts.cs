using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>What is known beside the file.</summary>
public sealed record InspectionRequest
{
    /// <summary>Name of the file, as far as it says what it is.</summary>
    public string Name { get; init; } = "";

    /// <summary>Limits for the time; null for the speeds that the file asks for, without acceleration.</summary>
    public MotionLimits? Motion { get; init; } = MotionLimits.Usual;

    /// <summary>The printer, where one was chosen: its limits are checked.</summary>
    public Machine? Machine { get; init; }

    /// <summary>mm.</summary>
    public double FilamentDiameterMm { get; init; } = 1.75;

    /// <summary>g/cm³.</summary>
    public double DensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Price of a kilogram, minor units; null where it is not known.</summary>
    public double? PriceMinorPerKg { get; init; }

    /// <summary>Currency of it.</summary>
    public string Currency { get; init; } = "";

    /// <summary>Flow that the pairing bears, mm³/s; null where none is kept.</summary>
    public double? FlowLimit { get; init; }

    /// <summary>Moves per second that the printer's controller takes.</summary>
    public double MostMovesPerSecond { get; init; } = 600;
}

/// <summary>What a line of a file sets.</summary>
public enum SettingKind
{
    /// <summary>Nozzle temperature, without waiting.</summary>
    Nozzle,
    /// <summary>Nozzle temperature, waited for.</summary>
    NozzleAndWait,
    /// <summary>Bed temperature, without waiting.</summary>
    Bed,
    /// <summary>Bed temperature, waited for.</summary>
    BedAndWait,
    /// <summary>Chamber temperature.</summary>
    Chamber,
    /// <summary>Part fan.</summary>
    Fan,
    /// <summary>Flow override.</summary>
    FlowPercent,
    /// <summary>Speed override.</summary>
    SpeedPercent,
    /// <summary>Pressure advance.</summary>
    PressureAdvance,
    /// <summary>Retraction by firmware.</summary>
    RetractLength,
    /// <summary>Acceleration.</summary>
    Acceleration,
    /// <summary>Absolute extrusion.</summary>
    AbsoluteE,
    /// <summary>Relative extrusion.</summary>
    RelativeE,
    /// <summary>Absolute moves.</summary>
    AbsoluteXyz,
    /// <summary>Relative moves.</summary>
    RelativeXyz,
    /// <summary>Inches in place of millimetres.</summary>
    Inches,
    /// <summary>Change of the tool.</summary>
    Tool,
    /// <summary>Pause, or change of filament.</summary>
    Pause,
    /// <summary>Extrusion in mm³.</summary>
    Volumetric,
}

/// <summary>A line that sets something.</summary>
/// <param name="Kind">What.</param>
/// <param name="Value">In °C, %, s, mm or mm/s².</param>
/// <param name="Tool">Toolhead, from 0.</param>
/// <param name="Line">Line, from 1.</param>
/// <param name="Offset">Its first byte.</param>
/// <param name="Length">Bytes without the line feed.</param>
/// <param name="Layer">Layer that was being printed; -1 before the first.</param>
/// <param name="Z">Height of the nozzle then, mm.</param>
public sealed record SettingLine(SettingKind Kind, double Value, int Tool, int Line, long Offset, int Length, int Layer, double Z);

/// <summary>A line that waits.</summary>
/// <param name="Letter">S or P, as it is written.</param>
/// <param name="Value">The number behind it: seconds behind S, milliseconds behind P.</param>
/// <param name="Line">Line, from 1.</param>
/// <param name="Offset">Its first byte.</param>
/// <param name="Length">Bytes without the line feed.</param>
/// <param name="Layer">Layer that was being printed; -1 before the first.</param>
public sealed record DwellLine(char Letter, double Value, int Line, long Offset, int Length, int Layer)
{
    /// <summary>s.</summary>
    public double Seconds => Letter == 'S' ? Value : Value / 1000;
}

/// <summary>A feature as the file names it.</summary>
/// <param name="Name">Its name there.</param>
public sealed record FeatureFacts(string Name)
{
    /// <summary>Path laid, mm.</summary>
    public double Length { get; set; }
    /// <summary>Plastic laid, mm³.</summary>
    public double Volume { get; set; }
    /// <summary>Time that it takes, s.</summary>
    public double Seconds { get; set; }
}

/// <summary>A line that could not be read.</summary>
/// <param name="Line">Its number.</param>
/// <param name="Why">What is wrong.</param>
/// <param name="Text">Its beginning.</param>
public sealed record UnreadLine(int Line, string Why, string Text);

/// <summary>Retraction as the file really does it.</summary>
public sealed class RetractionFacts
{
    /// <summary>How often.</summary>
    public int Count { get; set; }

    /// <summary>Of them, in firmware (G10).</summary>
    public int Firmware { get; set; }

    /// <summary>Length, mm.</summary>
    public Histogram Length { get; } = new(0.01, 2000);

    private readonly double[] sums = new double[2000];

    /// <summary>The one that the file does most, mm: the mean of those within 0.01 mm; 0 where there is none.</summary>
    public double Usual
    {
        get
        {
            var most = Length.Weights.Max();
            return most <= 0 ? 0 : Length.Weights.Select((w, i) => (w, i)).Where(x => x.w == most).Select(x => sums[x.i] / x.w).First();
        }
    }

    /// <summary>Counts one.</summary>
    public void Add(double mm)
    {
        Count++;
        Length.Add(mm + 1e-9, 1);
        sums[(int)Math.Clamp((mm + 1e-9) / Length.Width, 0, sums.Length - 1)] += mm;
    }

    /// <summary>Speed back and forth, mm/s.</summary>
    public Histogram Speed { get; } = new(1, 250);

    /// <summary>The speed at which the file pulls back most often, mm/s, to 1 mm/s; null where it never does by itself.</summary>
    public double? UsualSpeed
    {
        get
        {
            var most = Speed.Weights.Max();
            return most <= 0 ? null : Array.IndexOf([.. Speed.Weights], most) * Speed.Width;
        }
    }

    /// <summary>See <see cref="Speed"/>.</summary>
    public Histogram ReturnSpeed { get; } = new(1, 250);

    /// <summary>Lift before travel, mm.</summary>
    public Histogram Hop { get; } = new(0.01, 1000);

    /// <summary>mm of path while it pulls back.</summary>
    public double WipeLength { get; set; }

    /// <summary>Travels of more than 2 mm without one.</summary>
    public int LongTravelsWithout { get; set; }
}

/// <summary>Everything that a file was found to be. Lengths in mm, volumes in mm³, times in s.</summary>
public sealed class FileFacts
{
    /// <summary>What was asked.</summary>
    public required InspectionRequest Request { get; init; }
    /// <summary>Size, bytes.</summary>
    public long Bytes { get; set; }
    /// <summary>Lines of the file.</summary>
    public int Lines { get; set; }
    /// <summary>Lines that end with a carriage return too.</summary>
    public int CarriageReturns { get; set; }
    /// <summary>Lines that are too long for most firmware.</summary>
    public int LongLines { get; set; }
    /// <summary>Moves of any kind.</summary>
    public int Moves { get; set; }
    /// <summary>Arcs among them.</summary>
    public int Arcs { get; set; }

    /// <summary>Commands and macros that mean nothing here, with how often they come.</summary>
    public SortedDictionary<string, int> Unknown { get; } = new(StringComparer.Ordinal);

    /// <summary>Lines with such commands.</summary>
    public int UnknownLines { get; set; }

    /// <summary>The last macros of the printer's owner, with their lines; at most 200.</summary>
    public List<(string Name, int Line)> OwnMacros { get; } = [];

    /// <summary>Lines that let the motors go (M84, M18), with their first bytes; the last 50.</summary>
    public List<(int Line, long Offset)> MotorsOff { get; } = [];

    /// <summary>Last line that homes Z, from 1; 0 for none: behind it the nozzle's height is not known here.</summary>
    public int HomedZLine { get; set; }

    /// <summary>Line at which a cool-down of ours begins, from 1; 0 for none.</summary>
    public int CoolDownLine { get; set; }

    /// <summary>Lines that could not be read, and the first twenty.</summary>
    public int UnreadLines { get; set; }

    /// <summary>See <see cref="UnreadLines"/>.</summary>
    public List<UnreadLine> Unread { get; } = [];

    /// <summary>Time of all moves and pauses, heating not counted.</summary>
    public double Seconds { get; set; }
    /// <summary>Time of laying, s.</summary>
    public double ExtrudeSeconds { get; set; }
    /// <summary>Time of travelling, s.</summary>
    public double TravelSeconds { get; set; }
    /// <summary>Time of waiting, s.</summary>
    public double DwellSeconds { get; set; }

    /// <summary>Filament fed for good: what was pulled back and pushed forward again counts once.</summary>
    public double FilamentMm { get; set; }
    /// <summary>Plastic extruded, mm³.</summary>
    public double Volume { get; set; }

    /// <summary>Of it, while nothing moved.</summary>
    public double StandingVolume { get; set; }

    /// <summary>Of it, in lines before the model.</summary>
    public double PrimingVolume { get; set; }

    /// <summary>Volume of a mm of filament, mm³.</summary>
    public double FilamentArea => Math.PI / 4 * Request.FilamentDiameterMm * Request.FilamentDiameterMm;
    /// <summary>Mass of it, g.</summary>
    public double Grams => Volume / 1000 * Request.DensityGPerCm3;

    /// <summary>Minor units of the currency; null without a price.</summary>
    public double? Cost => Request.PriceMinorPerKg is { } p ? Grams / 1000 * p : null;

    /// <summary>Bed while the last line is laid, °C; 0 where the file never sets it.</summary>
    public double BedC => Settings.LastOrDefault(s => s.Kind is SettingKind.Bed or SettingKind.BedAndWait && s.Line < LastExtrudeLine)?.Value ?? 0;

    /// <summary>Layers in the order of printing.</summary>
    public List<LayerFacts> Layers { get; set; } = [];

    /// <summary>Layers of the model: priming told apart.</summary>
    public IEnumerable<LayerFacts> Model => Layers.Where(l => !l.Priming);
    /// <summary>Objects printed one after the other; 0 where the file names none.</summary>
    public int Objects { get; set; }

    /// <summary>More heights than are told apart: the last layer holds the rest.</summary>
    public bool TooManyLayers { get; set; }
    /// <summary>What was laid by kind of line.</summary>
    public List<FeatureFacts> Features { get; } = [];

    /// <summary>Seconds at each flow, mm³/s.</summary>
    public Histogram Flow { get; } = new(0.1, 2000);

    /// <summary>Seconds of moves by the fastest flow that each gets to, mm³/s.</summary>
    public Histogram PeakFlow { get; } = new(0.1, 2000);

    /// <summary>mm of path of each width, mm.</summary>
    public Histogram Width { get; } = new(0.01, 400);

    /// <summary>mm of travel across the model at each speed, mm/s; lifts and hops of under 2 mm are none.</summary>
    public Histogram TravelSpeed { get; } = new(1, 1000);

    /// <summary>Greatest flow, mm³/s.</summary>
    public double MaxFlow { get; set; }
    /// <summary>Line of the greatest flow, from 1.</summary>
    public int MaxFlowLine { get; set; }
    /// <summary>Layer of the greatest flow, from 0; −1 where there is none.</summary>
    public int MaxFlowLayer { get; set; } = -1;

    /// <summary>Seconds above the limit asked about.</summary>
    public double SecondsAbove { get; set; }
    /// <summary>Flow over time.</summary>
    public FlowChart Chart { get; } = new();
    /// <summary>Retractions.</summary>
    public RetractionFacts Retraction { get; } = new();

    /// <summary>Lines that set something, in order, at most <see cref="MostSettings"/>.</summary>
    public List<SettingLine> Settings { get; } = [];

    /// <summary>Most setting lines that are kept.</summary>
    public const int MostSettings = 100_000;

    /// <summary>Lines that wait, in order, at most <see cref="MostDwells"/>.</summary>
    public List<DwellLine> Dwells { get; } = [];

    /// <summary>Most lines that wait which are kept.</summary>
    public const int MostDwells = 10_000;

    /// <summary>Least layer time that the file states in a comment, s; null where it states none.</summary>
    public double? StatedLayerTimeS { get; set; }

    /// <summary>Marks of steps of ours: their comment lines.</summary>
    public List<string> StepMarks { get; } = [];

    /// <summary>The file says in words that it is a tower.</summary>
    public bool SaysTower { get; set; }
    /// <summary>Pictures within the file.</summary>
    public int Thumbnails { get; set; }

    /// <summary>First extrusion while the nozzle was not known to be warm, and how many.</summary>
    public int ColdMoves { get; set; }
    /// <summary>First line that extrudes below the cold-extrusion limit, from 1; 0 for none.</summary>
    public int ColdLine { get; set; }
    /// <summary>Nozzle there, °C.</summary>
    public double ColdC { get; set; }
    /// <summary>Moves that leave the bed.</summary>
    public int BesideMoves { get; set; }
    /// <summary>First line of them, from 1; 0 for none.</summary>
    public int BesideLine { get; set; }
    /// <summary>Where it leads, in words.</summary>
    public string BesideWhere { get; set; } = "";
    /// <summary>True where plastic is laid there.</summary>
    public bool BesideExtrudes { get; set; }

    /// <summary>Seconds in which more moves come than the controller takes, the worst rate and its line.</summary>
    public double CrowdedSeconds { get; set; }
    /// <summary>Greatest number of moves within a second.</summary>
    public double MostMovesPerSecond { get; set; }
    /// <summary>Line where that is, from 1.</summary>
    public int MostMovesLine { get; set; }

    /// <summary>Largest cross-section of a single move, mm², and its line: far above a nozzle's own something is wrong with E.</summary>
    public double ThickestMm2 { get; set; }
    /// <summary>Line of the thickest layer, from 1.</summary>
    public int ThickestLine { get; set; }

    /// <summary>First and last line that lay filament on a layer.</summary>
    public int FirstExtrudeLine { get; set; }
    /// <summary>Last line that extrudes, from 1.</summary>
    public int LastExtrudeLine { get; set; }
    /// <summary>Its place in the file, bytes.</summary>
    public long LastExtrudeOffset { get; set; }

    /// <summary>E is relative in the model; both, where <see cref="BothE"/>.</summary>
    public bool RelativeE { get; set; }
    /// <summary>True where absolute and relative extrusion are mixed.</summary>
    public bool BothE { get; set; }

    /// <summary>The machine after the last line.</summary>
    public MachineState End { get; set; } = new();

    /// <summary>Where the model lies, mm.</summary>
    public (double MinX, double MinY, double MaxX, double MaxY, double MaxZ) Box { get; set; }

    /// <summary>Nothing is extruded in it: no G-code of a print.</summary>
    public bool Empty => Layers.Count == 0;
}
