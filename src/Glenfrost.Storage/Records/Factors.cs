using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;

namespace Glenfrost.Storage.Records;

/// <summary>
/// What was typed or learned of a run after its factors were frozen, or turned while it printed. Never changed: a later entry of the same factor stands.
/// </summary>
public sealed class FactorEntry : Record
{
    public Guid RunId { get; set; }

    /// <summary>Key of a factor.</summary>
    public required string Factor { get; set; }

    /// <summary>Part of the piece from 0; null for all of it.</summary>
    public int? Section { get; set; }
    public double? Number { get; set; }
    public string? Text { get; set; }

    /// <summary>The thing (spool, part); of <see cref="FactorSource.Memory"/> the run that it is remembered to be like.</summary>
    public Guid? ThingId { get; set; }

    /// <summary>Layer from which on it was turned, from 1; null where nobody said.</summary>
    public int? FromLayer { get; set; }
    public FactorSource Source { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public Guid? SupersedesId { get; set; }

    /// <summary>As the core reads it.</summary>
    public FactorEntryValue ToCore() => new(Factor, new FactorValue(Number, Text, Source) { Thing = ThingId }, At, Section, FromLayer);
}

/// <summary>One event of the evidence of a pairing; never changed. See <see cref="EvidenceEvent"/>.</summary>
public sealed class EvidenceEntry : Record
{
    public Guid PairingId { get; set; }
    public required string Area { get; set; }
    public string? Key { get; set; }
    public EvidenceKind Kind { get; set; }
    public Guid? RunId { get; set; }
    public Guid? RevisionId { get; set; }
    public Guid? SpoolId { get; set; }
    public Guid CauseId { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public double? Number { get; set; }
    public double? Uncertainty { get; set; }
    public double? AtC { get; set; }
    public string? Text { get; set; }

    /// <summary>The state that an earlier version had stored.</summary>
    public EvidenceState? State { get; set; }

    /// <summary>As the core reads it.</summary>
    public EvidenceEvent ToCore() =>
        new(Id, Area, Key, Kind, At, CauseId)
        {
            RunId = RunId, SpoolId = SpoolId, Number = Number, Uncertainty = Uncertainty, AtC = AtC, Text = Text, State = State,
        };
}

/// <summary>What the fold of a pairing's events says, written with each event: a projection, made anew from the events at any time.</summary>
public sealed class EvidenceStanding : Record
{
    public Guid PairingId { get; set; }
    public required string Area { get; set; }
    public string? Key { get; set; }
    public double? AtC { get; set; }
    public EvidenceState State { get; set; }
    public string? Why { get; set; }
    public Guid? RunId { get; set; }
    public DateTime At { get; set; }
}

/// <summary>
/// A value of a machine (feed) as it was set on a day, or the withdrawal of a cause; never changed. What the toolhead says is the newest that stands.
/// </summary>
public sealed class MachineValue : Record
{
    public Guid ToolheadId { get; set; }

    /// <summary>stepsPerMm or rotationDistanceMm; null with <see cref="Withdraws"/>.</summary>
    public string? Key { get; set; }

    /// <summary>Null where it is not known, and with <see cref="Withdraws"/>.</summary>
    public double? Number { get; set; }

    /// <summary>When a run, or somebody, last found it right; null where nobody did.</summary>
    public DateTime? ProvenAt { get; set; }

    /// <summary>True where it takes its cause back.</summary>
    public bool Withdraws { get; set; }

    /// <summary>Decision, form or upgrade that brought it.</summary>
    public Guid CauseId { get; set; }
    public Guid? RunId { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
}
