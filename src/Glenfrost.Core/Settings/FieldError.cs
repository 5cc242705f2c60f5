namespace Glenfrost.Core.Settings;

/// <summary>A refusal at one field, with offers that would be accepted.</summary>
/// <param name="Field">The field's fixed name (camelCase, with unit).</param>
/// <param name="Message">What is wrong and what would be right.</param>
/// <param name="Offers">Sets of changes; applying one settles this field.</param>
public sealed record FieldError(string Field, string Message, IReadOnlyList<Offer> Offers)
{
    /// <summary>A refusal without offers.</summary>
    public FieldError(string field, string message)
        : this(field, message, [])
    {
    }
}

/// <summary>A change of one or more fields that fits.</summary>
/// <param name="Label">What the button says, for example "10.0 mm a section".</param>
/// <param name="Changes">Field name to new value.</param>
/// <param name="Note">What the offer costs, for example its worst error; may be null.</param>
public sealed record Offer(string Label, IReadOnlyDictionary<string, decimal> Changes, string? Note = null);
