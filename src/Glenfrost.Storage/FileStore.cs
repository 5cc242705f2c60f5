using System.Security.Cryptography;

namespace Glenfrost.Storage;

/// <summary>What was stored.</summary>
/// <param name="Sha256">SHA-256 of the content, 64 small hexadecimal digits.</param>
/// <param name="Bytes">Its length.</param>
public sealed record StoredFile(string Sha256, long Bytes);

/// <summary>
/// Files by the hash of their content. Written beside their place, flushed to the disk and then renamed, so that a file that stands there is whole;
/// the row that names it is written after. Names that people see never become paths.
/// </summary>
/// <param name="folder">Where they are kept.</param>
public sealed class FileStore(string folder)
{
    /// <summary>Stores what the writer writes.</summary>
    public StoredFile Put(Action<Stream> write)
    {
        Disk.Make(folder);
        var part = Path.Combine(folder, $"{Guid.NewGuid():N}.part");
        try
        {
            StoredFile stored;
            using (var stream = new FileStream(part, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16))
            {
                write(stream);
                stream.Flush(true);
                stream.Position = 0;
                stored = new(Convert.ToHexStringLower(SHA256.HashData(stream)), stream.Length);
            }

            // One that stands already gives way: its name says what it should hold, this one is known to.
            var place = PathOf(stored.Sha256);
            Disk.Make(Path.GetDirectoryName(place)!);
            Disk.Move(part, place, true);
            return stored;
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>Stores a stream.</summary>
    public StoredFile Put(Stream content) => Put(content.CopyTo);

    /// <summary>Opens a stored file; null where there is none of that hash.</summary>
    public Stream? Open(string sha256)
    {
        if (!IsHash(sha256))
            return null;
        var path = PathOf(sha256);
        return File.Exists(path)
            ? new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16, FileOptions.Asynchronous | FileOptions.SequentialScan)
            : null;
    }

    /// <summary>True where a file of that hash stands.</summary>
    public bool Exists(string sha256) => IsHash(sha256) && File.Exists(PathOf(sha256));

    /// <summary>Deletes a stored file; nothing happens where there is none of that hash.</summary>
    /// <exception cref="ArgumentException">It is no hash.</exception>
    public void Delete(string sha256)
    {
        var path = PathOf(sha256);
        if (!File.Exists(path))
            return;
        File.Delete(path);
        Disk.FlushFolder(Path.GetDirectoryName(path)!);
    }

    /// <summary>Hashes of all stored files.</summary>
    public IEnumerable<string> All() => Directory.Exists(folder)
        ? Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories).Select(Path.GetFileName).OfType<string>().Where(IsHash)
        : [];

    /// <summary>Where a file of that hash stands.</summary>
    /// <exception cref="ArgumentException">It is no hash.</exception>
    public string PathOf(string sha256) =>
        IsHash(sha256)
            ? Path.Combine(folder, sha256[..2], sha256)
            : throw new ArgumentException("This is no SHA-256 in small hexadecimal digits.", nameof(sha256));

    /// <summary>True for 64 small hexadecimal digits.</summary>
    public static bool IsHash(string text) => text.Length == 64 && text.All(c => c is >= '0' and <= '9' or >= 'a' and <= 'f');
}
