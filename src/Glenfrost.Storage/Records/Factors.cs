using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;

namespace Glenfrost.Storage.Records;

/// <summary>
/// What was typed or learned of a run after its factors were frozen, or turned while it printed. Never changed: a later entry of the same factor stands.
/// </summary>
public sealed class FactorEntry : Record
{
    /// <summary>The run that it belongs to.</summary>
    public Guid RunId { get; set; }

    /// <summary>Key of a factor.</summary>
    public required string Factor { get; set; }

    /// <summary>Part of the piece from 0; null for all of it.</summary>
    public int? Section { get; set; }
    /// <summary>In the setting's or factor's unit; null for words.</summary>
    public double? Number { get; set; }
    /// <summary>A word, or the name of a thing; null for numbers.</summary>
    public string? Text { get; set; }

    /// <summary>The thing (spool, part); of <see cref="FactorSource.Memory"/> the run that it is remembered to be like.</summary>
    public Guid? ThingId { get; set; }

    /// <summary>Layer from which on it was turned, from 1; null where nobody said.</summary>
    public int? FromLayer { get; set; }
    /// <summary>Where it is known from.</summary>
    public FactorSource Source { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>The entry that it takes the place of; null for the first one.</summary>
    public Guid? SupersedesId { get; set; }

    /// <summary>As the core reads it.</summary>
    public FactorEntryValue ToCore() => new(Factor, new FactorValue(Number, Text, Source) { Thing = ThingId }, At, Section, FromLayer);
}

/// <summary>One event of the evidence of a pairing; never changed. See <see cref="EvidenceEvent"/>.</summary>
public sealed class EvidenceEntry : Record
{
    /// <summary>The pairing that it is of.</summary>
    public Guid PairingId { get; set; }
    /// <summary>Key of an area of evidence.</summary>
    public required string Area { get; set; }
    /// <summary>Key of the setting; null for an area without one.</summary>
    public string? Key { get; set; }
    /// <summary>What happened.</summary>
    public EvidenceKind Kind { get; set; }
    /// <summary>The run that shows it; null where none does.</summary>
    public Guid? RunId { get; set; }
    /// <summary>The profile revision that it came with; null for none.</summary>
    public Guid? RevisionId { get; set; }
    /// <summary>The spool that it holds for; null for the product.</summary>
    public Guid? SpoolId { get; set; }
    /// <summary>What caused it; withdrawing the cause takes it back.</summary>
    public Guid CauseId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>The value that it is of; null for words and areas.</summary>
    public double? Number { get; set; }
    /// <summary>95 % half-width of that value; null where nobody knows.</summary>
    public double? Uncertainty { get; set; }
    /// <summary>Nozzle temperature that the value was found at, °C; null for none.</summary>
    public double? AtC { get; set; }
    /// <summary>The reason, as profiles show it; null for none.</summary>
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
    /// <summary>The pairing that it is of.</summary>
    public Guid PairingId { get; set; }
    /// <summary>Key of an area of evidence.</summary>
    public required string Area { get; set; }
    /// <summary>Key of the setting; null for an area without one.</summary>
    public string? Key { get; set; }
    /// <summary>Nozzle temperature that it holds at, °C; null where it holds at all.</summary>
    public double? AtC { get; set; }
    /// <summary>What the fold says.</summary>
    public EvidenceState State { get; set; }
    /// <summary>In words, as profiles show it.</summary>
    public string? Why { get; set; }
    /// <summary>The run that it rests on; null for none.</summary>
    public Guid? RunId { get; set; }
    /// <summary>When it became so, UTC.</summary>
    public DateTime At { get; set; }
}

/// <summary>
/// A value of a machine (feed) as it was set on a day, or the withdrawal of a cause; never changed. What the toolhead says is the newest that stands.
/// </summary>
public sealed class MachineValue : Record
{
    /// <summary>The toolhead.</summary>
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
    /// <summary>The run that found it; null where it was typed.</summary>
    public Guid? RunId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
}
