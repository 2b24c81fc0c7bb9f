using JollyAlmanac.Application.Schools;

namespace JollyAlmanac.Web.Serving;

/// <summary>Until there is a school, every page leads to the first-run page.</summary>
public sealed class FirstRunGate(RequestDelegate next, CreateSchool createSchool)
{
    private static readonly string[] Open =
    [
        "/first-run",
        "/healthz",
        "/readyz",
        "/css",
        "/lib",
        "/js",
        "/error",
        "/favicon.svg",
    ];

    private bool isDone;

    /// <summary>Leads there.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        if (!isDone)
            isDone = createSchool.IsDone;
        if (isDone || Open.Any(path => context.Request.Path.StartsWithSegments(path, StringComparison.Ordinal)))
            return next(context);
        context.Response.Redirect("/first-run");
        return Task.CompletedTask;
    }
}
