namespace Glenfrost.Core.Trials;

/// <summary>What became of a section.</summary>
public enum SectionState
{
    /// <summary>It stands and was looked at.</summary>
    Judged,

    /// <summary>The nozzle failed to print it: a veto.</summary>
    Failed,

    /// <summary>Knocked off or never reached: left out. Missing is not zero.</summary>
    Lost,
}
