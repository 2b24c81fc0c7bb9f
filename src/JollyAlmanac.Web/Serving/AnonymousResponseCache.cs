using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using Microsoft.AspNetCore.OutputCaching;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// What a page that is kept for strangers is known by. It is made from the whole request: whatever is not in it must be absent,
/// or the page is made anew. There is no other way to a key.
/// </summary>
/// <param name="Root">Scheme and host, as they are part of what the page says.</param>
/// <param name="Path">The path, as it was asked for.</param>
/// <param name="IsLook">Whether the one query that a kept page may have is there.</param>
/// <param name="StateVersion">When what is kept grows old.</param>
public sealed record ResponseKey(string Root, string Path, bool IsLook, string StateVersion)
{
    /// <summary>The key of a request; null where its answer is not for everybody.</summary>
    /// <param name="request">The request as a whole.</param>
    /// <param name="stateVersion">How things stand for everybody unknown at what is asked for; null where they differ from one to the
    /// other.</param>
    public static ResponseKey? Of(HttpRequest request, string? stateVersion) =>
        stateVersion is not null
        && HttpMethods.IsGet(request.Method)
        && !request.PathBase.HasValue
        && IsPlain(request.Headers)
        && (request.QueryString.Value is null or "" or "?look=1")
            ? new ResponseKey(
                $"{(request.IsHttps ? "https" : "http")}://{request.Host.Value}",
                request.Path.Value ?? "",
                request.QueryString.HasValue,
                stateVersion
            )
            : null;

    // Nothing that says who asks, and no sign of a script that asks for a part.
    private static bool IsPlain(IHeaderDictionary headers) =>
        headers.Cookie.Count == 0
        && headers.Authorization.Count == 0
        && headers.Range.Count == 0
        && !headers.ContainsKey("HX-Request");

    /// <summary>Its text: no two keys share one, as the path alone may hold a space, and stands last.</summary>
    public override string ToString() =>
        string.Concat(Root, IsLook ? " look " : " ", StateVersion, string.Concat(" of ", Path));
}

/// <summary>
/// The front page, a class page, an embed and the page of a door are the same for everybody unknown until something of them is written, a minute has
/// passed or the door changes: then they are answered without being made again. Whoever brings a cookie gets their own.
/// </summary>
public sealed class AnonymousResponseCache : IOutputCachePolicy
{
    /// <summary>The policy's name.</summary>
    public const string Name = "strangers";

    /// <inheritdoc />
    public ValueTask CacheRequestAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        var http = context.HttpContext;
        var services = http.RequestServices;
        var stateVersion = StateVersionOf(http);
        // A network that guessed too often is answered by the page, which asks it to wait; one that knows the address is noted.
        if (
            stateVersion is not null
            && JoinCode.TryParse(http.Request.RouteValues["code"] as string, null, out var code)
        )
        {
            var (guard, requestContext) = (
                services.GetRequiredService<GuessLimiter>(),
                services.GetRequiredService<RequestContext>()
            );
            if (guard.IsShut(requestContext, code))
                stateVersion = null;
            else
                guard.Hit(requestContext, code);
        }

        if (
            stateVersion is not null
            && FeedToken.TryParse(http.Request.RouteValues["token"] as string, null, out var token)
            && http.Request.Headers["Sec-Fetch-Dest"] is ["iframe" or "frame"]
            && Uri.TryCreate(http.Request.Headers.Referer, UriKind.Absolute, out var page)
            && page.Authority != http.Request.Host.Value
        )
            services.GetRequiredService<EmbedSightings>().Note(token, page);

        var key = ResponseKey.Of(http.Request, stateVersion);
        context.EnableOutputCaching = context.AllowCacheLookup = context.AllowCacheStorage = key is not null;
        context.AllowLocking = false;
        context.ResponseExpirationTimeSpan = TimeSpan.FromMinutes(2);
        context.CacheVaryByRules.CacheKeyPrefix = key?.ToString();
        return ValueTask.CompletedTask;
    }

    private static string? StateVersionOf(HttpContext http)
    {
        var (route, services) = (http.Request.RouteValues, http.RequestServices);
        return JoinCode.TryParse(route["code"] as string, null, out var code)
                ? services.GetRequiredService<Doors>().StateVersionOf(code)
            : Slug.TryParse(route["slug"] as string, null, out var slug)
                ? services.GetRequiredService<ClassPageQuery>().StateVersionOf(slug)
            : http.Request.Path == "/" || http.Request.Path == "/sitemap.xml"
                ? services.GetRequiredService<CalendarListQuery>().StateVersion()
            : FeedToken.TryParse(route["token"] as string, null, out var token)
            && services.GetRequiredService<ReadEmbed>().StateVersionOf(token) is { } panel
                ? $"{panel} {services.GetRequiredService<IClock>().GetCurrentInstant().ToUnixTimeSeconds() / 60}"
            : null;
    }

    /// <inheritdoc />
    public ValueTask ServeFromCacheAsync(OutputCacheContext context, CancellationToken cancellation) =>
        ValueTask.CompletedTask;

    /// <inheritdoc />
    public ValueTask ServeResponseAsync(OutputCacheContext context, CancellationToken cancellation)
    {
        if (
            context.HttpContext.Response.StatusCode != StatusCodes.Status200OK
            || context.HttpContext.Response.Headers.SetCookie.Count > 0
        )
            context.AllowCacheStorage = false;
        return ValueTask.CompletedTask;
    }
}
