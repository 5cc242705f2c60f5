using Glenfrost.Application;
using Glenfrost.Storage;

namespace Glenfrost.Web.Services;

/// <summary>
/// What the first page needs of code is asked for beside the start, on the other processor: whoever opens the address finds it there. Nothing of it is
/// written or kept but answers that the page would reckon too, and nothing depends on it.
/// </summary>
internal static class FirstPage
{
    /// <summary>The database's model, which no context can do without, while the host is still being built.</summary>
    public static void BuildModel() => _ = Task.Run(DataPlace.BuildModel);

    /// <summary>Today, while the addresses are being opened.</summary>
    public static void Prepare(IServiceProvider services) => _ = Task.Run(async () =>
    {
        try
        {
            await using var scope = services.CreateAsyncScope();
            await scope.ServiceProvider.GetRequiredService<Today>().ListAsync();
        }
        catch (Exception)
        {
            // The page itself says what is wrong, or the server was ended meanwhile.
        }
    });
}
