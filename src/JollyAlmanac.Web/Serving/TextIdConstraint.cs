namespace JollyAlmanac.Web.Serving;

/// <summary>A part of an address that has the form of an id.</summary>
/// <typeparam name="T">The id.</typeparam>
public sealed class TextIdConstraint<T> : IRouteConstraint
    where T : struct, ITextId<T>
{
    /// <inheritdoc />
    public bool Match(
        HttpContext? httpContext,
        IRouter? route,
        string routeKey,
        RouteValueDictionary values,
        RouteDirection routeDirection
    ) => T.TryParse(values.GetValueOrDefault(routeKey)?.ToString(), null, out _);
}
