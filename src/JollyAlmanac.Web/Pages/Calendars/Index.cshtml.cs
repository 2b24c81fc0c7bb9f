using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class IndexModel(Look look, SaveCalendar saveCalendar, Visit visit) : PageModel
{
    public CalendarList List { get; private set; } = null!;

    public void OnGet() => List = look.AtCalendars(visit.Viewer)!;

    public IActionResult OnPostBringBack(string slug, int version)
    {
        switch (saveCalendar.BringBack(visit.Viewer, slug, version))
        {
            case Outcome<Calendar>.Done { Value: var back }:
                TempData[Answers.Said] = $"{back.Title} is back, with everything on it.";
                return Redirect($"/calendars/{back.Slug}");
            case Outcome<Calendar>.Stale:
                TempData[Answers.Said] = "Somebody changed it in the meantime. Here is the list as it is now.";
                return Redirect("/calendars");
            case var other:
                return Answers.Of(other);
        }
    }
}
