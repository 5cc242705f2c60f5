using Glenfrost.Simulation.Materials;

namespace Glenfrost.Simulation.Pieces;

/// <summary>What part of a piece is physically like: no judgement, no instrument's error. Lengths mm, force N, mass g.</summary>
public sealed record PieceLook
{
    /// <summary>Layers that were looked at; 0 where the piece does not reach so far.</summary>
    public int Layers { get; init; }

    /// <summary>Display of the nozzle, mean, °C.</summary>
    public double DisplayC { get; init; }

    /// <summary>Melt, mean, °C.</summary>
    public double MeltC { get; init; }

    /// <summary>Sag of its bridges, mean; 0 where it has none.</summary>
    public double SagMm { get; init; }
    /// <summary>Lifted edge, mm.</summary>
    public double CurlMm { get; init; }

    /// <summary>How far a thin part gave under layers that came too soon, mean, mm.</summary>
    public double SlumpMm { get; init; }

    /// <summary>Waves behind corners, mean, mm.</summary>
    public double WavesMm { get; init; }

    /// <summary>How uneven its lines are for their width, mm.</summary>
    public double UnevenMm { get; init; }

    /// <summary>Strings in its gaps.</summary>
    public int Strings { get; init; }

    /// <summary>Strings for each 10 mm of height, expected, and so without their own chance.</summary>
    public double StringsPer10Mm { get; init; }

    /// <summary>Thickness of a string, mm.</summary>
    public double StringMm { get; init; }
    /// <summary>Roughness of walls, mm.</summary>
    public double RoughMm { get; init; }

    /// <summary>Share of the plastic that did not come, 0–1.</summary>
    public double Starved { get; init; }

    /// <summary>Share of a full layer bond, 0–1.</summary>
    public double Bond { get; init; }

    /// <summary>Stress at which a layer parts, MPa.</summary>
    public double BondMPa { get; init; }

    /// <summary>Gaps at the beginning of lines, mm.</summary>
    public double StartGapMm { get; init; }
    /// <summary>Mass of the piece, g.</summary>
    public double MassG { get; init; }

    /// <summary>Volume against what was fed: foam.</summary>
    public double Expansion { get; init; } = 1;

    /// <summary>Width of its lines, mean, mm; the wall, where the piece is a single one.</summary>
    public double LineMm { get; init; }
    /// <summary>Lifted corner, mm.</summary>
    public double WarpMm { get; init; }

    /// <summary>Flow, mean, mm³/s.</summary>
    public double FlowMm3PerS { get; init; }

    /// <summary>True where the gear clicked.</summary>
    public bool Clicks { get; init; }

    /// <summary>True where so little came that it can't be called printed.</summary>
    public bool Failed => Layers > 0 && Starved > 0.45;
}

/// <summary>A printed piece: the trace of a print and what its material makes of it.</summary>
public sealed class SimulatedPiece(PrintTrace trace, HiddenMaterial material, HiddenMachine machine, ulong seed, double roomC = 20, double filamentMm = 1.75)
{
    private readonly Laws laws = new(material, machine, roomC);
    private readonly double nominalArea = Math.PI * filamentMm * filamentMm / 4;
    private readonly double trueShare = machine.FeedRatio * material.DiameterMm * material.DiameterMm / (filamentMm * filamentMm);

    /// <summary>What was laid.</summary>
    public PrintTrace Trace => trace;

    /// <summary>The laws that it was laid by.</summary>
    public Laws Laws => laws;

    /// <summary>Seed of all that is read from it.</summary>
    public ulong Seed => seed;

    /// <summary>Height of what stands of an object, mm.</summary>
    public double HeightMm(int objectIndex = 0) => trace.Layers.Where(l => l.Object == objectIndex).Select(l => l.ZMm).DefaultIfEmpty(0).Max();

    /// <summary>All of it on a scale, g.</summary>
    public double MassG => trace.Layers.Sum(Mass) / 1000 * material.DensityGPerCm3;

