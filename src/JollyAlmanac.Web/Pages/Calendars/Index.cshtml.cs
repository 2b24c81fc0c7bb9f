using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class IndexModel(
    CalendarListQuery calendarListQuery,
    SaveCalendar saveCalendar,
    RequestContext requestContext
) : PageModel
{
    public CalendarList List { get; private set; } = null!;

    public bool MayKeepSchool => AccessRules.MayAtSchool(Permission.KeepSchool, requestContext.Viewer.Role);

    /// <summary>What is searched for; empty for nothing.</summary>
    public string Find { get; private set; } = "";

    /// <summary>The department that is opened, by its slug; "none" for calendars without one; null for none.</summary>
    public string? In { get; private set; }

    /// <summary>The page of it, from 1 up.</summary>
    public int Number { get; private set; } = 1;

    public void OnGet(
        [FromQuery] string? find,
        [FromQuery(Name = "in")] string? department,
        [FromQuery(Name = "page")] int? number
    )
    {
        (Find, In, Number) = (
            find?.Trim() is { Length: <= 80 } words ? words : "",
            department is { Length: <= Slug.Longest } ? department : null,
            Math.Clamp(number ?? 1, 1, 10_000)
        );
        List = calendarListQuery.Read(requestContext.Viewer, In, Find, Number)!;
    }

    /// <summary>The address of another page of what is shown.</summary>
    public string At(int page) =>
        QueryString.Create(
            new Dictionary<string, string?>
            {
                ["in"] = In,
                ["find"] = Find.Length > 0 ? Find : null,
                ["page"] = page > 1 ? $"{page}" : null,
            }.Where(one => one.Value is not null)
        )
            is var query
        && query.HasValue
            ? $"/calendars{query}"
            : "/calendars";

    public IActionResult OnPostBringBack(Slug? slug, int version)
    {
        if (slug is not { } stored)
            return NotFound();
        switch (saveCalendar.BringBack(requestContext.Viewer, stored, version))
        {
            case Outcome<Calendar>.Done { Value: var back }:
                TempData[TempDataKeys.Said] = $"{back.Title} is back, with everything on it.";
                return Redirect($"/calendars/{back.Slug}");
            case Outcome<Calendar>.Stale:
                TempData[TempDataKeys.Said] = "Somebody changed it in the meantime. Here is the list as it is now.";
                return Redirect("/calendars");
            case var other:
                return Answers.Of(other);
        }
    }
}
