using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages.JoinLinks;

/// <summary>The switchboard: every link one works with, and all that is done to a door.</summary>
public sealed class IndexModel(
    Switchboard switchboard,
    EditJoinLinks editJoinLinks,
    OperateDoor operateDoor,
    TestLink testLink,
    MendLink mendLink,
    GiveRule giveRule,
    Doors doors,
    RequestContext requestContext
) : PageModel
{
    public Board Board { get; private set; } = null!;

    /// <summary>What was refused, to be said above the board.</summary>
    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>Renewing was held back because people are inside.</summary>
    public bool AsksSure { get; private set; }

    /// <summary>
    /// The session whose own room is to be made before a host can enter it; empty for the next one, null where nothing is asked.
    /// </summary>
    public string? AsksRoom { get; private set; }

    /// <summary>Where the page leads on to by itself: into a room that is ready; null for nowhere.</summary>
    public string? Enters { get; private set; }

    /// <summary>The form of one rule for several links, as it was sent; null where it was not.</summary>
    public GiveRuleInput? Rule { get; private set; }

    /// <summary>How many links have the rule that was given last, and may be taken back.</summary>
    public int RulesToUndo => giveRule.ToUndo(requestContext.Viewer);

    public IActionResult OnGet(JoinCode? code, string? day)
    {
        LocalDate? date = null;
        if (day is not null)
        {
            if (LocalDatePattern.Iso.Parse(day) is not { Success: true, Value: { Year: >= 1950 and <= 2150 } parsed })
                return NotFound();
            date = parsed;
        }

        if (switchboard.At(requestContext.Viewer, date, code) is not { } board)
            return code is null ? StatusCode(StatusCodes.Status403Forbidden) : NotFound();
        Board = board;
        return Page();
    }

    /// <summary>
    /// Enters the room of a link as host, at any time. What is only looked at makes no room: where one is to be made, the page asks.
    /// </summary>
    public async Task<IActionResult> OnGetEnterAsync(JoinCode code, string? session, CancellationToken cancellation)
    {
        Response.Headers.CacheControl = "no-store";
        var outcome = await doors.EnterAsHost(
            code,
            requestContext.Viewer,
            KeyOf(session),
            requestContext.Person?.Name ?? "",
            mayMake: false,
            cancellation
        );
        switch (outcome)
        {
            case Outcome<Uri?>.Done { Value: { } room }:
                return Redirect(room.AbsoluteUri);
            case Outcome<Uri?>.Done:
                AsksRoom = session ?? "";
                return OnGet(code, null);
            case Outcome<Uri?>.Refused refused:
                return Refused(code, refused.Problems);
            default:
                return Answers.Of(outcome);
        }
    }

    // The room is made by a form, and entered from the page that answers it: a form may not lead to another site, not by a redirect either.
    private async Task<IActionResult> Enter(JoinCode? code, string? session, CancellationToken cancellation)
    {
        var outcome = await doors.EnterAsHost(
            code ?? default,
            requestContext.Viewer,
            KeyOf(session),
            requestContext.Person?.Name ?? "",
            mayMake: true,
            cancellation
        );
        switch (outcome)
        {
            case Outcome<Uri?>.Done:
                Enters =
                    $"/join-links/{code}/enter{(session is null ? "" : "?session=" + Uri.EscapeDataString(session))}";
                Response.Headers["Refresh"] = $"0;url={Enters}";
                return OnGet(code, null);
            case Outcome<Uri?>.Refused refused:
                return Refused(code, refused.Problems);
            default:
                return Answers.Of(outcome);
        }
    }

    /// <summary>Gives several links one rule.</summary>
    public IActionResult OnPostRule([FromForm] GiveRuleInput input)
    {
        Rule = input;
        return Said(null, null, giveRule.Do(requestContext.Viewer, input), changed =>
            changed == 0
                ? "They have that rule already."
                : $"{Wording.Capital(Wording.Count(changed, "link has", "links have"))} the rule now; {(changed == 1 ? "it" : "they")} can have {(changed == 1 ? "its" : "their")} own back below."
        );
    }

    /// <summary>Takes back the rule that was given last.</summary>
    public IActionResult OnPostUndoRule() =>
        Said(null, null, giveRule.Undo(requestContext.Viewer), back =>
            $"{Wording.Capital(Wording.Count(back, "link has its", "links have their"))} own rule again."
        );

    private static SessionKey? KeyOf(string? session) => SessionKey.TryRead(session, out var key) ? key : null;

    /// <param name="code">The link.</param>
    /// <param name="act">What to do.</param>
    /// <param name="version">The version that the button was made from.</param>
    /// <param name="session">For a guest link: the key of its session.</param>
    /// <param name="guest">The guest link to end.</param>
    /// <param name="host">For a guest link: they enter as host.</param>
    /// <param name="until">The last day of a guest's further sessions.</param>
    /// <param name="remedy">The key of the remedy to apply.</param>
    /// <param name="checklist">The lines of the room checklist.</param>
    /// <param name="back">The page to go back to, one of the almanac's own.</param>
    /// <param name="cancellation">Ends a test that nobody waits for.</param>
    public async Task<IActionResult> OnPostAsync(
        JoinCode? code,
        string? act,
        int version,
        string? session,
        long guest,
        bool host,
        string? until,
        string? remedy,
        string? checklist,
        string? back,
        CancellationToken cancellation
    )
    {
        var (viewer, link) = (requestContext.Viewer, code ?? default);
        switch (act)
        {
            case "open":
                return Said(code, back, operateDoor.Do(viewer, link, DoorOperation.Open, version));
            case "shut":
                return Said(code, back, operateDoor.Do(viewer, link, DoorOperation.Shut, version));
            case "by-rule":
                return Said(code, back, operateDoor.Do(viewer, link, DoorOperation.ByRule, version));
            case "renew":
                return Said(
                    code,
                    back,
                    await editJoinLinks.Renew(viewer, link, sure: false, version, cancellation),
                    kept => $"{kept.Name} leads to a new room now. Its short address is the same."
                );
            case "renew-sure":
                return Said(
                    code,
                    back,
                    await editJoinLinks.Renew(viewer, link, sure: true, version, cancellation),
                    kept => $"{kept.Name} leads to a new room now. Its short address is the same."
                );
            case "withdraw":
                return Said(code, back, editJoinLinks.SetWithdrawn(viewer, link, true, version), kept =>
                    $"{kept.Name} is turned off: its short address leads nowhere now. It can be put back."
                );
            case "put-back":
                return Said(code, back, editJoinLinks.SetWithdrawn(viewer, link, false, version), kept =>
                    $"{kept.Name} is back."
                );
            case "enter":
                return await Enter(code, session, cancellation);
            case "test":
                return Said(code, back, await testLink.Do(viewer, link, cancellation));
            case "mend":
                return Said(code, back, await mendLink.Do(viewer, link, remedy ?? "", version, cancellation));
            case "guest":
                return Said(code, back, operateDoor.MakeGuest(viewer, link, KeyOf(session), host, until), made =>
                    $"The guest link is made. It stands below, ready to be copied, and ends with its {(made.Last is null ? "session" : "sessions")}."
                );
            case "end-guest":
                return Said(code, back, operateDoor.EndGuest(viewer, link, guest), _ => "The guest link is ended.");
            case "checklist":
                return Said(code, back, editJoinLinks.SetChecklist(viewer, checklist), count =>
                    "The room checklist is saved."
                );
            default:
                return BadRequest();
        }
    }

    private IActionResult Said(JoinCode? code, string? back, Outcome<string> outcome) =>
        Said(code, back, outcome, said => said);

    private IActionResult Said<T>(JoinCode? code, string? back, Outcome<T> outcome, Func<T, string> say)
    {
        switch (outcome)
        {
            case Outcome<T>.Done done:
                TempData[TempDataKeys.Said] = say(done.Value);
                return LocalRedirect(
                    back is { Length: > 1 } && Url.IsLocalUrl(back) ? back
                    : code is null ? "/join-links"
                    : $"/join-links/{code}"
                );
            case Outcome<T>.Refused refused:
                AsksSure = refused.Problems.Any(problem => problem.Field == "Sure");
                return Refused(code, refused.Problems);
            case Outcome<T>.Stale stale:
                return Refused(
                    code,
                    [
                        new Problem(
                            "",
                            $"{(stale.By is { } by ? by.Who : "Somebody")} changed this link while you were here. Below is how it stands now; do it again if you still want it."
                        ),
                    ],
                    StatusCodes.Status409Conflict
                );
            default:
                return Answers.Of(outcome);
        }
    }

    private IActionResult Refused(
        JoinCode? code,
        IReadOnlyList<Problem> problems,
        int status = StatusCodes.Status422UnprocessableEntity
    )
    {
        Problems = problems;
        var page = OnGet(code, null);
        if (page is PageResult)
            Response.StatusCode = status;
        return page;
    }
}
