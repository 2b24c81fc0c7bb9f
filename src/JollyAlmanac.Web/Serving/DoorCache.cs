using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using Microsoft.AspNetCore.OutputCaching;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// The page of a door is the same for everybody unknown until something is written, a minute has passed or the door changes:
/// then it is answered without being made again. Whoever brings a cookie gets their own.
/// </summary>
public sealed class DoorCache : IOutputCachePolicy
{
    /// <summary>The policy's name.</summary>
    public const string Name = "door";

    /// <inheritdoc />
    public ValueTask CacheRequestAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        var http = context.HttpContext;
        var services = http.RequestServices;
        // Nothing is kept for a network that guessed too often, and nothing it asks is answered from what is kept.
        var standing = HttpMethods.IsGet(http.Request.Method) && http.Request.Headers.Cookie.Count == 0 && http.Request.RouteValues["code"] is string code
            && !services.GetRequiredService<GuessGuard>().IsShut(services.GetRequiredService<Visit>().Network)
            ? services.GetRequiredService<Doors>().StandingOf(new JoinCode(code))
            : null;
        context.EnableOutputCaching = context.AllowCacheLookup = context.AllowCacheStorage = standing is not null;
        context.AllowLocking = false;
        context.ResponseExpirationTimeSpan = TimeSpan.FromMinutes(2);
        context.CacheVaryByRules.CacheKeyPrefix = standing;
        context.CacheVaryByRules.QueryKeys = "look";
        return ValueTask.CompletedTask;
    }

    /// <inheritdoc />
    public ValueTask ServeFromCacheAsync(OutputCacheContext context, CancellationToken cancellation) => ValueTask.CompletedTask;

    /// <inheritdoc />
    public ValueTask ServeResponseAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        if (context.HttpContext.Response.StatusCode != StatusCodes.Status200OK || context.HttpContext.Response.Headers.SetCookie.Count > 0) context.AllowCacheStorage = false;
        return ValueTask.CompletedTask;
    }
}
