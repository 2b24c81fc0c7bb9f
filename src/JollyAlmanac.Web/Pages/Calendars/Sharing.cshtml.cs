using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Who has access to a calendar, why, and what they see.</summary>
public sealed class SharingModel(Share share, AddRequests requests, RequestContext requestContext) : PageModel
{
    public SharingView View { get; private set; } = null!;

    public GiveInput Input { get; private set; } = new("", "full");

    /// <summary>Whom somebody asks about.</summary>
    public string? Who { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug, string? who, AccessLevel? all)
    {
        Who = who is { Length: <= 200 } ? who : null;
        var outcome = share.View(requestContext.Viewer, slug, Who, all);
        if (outcome is not Outcome<SharingView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }

    public IActionResult OnPostGive(Slug slug, [FromForm] GiveInput input)
    {
        Input = input;
        return Answer(slug, share.Give(requestContext.Viewer, slug, input));
    }

    /// <summary>What was typed is an address of nobody of the school: the coordinators can be asked to add them.</summary>
    public bool MayAsk =>
        Problems.Any(problem => problem.Field == "Who") && AddressList.Read(Input.Who ?? "").People.Length == 1;

    public IActionResult OnPostAskToAdd(Slug slug, [FromForm] GiveInput input)
    {
        Input = input;
        return Answer(
            slug,
            requests
                .Ask(requestContext.Viewer, slug, input)
                .Select(email => new GrantedAccess("", $"The coordinators are asked to add {email}."))
        );
    }

    public IActionResult OnPostEnd(Slug slug, string? key) => Answer(slug, share.End(requestContext.Viewer, slug, key));

    /// <summary>Lets access that ends soon hold to the end of the term.</summary>
    public IActionResult OnPostExtend(Slug slug, string? key)
    {
        if (
            share.View(requestContext.Viewer, slug)
            is not Outcome<SharingView>.Done { Value: { TermEnds: { } ends } view }
        )
            return OnGet(slug, null, null);
        var level = view.Steps.FirstOrDefault(step => step.Lines.Any(line => line.Key == key))?.Level
            ?? AccessLevel.None;
        return Answer(
            slug,
            share.Give(
                requestContext.Viewer,
                slug,
                new GiveInput(
                    key,
                    AccessPhrases.NameOf(level),
                    ends.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)
                )
            )
        );
    }

    public IActionResult OnPostAnswer(Slug slug, long id, AccessLevel level) =>
        Answer(slug, share.Answer(requestContext.Viewer, slug, id, level));

    public IActionResult OnPostHandOver(Slug slug, string? heir) =>
        Answer(slug, share.HandOver(requestContext.Viewer, slug, heir));

    public IActionResult OnPostShowList(Slug slug, bool shows, int version)
    {
        switch (share.ShowList(requestContext.Viewer, slug, shows, version))
        {
            case Outcome<Calendar>.Done:
                TempData[TempDataKeys.Said] = shows
                    ? "Students of the class see who else is on the list."
                    : "The list is hidden from its members.";
                break;
            case Outcome<Calendar>.Stale:
                TempData[TempDataKeys.Said] = "Somebody changed the calendar in the meantime. Here it is as it is now.";
                break;
            case var other:
                return Answers.Of(other);
        }

        return Redirect($"/calendars/{slug}/sharing");
    }

    private IActionResult Answer(Slug slug, Outcome<GrantedAccess> outcome)
    {
        switch (outcome)
        {
            case Outcome<GrantedAccess>.Done { Value: var grantedAccess }:
                TempData[TempDataKeys.Said] = grantedAccess.Said;
                // Whoever removes their own access, or their group's, has no page there any more.
                return Redirect(
                    share.View(requestContext.Viewer, slug).IsDone ? $"/calendars/{slug}/sharing" : "/calendars"
                );
            case Outcome<GrantedAccess>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return OnGet(slug, null, null);
            default:
                return Answers.Of(outcome);
        }
    }
}
