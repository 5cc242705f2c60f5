namespace Glenfrost.Application;

/// <summary>Who this request comes from; set at the door.</summary>
public sealed class Caller
{
    /// <summary>The tablet, phone or posting device; null at the bench's own machine.</summary>
    public Guid? DeviceId { get; set; }

    /// <summary>Cookie of a browser at the bench itself in which somebody else said so.</summary>
    public const string PersonCookie = "glenfrost-person";

    /// <summary>Told when the visitor leaves before the answer came; none outside of a request.</summary>
    public CancellationToken Left { get; set; }

    /// <summary>Who works on it; null for whoever is at the bench.</summary>
    public Guid? PersonId { get; set; }
}
