using System.Text;
using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>One's own account.</summary>
public sealed class AccountModel(Accounts accounts, OwnFeeds ownFeeds, RequestContext requestContext) : PageModel
{
    public Account Account { get; private set; } = null!;

    /// <summary>Their feed of all their classes; null for who looks as them.</summary>
    public OwnFeedView? Own { get; private set; }

    public IActionResult OnPostFeed(string? reminder, int version) =>
        Answer(ownFeeds.Set(requestContext.Viewer, reminder, version), feed =>
            feed.Version == 1
                ? "Your feed is made. Copy its address into your calendar program."
                : "Your feed reminds you as you chose."
        );

    public IActionResult OnPostRenewFeed(int version) =>
        Answer(ownFeeds.Renew(requestContext.Viewer, version), _ =>
            "Your feed has a new address. The old one no longer works."
        );

    public IActionResult OnPostEndFeed(int version) =>
        Answer(ownFeeds.End(requestContext.Viewer, version), _ => "Your feed is ended.");

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>Recovery codes that were made just now.</summary>
    public IReadOnlyList<string> Codes { get; private set; } = [];

    public IActionResult OnGet()
    {
        if (accounts.Open(requestContext.Viewer, requestContext.Token) is not { } account)
            return StatusCode(StatusCodes.Status403Forbidden);
        Account = account;
        Own = ownFeeds.View(requestContext.Viewer).OrNone;
        return Page();
    }

    /// <summary>The key of a second factor that is being set up, for an app to scan.</summary>
    public IActionResult OnGetPicture() =>
        accounts.Open(requestContext.Viewer, requestContext.Token)?.Picture is { } address
            ? File(Encoding.UTF8.GetBytes(QrPicture.Svg(new Uri(address))), "image/svg+xml")
            : NotFound();

    public IActionResult OnPostName(string? name, int version) =>
        Answer(accounts.Rename(requestContext.Viewer, name, version), called =>
            $"You are called {called} from now on."
        );

    public IActionResult OnPostWriting(bool? twelveHours, bool? monthFirst) =>
        Answer(accounts.SetWriting(requestContext.Viewer, twelveHours, monthFirst), _ =>
            "Times and dates are written so for you from now on."
        );

    public async Task<IActionResult> OnPostPasswordAsync(string? old, string? password)
    {
        var outcome = accounts.ChangePassword(requestContext.Viewer, requestContext.Token, old, password);
        if (outcome is Outcome<string>.Done { Value: var stamp })
            await requestContext.Stay(stamp);
        return Answer(outcome, _ => "You have a new password, and are signed out everywhere else.");
    }

    public IActionResult OnPostBeginFactor() => Answer(accounts.BeginFactor(requestContext.Viewer), _ => null);

    public IActionResult OnPostConfirmFactor(string? code)
    {
        var outcome = accounts.ConfirmFactor(requestContext.Viewer, code);
        if (outcome is not Outcome<IReadOnlyList<string>>.Done { Value: var codes })
            return Answer(outcome, _ => null);
        Codes = codes;
        return OnGet();
    }

    public IActionResult OnPostEndFactor(string? password) =>
        Answer(accounts.EndFactor(requestContext.Viewer, password), _ => "The second factor is ended.");

    public IActionResult OnPostEndPlace(string? key) =>
        Answer(accounts.EndPlace(requestContext.Viewer, key), _ => "That sign-in is ended.");

    public IActionResult OnPostEndOthers() =>
        Answer(accounts.EndOthers(requestContext.Viewer, requestContext.Token), count =>
            $"{Wording.Count(count, "other sign-in is", "other sign-ins are")} ended."
        );

    private IActionResult Answer<T>(Outcome<T> outcome, Func<T, string?> say) =>
        this.Back(outcome, "/account", say, refused =>
        {
            Problems = refused.Problems;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return OnGet();
        });
}
