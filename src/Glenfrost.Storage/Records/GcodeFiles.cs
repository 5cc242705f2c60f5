namespace Glenfrost.Storage.Records;

/// <summary>A G-code file in the room where files are looked at: dropped there, or made there from another one. Its content is never changed.</summary>
public sealed class GcodeFile : Record
{
    /// <summary>Name under which it came or is handed out; never a path.</summary>
    public required string Name { get; set; }

    /// <summary>SHA-256 of its content, 64 small hexadecimal digits.</summary>
    public required string Sha256 { get; set; }
    /// <summary>Size, bytes.</summary>
    public long Bytes { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>Pairing that it is looked at for: limits, filament and dialect come from there.</summary>
    public Guid? PairingId { get; set; }

    /// <summary>File that it was made from here; that one may be gone.</summary>
    public Guid? FromId { get; set; }

    /// <summary>What was done to that file, in words.</summary>
    public string? Made { get; set; }

    /// <summary>The step plan as it was asked for; null for anything else.</summary>
    public string? StepJson { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}
