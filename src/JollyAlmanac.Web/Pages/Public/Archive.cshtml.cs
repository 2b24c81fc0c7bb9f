using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>The archive of a calendar: what was, with its recordings and materials.</summary>
public sealed class ArchiveModel(ArchiveQuery archiveQuery, RequestContext requestContext) : PageModel
{
    public Archive View { get; private set; } = null!;

    public IActionResult OnGet(Slug slug, string? q, int from = 0)
    {
        if (archiveQuery.Read(requestContext.Viewer, slug, q, Math.Clamp(from, 0, 100_000)) is not { } view)
            return NotFound();
        View = view;
        return Page();
    }
}
