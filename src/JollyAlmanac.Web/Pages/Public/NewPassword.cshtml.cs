using JollyAlmanac.Application.People;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>Counts who asks for new passwords, by network.</summary>
public sealed class ResetLimiter
{
    private readonly AttemptLimiter asked = new(60, TimeSpan.FromHours(1));

    /// <summary>Counts one.</summary>
    /// <returns>False where there were too many.</returns>
    public bool Take(RequestContext requestContext) => asked.Take(requestContext.Network);
}

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
