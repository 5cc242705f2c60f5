using System.Diagnostics;

namespace Glenfrost.Bench;

/// <summary>A data folder of its own with the demo's year, thrown away at the end.</summary>
public sealed class DemoPlace : IDisposable
{
    /// <summary>Lays the year out by the published application, or copies one that is laid out.</summary>
    /// <param name="app">Its folder.</param>
    /// <param name="year">A data folder with the year; null to lay one out.</param>
    public DemoPlace(string app, string? year = null)
    {
        Folder = Path.Combine(Path.GetTempPath(), "glenfrost-bench-" + Guid.NewGuid().ToString("N"));
        if (year is not null)
        {
            foreach (var file in Directory.EnumerateFiles(year, "*", SearchOption.AllDirectories))
            {
                var to = Path.Combine(Folder, Path.GetRelativePath(year, file));
                Directory.CreateDirectory(Path.GetDirectoryName(to)!);
                File.Copy(file, to);
            }

            return;
        }

        using var seeding = Process.Start("dotnet", [Path.Combine(app, "Glenfrost.Web.dll"), "seed", "--data", Folder, "--demo", Path.Combine(app, "demo")]);
        seeding.WaitForExit();
        if (seeding.ExitCode != 0)
            throw new InvalidOperationException($"the demo could not be laid out: exit code {seeding.ExitCode}");
    }

    public string Folder { get; }

    public void Dispose()
    {
        if (Directory.Exists(Folder))
            Directory.Delete(Folder, true);
    }
}
