using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>A new entry that begins on a sheet of several calendars: leads to the composer of one, where another can be chosen.</summary>
public sealed class NewEntryModel(NewEntryQuery newEntryQuery, RequestContext requestContext) : PageModel
{
    public IActionResult OnGet([FromQuery] EntryPlace place) =>
        newEntryQuery.CalendarFor(requestContext.Viewer) is { } slug
            ? Redirect(
                $"/calendars/{slug}/series/new"
                    + QueryString.Create(
                        new Dictionary<string, string?>
                        {
                            ["day"] = place.Day,
                            ["period"] = place.Period,
                            ["to"] = place.To,
                        }
                    )
            )
            : Page();
}
