using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.OutputCaching;

namespace JollyAlmanac.Web.Pages.Public;

[OutputCache(PolicyName = AnonymousResponseCache.Name)]
public sealed class EmbedModel(ReadEmbed readEmbed, RequestContext requestContext) : PageModel
{
    public EmbedPanel Panel { get; private set; } = null!;

    /// <summary>Where a website's editor finds how to show it (oEmbed).</summary>
    public string OEmbed { get; private set; } = "";

    public IActionResult OnGet(FeedToken token)
    {
        if (readEmbed.Do(token) is not { } panel)
        {
            return NotFound();
        }

        Panel = panel;
        OEmbed = $"{requestContext.Root}oembed?url={Uri.EscapeDataString($"{requestContext.Root}embed/{token}")}";
        // The allowed sites, and the almanac itself for its preview.
        Response.Headers.ContentSecurityPolicy = SecurityHeaders.Framed(
            string.Join(' ', ["'self'", .. panel.Outlet.Sites.Select(site => site.Value)])
        );
        Response.Headers.Remove("Cross-Origin-Opener-Policy");
        Response.Headers.CacheControl = "private, max-age=60";
        return Page();
    }
}
