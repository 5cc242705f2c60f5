using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Simulation;

/// <summary>What lies on the simulated bench for one print: a filament on a toolhead, with all that nobody knows of them, and a printer.</summary>
/// <param name="Spec">The printer as it is known.</param>
/// <param name="Material">Hidden.</param>
/// <param name="Machine">Hidden.</param>
/// <param name="Seed">Fixes the print and all that is read from it.</param>
public sealed record SimulatedBench(PrinterSpec Spec, HiddenMaterial Material, HiddenMachine Machine, ulong Seed)
{
    /// <summary>Runs a whole file as fast as it goes.</summary>
    /// <param name="lines">The file.</param>
    /// <param name="faults">What goes wrong.</param>
    /// <param name="most">Lines after which somebody stops it.</param>
    public PieceFile Print(IEnumerable<string> lines, Faults? faults = null, long most = long.MaxValue)
    {
        var printer = new SimulatedPrinter(Spec, faults);
        var sender = new LineSender(printer);
        sender.Begin();
        var n = 0L;
        foreach (var line in lines)
        {
            if (n++ >= most || printer.Halted is not null || printer.Dark || printer.ConnectionLost)
                break;
            sender.Send(line);
        }

        return Take(printer.Finish(printer.ConnectionLost ? "the line to the printer broke" : n > most ? "stopped" : null));
    }

    /// <summary>The piece that a trace left on the bed.</summary>
    public PieceFile Take(PrintTrace trace) => new(trace, Material, Machine, Seed, Spec.RoomC, Spec.FilamentMm);
}
