using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages;

/// <summary>What others see of one's week, and one's busy and free times for others.</summary>
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class MyTimesModel(OwnTimes ownTimes, RequestContext requestContext) : PageModel
{
    public OwnTimesView View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The form as it was sent.</summary>
    public OwnTimesInput Input { get; private set; } = new();

    /// <summary>When they are free, as a text to be copied.</summary>
    public string Text =>
        string.Join(
            '\n',
            View.Days.Select(day => day.InWords)
                .Append($"Times by the clock of {Wording.Place(View.School.Time.Zone)}.")
        );

    public IActionResult OnGet([FromQuery] OwnTimesInput input, string? day)
    {
        LocalDate? date = null;
        if (day is not null)
        {
            if (LocalDatePattern.Iso.Parse(day) is not { Success: true, Value: { Year: >= 1950 and <= 2150 } parsed })
                return NotFound();
            date = parsed;
        }

        return Show(input, date);
    }

    /// <summary>Makes a link that shows these days, and ends with the last of them.</summary>
    public IActionResult OnPostLink([FromForm] OwnTimesInput input)
    {
        switch (ownTimes.MakeLink(requestContext.Viewer, input))
        {
            case Outcome<FreeLinkWithToken>.Done { Value: var made }:
                TempData[TempDataKeys.Said] =
                    $"The link is made, and stands below. It ends with {Wording.WithYear(made.Link.Last)}.";
                return Redirect("/my-times#links");
            case Outcome<FreeLinkWithToken>.Refused refused:
                Problems = refused.Problems;
                return Show(input, null);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostEnd(long id)
    {
        var outcome = ownTimes.EndLink(requestContext.Viewer, id);
        if (!outcome.IsDone)
            return Answers.Of(outcome);
        TempData[TempDataKeys.Said] = "The link is ended. Its address shows nothing any more.";
        return Redirect("/my-times#links");
    }

    private IActionResult Show(OwnTimesInput input, LocalDate? day)
    {
        Input = input;
        var outcome = ownTimes.View(requestContext.Viewer, input, day);
        // What cannot be read is told beside what is usual.
        if (outcome is Outcome<OwnTimesView>.Refused refused)
        {
            Problems = refused.Problems;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            outcome = ownTimes.View(requestContext.Viewer, new OwnTimesInput(), day);
        }
        else if (outcome is Outcome<OwnTimesView>.Done { Value: var read } && Problems.Count == 0)
        {
            Input = read.Input;
        }

        if (Problems.Count > 0)
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        if (outcome is not Outcome<OwnTimesView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }
}