    /// <summary>Filament that really went in for a feed into the air, mm. Free air loses less than printing; the rest is the gear.</summary>
    /// <param name="fed">As the printer was told.</param>
    /// <param name="repeat">Which time it was done, from 0: the gear holds a little differently each time.</param>
    public double FedMm(FreeFeed fed, int repeat = 0)
    {
        var grip = trace.SlipsFree ? 0.97 + 0.05 * new Chance(seed).Of("grip", repeat).Uniform() : 1;
        return fed.AskedMm
            * machine.FeedRatio
            * Math.Min(1.02, grip)
            * (1 - laws.Loss(fed.FlowMm3PerS, fed.DisplayC, free: true))
            * (1 + new Chance(seed).Of("feed", repeat).Normal(0, 0.0008));
    }

    /// <summary>
    /// Thickness of a single wall at a place, mm: the line's width with what the filament's scatter makes of it there; null where nothing stands.
    /// </summary>
    /// <param name="fromMm">Lower edge above the bed.</param>
    /// <param name="toMm">Upper edge.</param>
    /// <param name="place">Which place, so that each has its own scatter.</param>
    public double? WallMm(double fromMm, double toMm, int place)
    {
        var look = Look(fromMm, toMm);
        return look.Layers == 0 ? null : look.LineMm * (1 + new Chance(seed).Of("wall", place).Normal(0, 2 * material.DiameterScatterMm / material.DiameterMm));
    }

    /// <summary>
    /// How full the last layers of a solid piece are between two places from left to right: 1 is just full. Null where nothing of it is known.
    /// </summary>
    /// <param name="fromMm">From the piece's left edge.</param>
    /// <param name="toMm">To.</param>
    public double? FillOf(double fromMm, double toMm)
    {
        var (fed, room) = (0.0, 0.0);
        foreach (var l in trace.Layers.Where(l => l.FedByX.Length > 0).TakeLast(2))
        {
            var clicks = false;
            var share = nominalArea * trueShare * (1 - Loss(l, l.DisplayC, ref clicks));
            for (var i = 0; i < l.FedByX.Length; i++)
            {
                var (a, b) = (l.FedFromXMm + i * LayerTrace.PlaceMm - l.MinX, l.FedFromXMm + (i + 1) * LayerTrace.PlaceMm - l.MinX);
                if (a < fromMm || b > toMm)
                    continue;
                fed += l.FedByX[i] * share;
                // The outermost lines reach half a line beyond their middles at both edges.
                room += LayerTrace.PlaceMm * (l.DepthByX[i] + 1.1 * machine.NozzleMm) * l.HeightMm;
            }
        }

        return room > 0 ? fed / room : null;
    }

    /// <summary>True where foam tore into blobs in part of a single wall.</summary>
    public bool TornIn(double fromMm, double toMm) =>
        Look(fromMm, toMm) is { Layers: > 0 } look && laws.Tears(look.LineMm / look.Expansion / (1.1 * machine.NozzleMm));

    /// <summary>Looks at part of a piece.</summary>
    /// <param name="fromMm">Lower edge above the bed.</param>
    /// <param name="toMm">Upper edge.</param>
    /// <param name="objectIndex">Which of the objects that were printed one after another, from 0.</param>
    public PieceLook Look(double fromMm, double toMm, int objectIndex = 0) => Look(fromMm, toMm, objectIndex, null);

    /// <summary>The same part, had all of it been printed with the display at one temperature: the hidden truth.</summary>
    public PieceLook Truth(double fromMm, double toMm, double displayC, int objectIndex = 0) => Look(fromMm, toMm, objectIndex, displayC);

