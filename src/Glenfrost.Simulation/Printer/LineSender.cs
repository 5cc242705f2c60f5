using System.Globalization;

namespace Glenfrost.Simulation.Printer;

/// <summary>The other end of the line: numbers lines, adds checksums, sends again what is asked for.</summary>
public sealed class LineSender(SimulatedPrinter printer)
{
    private long next = 1;

    /// <summary>Lines that were sent again.</summary>
    public int Resent { get; private set; }

    /// <summary>Errors that the printer reported besides garbled lines.</summary>
    public List<string> Errors { get; } = [];

    /// <summary>Says that counting begins.</summary>
    public void Begin()
    {
        next = 1;
        printer.Receive("M110 N0");
    }

    /// <summary>Sends a line, again where it arrived garbled.</summary>
    /// <exception cref="InvalidOperationException">The same line fails ten times.</exception>
    public void Send(string line)
    {
        // Where cold feed stands in a configuration file, somebody does what the comment asks.
        if (printer.Spec.TalksMacros && line.StartsWith("; in the configuration file set min_extrude_temp: 0", StringComparison.Ordinal))
            printer.AllowColdFeed();
        var cut = line.IndexOf(';');
        var text = (cut >= 0 ? line[..cut] : line).Trim();
        if (text.Length == 0)
            return;
        for (var turn = 0; turn < 10; turn++)
        {
            var again = false;
            foreach (var reply in printer.Receive(CommandLine.WithChecksum(next, text)))
            {
                if (reply.StartsWith("Resend:", StringComparison.Ordinal))
                    again = true;
                else if (reply.StartsWith("Error:", StringComparison.Ordinal) && !reply.Contains("last line", StringComparison.Ordinal) && Errors.Count < 50)
                    Errors.Add(reply[6..]);
            }

            if (!again)
            {
                next++;
                return;
            }

            Resent++;
        }

        throw new InvalidOperationException(string.Create(CultureInfo.InvariantCulture, $"line {next} fails again and again"));
    }
}
