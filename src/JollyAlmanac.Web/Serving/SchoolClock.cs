using System.Globalization;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Application.Sharing;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Times of a day are written by 12 or by 24 hours, as the school has chosen; and what ended with its last day is ended before anybody
/// looks.
/// </summary>
public sealed class SchoolClock(RequestDelegate next, Look look, Share share, IClock clock)
{
    /// <summary>Sets it for the request.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        share.EndWhatIsOver(clock.GetCurrentInstant());
        CultureInfo.CurrentCulture = look.Culture();
        return next(context);
    }
}
