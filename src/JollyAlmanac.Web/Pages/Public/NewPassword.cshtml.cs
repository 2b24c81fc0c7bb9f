using JollyAlmanac.Application.People;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

public sealed class NewPasswordModel(Invitations invitations, ResetLimiter guard, RequestContext requestContext)
    : PageModel
{
    /// <summary>It was asked for.</summary>
    public bool IsAsked { get; private set; }

    public void OnGet() { }

    // Whoever asks sees the same, whatever the address.
    public IActionResult OnPost(string? email)
    {
        if (!guard.Take(requestContext))
            return StatusCode(StatusCodes.Status429TooManyRequests);
        invitations.AskReset(email ?? "");
        IsAsked = true;
        return Page();
    }
}