    private PieceLook Look(double fromMm, double toMm, int objectIndex, double? displayC)
    {
        double n = 0,
            sag = 0, sags = 0, curl = 0, curls = 0, rough = 0, starved = 0, bond = 0, display = 0, melt = 0, mass = 0, fed = 0, foam = 0, line = 0,
            flow = 0;
        double expected = 0,
            gap = 0, ooze = 0, crossings = 0, slump = 0, waves = 0,
            height = 0;
        var strings = 0;
        var clicks = false;
        foreach (var l in trace.Layers)
        {
            if (l.Object != objectIndex || l.ZMm <= fromMm + 0.01 || l.ZMm > toMm + 0.01)
                continue;
            var shown = displayC ?? l.DisplayC;
            var mean = l.MeanFlow;
            var meltC = laws.MeltC(shown, mean);
            n++;
            height += l.HeightMm;
            (display, melt, flow) = (display + shown, melt + meltC, flow + mean);
            var lost = l.Starved ? 1 : Loss(l, shown, ref clicks);
            starved += lost;
            rough += laws.RoughMm(meltC, l.Fan) + 0.15 * lost;
            waves += laws.WavesMm(l.ShakingMmPerS);
            slump += laws.SlumpMm(meltC, l.Seconds, l.Fan) + 0.5 * lost;
            bond += laws.Bond(meltC, l.Fan, l.Seconds) * (1 - lost);
            foreach (var s in l.Spans.Where(s => s.LengthMm is >= 6 and <= 80))
            {
                var w = s.Count * s.LengthMm;
                sag += w * (laws.SagMm(laws.MeltC(displayC ?? s.DisplayC, s.FlowMm3PerS), s.LengthMm, s.Fan) + 1.5 * lost);
                sags += w;
            }

            if (l.OverhangMm > 0.5)
            {
                curl += l.OverhangMm * (laws.CurlMm(meltC, l.Unsupported, l.Fan) + 0.5 * lost);
                curls += l.OverhangMm;
            }

            foreach (var (c, i) in l.Crossings.Select((c, i) => (c, i)))
            {
                if (c.GapMm is < 2 or > 60)
                    continue;
                // While it travels the nozzle stands still in its flow: the melt has caught up with the block.
                var at = laws.MeltC(displayC ?? c.DisplayC, 0.5 * mean);
                var p = l.Starved ? 0 : Chance1(c, at);
                expected += p * c.Count;
                ooze += laws.Ooze(at, c.RetractedMm) * c.Count;
                crossings += c.Count;
                strings += new Chance(seed).Of("string", l.Object * 1_000_000L + l.Number * 100L + i).Count(p * c.Count);
            }

            gap += laws.StartGapMm(l.RetractedMm) * l.LineStarts;
            mass += Mass(l);
            fed += l.FedMm;
            foam += laws.Expansion(meltC, mean);
            line += l.PathMm > 0 && l.HeightMm > 0 ? l.FedMm * nominalArea * trueShare * (1 - lost) * laws.Expansion(meltC, mean) / (l.PathMm * l.HeightMm) : 0;
        }

        if (n == 0)
            return new PieceLook();
        var (x0, x1) = (trace.Layers.Min(l => l.MinX), trace.Layers.Max(l => l.MaxX));
        return new PieceLook
        {
            Layers = (int)n,
            DisplayC = display / n,
            MeltC = melt / n,
            SagMm = sags > 0 ? sag / sags : 0,
            CurlMm = curls > 0 ? curl / curls : 0,
            SlumpMm = slump / n,
            WavesMm = waves / n,
            UnevenMm = laws.UnevenMm(line / n),
            Strings = strings,
            StringsPer10Mm = height > 0 ? expected / height * 10 : 0,
            StringMm = crossings > 0 ? Math.Clamp(0.03 + 0.12 * ooze / crossings, 0.03, 0.5) : 0,
            RoughMm = rough / n,
            Starved = starved / n,
            Bond = bond / n,
            BondMPa = bond / n * material.BondMPa,
            StartGapMm = gap / n,
            MassG = mass / 1000 * material.DensityGPerCm3,
            Expansion = foam / n,
            LineMm = line / n,
            FlowMm3PerS = flow / n,
            Clicks = clicks,
            WarpMm = laws.WarpMm(Math.Max(0, x1 - x0), trace.Layers[0].BedC),
        };
    }

    /// <summary>Chance that one of some alike travels leaves a string.</summary>
    private double Chance1(Crossing c, double meltC)
    {
        var (left, worth) = laws.Travelled(c.WipedMm, c.CoastedMm, c.HopMm, c.RetractMmPerS);
        return 1 - Math.Pow(1 - laws.StringChance(meltC, c.RetractedMm * worth, c.GapMm, c.Seconds), left);
    }

