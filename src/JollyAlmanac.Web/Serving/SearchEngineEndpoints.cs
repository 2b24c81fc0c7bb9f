using System.Globalization;
using System.Text;
using System.Xml.Linq;
using JollyAlmanac.Application.Queries;

namespace JollyAlmanac.Web.Serving;

/// <summary>What search engines are asked to list: what the school says, and nothing of what is not open to anyone.</summary>
public static class SearchEngineEndpoints
{
    private static readonly XNamespace Sitemap = "http://www.sitemaps.org/schemas/sitemap/0.9";

    /// <summary>Maps them.</summary>
    public static void MapSearchEngines(this WebApplication app)
    {
        app.MapGet("/robots.txt", (SchoolQuery schoolQuery, RequestContext requestContext) =>
            Results.Text(Robots(schoolQuery.Find() is { IsListed: true }, requestContext.Root), "text/plain")
        );
        app.MapGet(
                "/sitemap.xml",
                (FrontPageQuery frontPageQuery, SchoolQuery schoolQuery, RequestContext requestContext) =>
                {
                    if (frontPageQuery.Listed() is not { } slugs)
                        return Results.NotFound();
                    var paths = slugs.Select(slug => $"c/{slug}");
                    if (schoolQuery.Find() is { HasFrontPage: true })
                        paths = paths.Prepend("");
                    var document = new XDocument(
                        new XElement(
                            Sitemap + "urlset",
                            paths.Select(path => new XElement(
                                Sitemap + "url",
                                new XElement(Sitemap + "loc", new Uri(requestContext.Root, path).AbsoluteUri)
                            ))
                        )
                    );
                    return Results.Text(
                        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
                            + document.ToString(SaveOptions.DisableFormatting),
                        "application/xml",
                        Encoding.UTF8
                    );
                }
            )
            .CacheOutput(AnonymousResponseCache.Name);
    }

    // RFC 9309: the longest rule that fits decides; "$" ends a path.
    private static string Robots(bool isListed, Uri root) =>
        isListed
            ? string.Create(
                CultureInfo.InvariantCulture,
                $"User-agent: *\nAllow: /$\nAllow: /c/\nAllow: /css/\nAllow: /js/\nAllow: /lib/\nAllow: /sitemap.xml\nDisallow: /\n\nSitemap: {new Uri(root, "sitemap.xml")}\n"
            )
            : "User-agent: *\nDisallow: /\n";
}
