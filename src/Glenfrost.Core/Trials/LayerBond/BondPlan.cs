using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>What a tester asks of a layer bond. Temperatures in °C, fan in %, lengths in mm.</summary>
public sealed record BondRequest
{
    /// <summary>What differs: temperature, fan, crossed or rig-check.</summary>
    public string Mode { get; init; } = LayerBondTrial.Temperature;

    /// <summary>Hottest group.</summary>
    public decimal HottestC { get; init; } = 230;

    /// <summary>Coolest group.</summary>
    public decimal CoolestC { get; init; } = 200;

    /// <summary>From group to group.</summary>
    public decimal StepC { get; init; } = 10;

    /// <summary>Nozzle where it is held.</summary>
    public decimal NozzleTemperatureC { get; init; } = 215;

    /// <summary>Least fan.</summary>
    public decimal FanFromPercent { get; init; }

    /// <summary>Most fan.</summary>
    public decimal FanToPercent { get; init; } = 100;

    /// <summary>From group to group.</summary>
    public decimal FanStepPercent { get; init; } = 50;

    /// <summary>Fan where it is held.</summary>
    public decimal FanPercent { get; init; } = 50;

    /// <summary>Pegs of a group on a plate, printed together layer by layer.</summary>
    public decimal Together { get; init; } = 2;

    /// <summary>Which plate it is, from 1.</summary>
    public decimal Block { get; init; } = 1;

    /// <summary>Diameter of the waist.</summary>
    public decimal WaistMm { get; init; } = 4;

    /// <summary>Height of a peg.</summary>
    public decimal HeightMm { get; init; } = 24;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>rig or hand.</summary>
    public string ReadBy { get; init; } = "rig";

    /// <summary>N or kgf.</summary>
    public string Unit { get; init; } = "N";

    /// <summary>Raised whenever the rig is rebuilt.</summary>
    public decimal RigRevision { get; init; } = 1;

    /// <summary>Its scatter, %; null where no check was made.</summary>
    public decimal? RigScatterPercent { get; init; }

    /// <summary>Smallest difference that matters, %.</summary>
    public decimal SmallestUsefulPercent { get; init; } = 15;
}

/// <summary>What a rig can see with so many pegs.</summary>
/// <param name="Groups">Groups that are set beside each other.</param>
/// <param name="PegsEach">Pegs a group, on two plates.</param>
/// <param name="ScatterPercent">Scatter of one peg, %.</param>
/// <param name="Assumed">True where nobody checked this rig.</param>
/// <param name="PairPercent">Difference of a planned pair that it shows four times in five, %.</param>
/// <param name="AnyPercent">The same of any group against the best, %.</param>
public sealed record BondSees(int Groups, int PegsEach, double ScatterPercent, bool Assumed, double PairPercent, double AnyPercent);

/// <summary>A group of a plan.</summary>
/// <param name="TemperatureC">Nozzle, °C.</param>
/// <param name="FanPercent">Part fan, %.</param>
/// <param name="Label">As it is called.</param>
public sealed record BondValue(double TemperatureC, double FanPercent, string Label);

