using System.Globalization;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Sharing;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Times and dates are written as whoever signed in has chosen, and else as the school has; and what ended with its last day is ended
/// before anybody
/// looks.
/// </summary>
public sealed class SchoolClock(RequestDelegate next, SchoolQuery schoolQuery, Share share, IClock clock)
{
    /// <summary>Sets it for the request.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        share.EndWhatIsOver(clock.GetCurrentInstant());
        CultureInfo.CurrentCulture = schoolQuery.Culture();
        return next(context);
    }

    /// <summary>Sets it for who is signed in. What is published is the same for everybody.</summary>
    public static Task OfReader(HttpContext context, RequestDelegate next)
    {
        if (
            context.RequestServices.GetRequiredService<RequestContext>().Person is { } person
            && !IsPublished(context.Request.Path)
        )
            CultureInfo.CurrentCulture = context.RequestServices.GetRequiredService<SchoolQuery>().Culture(person.Id);
        return next(context);
    }

    private static bool IsPublished(PathString path) =>
        path.StartsWithSegments("/embed") || path.StartsWithSegments("/feeds") || path.StartsWithSegments("/oembed");
}
