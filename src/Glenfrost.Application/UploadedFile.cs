namespace Glenfrost.Application;

/// <summary>A file that came in, in a place of its own until it is taken or dropped.</summary>
/// <param name="Field">The form's field.</param>
/// <param name="Name">Its name as sent: to be shown, never a path.</param>
/// <param name="Path">Where it lies meanwhile.</param>
/// <param name="Bytes">Its length.</param>
/// <param name="TooLarge">True where it went on beyond the limit; nothing of it was kept.</param>
public sealed record UploadedFile(string Field, string Name, string Path, long Bytes, bool TooLarge);
