using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>How new calendars of the school begin, and how long things are kept. For coordinators.</summary>
public sealed class SchoolDefaultsModel(SetSchoolDefaults setSchoolDefaults, RequestContext requestContext) : PageModel
{
    public SchoolDefaultsInput Input { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet()
    {
        var outcome = setSchoolDefaults.Open(requestContext.Viewer);
        if (outcome is not Outcome<SchoolDefaults>.Done { Value: var schoolDefaults })
            return Answers.Of(outcome);
        Input = SchoolDefaultsInput.Of(schoolDefaults);
        return Page();
    }

    public IActionResult OnPost([FromForm] SchoolDefaultsInput input) =>
        this.Back(
            setSchoolDefaults.Do(requestContext.Viewer, input),
            "/people/habits",
            gone =>
                gone == 0
                    ? "Saved."
                    : $"Saved. Who was in a room went for {Wording.Count(gone, "entry", "entries")} that {(gone == 1 ? "was" : "were")} older.",
            refused =>
            {
                (Input, Problems) = (input, refused.Problems);
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            }
        );
}