/// <summary>A plate of pegs that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record BondPlan : PlanRecord, ITrialPlan
{
    /// <summary>Scatter that is assumed of a rig that nobody checked, %.</summary>
    public const double AssumedScatterPercent = 12.7;

    /// <summary>Rows of equal pegs by which a rig is checked.</summary>
    public const int RigRows = 4;

    /// <summary>What was asked.</summary>
    public required BondRequest Request { get; init; }

    /// <summary>Nozzle that the number is scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>The profile's nozzle temperature when it was planned, °C; null where nothing is kept.</summary>
    public double? ProfileC { get; init; }

    /// <summary>The profile's fan when it was planned, %; null where nothing is kept.</summary>
    public double? ProfileFanPercent { get; init; }

    /// <summary>True for a rig check: equal pegs.</summary>
    [JsonIgnore]
    public bool RigCheck => Request.Mode == LayerBondTrial.RigCheck;

    /// <summary>Measures of its pegs.</summary>
    [JsonIgnore]
    public PegSize Size => new((double)Request.WaistMm, (double)Request.HeightMm, (double)Request.LayerHeightMm, NozzleMm, (int)Request.Together);

    /// <summary>Section of the waist, mm².</summary>
    [JsonIgnore]
    public double AreaMm2 => Math.PI * Size.WaistMm * Size.WaistMm / 4;

    /// <summary>Groups, the coolest and the least fan first.</summary>
    [JsonIgnore]
    public IReadOnlyList<BondValue> Values
    {
        get
        {
            var r = Request;
            IEnumerable<decimal> Steps(decimal from, decimal to, decimal step) =>
                step <= 0 || to < from ? [from] : Enumerable.Range(0, 1 + (int)Math.Min(40, Math.Floor((to - from) / step))).Select(i => from + i * step);
            BondValue One(decimal c, decimal fan, string label) => new((double)c, (double)fan, label);
            string C(decimal c) => $"{Say.N(c)} °C";
            string Fan(decimal f) => $"fan {Say.N(f)} %";
            return r.Mode switch
            {
                LayerBondTrial.Fan => [.. Steps(r.FanFromPercent, r.FanToPercent, r.FanStepPercent).Select(f => One(r.NozzleTemperatureC, f, Fan(f)))],
                LayerBondTrial.Crossed =>
                    [
                        .. from c in new[] { r.CoolestC, r.HottestC }.Distinct() from f in new[] { r.FanFromPercent, r.FanToPercent }.Distinct()
                            select One(c, f, $"{C(c)}, {Fan(f)}"),
                    ],
                LayerBondTrial.RigCheck => [.. Enumerable.Range(1, RigRows).Select(i => One(r.NozzleTemperatureC, r.FanPercent, $"row {i}"))],
                _ => [.. Steps(r.CoolestC, r.HottestC, r.StepC).Select(c => One(c, r.FanPercent, C(c)))],
            };
        }
    }

    private int Seed => 1009 * (int)Request.Block + 31 * Values.Count + (int)Request.Together;

    /// <summary>Which group each row is of, in the order of printing: by lot, another one on each plate.</summary>
    [JsonIgnore]
    public IReadOnlyList<int> Rows => BlindOrder.Of(Enumerable.Range(0, Values.Count), Seed);

    /// <summary>Pegs of the plate.</summary>
    [JsonIgnore]
    public int Pegs => Values.Count * (int)Request.Together;

    /// <summary>Lowest number of the plate.</summary>
    [JsonIgnore]
    public int FirstNumber => 1 + ((int)Request.Block - 1) * Pegs;

    /// <summary>Number on each peg by its place on the plate, row by row: by lot, counted on from plate to plate.</summary>
    [JsonIgnore]
    public IReadOnlyList<int> Numbers => BlindOrder.Of(Enumerable.Range(FirstNumber, Pegs), Seed + 1);

    /// <summary>The place of a part on the plate, row by row.</summary>
    private int PlaceOf(int part) => Numbers.ToList().IndexOf(FirstNumber + part);

    /// <summary>Row in which a part was printed, from 0.</summary>
    public int RowOf(int part) => PlaceOf(part) / (int)Request.Together;

    /// <summary>Group of a part, from 0.</summary>
    public int GroupOf(int part) => Rows[RowOf(part)];

    /// <summary>Parts in the order in which they are broken: by lot.</summary>
    [JsonIgnore]
    public IReadOnlyList<int> Breaking => BlindOrder.Of(Enumerable.Range(0, Pegs), Seed + 2);

    /// <summary>How a peg of a rig check is pulled: briskly or slowly, seated by eye or lined up.</summary>
    public static (bool Brisk, bool Anew) WayOf(int part) => (part % 2 == 1, part / 2 % 2 == 1);

    /// <summary>What the rig can see with two plates like this one; null for a check of the rig and a break by hand.</summary>
    [NotStored]
    public BondSees? Sees
    {
        get
        {
            if (RigCheck || Request.ReadBy == "hand" || Values.Count < 2)
                return null;
            var (each, scatter) = (2 * (int)Request.Together, (double?)Request.RigScatterPercent ?? AssumedScatterPercent);
            var freedom = Values.Count * (each - 1);
            return new(
                Values.Count, each, scatter, Request.RigScatterPercent is null, Math.Round(BondPower.PairPercent(scatter / 100, each, freedom)),
                Math.Round(BondPower.AnyPercent(scatter / 100, each, Values.Count, freedom)));
        }
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            var first = FirstNumber;
            var (places, together) = (Numbers.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i), (int)Request.Together);
            return
            [
                .. Enumerable.Range(0, Pegs).Select(i =>
                {
                    var row = places[first + i] / together;
                    return new PlanPart(i, $"peg {first + i}", row * Size.Layers + 1, (row + 1) * Size.Layers, Size.Waist.From, Size.Waist.To);
                }),
            ];
        }
    }

    /// <summary>Rows by their place alone: which numbers stand in them would tell the values of pegs that are broken blind.</summary>
    IReadOnlyList<string> ITrialPlan.PieceLabels => [];

    /// <inheritdoc/>
    protected override string InWords
    {
        get
        {
            var r = Request;
            var what = r.Mode switch
            {
                LayerBondTrial.Fan => $"fan {Say.N(r.FanFromPercent)} to {Say.N(r.FanToPercent)} % at {Say.N(r.NozzleTemperatureC)} °C",
                LayerBondTrial.Crossed =>
                    $"{Say.N(r.CoolestC)} and {Say.N(r.HottestC)} °C crossed with fan {Say.N(r.FanFromPercent)} and {Say.N(r.FanToPercent)} %",
                LayerBondTrial.RigCheck => $"equal pegs for the rig, {Say.N(r.NozzleTemperatureC)} °C",
                _ => $"{Say.N(r.CoolestC)} to {Say.N(r.HottestC)} °C at fan {Say.N(r.FanPercent)} %",
            };
            return $"plate {Say.N(r.Block)}: {what}, {Say.N(r.Together)} pegs each, waist {Say.N(r.WaistMm)} mm";
        }
    }

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override double LeastC => Values.Min(v => v.TemperatureC);

    /// <inheritdoc/>
    protected override double MostC => Values.Max(v => v.TemperatureC);

    /// <inheritdoc/>
    protected override int LayersOf => Values.Count * Size.Layers;

    /// <inheritdoc/>
    protected override int? EachLayers => Values.Count > 1 ? Size.Layers : null;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
    [
        .. Rows.Select((g, i) => new PlanCheckpoint(
            1, 0, $"{Say.N(Values[g].TemperatureC)} °C, fan {Say.N(Values[g].FanPercent)} %", $"row {i + 1}", null, Values.Count > 1 ? i : null)),
    ];
}
