using System.Globalization;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Simulation.Printer;

/// <summary>
/// A printer that takes G-code line by line and answers as the line protocol wants: <c>ok</c> when the next line may come, reports where asked, a resend where
/// a checksum does not fit. It knows no plan: what it prints follows from the lines alone. Not for several threads, but for <see cref="Stop"/>.
/// </summary>
public sealed partial class SimulatedPrinter
{
    /// <summary>Steps of a turn of the extruder's motor, for printers that count a rotation distance.</summary>
    public const double StepsPerTurn = 3200;

    private readonly MotionQueue queue;
    private readonly Deposits deposits;
    private readonly List<string> replies = [];
    private readonly Heater bed;
    private readonly Heater[] nozzles;
    private readonly Faults faults;
    private Action? pending;
    private double x, y, z, e, offsetX, offsetY, offsetZ, offsetE;
    private double feed = 25, speedFactor = 1, flowFactor = 1, fan, retracted, reportedRetraction;
    private bool relative, relativeE = true, inches, travelling, withdrawn, careful, connectionWasLost, coldFeed, pressureSet;
    private double wiped, coasted, retractSpeed, lineSpeed;
    private int tool;
    private long expected, received;
    private volatile bool halted;

    /// <summary>A printer as it comes from its box, cold.</summary>
    /// <param name="spec">What it is.</param>
    /// <param name="faults">What goes wrong.</param>
    /// <param name="stored">What it remembered; its factory's settings where null.</param>
    public SimulatedPrinter(PrinterSpec spec, Faults? faults = null, PrinterSettings? stored = null)
    {
        (Spec, this.faults, Stored) = (spec, faults ?? new Faults(), stored ?? spec.Factory);
        Settings = Stored;
        bed = new Heater(spec.RoomC, 0.45, 700, 12);
        nozzles = [.. Enumerable.Range(0, Math.Max(1, spec.Tools)).Select(_ => new Heater(spec.RoomC, 2.6, 130, 4))];
        deposits = new Deposits(spec.FilamentMm, spec.NozzleMm);
        queue = new MotionQueue { Run = Execute };
    }

    /// <summary>What it is.</summary>
    public PrinterSpec Spec { get; }

    /// <summary>In force; lost when it is switched off.</summary>
    public PrinterSettings Settings { get; private set; }

    /// <summary>Kept over switching off.</summary>
    public PrinterSettings Stored { get; private set; }

    /// <summary>Seconds since it was switched on.</summary>
    public double ClockS { get; private set; }

    /// <summary>Nozzle's display, °C.</summary>
    public double DisplayC => nozzles[tool].C;

    /// <summary>Nozzle's target, °C.</summary>
    public double TargetC => nozzles[tool].TargetC;

    /// <summary>Bed, °C.</summary>
    public double BedC => bed.C;

    /// <summary>0–1.</summary>
    public double Fan => fan;

    /// <summary>The layer that is being laid; null before the first line.</summary>
    public LayerTrace? Layer => deposits.Now;

    /// <summary>Flow of the last line, mm³/s.</summary>
    public double FlowMm3PerS { get; private set; }

    /// <summary>Why nothing moves any more; null while it works.</summary>
    public string? Halted { get; private set; }

    /// <summary>True as soon as it was told to stop, from any thread.</summary>
    public bool Stopping => halted;

    /// <summary>Moves whose feed was refused, since the nozzle was cold.</summary>
    public int Refused { get; private set; }

    /// <summary>True where nothing answers: the mains are gone.</summary>
    public bool Dark { get; private set; }

    /// <summary>True once, where the line to it broke.</summary>
    public bool ConnectionLost { get; set; }

    /// <summary>Nozzle, bed and target of every tool can be read at any time; this is what M105 says.</summary>
    public string Report() => string.Create(CultureInfo.InvariantCulture, $"T:{DisplayC:0.0} /{TargetC:0.0} B:{BedC:0.0} /{bed.TargetC:0.0} @:0 B@:0");

