using System.Text;

namespace Glenfrost.Simulation;

/// <summary>
/// Randomness that a seed fixes wholly: a stream belongs to a seed and a path of names, so that asking for one thing more or in another order changes
/// nothing else. The generator is SplitMix64 (Steele, Lea and Flood, 2014).
/// </summary>
public sealed class Chance
{
    private readonly ulong seed;
    private ulong state;

    /// <summary>The stream of a seed.</summary>
    public Chance(ulong seed) => this.seed = state = seed;

    /// <summary>A stream of its own for a name.</summary>
    public Chance Of(string name) => new(Mix(seed ^ Hash(name)));

    /// <summary>A stream of its own for a name and a number.</summary>
    public Chance Of(string name, long number) => new(Mix(Mix(seed ^ Hash(name)) + unchecked((ulong)number * 0x9E3779B97F4A7C15)));

    /// <summary>A number that names a text for good: the same in every run and on every machine (FNV-1a, 64 bits).</summary>
    public static ulong Hash(string text)
    {
        var h = 14695981039346656037UL;
        foreach (var b in Encoding.UTF8.GetBytes(text))
            h = unchecked((h ^ b) * 1099511628211UL);
        return Mix(h);
    }

    /// <summary>0 up to, but not including, 1.</summary>
    public double Uniform()
    {
        state = unchecked(state + 0x9E3779B97F4A7C15);
        return (Mix(state) >> 11) * (1.0 / (1UL << 53));
    }

    /// <summary>From one number up to another.</summary>
    public double Between(double from, double to) => from + (to - from) * Uniform();

    /// <summary>Gaussian (Box and Muller, 1958).</summary>
    public double Normal(double mean, double sd) => mean + sd * Math.Sqrt(-2 * Math.Log(1 - Uniform())) * Math.Cos(2 * Math.PI * Uniform());

    /// <summary>A factor around 1 that is never negative: the exponent is Gaussian.</summary>
    public double Factor(double sd) => Math.Exp(Normal(0, sd));

    /// <summary>A count with the given mean (Poisson; by a Gaussian above 60).</summary>
    public int Count(double mean)
    {
        if (mean <= 0)
            return 0;
        if (mean > 60)
            return Math.Max(0, (int)Math.Round(Normal(mean, Math.Sqrt(mean))));
        var (limit, product, n) = (Math.Exp(-mean), Uniform(), 0);
        while (product > limit)
        {
            product *= Uniform();
            n++;
        }

        return n;
    }

    private static ulong Mix(ulong z)
    {
        unchecked
        {
            z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
            z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
            return z ^ (z >> 31);
        }
    }
}
