using Glenfrost.Storage;

namespace Glenfrost.Web.Services;

/// <summary>Fills the factors of runs that earlier versions and archives brought, a few at a time: what is filled is its checkpoint.</summary>
public sealed class FactorWorker(IServiceScopeFactory scopes, DiskTrouble trouble, ILogger<FactorWorker> log) : BackgroundService
{
    private const int AtOnce = 20;

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(20);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                if (await scope.ServiceProvider.GetRequiredService<Upgrade>().FactorsAsync(AtOnce, stoppingToken) == AtOnce)
                    continue;
            }
            catch (Exception e) when (Disk.FaultOf(e) is { } fault)
            {
                trouble.Tell(fault);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogWarning(e, "Factors of earlier runs could not be filled now; tried again later.");
            }

            try
            {
                await Task.Delay(Pause, stoppingToken);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }
}
