using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>How the classes of a department begin. For its managers.</summary>
public sealed class DefaultsModel(SetSchoolDefaults setSchoolDefaults, RequestContext requestContext) : PageModel
{
    public DepartmentDefaults View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug)
    {
        var outcome = setSchoolDefaults.OpenDepartment(requestContext.Viewer, slug);
        if (outcome is not Outcome<DepartmentDefaults>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }

    public IActionResult OnPost(Slug slug, [FromForm] CalendarDefaultsInput input) =>
        this.Back(
            setSchoolDefaults.SetDepartment(requestContext.Viewer, slug, input),
            $"/calendars/{slug}/defaults",
            calendar => $"Saved. The next class of {calendar.Title} begins so.",
            refused =>
            {
                if (
                    setSchoolDefaults.OpenDepartment(requestContext.Viewer, slug)
                    is not Outcome<DepartmentDefaults>.Done { Value: var view }
                )
                    return NotFound();
                (View, Problems) = (view with { Input = input }, refused.Problems);
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            }
        );

    public IActionResult OnPostClear(Slug slug) =>
        this.Back(
            setSchoolDefaults.ClearDepartment(requestContext.Viewer, slug),
            $"/calendars/{slug}/defaults",
            calendar => $"Classes of {calendar.Title} begin as the school’s do.",
            _ => NotFound()
        );
}
