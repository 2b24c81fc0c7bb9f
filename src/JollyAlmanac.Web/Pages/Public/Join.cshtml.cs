using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.OutputCaching;

namespace JollyAlmanac.Web.Pages.Public;

[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
[OutputCache(PolicyName = AnonymousResponseCache.Name)]
public sealed class JoinModel(Doors doors, RequestContext requestContext, GuessLimiter guard) : PageModel
{
    public ShortAddress At { get; private set; } = null!;

    /// <summary>The address of this door.</summary>
    public string Path { get; private set; } = "";

    public bool HasFailed { get; private set; }

    public string? WordProblem { get; private set; }

    /// <param name="code">The short address.</param>
    /// <param name="guest">The token of a guest link, in its place.</param>
    /// <param name="look">Only look: an open door does not lead straight in.</param>
    /// <param name="failed">The way in failed just now.</param>
    /// <param name="waits">What a page calls itself that waits for a host.</param>
    /// <param name="cancellation">Ends the waiting for the provider of rooms.</param>
    public async Task<IActionResult> OnGetAsync(
        [FromRoute] JoinCode? code,
        [FromRoute] string? guest,
        [FromQuery] string? look,
        [FromQuery] string? failed,
        [FromQuery] string? waits,
        CancellationToken cancellation
    )
    {
        if (await Find(code, guest, cancellation) is { } refusal)
            return refusal;
        HasFailed = failed == "1";
        if (waits is not null)
            doors.Waits(At, waits);
        // Straight in, where that is clear: open, passed, and one session only.
        return
            look is null
            && At
                is {
                    Link.LeadsStraightIn: true,
                    Door.IsOpen: true,
                    Entry: { Decision: EntryDecision.Free, MayHost: false }
                }
            && At.Sessions.Open.Length <= 1
            ? Redirect(Path + "/enter")
            : Page();
    }

    public async Task<IActionResult> OnPostAsync(
        [FromRoute] JoinCode? code,
        [FromRoute] string? guest,
        [FromForm] string? word,
        CancellationToken cancellation
    )
    {
        if (await Find(code, guest, cancellation) is { } refusal)
            return refusal;
        if (code is not { } link || !At.Entry.HasWord)
            return Redirect(Path);
        if (!guard.TakeWord(requestContext, link))
        {
            WordProblem = "Too many wrong words came from here. Sign in, or try again in ten minutes.";
            return this.Again(StatusCodes.Status429TooManyRequests);
        }

        if (doors.ProofOf(link, word ?? "") is { } proof)
        {
            guard.GiveBackWord(requestContext, link);
            requestContext.KeepWord(link, proof);
            // Not straight in: a browser follows no form to another site, as the policy of these pages has it.
            return Redirect(Path + "?look=1");
        }

        WordProblem = "That is not the entry word. Look at how it is written, or sign in.";
        return this.Again(StatusCodes.Status422UnprocessableEntity);
    }

    private async Task<StatusCodeResult?> Find(JoinCode? code, string? guest, CancellationToken cancellation)
    {
        if (code is not { } link)
        {
            if (await doors.AtGuest(guest!, requestContext.Viewer, cancellation) is not { } guestDoor)
                return NotFound();
            (At, Path) = (guestDoor, $"/guest/{guest}");
            return null;
        }

        if (guard.IsShut(requestContext, link))
            return StatusCode(StatusCodes.Status429TooManyRequests);
        if (await doors.At(link, requestContext.AtDoor(link), cancellation) is not { } door)
        {
            guard.Miss(requestContext);
            return NotFound();
        }

        guard.Hit(requestContext, link);
        (At, Path) = (door, link.Path);
        return null;
    }
}
