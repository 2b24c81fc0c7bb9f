using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class EditModel(SaveCalendar saveCalendar, Look look, Visit visit) : PageModel
{
    /// <summary>The calendar; null for a new one.</summary>
    public string? Slug { get; private set; }

    public CalendarInput Input { get; private set; } = null!;

    public int Version { get; private set; }

    public bool IsStale { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyList<Calendar> Departments { get; private set; } = [];

    public IActionResult OnGet(string? slug)
    {
        Slug = slug;
        var form = slug is not null ? saveCalendar.Form(visit.Viewer, slug) : AccessRules.MayMakeCalendar(visit.Viewer.Role) ? saveCalendar.NewForm() : null;
        return form is null ? Refusal(slug) : Show(form, form.Version);
    }

    public IActionResult OnPost(string? slug, [FromForm] CalendarInput input)
    {
        Slug = slug;
        switch (slug is null ? saveCalendar.Create(visit.Viewer, input) : saveCalendar.Change(visit.Viewer, slug, input))
        {
            case Outcome<Calendar>.Done { Value: var calendar }:
                TempData[Answers.Said] = slug is null
                    ? $"{calendar.Title} has its calendar. Now give it its first series."
                    : $"{calendar.Title} is changed, everywhere it is published.";
                return Redirect($"/calendars/{calendar.Slug}");
            case Outcome<Calendar>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(input, input.Version);
            case Outcome<Calendar>.Stale:
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                return Show(input, saveCalendar.Form(visit.Viewer, slug!)!.Version);
            case var other:
                return Answers.Of(other);
        }
    }

    private PageResult Show(CalendarInput input, int version)
    {
        (Input, Version) = (input, version);
        Departments = [.. look.AtCalendars(visit.Viewer)!.Lines.Select(line => line.Calendar).Where(calendar => calendar.Kind == CalendarKind.Department)];
        return Page();
    }

    private StatusCodeResult Refusal(string? slug) =>
        slug is not null && look.AtTermSheet(visit.Viewer, slug, null) is null ? NotFound() : StatusCode(StatusCodes.Status403Forbidden);
}
