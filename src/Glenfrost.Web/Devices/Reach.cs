using Glenfrost.Web.Rights;
using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;
using System.Security.Cryptography;

namespace Glenfrost.Web.Devices;

/// <summary>
/// From where the bench can be reached, and the code that lets a tablet or phone in. Without <c>--lan</c> only this machine reaches it.
/// </summary>
public sealed class Reach(TimeProvider clock)
{
    /// <summary>How long a code may be typed.</summary>
    public static readonly TimeSpan CodeTime = TimeSpan.FromMinutes(15);

    // Without letters and digits that are taken for each other.
    private const string Letters = "ABCDEFGHJKMNPQRTUVWXY346789";
    private readonly HashSet<string> hosts = new(StringComparer.OrdinalIgnoreCase) { "localhost", "127.0.0.1", "[::1]" };
    private readonly Lock gate = new();
    private string code = "";
    private DateTimeOffset codeFrom;
    private readonly Attempts attempts = new(clock);

    /// <summary>True where other devices of the network may come in.</summary>
    public bool Lan { get; private set; }

    /// <summary>True where a proxy of this machine was named that hands requests on.</summary>
    public bool Proxied { get; private set; }

    /// <summary>Addresses to open on another device, best first; empty without <c>--lan</c>.</summary>
    public IReadOnlyList<string> Addresses { get; private set; } = [];

    /// <summary>Names under which it answers.</summary>
    public IReadOnlyCollection<string> Hosts => hosts;

    /// <summary>Opens the bench to the network.</summary>
    /// <param name="port">Port that it listens on.</param>
    /// <param name="names">Further names that it answers to, for example a name of the house's router.</param>
    public void OpenTo(int port, IEnumerable<string> names)
    {
        Lan = true;
        var given = names.Select(n => n.Trim()).Where(n => n.Length > 0).ToList();
        foreach (var n in given)
        {
            if (Uri.CheckHostName(n) is UriHostNameType.Unknown)
                throw new ArgumentException($"\"{n}\" is no host name: bench.example or 192.0.2.7 would be right.");
        }

        var own = NetworkInterface.GetAllNetworkInterfaces()
            .Where(i => i.OperationalStatus == OperationalStatus.Up && i.NetworkInterfaceType != NetworkInterfaceType.Loopback)
            .SelectMany(i => i.GetIPProperties().UnicastAddresses.Select(a => a.Address))
            .Where(a => a.AddressFamily == AddressFamily.InterNetwork && !IPAddress.IsLoopback(a)).Select(a => a.ToString()).Distinct().ToList();
        foreach (var h in given.Concat(own).Append(Dns.GetHostName()))
            hosts.Add(h);
        Addresses = [.. given.Concat(own).Select(h => $"http://{h}:{port}")];
    }

    /// <summary>Lets requests in that a proxy of this machine hands on: each device by its code.</summary>
    /// <param name="name">Name under which the proxy is reached.</param>
    /// <exception cref="ArgumentException">It is no host name.</exception>
    public void OpenThrough(string name)
    {
        if (Uri.CheckHostName(name) is UriHostNameType.Unknown)
            throw new ArgumentException($"\"{name}\" is no host name: bench.example would be right.");
        (Lan, Proxied) = (true, true);
        hosts.Add(name);
        Addresses = [.. Addresses, $"http://{name}"];
    }

    /// <summary>An address that opens on other devices too, where the bench is open to them; else the one that was asked under.</summary>
    public string AddressOf(HttpRequest request, string path)
    {
        var asked = request.Host.Host is "localhost" or "127.0.0.1" or "[::1]" && Addresses.Count > 0 ? Addresses[0] : $"{request.Scheme}://{request.Host}";
        return asked + path;
    }

    /// <summary>The code that is good now; a new one where the last has grown old.</summary>
    public string Code()
    {
        lock (gate)
        {
            if (code.Length == 0 || clock.GetUtcNow() - codeFrom > CodeTime)
                Renew();
            return code;
        }
    }

    /// <summary>
    /// Takes a typed code. A good one is used up. A wrong one changes nothing for others: the code stands, and who typed it waits longer each time.
    /// </summary>
    /// <param name="typed">As it was typed.</param>
    /// <param name="from">Address that it came from.</param>
    /// <returns>Null where it is good, else what is wrong with it.</returns>
    public string? Take(string typed, string from)
    {
        if (attempts.Wait(from) is { } wait)
            return $"Too many wrong codes came from here: wait {Attempts.Words(wait)}, then type the one that stands on the console.";
        var plain = new string([.. typed.ToUpperInvariant().Where(char.IsAsciiLetterOrDigit)]);
        lock (gate)
        {
            if (code.Length == 0 || clock.GetUtcNow() - codeFrom > CodeTime)
            {
                Renew();
                return "The code had grown old. A new one stands on the console now; type that one.";
            }

            if (CryptographicOperations.FixedTimeEquals(
                    System.Text.Encoding.ASCII.GetBytes(plain), System.Text.Encoding.ASCII.GetBytes(code.Replace("-", "", StringComparison.Ordinal))))
            {
                Renew();
                attempts.Passed(from);
                return null;
            }
        }

        var then = attempts.Failed(from);
        return $"This is not the code on the console: eight letters and digits, for example {Sample}." +
            (then > TimeSpan.Zero ? $" The next try counts in {Attempts.Words(then)}." : "");
    }

    private const string Sample = "ABCD-3467";

    /// <summary>Is told each new code; the console prints it.</summary>
    public event Action<string>? CodeChanged;

    private void Renew()
    {
        code = $"{RandomNumberGenerator.GetString(Letters, 4)}-{RandomNumberGenerator.GetString(Letters, 4)}";
        codeFrom = clock.GetUtcNow();
        if (Lan)
            CodeChanged?.Invoke(code);
    }
}
