using System.Globalization;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Web.Serving;

/// <summary>Times of a day are written by 12 or by 24 hours, as the school has chosen.</summary>
public sealed class SchoolClock(RequestDelegate next, AlmanacDatabase database)
{
    private volatile Known? known;

    /// <summary>Sets it for the request.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var epoch = database.Epoch();
        if (known is not { } at || at.Epoch != epoch) known = at = new Known(epoch, Wording.Culture(database.Read(stores => stores.School.Find()) is { TwelveHours: true }));
        CultureInfo.CurrentCulture = at.Culture;
        return next(context);
    }

    private sealed record Known(long Epoch, CultureInfo Culture);
}
