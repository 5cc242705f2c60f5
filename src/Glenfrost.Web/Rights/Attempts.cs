namespace Glenfrost.Web.Rights;

/// <summary>
/// Wrong codes by the address that they came from: each is waited for longer than the one before, so that a stranger guesses slowly and keeps nobody else out.
/// </summary>
public sealed class Attempts(TimeProvider clock)
{
    /// <summary>Longest wait.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromMinutes(10);

    /// <summary>Wrong ones that cost nothing: fingers slip.</summary>
    private const int Free = 2;

    /// <summary>Addresses that are remembered; beyond them the oldest are forgotten.</summary>
    private const int Most = 1000;

    private readonly Dictionary<string, (int Wrong, DateTimeOffset Until)> of = [];

    private readonly Lock one = new();

    /// <summary>How long an address has to wait yet; null where it may try.</summary>
    public TimeSpan? Wait(string address)
    {
        lock (one)
            return of.TryGetValue(address, out var a) && a.Until > clock.GetUtcNow() ? a.Until - clock.GetUtcNow() : null;
    }

    /// <summary>Notes a wrong one: 1 s after the third, then twice as long each time.</summary>
    /// <returns>How long it has to wait now.</returns>
    public TimeSpan Failed(string address)
    {
        lock (one)
        {
            if (of.Count >= Most && !of.ContainsKey(address))
                of.Remove(of.MinBy(a => a.Value.Until).Key);
            var wrong = of.GetValueOrDefault(address).Wrong + 1;
            var wait = wrong <= Free ? TimeSpan.Zero : TimeSpan.FromSeconds(Math.Min(Longest.TotalSeconds, Math.Pow(2, Math.Min(20, wrong - Free - 1))));
            of[address] = (wrong, clock.GetUtcNow() + wait);
            return wait;
        }
    }

    /// <summary>A right one: the address begins anew.</summary>
    public void Passed(string address)
    {
        lock (one)
            of.Remove(address);
    }

    /// <summary>A wait in words.</summary>
    public static string Words(TimeSpan wait) =>
        wait.TotalSeconds < 60 ? $"{Math.Max(1, Math.Ceiling(wait.TotalSeconds)):0} s" : $"{Math.Ceiling(wait.TotalMinutes):0} min";
}
