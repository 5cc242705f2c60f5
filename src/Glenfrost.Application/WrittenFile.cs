using Glenfrost.Storage;

namespace Glenfrost.Application;

/// <summary>A file of ours that was stored, with its content for the case that it is erased before its row stands.</summary>
/// <param name="Stored">Where it lies.</param>
/// <param name="Content">Its bytes.</param>
public sealed record WrittenFile(StoredFile Stored, byte[] Content);
