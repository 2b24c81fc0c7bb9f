using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Publishing;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>When somebody is free, for whoever has their link.</summary>
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class FreeTimesModel(OwnTimes ownTimes) : PageModel
{
    public FreeTimesPage Times { get; private set; } = null!;

    public IActionResult OnGet(FeedToken token)
    {
        if (ownTimes.ByToken(token) is not { } times)
            return NotFound();
        Times = times;
        return Page();
    }
}
