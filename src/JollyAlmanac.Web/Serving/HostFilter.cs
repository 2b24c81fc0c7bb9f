using System.Net;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Answers only requests that name the almanac as it is reached: by its public address, or by a host and port it listens on.
/// Any other name in the Host header is refused before a page or a feed could carry it on. Also refused: methods that the
/// almanac has no use for.
/// </summary>
public sealed class HostFilter(RequestDelegate next, AlmanacSettings settings)
{
    private readonly HashSet<string> names =
    [
        .. settings.Urls.Select(BindingAddress.Parse).Select(address => address.Host.ToLowerInvariant()),
        "localhost",
        Dns.GetHostName().ToLowerInvariant(),
    ];

    // The last one that was let pass, as nearly all requests name the same.
    private Passed? passed;

    private sealed record Passed(string Host, int Port);

    /// <summary>Lets it pass, or not.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var request = context.Request;
        // Who serves an https address is asked over TLS, whatever a proxy in between forgets to say.
        if (settings.PublicAddress is { } reached)
            request.Scheme = reached.Scheme;
        if (!IsKnown(context))
            return Refuse(
                context,
                StatusCodes.Status400BadRequest,
                "This is not an address of the almanac. Whoever runs it can name its address with --public-address.\n"
            );
        if (
            HttpMethods.IsGet(request.Method)
            || HttpMethods.IsHead(request.Method)
            || HttpMethods.IsPost(request.Method)
            // Files that come in parts have a protocol of their own.
            || (
                (
                    HttpMethods.IsPatch(request.Method)
                    || HttpMethods.IsDelete(request.Method)
                    || HttpMethods.IsOptions(request.Method)
                ) && request.Path.StartsWithSegments("/uploads", StringComparison.Ordinal)
            )
        )
            return next(context);
        context.Response.Headers.Allow = "GET, HEAD, POST";
        return Refuse(
            context,
            StatusCodes.Status405MethodNotAllowed,
            "The almanac is read with GET and changed with POST.\n"
        );
    }

    private bool IsKnown(HttpContext context)
    {
        var (host, at) = (context.Request.Host.Value ?? "", context.Connection.LocalPort);
        if (passed is { } last && last.Port == at && last.Host == host)
            return true;
        if (!IsOurs(context))
            return false;
        // A number is one of ours only on the connection that came in by it.
        if (context.Connection.LocalIpAddress is null || names.Contains(context.Request.Host.Host.ToLowerInvariant()))
            passed = new Passed(host, at);
        return true;
    }

    private bool IsOurs(HttpContext context)
    {
        if (
            !Uri.TryCreate($"http://{context.Request.Host.Value}/", UriKind.Absolute, out var asked)
            || asked.UserInfo.Length > 0
            || asked.PathAndQuery != "/"
            || context.Request.Host.Value is null or ""
        )
            return false;
        var port = context.Request.Host.Port;
        if (
            settings.PublicAddress is { } reached
            && asked.IdnHost.Equals(reached.IdnHost, StringComparison.OrdinalIgnoreCase)
            && (port ?? (reached.Scheme == "https" ? 443 : 80)) == reached.Port
        )
            return true;
        if ((port ?? 80) != context.Connection.LocalPort)
            return false;
        return names.Contains(asked.Host.ToLowerInvariant())
            || (
                IPAddress.TryParse(asked.Host.Trim('[', ']'), out var number)
                && context.Connection.LocalIpAddress is { } local
                && Plain(number).Equals(Plain(local))
            );
    }

    private static IPAddress Plain(IPAddress address) => address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;

    private static Task Refuse(HttpContext context, int status, string why)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/plain; charset=utf-8";
        return HttpMethods.IsHead(context.Request.Method) ? Task.CompletedTask : context.Response.WriteAsync(why);
    }
}
