using System.Text;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Formats.ICalendar;
using Microsoft.Net.Http.Headers;

namespace JollyAlmanac.Web.Serving;

/// <summary>The addresses that give no page: feeds, and the way through a short address.</summary>
public static class PublicationEndpoints
{
    /// <summary>Maps them.</summary>
    public static void MapPublications(this WebApplication app)
    {
        app.MapMethods("/feeds/{token:token}.atom", ["GET", "HEAD"], Changes);
        // Without an ending, in the form that the reader asks for.
        app.MapMethods(
            "/feeds/{token:token}",
            ["GET", "HEAD"],
            (FeedToken token, HttpContext context, ReadFeed readFeed, RequestContext requestContext) =>
            {
                context.Response.Headers.Append(HeaderNames.Vary, HeaderNames.Accept);
                if (
                    context
                        .Request.Headers.Accept.ToString()
                        .StartsWith("application/atom+xml", StringComparison.OrdinalIgnoreCase)
                )
                    return Changes(
                        token,
                        context,
                        context.RequestServices.GetRequiredService<ReadChanges>(),
                        requestContext
                    );
                return Feed(token, FormOf(context.Request), context, readFeed, requestContext);
            }
        );
        foreach (var form in Enum.GetValues<FeedForm>())
            app.MapMethods(
                $"/feeds/{{token:token}}.{form.ToString().ToLowerInvariant()}",
                ["GET", "HEAD"],
                (FeedToken token, HttpContext context, ReadFeed readFeed, RequestContext requestContext) =>
                    Feed(token, form, context, readFeed, requestContext)
            );
        app.MapMethods("/in/{code:code}/enter", ["GET", "HEAD"], Enter);
        app.MapMethods("/guest/{token}/enter", ["GET", "HEAD"], EnterAsGuest);
        app.MapGet(
            "/in/{code:code}/qr.svg",
            (JoinCode code, Doors doors, RequestContext requestContext, GuessLimiter guard) =>
                Qr(code, doors, requestContext, guard, address =>
                    Results.Text(QrPicture.Svg(address), "image/svg+xml", Encoding.UTF8)
                )
        );
        app.MapGet(
            "/in/{code:code}/qr.png",
            (JoinCode code, Doors doors, RequestContext requestContext, GuessLimiter guard) =>
                Qr(code, doors, requestContext, guard, address =>
                    Results.File(QrPicture.Png(address), "image/png", $"{code}.png")
                )
        );
    }

    private static Task Changes(
        FeedToken token,
        HttpContext context,
        ReadChanges readChanges,
        RequestContext requestContext
    )
    {
        var response = context.Response;
        if (readChanges.Do(token, requestContext.Root) is not { } bytes)
        {
            response.StatusCode = StatusCodes.Status404NotFound;
            return Task.CompletedTask;
        }

        var etag = $"\"{Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes))[..32]}\"";
        response.GetTypedHeaders().ETag = new EntityTagHeaderValue(etag);
        response.GetTypedHeaders().CacheControl = new CacheControlHeaderValue { Private = true, NoCache = true };
        if (context.Request.GetTypedHeaders().IfNoneMatch.Any(one => one.Tag == "*" || one.Tag == etag))
        {
            response.StatusCode = StatusCodes.Status304NotModified;
            return Task.CompletedTask;
        }

        response.ContentType = "application/atom+xml; charset=utf-8";
        response.ContentLength = bytes.Length;
        return HttpMethods.IsHead(context.Request.Method)
            ? Task.CompletedTask
            : response.Body.WriteAsync(bytes, context.RequestAborted).AsTask();
    }

    private static readonly (string Type, FeedForm Form)[] Types =
    [
        ("text/calendar", FeedForm.Ics),
        ("application/calendar+json", FeedForm.JCal),
        ("application/jscalendar+json", FeedForm.JSCalendar),
        ("text/csv", FeedForm.Csv),
    ];

    // RFC 9110 §12.5.1: the most wanted of those there are; iCalendar where nothing is wanted that there is.
    private static FeedForm FormOf(HttpRequest request) =>
        request
            .GetTypedHeaders()
            .Accept.Where(one => one.Quality is null or > 0)
            .OrderByDescending(one => one.Quality ?? 1)
            .SelectMany(one => Types.Where(type => one.MediaType.Equals(type.Type, StringComparison.OrdinalIgnoreCase)))
            .FirstOrDefault()
            .Form;

    // Which kind of program asks, by what it says of itself; no more of it is kept.
    private static string ProgramOf(HttpRequest request)
    {
        var said = request.Headers.UserAgent.ToString();
        bool Has(params ReadOnlySpan<string> signs)
        {
            foreach (var sign in signs)
                if (said.Contains(sign, StringComparison.OrdinalIgnoreCase))
                    return true;
            return false;
        }

        return said.Length == 0 ? "a program that does not say what it is"
            : Has("iphone", "ipad", "ios/", "android", "mobile") ? "a phone or tablet"
            : Has("mozilla/", "windows", "mac os", "macos", "x11", "linux") ? "a computer"
            : "a server or program";
    }

