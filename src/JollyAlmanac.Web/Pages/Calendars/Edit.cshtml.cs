using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class EditModel(
    SaveCalendar saveCalendar,
    CalendarListQuery calendarListQuery,
    TermSheetQuery termSheetQuery,
    RequestContext requestContext
) : PageModel
{
    /// <summary>The calendar; null for a new one.</summary>
    public Slug? Slug { get; private set; }

    public CalendarInput Input { get; private set; } = null!;

    public int Version { get; private set; }

    public bool IsStale { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyList<Calendar> Departments { get; private set; } = [];

    /// <summary>Its join links that let anyone in.</summary>
    public IReadOnlyList<JoinLink> OpenLinks { get; private set; } = [];

    public string? DeleteProblem { get; private set; }

    /// <summary>What the calendar is called that a new one is to be like; null for none.</summary>
    public string? LikeTitle { get; private set; }

    /// <summary>The title as it is stored.</summary>
    public string? StoredTitle { get; private set; }

    public IActionResult OnGet(
        Slug? slug,
        CalendarKind kind = CalendarKind.Class,
        Slug? department = null,
        Slug? like = null
    )
    {
        Slug = slug;
        var form =
            slug is { } stored ? saveCalendar.Form(requestContext.Viewer, stored)
            : AccessRules.MayAtSchool(Permission.MakeCalendar, requestContext.Viewer.Role)
                ? like is { } other && saveCalendar.FormLike(requestContext.Viewer, other) is { } begun ? begun
                    : saveCalendar.NewForm(
                        requestContext.Viewer,
                        Enum.IsDefined(kind) ? kind : CalendarKind.Class,
                        department
                    )
            : null;
        return form is null ? Refusal(slug) : Show(form, form.Version);
    }

    public IActionResult OnPost(Slug? slug, [FromForm] CalendarInput input)
    {
        Slug = slug;
        // A field that was emptied is bound as one that is not there.
        input = input with { Opens = Sent("Opens"), Contact = Sent("Contact") };
        switch (
            slug is { } stored
                ? saveCalendar.Change(requestContext.Viewer, stored, input)
                : saveCalendar.Create(requestContext.Viewer, input)
        )
        {
            case Outcome<Calendar>.Done { Value: var calendar }:
                var still =
                    input.OpenTo != OpenTo.Anyone && slug is not null
                        ? saveCalendar.LinksForAnyone(requestContext.Viewer, calendar.Slug)
                        : [];
                TempData[TempDataKeys.Said] =
                    still.Count > 0
                        ? $"{calendar.Title} is changed. Its {(still.Count == 1 ? "join link" : "join links")} {Wording.List([.. still.Select(link => link.Name)])} still {(still.Count == 1 ? "lets" : "let")} in anyone who has the short address; close {(still.Count == 1 ? "it" : "them")} under Change, or under Join links."
                    : slug is null ? $"{calendar.Title} has its calendar. Now give it its first series."
                    : $"{calendar.Title} is changed, everywhere it is published.";
                return Redirect($"/calendars/{calendar.Slug}");
            case Outcome<Calendar>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(input, input.Version);
            case Outcome<Calendar>.Stale:
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                return Show(input, saveCalendar.Form(requestContext.Viewer, slug!.Value)!.Version);
            case var other:
                return Answers.Of(other);
        }
    }

    private string? Sent(string field) => Request.Form.TryGetValue(field, out var value) ? value.ToString() : null;

    public IActionResult OnPostOpenNow(Slug? slug, int version)
    {
        if (slug is not { } stored)
            return NotFound();
        switch (saveCalendar.OpenNow(requestContext.Viewer, stored, version))
        {
            case Outcome<Calendar>.Done { Value: var calendar }:
                TempData[TempDataKeys.Said] = $"{calendar.Title} is open: its people see it now.";
                return Redirect($"/calendars/{calendar.Slug}");
            case Outcome<Calendar>.Stale:
                Slug = slug;
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                return saveCalendar.Form(requestContext.Viewer, stored) is { } form
                    ? Show(form, form.Version)
                    : Refusal(slug);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostPutAway(Slug? slug, int version) =>
        slug is { } stored
            ? Leave(stored, saveCalendar.Archive(requestContext.Viewer, stored, version), calendar =>
                $"{calendar.Title} is archived. It stands at the end of the list, and can be brought back."
            )
            : NotFound();

    public IActionResult OnPostDelete(Slug? slug, string? title, int version) =>
        slug is { } stored
            ? Leave(stored, saveCalendar.Delete(requestContext.Viewer, stored, title, version), calendar =>
                $"{calendar.Title} is deleted. For a month it can be brought back from the end of the list."
            )
            : NotFound();

    private IActionResult Leave(Slug slug, Outcome<Calendar> outcome, Func<Calendar, string> say)
    {
        Slug = slug;
        switch (outcome)
        {
            case Outcome<Calendar>.Done { Value: var calendar }:
                TempData[TempDataKeys.Said] = say(calendar);
                return Redirect("/calendars");
            case Outcome<Calendar>.Refused { Problems: [var first, ..] }:
                DeleteProblem = first.Message;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                break;
            case Outcome<Calendar>.Stale:
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                break;
            default:
                return Answers.Of(outcome);
        }

        return saveCalendar.Form(requestContext.Viewer, slug) is { } form ? Show(form, form.Version) : Refusal(slug);
    }

    private PageResult Show(CalendarInput input, int version)
    {
        if (Slug is { } slug)
            (OpenLinks, StoredTitle) = (
                saveCalendar.LinksForAnyone(requestContext.Viewer, slug),
                saveCalendar.Form(requestContext.Viewer, slug)?.Title
            );
        if (
            Core.Calendars.Slug.TryParse(input.Like, null, out var like)
            && calendarListQuery.Find(requestContext.Viewer, like) is var (other, _)
        )
            LikeTitle = other.Title;
        (Input, Version) = (input, version);
        Departments = calendarListQuery.Departments(requestContext.Viewer);
        return Page();
    }

    private StatusCodeResult Refusal(Slug? slug) =>
        slug is { } stored && termSheetQuery.Read(requestContext.Viewer, stored, null) is null
            ? NotFound()
            : StatusCode(StatusCodes.Status403Forbidden);
}
