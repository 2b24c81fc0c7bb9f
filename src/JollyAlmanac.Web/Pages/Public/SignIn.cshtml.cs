using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

public sealed class SignInModel(SignIn signIn, CodeTicket tickets, RequestContext requestContext) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Next { get; set; }

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? Password { get; set; }

    public string? Message { get; private set; }

    /// <summary>The part behind the @ that need not be written; null where it must.</summary>
    public string? Domain => signIn.Domain;

    /// <summary>The password was right, and the code is wanted: the ticket; else null.</summary>
    public string? Ticket { get; private set; }

    public IActionResult OnGet()
    {
        if (requestContext.Person is not null)
            return Onward();
        Ticket = TempData[OpenIdSignIn.Ticket] as string;
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancellation) =>
        await Answer(
            await signIn.Try(Email ?? "", Password ?? "", requestContext.Place, cancellation),
            "The address and the password do not belong together. Check both and try again."
        );

    public async Task<IActionResult> OnPostCodeAsync(string? ticket, string? code)
    {
        if (tickets.Read(ticket) is not var (person, stamp))
        {
            Message = "That took longer than five minutes. Sign in once more.";
            return this.Again(StatusCodes.Status422UnprocessableEntity);
        }

        Ticket = ticket;
        return await Answer(
            signIn.TryCode(person, stamp, code ?? "", requestContext.Place),
            "That is not the code of this moment. Look at your device again, or use a recovery code."
        );
    }

    private async Task<IActionResult> Answer(SignInAnswer answer, string wrong)
    {
        switch (answer)
        {
            case SignInAnswer.Welcome welcome:
                await requestContext.SignIn(welcome);
                return Onward();
            case SignInAnswer.AskCode asked:
                Ticket = tickets.Of(asked);
                return Page();
            case SignInAnswer.TooMany:
                Message = "That was tried too often. Wait five minutes, then try again.";
                return this.Again(StatusCodes.Status429TooManyRequests);
            default:
                Message = wrong;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
        }
    }

    // Only to pages of the almanac, so that nobody is led elsewhere by a link to the sign-in.
    private LocalRedirectResult Onward() => LocalRedirect(Url.IsLocalUrl(Next) ? Next : "/today");
}
