using JollyAlmanac.Application;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using Microsoft.Net.Http.Headers;
using NodaTime;

namespace JollyAlmanac.Web.Serving;

/// <summary>Sheets for paper, as PDF, and the picture of a panel.</summary>
public static class PrintEndpoints
{
    /// <summary>Adds what makes them.</summary>
    public static void AddPrints(this IServiceCollection services) =>
        services.AddSingleton(all =>
        {
            var files = all.GetRequiredService<IWebHostEnvironment>().WebRootFileProvider;
            return new Prints(
                all.GetRequiredService<PrintSheetQuery>(),
                all.GetRequiredService<SchoolQuery>(),
                all.GetRequiredService<JoinCards>(),
                all.GetRequiredService<ReadEmbed>(),
                all.GetRequiredService<IClock>(),
                name =>
                {
                    using var stream = files.GetFileInfo($"lib/{name}.ttf").CreateReadStream();
                    using var bytes = new MemoryStream();
                    stream.CopyTo(bytes);
                    return bytes.ToArray();
                }
            );
        });

    /// <summary>Maps them.</summary>
    public static void MapPrints(this WebApplication app)
    {
        foreach (var sheet in Enum.GetValues<PrintedSheet>())
            app.MapGet(
                $"/c/{{slug:slug}}/{sheet.ToString().ToLowerInvariant()}.pdf",
                (Slug slug, HttpContext context, Prints prints, RequestContext requestContext) =>
                    prints.Sheet(requestContext.Viewer, slug, sheet, requestContext.Root, QrPicture.ModulesOf)
                        is { } pdf
                        ? Pdf(context, pdf, $"{slug}-{sheet.ToString().ToLowerInvariant()}.pdf")
                        : Results.NotFound()
            );
        app.MapGet(
                "/join-links/{code:code}/card.pdf",
                (JoinCode code, HttpContext context, Prints prints, RequestContext requestContext) =>
                    prints.Card(requestContext.Viewer, code, requestContext.Root, QrPicture.ModulesOf) switch
                    {
                        Outcome<byte[]>.Done { Value: var pdf } => Pdf(context, pdf, $"{code}-card.pdf"),
                        Outcome<byte[]>.NotAllowed => Results.StatusCode(StatusCodes.Status403Forbidden),
                        _ => Results.NotFound(),
                    }
            )
            .RequireAuthorization();
        app.MapMethods(
            "/embed/{token:token}/picture.svg",
            ["GET", "HEAD"],
            (FeedToken token, HttpContext context, Prints prints) =>
                Picture(context, prints.Svg(token), "image/svg+xml; charset=utf-8")
        );
        app.MapMethods(
            "/embed/{token:token}/picture.png",
            ["GET", "HEAD"],
            (FeedToken token, HttpContext context, Prints prints) => Picture(context, prints.Png(token), "image/png")
        );
    }

    private static IResult Pdf(HttpContext context, byte[] pdf, string name)
    {
        context.Response.Headers.CacheControl = "private, no-store";
        context.Response.Headers.ContentDisposition = $"inline; filename=\"{name}\"";
        return Results.Bytes(pdf, "application/pdf");
    }

    // Who has it already is told that it is the same.
    private static IResult Picture(HttpContext context, DrawnPicture? picture, string type)
    {
        if (picture is null)
            return Results.NotFound();
        context.Response.Headers.CacheControl = "public, max-age=60";
        return Results.Bytes(picture.Bytes, type, entityTag: new EntityTagHeaderValue($"\"{picture.Tag}\""));
    }
}
