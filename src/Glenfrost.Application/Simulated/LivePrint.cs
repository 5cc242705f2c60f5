using Glenfrost.Core.Trials;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Simulated;

/// <summary>A layer as planned and as seen.</summary>
/// <param name="Layer">Of the plan, from 1, in the order of printing.</param>
/// <param name="PlannedC">°C.</param>
/// <param name="SeenC">Display, °C; null where it is still to come.</param>
public readonly record struct StripLayer(int Layer, double PlannedC, double? SeenC);

/// <summary>How a print stands at a moment.</summary>
public sealed record PrintNow(
    string State, double Speed, int Layer, int Layers, double ZMm, double DisplayC, double TargetC, double BedC, double FlowMm3PerS, double GoneS, double LeftS,
    double PredictedS, double ReestimatedS, string Doing, IReadOnlyList<StripLayer> Strip);

/// <summary>
/// One print on the simulated printer while it runs: lines of the file go to the printer one by one, as fast as its clock and the chosen speed allow.
/// </summary>
public sealed class LivePrint(
    Job job, SimulatedBench bench, ITrialPlan plan, string path, Faults faults, Core.Equipment.PrinterPace pace, IReadOnlyList<double> foreseenStartS)
{
    private readonly Lock gate = new();
    private readonly List<double> seen = [];
    private readonly SimulatedPrinter printer = new(bench.Spec, faults);
    private double firstLineS = double.NaN;
    private int objects, layerInObject;
    private volatile bool paused, stopped;
    private double speed = Math.Clamp(job.Speed, 1, MostSpeed);

    /// <summary>Fastest, times real time.</summary>
    public const double MostSpeed = 2000;

    /// <summary>The job that it is.</summary>
    public Job Job => job;

    /// <summary>What is printed.</summary>
    public required Trial Trial { get; init; }

    /// <summary>The bench that it prints on.</summary>
    public SimulatedBench Bench => bench;

    /// <summary>Lines of the file that were taken.</summary>
    public long Line { get; private set; }

    /// <summary>Why it ended before its end; null where it did not.</summary>
    public string? EndedBecause { get; private set; }

    /// <summary>True where it was stopped by hand.</summary>
    public bool Stopped => stopped;

    /// <summary>True while it is paused.</summary>
    public bool Paused => paused;

    /// <summary>How many times faster than the clock it prints.</summary>
    public double Speed => Volatile.Read(ref speed);

    /// <summary>Seconds from the first layer's first line, on the printer's clock.</summary>
    public double GoneS { get; private set; }

    /// <summary>Pauses it, or goes on.</summary>
    public void Pause(bool on) => paused = on;

    /// <summary>Stops it for good after the move that it is at.</summary>
    public void Stop() => stopped = true;

    /// <summary>Sets how many times faster than the clock it prints, 1 and more.</summary>
    public void SetSpeed(double times) => Volatile.Write(ref speed, Math.Clamp(times, 1, MostSpeed));

    /// <summary>Layer of the plan in the order of printing, from 1; 0 before the first.</summary>
    public int Layer { get { lock (gate) return seen.Count; } }

    /// <summary>Height of the nozzle, mm.</summary>
    public double ZMm { get; private set; }

    /// <summary>When the layer began, seconds from the first line.</summary>
    public double LayerStartS { get; private set; }

    /// <summary>Runs the file to its end, or to a stop.</summary>
    /// <param name="checkpoint">Called about once a second.</param>
    /// <param name="down">The server goes down: what runs is interrupted.</param>
    /// <returns>The piece; null where the server went down.</returns>
    public async Task<PieceFile?> RunAsync(Func<Task> checkpoint, CancellationToken down)
    {
        var sender = new LineSender(printer);
        sender.Begin();
        using var reader = new StreamReader(path);
        var (real, from, times, saved) = (DateTime.UtcNow, printer.ClockS, Speed, DateTime.UtcNow);
        while (await reader.ReadLineAsync(down) is { } line)
        {
            while (paused && !stopped)
            {
                await Task.Delay(40, down);
                (real, from) = (DateTime.UtcNow, printer.ClockS);
            }

            if (stopped)
            {
                printer.Stop();
                printer.Receive("M112");
                EndedBecause = "stopped by hand";
                break;
            }

            sender.Send(line);
            Line++;
            Note();
            if (printer.Halted is { } halted)
                EndedBecause = halted;
            else if (printer.Dark)
                EndedBecause = "the mains went";
            else if (printer.ConnectionLost)
                EndedBecause = "the line to the printer broke";
            if (EndedBecause is not null)
                break;
            if (times != Speed)
                (real, from, times) = (DateTime.UtcNow, printer.ClockS, Speed);
            var now = DateTime.UtcNow;
            var ahead = (printer.ClockS - from) / times - (now - real).TotalSeconds;
            // In pieces, so that a pause or another speed is felt at once.
            while (ahead > 0.02 && !paused && !stopped && times == Speed)
            {
                await Task.Delay(TimeSpan.FromSeconds(Math.Min(ahead, 0.1)), down);
                ahead = (printer.ClockS - from) / times - (DateTime.UtcNow - real).TotalSeconds;
            }

            if ((now - saved).TotalSeconds > 1)
            {
                saved = now;
                await checkpoint();
            }

            if ((Line & 511) == 0)
                down.ThrowIfCancellationRequested();
        }

        return bench.Take(printer.Finish(EndedBecause));
    }

    /// <summary>How it stands.</summary>
    public PrintNow Now()
    {
        lock (gate)
        {
            var n = seen.Count;
            var predicted = job.PredictedS ?? 0;
            var soFar = n > 0 && n <= foreseenStartS.Count ? foreseenStartS[n - 1] : 0;
            var whole = n > 1 ? pace.Reestimate(predicted, soFar, GoneS) : pace.Of(predicted);
            var planned = Planned(plan);
            return new(
                paused ? JobStates.Paused : JobStates.Running, Speed, n, planned.Count, ZMm, printer.DisplayC, printer.TargetC, printer.BedC,
                n > 0 ? printer.FlowMm3PerS : 0, GoneS, Math.Max(0, whole - GoneS), predicted, whole, n > 0 ? ""
                    : printer.DisplayC < printer.TargetC - 2 || printer.BedC < 40 ? "heating up"
                    : "about to begin",
                [.. planned.Select((c, i) => new StripLayer(i + 1, c, i < n ? seen[i] : null))]);
        }
    }

    /// <summary>The planned temperature of each layer in the order of printing.</summary>
    public static IReadOnlyList<double> Planned(ITrialPlan plan)
    {
        var (list, parts) = (new double[Math.Max(1, plan.TotalLayers)], plan.Parts);
        for (var i = 0; i < list.Length; i++)
            list[i] = (parts.LastOrDefault(p => p.FirstLayer <= i + 1) ?? parts[0]).NozzleC ?? plan.HottestC;
        return list;
    }

    /// <summary>Notes the layer that the printer is at.</summary>
    private void Note()
    {
        if (printer.Layer is not { } l)
            return;
        if (double.IsNaN(firstLineS))
            firstLineS = l.StartS;
        GoneS = printer.ClockS - firstLineS;
        if (l.Object == objects && l.Number == layerInObject)
        {
            lock (gate)
                seen[^1] = Math.Round(printer.DisplayC, 1);
            return;
        }

        (objects, layerInObject, ZMm, LayerStartS) = (l.Object, l.Number, l.ZMm, l.StartS - firstLineS);
        lock (gate)
        {
            // Several short layers may pass at once; each shows the display as it is now.
            var at = l.Number + l.Object * (plan.LayersPerPiece ?? 0);
            while (seen.Count < Math.Min(at, plan.TotalLayers))
                seen.Add(Math.Round(printer.DisplayC, 1));
        }
    }
}
