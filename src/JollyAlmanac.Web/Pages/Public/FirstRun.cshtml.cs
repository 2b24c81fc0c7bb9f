using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Public;

public sealed class FirstRunModel(
    CreateSchool createSchool,
    SetUpCode code,
    SignIn signIn,
    RequestContext requestContext
) : PageModel
{
    public SchoolInput Input { get; private set; } = new("", "", "Monday", "Autumn term", "", "", "", "", "");

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The code that was typed, where it was right.</summary>
    public string? Code { get; private set; }

    public IActionResult OnGet() => createSchool.IsDone ? Redirect("/") : Page();

    public async Task<IActionResult> OnPostAsync([FromForm] SchoolInput input, [FromForm] string? setUpCode)
    {
        // A missing password is said to be too short.
        Input = input with { ManagerPassword = input.ManagerPassword ?? "" };
        if (createSchool.IsDone)
            return Redirect("/");
        if (code.Is(setUpCode) is not true and var isRight)
        {
            Problems =
            [
                new Problem(
                    "SetUpCode",
                    isRight is null
                        ? "That was tried too often. Wait ten minutes, or start the server anew: it prints a fresh code."
                        : "That is not the code. It stands in the terminal in which the almanac was started, and is another one after each start."
                ),
            ];
            return this.Again(
                isRight is null ? StatusCodes.Status429TooManyRequests : StatusCodes.Status422UnprocessableEntity
            );
        }

        Code = setUpCode;
        switch (createSchool.Do(Input))
        {
            case Outcome<PersonId>.Done:
                // Whoever set it up has just given address and password: no second asking.
                if (
                    await signIn.Try(Input.ManagerEmail!, Input.ManagerPassword!, requestContext.Place)
                    is SignInAnswer.Welcome welcome
                )
                    await requestContext.SignIn(welcome);
                return Redirect("/set-up");
            case Outcome<PersonId>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }
}
