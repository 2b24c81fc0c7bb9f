using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Who is on the class lists of a calendar.</summary>
public sealed class ClassListModel(Share share, CalendarListQuery calendarListQuery, RequestContext requestContext)
    : PageModel
{
    public Calendar Calendar { get; private set; } = null!;

    public IReadOnlyList<(string List, IReadOnlyList<string> Names)> Lists { get; private set; } = [];

    public IActionResult OnGet(Slug slug)
    {
        if (calendarListQuery.Find(requestContext.Viewer, slug) is not var (calendar, _))
            return NotFound();
        if (share.ClassLists(requestContext.Viewer, slug) is not { } lists)
            return StatusCode(StatusCodes.Status403Forbidden);
        (Calendar, Lists) = (calendar, lists);
        return Page();
    }
}