    /// <summary>Stops at once, from any thread: heaters off, nothing moves until it is started anew.</summary>
    public void Stop() => halted = true;

    /// <summary>Takes a line and lets as much time pass as it needs.</summary>
    /// <returns>What the printer answers; nothing where it is dark.</returns>
    public IReadOnlyList<string> Receive(string line)
    {
        replies.Clear();
        if (Dark)
            return [];
        received++;
        if (faults.GarbleEvery > 0 && received % faults.GarbleEvery == 0 && line.Length > 3)
            line = string.Concat(line.AsSpan(0, line.Length / 2), "#", line.AsSpan(line.Length / 2 + 1));
        var c = CommandLine.Read(line);
        if (c.Garbled || (c.Checked && c.Number is null))
            return Resend("checksum does not fit");
        if (c.Command == "M110")
            expected = (c['N'] is { } n && double.IsFinite(n) ? (long)n : c.Number ?? 0) + 1;
        else if (c.Number is { } number && (c.Checked || careful))
        {
            if (!c.Checked)
                return Resend("the checksum is missing");
            careful = true;
            if (number != expected)
                return Resend($"line {number} is out of turn");
            expected = number + 1;
        }

        if (halted)
            Halt("stopped by M112");
        if (Halted is not null && c.Command is not ("M999" or "M105" or "M110" or "M115"))
        {
            replies.Add($"Error:{Halted}. Nothing moves until M999.");
            replies.Add("ok");
            return [.. replies];
        }

        Do(c);
        if (pending is not null && queue.Empty)
            Wait();
        if (!Dark)
            replies.Add("ok");
        return [.. replies];
    }

    /// <summary>Somebody changes its configuration file so that cold filament may be fed.</summary>
    public void AllowColdFeed() => coldFeed = true;

    /// <summary>Runs what waits and closes the trace: the piece as it stands.</summary>
    public PrintTrace Finish(string? endedBecause = null)
    {
        if (Halted is null && !Dark)
            Wait();
        var trace = deposits.End(ClockS);
        trace.BedEndC = BedC;
        trace.EndedBecause = endedBecause ?? Halted ?? (Dark ? "the mains went" : null);
        return trace;
    }

    /// <summary>Stands still for some seconds, as a person at the bench does.</summary>
    public void Rest(double seconds)
    {
        // Nobody sends anything: what waits in its buffer runs.
        if (Halted is null && !Dark)
            Wait();
        Pass(seconds);
    }

    private IReadOnlyList<string> Resend(string why)
    {
        replies.Add(string.Create(CultureInfo.InvariantCulture, $"Error:{why}, last line {expected - 1}"));
        replies.Add(string.Create(CultureInfo.InvariantCulture, $"Resend: {expected}"));
        replies.Add("ok");
        return [.. replies];
    }

    private void Halt(string why)
    {
        if (Halted is not null)
            return;
        Halted = why;
        halted = true;
        queue.Drop();
        pending = null;
        foreach (var n in nozzles)
            (n.TargetC, n.StuckOn, n.Dead) = (0, false, true);
        (bed.TargetC, bed.Dead) = (0, true);
    }

    private void Later(Action action) => pending = pending is { } p ? p + action : action;

    private void Queue(double tx, double ty, double tz, double de, double speed)
    {
        queue.Add(new Motion { X0 = x, Y0 = y, Z0 = z, X1 = tx, Y1 = ty, Z1 = tz, E = de, Speed = speed * speedFactor, Before = pending }, Settings);
        if (tx != x || ty != y || tz != z || de != 0)
            pending = null;
        (x, y, z) = (tx, ty, tz);
    }

    /// <summary>Runs all moves and what waits behind the last of them.</summary>
    private void Wait()
    {
        queue.Drain();
        var p = pending;
        pending = null;
        p?.Invoke();
    }

    private void Pass(double seconds)
    {
        ClockS += seconds;
        foreach (var n in nozzles)
            n.Pass(seconds);
        bed.Pass(seconds);
        if (Halted is null && DisplayC > Spec.HeaterMaxC + 15)
        {
            Halt("the nozzle is hotter than its limit: thermal runaway, heaters off");
            replies.Add($"Error:{Halted}");
        }
    }

