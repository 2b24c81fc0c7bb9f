using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using Microsoft.Net.Http.Headers;

namespace JollyAlmanac.Web.Serving;

/// <summary>The addresses of materials: the file itself, or the way to where a link leads; and small pictures of pictures.</summary>
public static class FileEndpoints
{
    /// <summary>Maps them.</summary>
    public static void MapFiles(this WebApplication app)
    {
        app.MapMethods("/m/{key:key}", ["GET", "HEAD"], Open);
        app.MapGet("/c/{slug:slug}/app.webmanifest", Manifest);
        app.MapMethods("/m/{key:key}/small", ["GET", "HEAD"], Small);
        app.MapMethods("/m/{key:key}/was/{edition:int}", ["GET", "HEAD"], Was);
    }

    // A class page as an application of its own: W3C's Web Application Manifest. Of what any stranger sees alone.
    private static IResult Manifest(Slug slug, ClassPageQuery classPageQuery) =>
        classPageQuery.Read(Core.Access.Viewer.Visitor, slug, asVisitor: false) is not { } page
            ? Results.NotFound()
            : Results.Json(
                new Dictionary<string, object>
                {
                    ["name"] = page.Calendar.Title,
                    ["short_name"] = page.Calendar.Title,
                    ["start_url"] = $"/c/{slug}",
                    ["scope"] = $"/c/{slug}",
                    ["id"] = $"/c/{slug}",
                    ["display"] = "standalone",
                    ["background_color"] = "#fcfdfc",
                    ["theme_color"] = "#0e4639",
                    ["icons"] = new[]
                    {
                        new Dictionary<string, string>
                        {
                            ["src"] = "/favicon.svg",
                            ["sizes"] = "any",
                            ["type"] = "image/svg+xml",
                        },
                    },
                },
                contentType: "application/manifest+json"
            );

    private static IResult Open(
        MaterialKey key,
        HttpContext context,
        MaterialQuery materialQuery,
        RequestContext requestContext,
        SmallFiles small
    ) =>
        materialQuery.Find(requestContext.Viewer, key) is { } material
            ? Give(material.Content, context, materialQuery, small)
            : Missing(key, materialQuery);

    private static IResult Was(
        MaterialKey key,
        int edition,
        HttpContext context,
        MaterialQuery materialQuery,
        RequestContext requestContext,
        SmallFiles small
    )
    {
        if (materialQuery.FindEdition(requestContext.Viewer, key, edition) is { } content)
            return Give(content, context, materialQuery, small);
        return Results.NotFound();
    }

    private static async Task<IResult> Small(
        MaterialKey key,
        HttpContext context,
        MaterialQuery materialQuery,
        RequestContext requestContext,
        IThumbnails thumbnails
    )
    {
        if (
            materialQuery.Find(requestContext.Viewer, key)?.Content is MaterialContent.StoredFile file
            && await materialQuery.SmallPictureOf(file, thumbnails, context.RequestAborted) is { } path
        )
        {
            context.Response.Headers.CacheControl = "private, max-age=3600";
            return Results.File(path, "image/webp", entityTag: new EntityTagHeaderValue($"\"{file.Hash}-small\""));
        }

        return Results.NotFound();
    }

    // What was there and is taken off is told so; whoever has its address had it given.
    private static IResult Missing(MaterialKey key, MaterialQuery materialQuery)
    {
        if (materialQuery.WasThere(key))
            return Results.StatusCode(StatusCodes.Status410Gone);
        return Results.NotFound();
    }

    private static IResult Give(
        MaterialContent content,
        HttpContext context,
        MaterialQuery materialQuery,
        SmallFiles small
    )
    {
        if (content is MaterialContent.Link link)
            return Results.Redirect(link.Address.AbsoluteUri);
        var file = (MaterialContent.StoredFile)content;
        // Only kinds that a browser shows without running anything are shown; all others are saved.
        var kind = FileKind.OfMediaType(file.MediaType);
        var headers = context.Response.Headers;
        headers.ContentDisposition = Disposition(
            kind.OpensInBrowser || kind.Plays ? "inline" : "attachment",
            file.Name
        );
        headers.CacheControl = "private, max-age=300";
        headers.ContentSecurityPolicy = SecurityHeaders.OfFile;
        var type = kind.IsText ? file.MediaType + "; charset=utf-8" : file.MediaType;
        var (path, tag) = (materialQuery.PathOf(file), new EntityTagHeaderValue($"\"{file.Hash}\""));
        if (file.Size <= SmallFiles.Largest && small.Find(file.Hash, path) is { } bytes)
            return Results.Bytes(bytes, type, enableRangeProcessing: true, entityTag: tag);
        return SmallFiles.Open(path) is { } stream
            ? Results.Stream(stream, type, enableRangeProcessing: true, entityTag: tag)
            : Results.NotFound();
    }

    private static string Disposition(string kind, string name)
    {
        var disposition = new ContentDispositionHeaderValue(kind);
        disposition.SetHttpFileName(name);
        return disposition.ToString();
    }
}
