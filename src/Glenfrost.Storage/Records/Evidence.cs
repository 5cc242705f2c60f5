namespace Glenfrost.Storage.Records;

/// <summary>
/// A photo of a run's piece, or of one of its sections. Two pictures by hash: the large one and a small one for lists; nothing of the camera's own file is
/// kept.
/// </summary>
public sealed class Photo : Record
{
    /// <summary>Made by the client; the same key is stored once.</summary>
    public required string Key { get; set; }
    /// <summary>The run that it shows; null for a photo of a spool.</summary>
    public Guid RunId { get; set; }

    /// <summary>Section from 0, lowest first; null for the whole piece.</summary>
    public int? Section { get; set; }

    /// <summary>SHA-256 of the large picture: upright JPEG of at most 2,048 px.</summary>
    public required string Sha256 { get; set; }

    /// <summary>SHA-256 of the small picture: at most 320 px.</summary>
    public required string SmallSha256 { get; set; }
    /// <summary>Width, pixels.</summary>
    public int WidthPx { get; set; }
    /// <summary>Height, pixels.</summary>
    public int HeightPx { get; set; }

    /// <summary>Length of the large picture, bytes.</summary>
    public long Bytes { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>The tablet, phone or instrument that sent it; null at the bench itself.</summary>
    public Guid? DeviceId { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>One sitting of scoring photos again, blind and shuffled.</summary>
public sealed class Sitting : Record
{
    /// <summary>The run whose photos it shows; null for those of several.</summary>
    public Guid? RunId { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Seeds what is drawn by chance, so that it can be drawn again.</summary>
    public int Seed { get; set; }

    /// <summary>Photo ids in the order in which they are shown.</summary>
    public required string OrderJson { get; set; }
    /// <summary>True where the person's own photos stood beside the scores; null for not, also in archives from before there were any.</summary>
    public bool? WithAnchors { get; set; }
    /// <summary>When the last score was given, UTC; null while it is open.</summary>
    public DateTime? FinishedAt { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
    /// <summary>Its scores; loaded where it was asked for.</summary>
    public List<PhotoScore> Scores { get; set; } = [];
}

/// <summary>A score given to a photo without knowing which section it shows.</summary>
public sealed class PhotoScore : Record
{
    /// <summary>The sitting.</summary>
    public Guid SittingId { get; set; }
    /// <summary>The photo.</summary>
    public Guid PhotoId { get; set; }
    /// <summary>The aspect that was scored.</summary>
    public required string Aspect { get; set; }

    /// <summary>0–4; null where the photo does not show it.</summary>
    public double? Value { get; set; }

    /// <summary>The reading that stood in that cell when the photo was scored again.</summary>
    public Guid? ReadingId { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
}

/// <summary>A photo that stands for a score of an aspect, for one person; the newest that stands counts.</summary>
public sealed class AnchorPhoto : Record
{
    /// <summary>For whom.</summary>
    public Guid PersonId { get; set; }
    /// <summary>Key of the aspect's words.</summary>
    public required string Key { get; set; }
    /// <summary>The score that it stands for, 0 to 4.</summary>
    public int Score { get; set; }
    /// <summary>The photo.</summary>
    public Guid PhotoId { get; set; }
    /// <summary>When it was chosen, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A tablet or phone that may open the pages, or something that posts readings. Its token is kept as a hash only.</summary>
public sealed class Device : Record
{
    /// <summary>As it was called when it was let in.</summary>
    public required string Name { get; set; }

    /// <summary>pages or readings.</summary>
    public required string Kind { get; set; }

    /// <summary>SHA-256 of the token, 64 small hexadecimal digits.</summary>
    public required string TokenHash { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedAt { get; set; }
    /// <summary>When it last asked for something, UTC; null where it never did.</summary>
    public DateTime? LastSeenAt { get; set; }
    /// <summary>When it was shut out, UTC; null while it is in.</summary>
    public DateTime? WithdrawnAt { get; set; }
}

/// <summary>What a device may do.</summary>
public static class DeviceKinds
{
    /// <summary>It may use the pages.</summary>
    public const string Pages = "pages";
    /// <summary>It may only post readings.</summary>
    public const string Readings = "readings";
}
