using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Finds what somebody looks for, and the places of the almanac.</summary>
public sealed class FindModel(SearchQuery searchQuery, RequestContext requestContext) : PageModel
{
    public SearchFound View { get; private set; } = null!;

    /// <summary>Places of the almanac whose names have what was typed; all of them while nothing is.</summary>
    public IReadOnlyList<(string Name, string Address)> Places { get; private set; } = [];

    public IActionResult OnGet(string? q, bool part = false)
    {
        if (searchQuery.Read(requestContext.Viewer, q) is not { } view)
            return NotFound();
        View = view;
        var typed = Core.SearchText.Read(q);
        Places =
        [
            .. PlacesOf(requestContext.Viewer)
                .Where(place => view.Typed.Length == 0 || (!typed.Words.IsEmpty && typed.IsIn(place.Name))),
        ];
        return part ? Partial("_FoundList", this) : Page();
    }

    private static IEnumerable<(string Name, string Address)> PlacesOf(Viewer viewer)
    {
        yield return ("Today", "/today");
        yield return ("Calendars", "/calendars");
        yield return ("Week by bells", "/week");
        var works = AccessRules.MayAtSchool(Permission.MakeCalendar, viewer.Role);
        if (works)
            yield return ("Join links", "/join-links");
        if (works)
            yield return ("Make a class calendar", "/calendars/new");
        if (works)
            yield return ("Setting up, step by step", "/set-up");
        if (viewer.Role == SchoolRole.Coordinator)
            foreach (
                var place in new[]
                {
                    ("People", "/people"),
                    ("School time", "/school-time"),
                    ("What the school publishes", "/publishing"),
                    ("E-mail", "/mail"),
                    ("History", "/history"),
                    ("Defaults", "/people/habits"),
                }
            )
                yield return place;
        yield return ("Your account", "/account");
    }
}
