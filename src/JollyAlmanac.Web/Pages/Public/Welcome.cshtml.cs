using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

/// <summary>What stands behind the address in an invitation, or in a letter for a new password.</summary>
public sealed class WelcomeModel(Invitations invitations, RequestContext requestContext) : PageModel
{
    public WayIn Way { get; private set; } = null!;

    public string? Name { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(string token) => Find(token) is { } refusal ? refusal : Page();

    public async Task<IActionResult> OnPostAsync(string token, string? name, string? password)
    {
        if (Find(token) is { } refusal)
            return refusal;
        Name = name;
        switch (invitations.Use(token, Way.IsReset ? null : name ?? "", password ?? "", requestContext.Browser))
        {
            case Outcome<SignInAnswer>.Done { Value: SignInAnswer.Welcome welcome }:
                await requestContext.SignIn(welcome);
                return Redirect(Way.IsReset ? "/today" : "/calendars");
            case Outcome<SignInAnswer>.Done { Value: SignInAnswer.AskCode }:
                TempData[TempDataKeys.Said] =
                    "You have your new password. Sign in with it, and with the code of your device.";
                return Redirect("/sign-in");
            case Outcome<SignInAnswer>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            default:
                return NotFound();
        }
    }

    private NotFoundResult? Find(string token)
    {
        if (invitations.At(token) is { } way)
        {
            Way = way;
            return null;
        }

        return NotFound();
    }
}
