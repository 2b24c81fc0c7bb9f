using JollyAlmanac.Application;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>The school that would come of files, and the taking in of it.</summary>
public sealed class SchoolFilesReviewModel(SchoolImport schoolImport, RequestContext requestContext) : PageModel
{
    public SchoolImportReview View { get; private set; } = null!;

    public SchoolImportChoices Choices { get; private set; } = new();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(long id) => Show(id);

    public IActionResult OnPost(
        long id,
        bool subjects,
        bool without,
        bool endGone,
        string? term,
        IReadOnlyList<string>? question,
        [FromForm(Name = "do")] string? what
    )
    {
        var answers = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        foreach (var (at, key) in (question ?? []).Take(500).Index())
            if (Request.Form[$"answer-{at}"].ToString() is { Length: > 0 } answer)
                answers[key] = answer == "-" ? "" : answer;
        Choices = new SchoolImportChoices(subjects, without, endGone) { Answers = answers, Term = term };
        if (what != "keep")
            return Show(id);
        switch (schoolImport.Keep(requestContext.Viewer, id, Choices))
        {
            case Outcome<SchoolImportResult>.Done { Value.Review: var done }:
                TempData[TempDataKeys.Said] =
                    $"Taken in: {Wording.Count(done.NewCalendars, "new calendar", "new calendars")}, {Wording.Count(done.Count(ImportNews.New), "new series", "new series")}, {done.Count(ImportNews.Changed)} changed, {done.Count(ImportNews.Same)} the same."
                    + (
                        done.Refused.Count > 0
                            ? $" {Wording.Count(done.Refused.Count, "line was", "lines were")} not understood and left out."
                            : ""
                    );
                return Redirect("/calendars");
            case Outcome<SchoolImportResult>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(id);
            case var other:
                return Answers.Of(other);
        }
    }

    private IActionResult Show(long id)
    {
        var outcome = schoolImport.Review(requestContext.Viewer, id, Choices);
        if (outcome is not Outcome<SchoolImportReview>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }
}
