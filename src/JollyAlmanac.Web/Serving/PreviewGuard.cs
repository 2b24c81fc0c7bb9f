using Microsoft.AspNetCore.Authorization;

namespace JollyAlmanac.Web.Serving;

/// <summary>Who looks as somebody else only looks; and as a stranger, only at what strangers see.</summary>
public sealed class PreviewGuard(RequestDelegate next)
{
    private static readonly string[] Open = ["/look-as", "/sign-out", "/error", "/css", "/js", "/lib"];

    /// <summary>Lets through what may be looked at.</summary>
    public Task InvokeAsync(HttpContext context, RequestContext requestContext)
    {
        if (
            requestContext.Looking is not { } looking
            || Open.Any(path => context.Request.Path.StartsWithSegments(path, StringComparison.Ordinal))
        )
            return next(context);
        var isLook = HttpMethods.IsGet(context.Request.Method) || HttpMethods.IsHead(context.Request.Method);
        var asksSignIn =
            context.GetEndpoint()?.Metadata is { } about
            && about.GetMetadata<IAuthorizeData>() is not null
            && about.GetMetadata<IAllowAnonymous>() is null;
        if (isLook && !(looking.IsStranger && asksSignIn))
            return next(context);
        context.Response.StatusCode = StatusCodes.Status403Forbidden;
        return Task.CompletedTask;
    }
}
