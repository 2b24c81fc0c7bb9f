using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>Moves a series to another calendar; tells first what becomes of it.</summary>
public sealed class MoveModel(MoveSeries moveSeries, MoveQuery moveQuery, RequestContext requestContext) : PageModel
{
    public MoveView View { get; private set; } = null!;

    public MoveInput Input { get; private set; } = new();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug, long id, [FromQuery] MoveInput input)
    {
        Input = input;
        switch (moveQuery.Read(requestContext.Viewer, slug, new SeriesId(id), input))
        {
            case Outcome<MoveView>.Done { Value: var view }:
                (View, Problems) = (view, view.Problems);
                return Page();
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPost(Slug slug, long id, [FromForm] MoveInput input)
    {
        switch (moveSeries.Do(requestContext.Viewer, slug, new SeriesId(id), input))
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[TempDataKeys.Said] = said;
                TempData[TempDataKeys.MayUndo] = true;
                return Redirect($"/calendars/{slug}");
            case Outcome<string>.Refused { Problems: var problems }:
                if (OnGet(slug, id, input) is not PageResult page)
                    return NotFound();
                Problems = problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case Outcome<string>.Stale:
                if (OnGet(slug, id, input) is not PageResult)
                    return NotFound();
                Problems =
                [
                    new Problem(
                        "",
                        "Somebody changed the series while you were here. Nothing was moved; look at it as it is now."
                    ),
                ];
                return this.Again(StatusCodes.Status409Conflict);
            case var other:
                return Answers.Of(other);
        }
    }
}
