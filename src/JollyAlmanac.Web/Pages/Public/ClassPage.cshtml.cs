using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.OutputCaching;

namespace JollyAlmanac.Web.Pages.Public;

[OutputCache(PolicyName = AnonymousResponseCache.Name)]
public sealed class ClassPageModel(
    ClassPageQuery classPageQuery,
    EditNotices editNotices,
    RequestContext requestContext
) : PageModel
{
    public ClassPage View { get; private set; } = null!;

    /// <summary>A keeper of the calendar looks at it as others see it.</summary>
    public bool IsLookingAs { get; private set; }

    public IActionResult OnGet(Slug slug, string? @as, bool all)
    {
        // The same answer for a page that is closed and one that is not there, so that nobody learns which classes exist.
        if (
            classPageQuery.Read(requestContext.Viewer, slug, asVisitor: @as == "visitor", wholeTerm: all)
            is not { } view
        )
            return NotFound();
        View = view;
        if (@as is null)
            editNotices.Saw(requestContext.Viewer, view.Notices);
        IsLookingAs = @as == "visitor" && view.MayKeep;
        // What any stranger sees may be kept by their browser for when the line is gone; nothing else is.
        if (requestContext.Person is null && requestContext.Looking is null)
            Response.Headers["Almanac-Keeps"] = "yes";
        return Page();
    }
}
