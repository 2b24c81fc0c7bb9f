using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class JoinModel(JoinLinks joinLinks, Visit visit, GuessGuard guard) : PageModel
{
    public ShortAddress At { get; private set; } = null!;

    public string Code { get; private set; } = "";

    public IActionResult OnGet(string code)
    {
        if (guard.IsShut(visit.Network)) return StatusCode(StatusCodes.Status429TooManyRequests);
        if (joinLinks.At(new JoinCode(code)) is not { } at)
        {
            guard.Miss(visit.Network);
            return NotFound();
        }

        (At, Code) = (at, code);
        return Page();
    }
}
