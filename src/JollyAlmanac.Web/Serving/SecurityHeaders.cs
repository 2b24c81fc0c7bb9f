namespace JollyAlmanac.Web.Serving;

/// <summary>
/// The headers of every answer: only own scripts, styles and pictures, nothing inline, no framing by others, no referrer
/// (addresses hold secrets), no guessing of types. An embed sets its own rule for framing.
/// </summary>
public sealed class SecurityHeaders(RequestDelegate next)
{
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; frame-src 'self'; "
        + "media-src 'self'; form-action 'self'; base-uri 'none'; manifest-src 'self'; ";

    /// <summary>Adds them.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Framed("'none'");
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=(), payment=(), usb=()";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        if (context.Request.IsHttps)
            headers.StrictTransportSecurity = "max-age=31536000";
        return next(context);
    }

    /// <summary>The policy for an uploaded file that a browser shows: nothing in it runs, asks or leads anywhere.</summary>
    public const string OfFile =
        "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'; media-src 'self'; object-src 'self'; frame-ancestors 'none'; sandbox";

    /// <summary>The policy for a page that <paramref name="ancestors"/> may frame.</summary>
    public static string Framed(string ancestors) => $"{Policy}frame-ancestors {ancestors}";
}
