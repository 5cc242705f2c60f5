using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Exchange;

/// <summary>Where data goes out and comes in.</summary>
public sealed class IndexModel(Bench bench) : BenchPage(bench)
{
    public void OnGet()
    {
        if (TempData["refused"] is string refused)
            Sheet.Notice = refused;
    }
}
