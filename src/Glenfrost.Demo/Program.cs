using Glenfrost.Application;
using Glenfrost.Storage;

if (args is not [var data, var demo])
{
    await Console.Error.WriteLineAsync("Two folders are needed: one for the data, and the one with the demo's files.");
    return 2;
}

try
{
    var place = new DataPlace(data);
    using var held = DataLock.Take(place, "seed");
    await ApplicationServices.LayOutDemoAsync(place, demo);
    return 0;
}
catch (Exception e) when (e is IOException or UnauthorizedAccessException or InvalidDataException or StartRefusedException)
{
    await Console.Error.WriteLineAsync($"The demo's year can't be laid out: {e.Message}");
    return 4;
}
