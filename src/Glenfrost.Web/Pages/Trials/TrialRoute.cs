using Glenfrost.Core.Trials;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>Lets a route's word be the kind of a trial in the catalogue, and nothing else.</summary>
public sealed class TrialRoute : IRouteConstraint
{
    public bool Match(HttpContext? httpContext, IRouter? route, string routeKey, RouteValueDictionary values, RouteDirection routeDirection) =>
        values.TryGetValue(routeKey, out var word) && TrialCatalogue.Find(word as string) is not null;
}
