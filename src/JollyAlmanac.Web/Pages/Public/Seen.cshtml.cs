using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>A notice as the link of a letter leads to it; saying so is a click, since some mail servers open links by themselves.</summary>
public sealed class SeenModel(EditNotices editNotices) : PageModel
{
    public ShownNotice Shown { get; private set; } = null!;

    public Calendar Calendar { get; private set; } = null!;

    public bool HasSeen { get; private set; }

    public IActionResult OnGet(long id, long person, string token)
    {
        if (editNotices.FromLetter(id, person, token) is not var (shown, calendar, hasSeen))
        {
            return NotFound();
        }

        (Shown, Calendar, HasSeen) = (shown, calendar, hasSeen);
        return Page();
    }

    public IActionResult OnPost(long id, long person, string token)
    {
        if (editNotices.SawLetter(id, person, token) is not null)
            return Redirect($"/n/{id}/{person}/{token}");
        return NotFound();
    }
}
