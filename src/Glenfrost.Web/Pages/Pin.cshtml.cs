using System.Net;
using Glenfrost.Web.Rights;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Where the bench's own browser types its PIN, where one is set.</summary>
internal sealed class PinModel(WorkContext work, BenchPin pin, Attempts attempts) : WorkPage(work)
{
    public IActionResult OnGet(string? to)
    {
        if (!pin.IsSet || pin.Knows(Request) || !AtBench)
            return LocalRedirect(Local(to));
        Form["to"] = Local(to);
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
            Form.Refuse("pin", $"Too many wrong ones: wait {Attempts.Words(wait)}, then type it again.");
        }
        else if (Form["pin"].Length > BenchPin.Most || !pin.IsRight(Form["pin"]))
        {
            var then = attempts.Failed(from);
            Form.Refuse("pin", $"This is not the PIN of this bench.{(then > TimeSpan.Zero ? $" The next try counts in {Attempts.Words(then)}." : "")}");
        }

        if (!Form.IsGood)
        {
            Form.Notice = "The bench stays shut. A PIN is never sent back to the page: type it anew.";
            return Refused();
        }

        attempts.Passed(from);
        pin.Remember(Response);
        return LocalRedirect(Local(Form["to"]));
    }

    /// <summary>A PIN is the bench's: another machine types a device's code.</summary>
    private bool AtBench => !CallerScheme.IsForwarded(Request) && HttpContext.Connection.RemoteIpAddress is var a && (a is null || IPAddress.IsLoopback(a));

    private string Local(string? to) => Back(to) is var back && !back.StartsWith("/pin", StringComparison.Ordinal) ? back : "/";
}
