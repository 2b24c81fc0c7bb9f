using JollyAlmanac.Application;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.JoinLinks;

/// <summary>The form of a join link, new or there.</summary>
public sealed class EditModel(EditJoinLinks editJoinLinks, RequestContext requestContext) : PageModel
{
    public JoinLinkItem Kept { get; private set; } = null!;

    public LinkInput Input { get; private set; } = new();

    public bool IsNew { get; private set; }

    public bool IsStale { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>What a pasted invitation was taken apart into; null where none was.</summary>
    public Invitation? Invitation { get; private set; }

    public string? Pasted { get; private set; }

    // The code of the address, not the one that the form chooses.
    public IActionResult OnGet([FromRoute] JoinCode? code, Slug? calendar)
    {
        var outcome = code is null
            ? editJoinLinks.Begin(requestContext.Viewer, calendar)
            : editJoinLinks.Open(requestContext.Viewer, code.Value);
        if (outcome is not Outcome<JoinLinkItem>.Done { Value: var kept })
            return Answers.Of(outcome);
        (Kept, IsNew) = (kept, code is null);
        Input = IsNew
            ? new LinkInput(Room: new RoomInput(MakeRoom: kept.Provider is not null))
            : LinkInput.Of(kept.Link);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(
        [FromRoute] JoinCode? code,
        Slug? calendar,
        [FromForm] LinkInput input,
        string? act,
        string? pasted,
        CancellationToken cancellation
    )
    {
        var page = OnGet(code, calendar);
        if (page is not PageResult)
            return page;
        Input = input;
        if (act == "read")
        {
            // Only shown: what was found is kept when the form is saved.
            (Pasted, Invitation) = (pasted, Invitation.Read(pasted ?? ""));
            if (Invitation.Target is { } target)
                Input = input with
                {
                    Room = input.Room with
                    {
                        Address = target.Address.OriginalString,
                        MeetingId = target.MeetingId,
                        Passcode = target.Passcode,
                        DialIn = string.Join("\n", target.DialIn),
                        MakeRoom = false,
                    },
                    Name =
                        IsNew && Invitation.Topic.Length is > 0 and <= 80 && string.IsNullOrWhiteSpace(input.Name)
                            ? Invitation.Topic
                            : input.Name,
                };
            ModelState.Clear();
            return page;
        }

        var outcome = IsNew
            ? await editJoinLinks.Add(requestContext.Viewer, Kept.Calendar.Slug, input, cancellation)
            : await editJoinLinks.Change(requestContext.Viewer, code!.Value, input, cancellation);
        switch (outcome)
        {
            case Outcome<JoinLink>.Done { Value: var link }:
                TempData[TempDataKeys.Said] =
                    IsNew ? $"{link.Name} is at {link.Code.Path}. Choose it for a series in the composer."
                    : string.IsNullOrWhiteSpace(input.Room.Address) && !input.Room.MakeRoom ? $"{link.Name} is saved."
                    : $"{link.Name} leads to the new room now. Its short address is the same.";
                return Redirect($"/join-links/{link.Code}");
            case Outcome<JoinLink>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case Outcome<JoinLink>.Stale:
                IsStale = true;
                return this.Again(StatusCodes.Status409Conflict);
            default:
                return Answers.Of(outcome);
        }
    }
}
