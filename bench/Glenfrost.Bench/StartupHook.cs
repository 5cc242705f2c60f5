using System.Diagnostics;

/// <summary>
/// Loaded by the runtime into the published application (DOTNET_STARTUP_HOOKS): ends its process, as a pulled plug would, at the n-th time that a chosen point
/// is passed. The application itself knows nothing of it.
/// </summary>
internal static class StartupHook
{
    /// <summary>Names the point and how often it is passed first: "commit 7".</summary>
    internal const string Variable = "GLENFROST_BENCH_KILL";

    /// <summary>Called by the runtime before the application's own start.</summary>
    public static void Initialize()
    {
        if (Environment.GetEnvironmentVariable(Variable)?.Split(' ') is not [var point, var times, ..] rest)
            return;
        var left = int.Parse(times);
        if (point == "part")
        {
            var folder = rest[2];
            new Thread(() => WatchParts(folder, left)) { IsBackground = true }.Start();
            return;
        }

        DiagnosticListener.AllListeners.Subscribe(new Listeners(point, left));
    }

    private static void Die() => Process.GetCurrentProcess().Kill();

    /// <summary>Dies so many milliseconds after a half-written file or a fresh backup was seen.</summary>
    private static void WatchParts(string folder, int afterMs)
    {
        var seen = Files(folder);
        while (true)
        {
            if (Files(folder).Except(seen).Any(f => f.EndsWith(".part", StringComparison.Ordinal) || f.EndsWith(".zip", StringComparison.Ordinal)))
            {
                Thread.Sleep(afterMs);
                Die();
            }

            Thread.Sleep(0);
        }
    }

    private static HashSet<string> Files(string folder)
    {
        try
        {
            return [.. Directory.EnumerateFiles(folder), .. Directory.Exists(Path.Combine(folder, "backups")) ? Directory.EnumerateFiles(Path.Combine(folder, "backups")) : []];
        }
        catch (IOException)
        {
            return [];
        }
    }

    private sealed class Listeners(string point, int left) : IObserver<DiagnosticListener>
    {
        public void OnNext(DiagnosticListener value)
        {
            if (value.Name == "Microsoft.EntityFrameworkCore")
                value.Subscribe(new Events(point, left)!);
        }

        public void OnCompleted()
        {
        }

        public void OnError(Exception error)
        {
        }
    }

    private sealed class Events(string point, int left) : IObserver<KeyValuePair<string, object>>
    {
        private int left = left;

        public void OnNext(KeyValuePair<string, object> value)
        {
            var name = value.Key[(value.Key.LastIndexOf('.') + 1)..];
            var passed = point switch
            {
                "write" => name == "CommandExecuting" && Writes(Text(value.Value)),
                "row" => name == "CommandExecuting" && (Text(value.Value) ?? "").Contains("INTO \"Photos\"", StringComparison.Ordinal),
                "commit" => name == "TransactionCommitting",
                "committed" => name == "TransactionCommitted",
                "any" => name is "CommandExecuting" or "TransactionCommitting",
                _ => false,
            };
            if (passed && Interlocked.Decrement(ref left) <= 0)
                Die();
        }

        public void OnCompleted()
        {
        }

        public void OnError(Exception error)
        {
        }

        private static bool Writes(string? sql) => sql is not null
            && (sql.Contains("INSERT INTO", StringComparison.Ordinal) || sql.StartsWith("UPDATE", StringComparison.Ordinal)
                || sql.StartsWith("DELETE", StringComparison.Ordinal));

        private static string? Text(object data) =>
            (data.GetType().GetProperty("Command")?.GetValue(data) as System.Data.Common.DbCommand)?.CommandText;
    }
}
