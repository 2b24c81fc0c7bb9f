using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>The school's name and zone, and how it writes days and times.</summary>
public sealed class SchoolDetailsModel(
    SetSchoolTime setSchoolTime,
    SchoolQuery schoolQuery,
    RequestContext requestContext
) : PageModel
{
    public SchoolDetails Input { get; private set; } = null!;

    /// <summary>What goes with the school into another zone.</summary>
    public (int Calendars, int Series) InZone { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet() => Show(SchoolDetails.Of(schoolQuery.Find()!)) ?? Page();

    public IActionResult OnPost([FromForm] SchoolDetails input)
    {
        switch (setSchoolTime.SetSchool(requestContext.Viewer, input))
        {
            case Outcome<School>.Done:
                TempData[TempDataKeys.Said] = "It is saved.";
                return Redirect("/school-time");
            case Outcome<School>.Refused { Problems: var problems }:
                Problems = problems;
                return Show(input) ?? this.Again(StatusCodes.Status422UnprocessableEntity);
            case Outcome<School>.Stale:
                Problems =
                [
                    new Problem(
                        "",
                        "Somebody changed the school's time while you were here. Nothing was saved; look, and save again."
                    ),
                ];
                return Show(input with { Revision = schoolQuery.Find()!.Revision })
                    ?? this.Again(StatusCodes.Status409Conflict);
            case var other:
                return Answers.Of(other);
        }
    }

    private IActionResult? Show(SchoolDetails input)
    {
        Input = input;
        var opened = setSchoolTime.OpenSchool(requestContext.Viewer);
        if (opened is not Outcome<(int Calendars, int Series)>.Done { Value: var inZone })
            return Answers.Of(opened);
        InZone = inZone;
        return null;
    }
}
