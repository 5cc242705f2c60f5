using System.Globalization;

namespace Glenfrost.Storage;

/// <summary>
/// The one lock of a data folder, held by whatever writes there for as long as it does. The system takes it back when its holder ends, however that ends.
/// </summary>
public sealed class DataLock : IDisposable
{
    /// <summary>One who is just ending is waited for.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(1.5);

    private readonly FileStream held;

    private DataLock(FileStream held) => this.held = held;

    /// <summary>Takes it.</summary>
    /// <param name="place">The folder.</param>
    /// <param name="what">Who takes it, as it is typed: <c>serve</c>, <c>restore</c>.</param>
    /// <exception cref="StartRefusedException">Somebody holds it: who, since when.</exception>
    public static DataLock Take(DataPlace place, string what)
    {
        var path = Path.Combine(place.Folder, "lock");
        var until = DateTime.UtcNow + Patience;
        FileStream? stream = null;
        while (stream is null)
        {
            try
            {
                stream = new(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None, 0);
            }
            catch (IOException e) when (e is not (FileNotFoundException or DirectoryNotFoundException) && Disk.FaultOf(e) is null)
            {
                if (DateTime.UtcNow > until)
                    throw new StartRefusedException(
                        StartFault.Locked,
                        $"{place.Folder} is in use by {Holder(place)}. Stop that first, or choose another folder with --data. Nothing was changed.", e);
                Thread.Sleep(50);
            }
            catch (Exception e) when (Disk.FaultOf(e) is { } fault)
            {
                throw place.Refusal(fault, e);
            }
        }

        try
        {
            // Who holds it stands in a file of its own: the locked one can't be read by others.
            File.WriteAllText(
                HolderPath(place),
                $"glenfrost {what} (process {Environment.ProcessId}, since {DateTime.UtcNow.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)} UTC)");
            Disk.KeepPrivate(path);
            Disk.KeepPrivate(HolderPath(place));
        }
        catch (Exception e)
        {
            stream.Dispose();
            if (Disk.FaultOf(e) is { } fault)
                throw place.Refusal(fault, e);
            throw;
        }

        return new(stream);
    }

    /// <summary>Gives it back.</summary>
    public void Dispose() => held.Dispose();

    private static string HolderPath(DataPlace place) => Path.Combine(place.Folder, "lock.holder");

    private static string Holder(DataPlace place)
    {
        try
        {
            return File.ReadAllText(HolderPath(place)) is { Length: > 0 } said ? said : "another Glenfrost";
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return "another Glenfrost";
        }
    }
}