    private static Task Feed(
        FeedToken token,
        FeedForm form,
        HttpContext context,
        ReadFeed readFeed,
        RequestContext requestContext
    )
    {
        Task Only(int status)
        {
            context.Response.StatusCode = status;
            return Task.CompletedTask;
        }

        var asked = context.Request.GetTypedHeaders();
        var has = asked.IfNoneMatch;
        // Packed bytes are other bytes, so their ETag says how they are packed (RFC 9110 §8.8.3.3); either is known again.
        var accepted = asked.AcceptEncoding;
        var coding =
            Takes("br") ? "br"
            : Takes("gzip") ? "gzip"
            : null;
        // So does another form of the same feed.
        string InForm(string etag) => form == FeedForm.Ics ? etag : Tag(etag, form.ToString().ToLowerInvariant());
        var answer = readFeed.Do(
            token,
            requestContext.Root,
            etag =>
                has.Any(one =>
                    one.Tag == "*"
                    || one.Tag == InForm(etag)
                    || one.Tag == Tag(InForm(etag), "br")
                    || one.Tag == Tag(InForm(etag), "gzip")
                ),
            ProgramOf(context.Request)
        );
        if (answer is null)
        {
            return Only(StatusCodes.Status404NotFound);
        }

        var headers = context.Response.GetTypedHeaders();
        headers.ETag = new EntityTagHeaderValue(Tag(InForm(answer.ETag), coding));
        headers.LastModified = answer.LastModified.ToDateTimeOffset();
        // Kept by the reader, but asked for again each time: a change is seen at once, and asking costs next to nothing.
        headers.CacheControl = new CacheControlHeaderValue { Private = true, NoCache = true };
        // If-Modified-Since counts only where no ETag is sent (RFC 9110 §13.1.3).
        var isOld =
            has.Count == 0
            && asked.IfModifiedSince is { } since
            && answer.LastModified.ToUnixTimeSeconds() <= since.ToUnixTimeSeconds();
        context.Response.Headers.Append(HeaderNames.Vary, HeaderNames.AcceptEncoding);
        if (answer.Body is not { } body || isOld)
            return Only(StatusCodes.Status304NotModified);
        context.Response.Headers.ContentDisposition =
            $"inline; filename=\"{answer.FileName[..^3]}{form.ToString().ToLowerInvariant()}\"";
        context.Response.ContentType = form switch
        {
            FeedForm.JCal => JCal.MediaType,
            FeedForm.JSCalendar => JSCalendar.MediaType,
            FeedForm.Csv => "text/csv; charset=utf-8",
            _ => "text/calendar; charset=utf-8",
        };
        body = body.As(form);
        if (coding is not null)
            context.Response.Headers.ContentEncoding = coding;
        var bytes = coding switch
        {
            "br" => body.Brotli,
            "gzip" => body.Gzip,
            _ => body.Plain,
        };
        context.Response.ContentLength = bytes.Length;
        return HttpMethods.IsHead(context.Request.Method)
            ? Task.CompletedTask
            : context.Response.Body.WriteAsync(bytes, context.RequestAborted).AsTask();

        bool Takes(string name) =>
            accepted.Any(one =>
                one.Quality is null or > 0 && one.Value.Equals(name, StringComparison.OrdinalIgnoreCase)
            );
        static string Tag(string etag, string? coding) => coding is null ? etag : $"{etag[..^1]}-{coding}\"";
    }

    private static Task<IResult> Enter(
        JoinCode code,
        string? session,
        HttpContext context,
        Doors doors,
        RequestContext requestContext,
        GuessLimiter guard
    ) =>
        Through(context, requestContext, guard, code, $"/in/{code}", () =>
            doors.Enter(
                code,
                requestContext.AtDoor(code),
                SessionKey.TryRead(session, out var key) ? key : null,
                context.RequestAborted
            )
        );

    private static Task<IResult> EnterAsGuest(
        string token,
        HttpContext context,
        Doors doors,
        RequestContext requestContext
    ) =>
        Through(context, requestContext, null, default, $"/guest/{token}", () =>
            doors.EnterAsGuest(token, requestContext.Viewer, context.RequestAborted)
        );

    // The one way from a short address to what is behind it.
    private static async Task<IResult> Through(
        HttpContext context,
        RequestContext requestContext,
        GuessLimiter? guard,
        JoinCode code,
        string door,
        Func<Task<EntryResult?>> enter
    )
    {
        if (guard?.IsShut(requestContext, code) == true)
            return Results.StatusCode(StatusCodes.Status429TooManyRequests);
        context.Response.Headers.CacheControl = "no-store";
        switch (await enter())
        {
            case EntryResult.Through through:
                return Results.Redirect(through.To.AbsoluteUri);
            case EntryResult.Shut:
                return Results.Redirect(door + "?look=1");
            case EntryResult.Failed:
                return Results.Redirect(door + "?look=1&failed=1");
            default:
                guard?.Miss(requestContext);
                return Results.NotFound();
        }
    }

    private static IResult Qr(
        JoinCode code,
        Doors doors,
        RequestContext requestContext,
        GuessLimiter guard,
        Func<Uri, IResult> picture
    )
    {
        if (guard.IsShut(requestContext, code))
            return Results.StatusCode(StatusCodes.Status429TooManyRequests);
        if (doors.StandsAt(code))
            return picture(code.At(requestContext.Root));
        guard.Miss(requestContext);
        return Results.NotFound();
    }
}
