using Glenfrost.Core.Evidence;

namespace Glenfrost.Core.Routes;

/// <summary>What an entry of a hunt did to the answer.</summary>
public enum HuntEffect
{
    /// <summary>Nothing: it is not decided, it was left, or it said again what stood.</summary>
    None,

    /// <summary>It changed the answer: another value went into the profile, or something was ruled in or out.</summary>
    Changed,

    /// <summary>It agreed with what stood, narrowly enough to confirm it.</summary>
    Confirmed,
}

/// <summary>A value as it stood before a decision, or as it was kept.</summary>
/// <param name="Value">In the setting's unit.</param>
/// <param name="Uncertainty">95 % half-width, in the unit; null where nobody knows.</param>
/// <param name="Found">True where a print or a person put it there; false for a starting value.</param>
public sealed record HuntValue(double Value, double? Uncertainty, bool Found);

/// <summary>Which entries of a hunt decided something.</summary>
public static class HuntEffects
{
    /// <summary>What keeping a value did.</summary>
    /// <param name="key">Key of the settings dictionary.</param>
    /// <param name="before">What stood in the profile; null for nothing.</param>
    /// <param name="kept">What was kept.</param>
    public static HuntEffect Of(string key, HuntValue? before, HuntValue kept)
    {
        // A starting value that turns out to be right is found only now.
        if (before is not { Found: true })
            return HuntEffect.Changed;
        if (EvidenceFold.Agree(key, before.Value, before.Uncertainty, kept.Value, kept.Uncertainty))
            return HuntEffect.Confirmed;
        return Math.Abs(before.Value - kept.Value) <= 1e-9 * Math.Max(1, Math.Abs(kept.Value)) ? HuntEffect.None : HuntEffect.Changed;
    }
}