    private void Execute(Motion m, double seconds)
    {
        if (Halted is not null || Dark)
            return;
        m.Before?.Invoke();
        Happen(m.Z1);
        if (Halted is not null || Dark)
            return;
        var laid = 0.0;
        if (m.E > 0 && DisplayC < Spec.ColdExtrusionC - 1 && !coldFeed)
        {
            // Cold plastic is not fed; the nozzle moves all the same.
            Refused++;
            if (Refused == 1)
                replies.Add("echo:too cold to feed, the extruder stands still");
        }
        else if (m.E < 0)
        {
            retracted -= m.E;
            retractSpeed = Math.Max(1, -m.E / Math.Max(1e-6, seconds));
            if (m.X0 != m.X1 || m.Y0 != m.Y1)
                wiped += Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0));
        }
        else if (m.E > 0)
        {
            var back = Math.Min(retracted, m.E);
            retracted -= back;
            laid = (m.E - back) * Settings.StepsPerMm / Spec.Factory.StepsPerMm;
        }

        var at = new Moment(DisplayC, BedC, fan, retracted, ClockS, Settings.PressureAdvanceS, wiped, coasted, retractSpeed, pressureSet);
        var flat = m.X0 != m.X1 || m.Y0 != m.Y1;
        if (laid > 0 && flat)
        {
            if (travelling)
                deposits.Began(reportedRetraction);
            (travelling, reportedRetraction, wiped, coasted, lineSpeed) = (false, 0, 0, 0, m.Speed);
            deposits.Laid(m, laid, seconds, at);
            FlowMm3PerS = seconds > 0 ? laid * Math.PI * Spec.FilamentMm * Spec.FilamentMm / 4 / seconds : 0;
        }
        else if (laid > 0 && m.Z0 == m.Z1)
        {
            var flow = seconds > 0 ? laid * Math.PI * Spec.FilamentMm * Spec.FilamentMm / 4 / seconds : 0;
            deposits.Trace.SlipsFree |= faults.SlipAtMm is not null;
            deposits.Trace.Free.Add(new(Math.Round(laid, 4), Math.Round(flow, 3), Math.Round(DisplayC, 1)));
        }
        else if (flat)
        {
            // The end of a line that its own pressure prints, at the speed of the line: a travel is faster.
            if (m.E == 0 && retracted <= 0 && !travelling && Math.Abs(m.Speed - lineSpeed) < 1 && Math.Abs(m.X1 - m.X0) + Math.Abs(m.Y1 - m.Y0) < 4)
                coasted += Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0));
            (travelling, reportedRetraction) = (true, Math.Max(reportedRetraction, retracted));
            deposits.Travelled(m, seconds, at);
        }

        Pass(seconds);
    }

    /// <summary>Faults begin at their height.</summary>
    private void Happen(double height)
    {
        if (deposits.Now is not { } now)
            return;
        var above = Math.Min(height, now.ZMm);
        if (faults.SlipAtMm is { } slip && above >= slip)
            deposits.Grip = 0.5;
        if (faults.BlockedAtMm is { } blocked && above >= blocked)
            deposits.Open = 0.5;
        if (faults.TangleAtMm is { } tangle && above >= tangle)
            deposits.Starved = true;
        if (faults.KnockedAtMm is { } knocked && above >= knocked && !deposits.Knocked)
            (deposits.Knocked, deposits.Trace.KnockedAtMm) = (true, knocked);
        if (faults.RunawayAtMm is { } runaway && above >= runaway)
            nozzles[tool].StuckOn = true;
        if (faults.PowerCutAtMm is { } cut && above >= cut)
        {
            Dark = true;
            queue.Drop();
        }

        if (faults.LostConnectionAtMm is { } lost && above >= lost && !connectionWasLost)
            (connectionWasLost, ConnectionLost) = (true, true);
    }

}
