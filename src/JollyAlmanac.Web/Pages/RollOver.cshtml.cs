using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

public sealed class RollOverModel(RollOver rollOver, SchoolQuery schoolQuery, RequestContext requestContext) : PageModel
{
    public RollOverPreview? Preview { get; private set; }

    public IReadOnlyList<Term> Terms { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public Term? From { get; private set; }

    public Term? To { get; private set; }

    public IActionResult OnGet(long? from, long? to) => Show(from, to);

    public IActionResult OnPost(long from, long to, long[] series, bool materials, int revision)
    {
        switch (
            rollOver.Do(
                requestContext.Viewer,
                new TermId(from),
                new TermId(to),
                [.. series.Select(id => new SeriesId(id))],
                materials,
                revision
            )
        )
        {
            case Outcome<int>.Done { Value: var carried }:
                TempData[TempDataKeys.Said] =
                    $"{Wording.Count(carried, "series is", "series are")} copied, with their join links. Undo takes all of it back.";
                return Redirect($"/school-time/roll-over?from={from}&to={to}");
            case Outcome<int>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(from, to);
            case Outcome<int>.Stale:
                Problems =
                [
                    new Problem(
                        "",
                        "The school's time was changed while you were here. Look at what would be copied again, below."
                    ),
                ];
                Response.StatusCode = StatusCodes.Status409Conflict;
                return Show(from, to);
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>Takes back what was carried last.</summary>
    public IActionResult OnPostUndo()
    {
        switch (rollOver.Undo(requestContext.Viewer))
        {
            case Outcome<int>.Done { Value: var count }:
                TempData[TempDataKeys.Said] = $"{Wording.Count(count, "series is", "series are")} taken back.";
                return Redirect("/school-time/roll-over");
            case Outcome<int>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(null, null);
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>What was carried last and can be taken back.</summary>
    public IReadOnlyList<string> Carried { get; private set; } = [];

    private IActionResult Show(long? from, long? to)
    {
        Carried = rollOver.LastCarried(requestContext.Viewer);
        if (schoolQuery.Find() is not { } school)
            return NotFound();
        Terms = school.Time.Terms;
        var today = requestContext.Now.InZone(school.Time.Zone).Date;
        From = from is { } id ? school.Time.Find(new TermId(id)) : school.Time.TermToShow(today);
        To = to is { } other
            ? school.Time.Find(new TermId(other))
            : Terms.FirstOrDefault(term => term.First > From?.Last);
        if (From is null || To is null)
            return from is not null || to is not null ? NotFound() : Page();
        switch (rollOver.Preview(requestContext.Viewer, From.Id, To.Id))
        {
            case Outcome<RollOverPreview>.Done { Value: var preview }:
                Preview = preview;
                return Page();
            case Outcome<RollOverPreview>.Refused { Problems: var problems }:
                Problems = problems;
                return Page();
            case var refusal:
                return Answers.Of(refusal);
        }
    }
}
