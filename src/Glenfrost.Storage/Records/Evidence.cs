namespace Glenfrost.Storage.Records;

/// <summary>
/// A photo of a run's piece, or of one of its sections. Two pictures by hash: the large one and a small one for lists; nothing of the camera's own file is
/// kept.
/// </summary>
public sealed class Photo : Record
{
    /// <summary>Made by the client; the same key is stored once.</summary>
    public required string Key { get; set; }
    public Guid RunId { get; set; }

    /// <summary>Section from 0, lowest first; null for the whole piece.</summary>
    public int? Section { get; set; }

    /// <summary>SHA-256 of the large picture: upright JPEG of at most 2,048 px.</summary>
    public required string Sha256 { get; set; }

    /// <summary>SHA-256 of the small picture: at most 320 px.</summary>
    public required string SmallSha256 { get; set; }
    public int WidthPx { get; set; }
    public int HeightPx { get; set; }

    /// <summary>Length of the large picture, bytes.</summary>
    public long Bytes { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }
    public Guid? DeviceId { get; set; }
    public string? Note { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>One sitting of scoring photos again, blind and shuffled.</summary>
public sealed class Sitting : Record
{
    public Guid? RunId { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime At { get; set; }
    public int Seed { get; set; }

    /// <summary>Photo ids in the order in which they are shown.</summary>
    public required string OrderJson { get; set; }
    public DateTime? FinishedAt { get; set; }
    public DateTime? RemovedAt { get; set; }
    public List<PhotoScore> Scores { get; set; } = [];
}

/// <summary>A score given to a photo without knowing which section it shows.</summary>
public sealed class PhotoScore : Record
{
    public Guid SittingId { get; set; }
    public Guid PhotoId { get; set; }
    public required string Aspect { get; set; }

    /// <summary>0–4; null where the photo does not show it.</summary>
    public double? Value { get; set; }

    /// <summary>The reading that stood in that cell when the photo was scored again.</summary>
    public Guid? ReadingId { get; set; }
    public DateTime At { get; set; }
}

/// <summary>A tablet or phone that may open the pages, or something that posts readings. Its token is kept as a hash only.</summary>
public sealed class Device : Record
{
    public required string Name { get; set; }

    /// <summary>pages or readings.</summary>
    public required string Kind { get; set; }

    /// <summary>SHA-256 of the token, 64 small hexadecimal digits.</summary>
    public required string TokenHash { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime CreatedAt { get; set; }
    public DateTime? LastSeenAt { get; set; }
    public DateTime? WithdrawnAt { get; set; }
}

/// <summary>What a device may do.</summary>
public static class DeviceKinds
{
    public const string Pages = "pages";
    public const string Readings = "readings";
}
