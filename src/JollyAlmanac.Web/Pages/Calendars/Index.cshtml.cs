using JollyAlmanac.Application.Looking;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class IndexModel(Look look, Visit visit) : PageModel
{
    public CalendarList List { get; private set; } = null!;

    public void OnGet() => List = look.AtCalendars(visit.Viewer)!;
}
