using System.Diagnostics.Metrics;
using System.Runtime.InteropServices;
using Microsoft.Data.Sqlite;

namespace Glenfrost.Storage;

/// <summary>What a disk can be up to when it does not take or give what it should.</summary>
public enum DiskFault
{
    /// <summary>Nothing more fits.</summary>
    Full,

    /// <summary>It can't be written.</summary>
    ReadOnly,

    /// <summary>The database is held by another program.</summary>
    Locked,

    /// <summary>The database can't be read as one.</summary>
    Damaged,

    /// <summary>The device itself reports an error.</summary>
    Failing,
}

/// <summary>The disk below the data folder: its faults, and names that are really on it.</summary>
public static class Disk
{
    private const int NoSpace = 28;

    private const int OverQuota = 122;

    private const int ReadOnlySystem = 30;

    private static readonly Meter Meter = new("Glenfrost.Storage");

    /// <summary>Folders that were flushed, each under the tag <c>folder</c>.</summary>
    private static readonly Counter<long> Flushed = Meter.CreateCounter<long>("glenfrost.disk.folder_flushes");

    /// <summary>What a disk's fault is, as far as an exception or one below it tells; null where it is none of the disk's.</summary>
    public static DiskFault? FaultOf(Exception? e) => e switch
    {
        null => null,
        // Result codes of SQLite: https://sqlite.org/rescode.html
        SqliteException { SqliteErrorCode: 13 } => DiskFault.Full,
        SqliteException { SqliteErrorCode: 8 } => DiskFault.ReadOnly,
        SqliteException { SqliteErrorCode: 5 or 6 } => DiskFault.Locked,
        SqliteException { SqliteErrorCode: 11 or 26 } => DiskFault.Damaged,
        SqliteException { SqliteErrorCode: 10 } => DiskFault.Failing,
        SqliteException { SqliteErrorCode: 14 } => DiskFault.ReadOnly,
        UnauthorizedAccessException => DiskFault.ReadOnly,
        // A file's faults carry the system's own number.
        IOException io when (io.HResult & 0xFFFF) is NoSpace or OverQuota => DiskFault.Full,
        IOException io when (io.HResult & 0xFFFF) == ReadOnlySystem => DiskFault.ReadOnly,
        AggregateException all => all.InnerExceptions.Select(FaultOf).FirstOrDefault(f => f is not null),
        _ => FaultOf(e.InnerException),
    };

    /// <summary>Writes a small file into a folder and takes it away again: the only way to know that it can be written.</summary>
    /// <exception cref="IOException">It can't; <see cref="FaultOf"/> tells why.</exception>
    /// <exception cref="UnauthorizedAccessException">It is not ours.</exception>
    public static void Try(string folder)
    {
        var path = Path.Combine(folder, $"{Guid.NewGuid():N}.part");
        try
        {
            using var stream = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, 0);
            stream.Write(new byte[4096]);
            stream.Flush(true);
        }
        finally
        {
            File.Delete(path);
        }
    }

    /// <summary>
    /// Flushes a folder, so that a name that was just given or taken away is there after a loss of power: a file's own flush keeps its content only
    /// (fsync(2), open(2)). Where the system has no such thing, nothing is done.
    /// </summary>
    public static void FlushFolder(string folder)
    {
        if (!OperatingSystem.IsLinux())
            return;
        var handle = Open(folder, 0);
        if (handle < 0)
            return;
        try
        {
            // A folder of a file system that can't flush one (EINVAL) is as safe as it gets.
            _ = Flush(handle);
            if (Flushed.Enabled)
                Flushed.Add(1, new KeyValuePair<string, object?>("folder", Path.GetFullPath(folder)));
        }
        finally
        {
            _ = Close(handle);
        }
    }

    /// <summary>Puts a file in its place, and flushes the place.</summary>
    public static void Move(string from, string to, bool over = false)
    {
        File.Move(from, to, over);
        FlushFolder(Path.GetDirectoryName(to)!);
    }

    /// <summary>Flushes a file's content, puts it in its place, and flushes the place.</summary>
    public static void Keep(string from, string to)
    {
        using (var stream = new FileStream(from, FileMode.Open, FileAccess.ReadWrite, FileShare.Read, 0))
            stream.Flush(true);
        Move(from, to);
    }

    /// <summary>Writes a small private file whole or not at all: beside its place, flushed, then renamed over what stood there.</summary>
    public static void Write(string path, string text)
    {
        var part = path + ".part";
        using (var stream = new FileStream(part, FileMode.Create, FileAccess.Write, FileShare.None, 0))
        {
            KeepPrivate(part);
            stream.Write(System.Text.Encoding.UTF8.GetBytes(text));
            stream.Flush(true);
        }

        Move(part, path, true);
    }

    /// <summary>Makes a folder and what it stands in, each with its name on the disk; nothing happens where it stands.</summary>
    public static void Make(string folder)
    {
        if (Directory.Exists(folder))
            return;
        var above = Path.GetDirectoryName(Path.GetFullPath(folder))!;
        Make(above);
        Directory.CreateDirectory(folder);
        FlushFolder(above);
    }

    /// <summary>Makes a folder that only its owner enters; one that stands is closed to others.</summary>
    public static void MakePrivate(string folder)
    {
        const UnixFileMode Owner = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
        if (OperatingSystem.IsWindows())
        {
            Directory.CreateDirectory(folder);
            return;
        }

        if (!Directory.Exists(folder))
        {
            Directory.CreateDirectory(folder, Owner);
            FlushFolder(Path.GetDirectoryName(Path.GetFullPath(folder))!);
        }
        else if (File.GetUnixFileMode(folder) != Owner)
            Own(folder, Owner);
    }

    /// <summary>Lets only the owner read and write a file, where it stands.</summary>
    public static void KeepPrivate(string file)
    {
        const UnixFileMode Owner = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        if (!OperatingSystem.IsWindows() && File.Exists(file) && File.GetUnixFileMode(file) != Owner)
            Own(file, Owner);
    }

    private static void Own(string path, UnixFileMode mode)
    {
        try
        {
            if (!OperatingSystem.IsWindows())
                File.SetUnixFileMode(path, mode);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // Somebody else's folder, or a file system without modes: what can be written is told by trying.
        }
    }

    [DllImport("libc", EntryPoint = "open", SetLastError = true)]
    private static extern int Open([MarshalAs(UnmanagedType.LPUTF8Str)] string path, int flags);

    [DllImport("libc", EntryPoint = "fsync", SetLastError = true)]
    private static extern int Flush(int handle);

    [DllImport("libc", EntryPoint = "close", SetLastError = true)]
    private static extern int Close(int handle);
}
