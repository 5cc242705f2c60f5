using Glenfrost.Storage;
using Microsoft.Extensions.Diagnostics.HealthChecks;

namespace Glenfrost.Web.Services;

/// <summary>What is said while Glenfrost runs and its disk does not take what it should: on pages, to the pages' scripts, on the console.</summary>
public sealed class DiskTrouble(DataPlace place, TimeProvider clock)
{
    /// <summary>Header in which a page's script finds the reason.</summary>
    public const string Header = "X-Disk";

    private static readonly TimeSpan Pause = TimeSpan.FromMinutes(1);

    private readonly Lock one = new();

    private (DiskFault Fault, DateTimeOffset At)? last;

    /// <summary>Status, headline, what is wrong in a few words, and what helps.</summary>
    public static (int Status, string Head, string Short, string Help) Words(DiskFault fault) => fault switch
    {
        DiskFault.Full => (
            StatusCodes.Status507InsufficientStorage, "The disk is full", "the disk is full",
            "Nothing of this was saved; what was saved before is safe. Free some space on the disk that holds the data, then send it again."),
        DiskFault.ReadOnly => (
            StatusCodes.Status503ServiceUnavailable, "The data can't be written", "the data can't be written",
            "Nothing of this was saved; what was saved before is safe. The data folder has become read-only, or belongs to another user now."),
        DiskFault.Locked => (
            StatusCodes.Status503ServiceUnavailable, "The database is held", "another program holds the database",
            "Nothing of this was saved; what was saved before is safe. Close the other program, then send it again."),
        DiskFault.Damaged => (
            StatusCodes.Status503ServiceUnavailable, "The database is damaged", "the database is damaged",
            "Nothing of this was saved. Stop Glenfrost and start it again: it says which backup is whole and how it is put in place."),
        _ => (
            StatusCodes.Status503ServiceUnavailable, "The disk reports an error", "the disk reports an error",
            "Nothing of this was saved. Copy the data folder to another disk before you go on."),
    };

    /// <summary>Says it on the console, once a minute and not once a reading.</summary>
    public void Tell(DiskFault fault)
    {
        lock (one)
        {
            if (last is { } l && l.Fault == fault && clock.GetUtcNow() - l.At < Pause)
                return;
            last = (fault, clock.GetUtcNow());
        }

        var (_, head, _, help) = Words(fault);
        Console.Error.WriteLine($"Glenfrost: {head} ({place.Folder}). {help}");
    }
}

/// <summary>Healthy is what can write.</summary>
internal sealed class WritesCheck(IServiceScopeFactory scopes, DiskTrouble trouble) : IHealthCheck
{
    /// <summary>Limit of how many are done at once.</summary>
    public const string AtOnce = "health at once";

    public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default)
    {
        await using var scope = scopes.CreateAsyncScope();
        if (await scope.ServiceProvider.GetRequiredService<DiskProbe>().FaultAsync(cancellationToken) is not { } fault)
            return HealthCheckResult.Healthy();
        trouble.Tell(fault);
        return HealthCheckResult.Unhealthy(DiskTrouble.Words(fault).Short);
    }
}
