using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.People;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

public sealed class FirstRunModel(CreateSchool createSchool) : PageModel
{
    public SchoolInput Input { get; private set; } = new("", "", "Monday", "Autumn term", "", "", "", "", "");

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet() => createSchool.IsDone ? Redirect("/") : Page();

    public IActionResult OnPost([FromForm] SchoolInput input)
    {
        // A missing password is said to be too short.
        Input = input with { ManagerPassword = input.ManagerPassword ?? "" };
        switch (createSchool.Do(Input))
        {
            case Outcome<PersonId>.Done:
                return Redirect("/sign-in?next=%2Fcalendars%2Fnew");
            case Outcome<PersonId>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }
}
