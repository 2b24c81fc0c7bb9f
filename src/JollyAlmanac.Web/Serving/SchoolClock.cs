using System.Globalization;
using JollyAlmanac.Application.Looking;

namespace JollyAlmanac.Web.Serving;

/// <summary>Times of a day are written by 12 or by 24 hours, as the school has chosen.</summary>
public sealed class SchoolClock(RequestDelegate next, Look look)
{
    /// <summary>Sets it for the request.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        CultureInfo.CurrentCulture = look.Culture();
        return next(context);
    }
}