    /// <summary>Strings in the gaps of a width, within part of a piece.</summary>
    /// <param name="fromMm">Lower edge above the bed.</param>
    /// <param name="toMm">Upper edge.</param>
    /// <param name="leastGapMm">Narrowest gap that counts.</param>
    /// <param name="mostGapMm">Widest gap that counts.</param>
    /// <param name="objectIndex">Which of several objects.</param>
    /// <returns>Strings that hang there, how many were to be expected, and travels.</returns>
    public (int Strings, double Expected, int Travels) StringsIn(double fromMm, double toMm, double leastGapMm, double mostGapMm, int objectIndex = 0)
    {
        var (strings, expected, travels) = (0, 0.0, 0);
        foreach (var l in trace.Layers.Where(l => l.Object == objectIndex && l.ZMm > fromMm + 0.01 && l.ZMm <= toMm + 0.01))
        {
            foreach (var (c, i) in l.Crossings.Select((c, i) => (c, i)).Where(x => x.c.GapMm >= leastGapMm && x.c.GapMm <= mostGapMm))
            {
                var p = l.Starved ? 0 : Chance1(c, laws.MeltC(c.DisplayC, 0.5 * l.MeanFlow));
                strings += new Chance(seed).Of("string", l.Object * 1_000_000L + l.Number * 100L + i).Count(p * c.Count);
                (expected, travels) = (expected + p * c.Count, travels + c.Count);
            }
        }

        return (strings, expected, travels);
    }

    /// <summary>True where so much was drawn back that lines begin with a gap that can be seen.</summary>
    public bool GapsIn(double fromMm, double toMm, int objectIndex = 0) => Look(fromMm, toMm, objectIndex).StartGapMm > 0.25;

    /// <summary>A sample that was extruded into the air, g.</summary>
    /// <param name="fed">As the printer was told.</param>
    /// <param name="which">Which of the samples, so that each has its own scatter.</param>
    public double SampleG(FreeFeed fed, int which) =>
        FedMm(fed, which)
        * Math.PI
        * material.DiameterMm
        * material.DiameterMm
        / 4
        * (1 + new Chance(seed).Of("sample", which).Normal(0, 0.003))
        * material.DensityGPerCm3
        / 1000;

    /// <summary>True where the gear clicked at a feed into the air.</summary>
    public bool ClicksAt(FreeFeed fed) => laws.Clicks(fed.FlowMm3PerS, fed.DisplayC);

    /// <summary>A piece cut off a blocked stub, mm.</summary>
    /// <param name="stubMm">Length of the stub.</param>
    /// <param name="driven">True where the motor drove it until it slipped.</param>
    /// <param name="which">Which of the pieces.</param>
    public double CutPieceMm(double stubMm, bool driven, int which) =>
        stubMm + (driven ? laws.CompressionMm(stubMm) : 0) + new Chance(seed).Of(driven ? "driven" : "hand", which).Normal(0, 0.07);

    /// <summary>The same piece, had its filament been as dry as it gets.</summary>
    public SimulatedPiece WhenDry() => new(trace, material with { Moisture = 0.02 }, machine, seed ^ 0x9E37, roomC, filamentMm);

    private double Loss(LayerTrace l, double displayC, ref bool clicks)
    {
        var (sum, lost) = (0.0, 0.0);
        for (var i = 0; i < l.FlowMm3.Length; i++)
        {
            if (l.FlowMm3[i] <= 0)
                continue;
            var flow = (i + 0.5) * 0.5;
            sum += l.FlowMm3[i];
            lost += l.FlowMm3[i] * laws.Loss(flow, displayC, l.Open, l.Grip);
            clicks |= l.FlowMm3[i] > 0.5 && laws.Clicks(flow, displayC, l.Open, l.Grip);
        }

        return sum > 0 ? lost / sum : 0;
    }

    /// <summary>mm³ of solid plastic in a layer.</summary>
    private double Mass(LayerTrace l)
    {
        var clicks = false;
        return l.Starved ? 0 : l.FedMm * nominalArea * trueShare * (1 - Loss(l, l.DisplayC, ref clicks));
    }
}
