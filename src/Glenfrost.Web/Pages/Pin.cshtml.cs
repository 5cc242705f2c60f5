using System.Net;
using Glenfrost.Web.Rights;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Where the bench's own browser types its PIN, where one is set.</summary>
internal sealed class PinModel(Bench bench, BenchPin pin, Attempts attempts) : BenchPage(bench)
{
    public IActionResult OnGet(string? to)
    {
        if (!pin.IsSet || pin.Knows(Request) || !AtBench)
            return LocalRedirect(Local(to));
        Sheet["to"] = Local(to);
        return Page();
    }

    public IActionResult OnPost()
    {
        ReadForm();
        if (!pin.IsSet || !AtBench)
            return LocalRedirect("/");
        var from = HttpContext.Connection.RemoteIpAddress?.ToString() ?? "here";
        if (attempts.Wait(from) is { } wait)
        {
            Sheet.Refuse("pin", $"Too many wrong ones: wait {Attempts.Words(wait)}, then type it again.");
        }
        else if (Sheet["pin"].Length > BenchPin.Most || !pin.IsRight(Sheet["pin"]))
        {
            var then = attempts.Failed(from);
            Sheet.Refuse("pin", $"This is not the PIN of this bench.{(then > TimeSpan.Zero ? $" The next try counts in {Attempts.Words(then)}." : "")}");
        }

        if (!Sheet.IsGood)
        {
            Sheet.Notice = "The bench stays shut. A PIN is never sent back to the page: type it anew.";
            return Refused();
        }

        attempts.Passed(from);
        pin.Remember(Response);
        return LocalRedirect(Local(Sheet["to"]));
    }

    /// <summary>A PIN is the bench's: another machine types a device's code.</summary>
    private bool AtBench => !DoorScheme.IsForwarded(Request) && HttpContext.Connection.RemoteIpAddress is var a && (a is null || IPAddress.IsLoopback(a));

    private string Local(string? to) => Back(to) is var back && !back.StartsWith("/pin", StringComparison.Ordinal) ? back : "/";
}
