using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

public sealed class SignInModel(SignIn signIn, Visit visit) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Next { get; set; }

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? Password { get; set; }

    public string? Message { get; private set; }

    public IActionResult OnGet() => visit.Person is null ? Page() : Onward();

    public async Task<IActionResult> OnPostAsync()
    {
        switch (signIn.Try(Email ?? "", Password ?? "", visit.Network))
        {
            case SignInAnswer.Welcome welcome:
                await visit.SignIn(welcome.Person, welcome.Stamp, welcome.Token);
                return Onward();
            case SignInAnswer.TooMany:
                Message = "That was tried too often. Wait five minutes, then try again.";
                return this.Again(StatusCodes.Status429TooManyRequests);
            default:
                Message = "The address and the password do not belong together. Check both and try again.";
                return this.Again(StatusCodes.Status422UnprocessableEntity);
        }
    }

    // Only to pages of the almanac, so that nobody is led elsewhere by a link to the sign-in.
    private LocalRedirectResult Onward() => LocalRedirect(Url.IsLocalUrl(Next) ? Next : "/today");
}
