using JollyAlmanac.Application;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>The review of a file of sessions, and the taking in of it.</summary>
public sealed class ImportReviewModel(ImportFile importFile, RequestContext requestContext) : PageModel
{
    public ImportReview View { get; private set; } = null!;

    public ImportChoices Choices { get; private set; } = new();

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug, long id) => Show(slug, id);

    public IActionResult OnPost(
        Slug slug,
        long id,
        bool leavesOut,
        int[] take,
        int[] shown,
        [FromForm(Name = "do")] string? what
    )
    {
        // What was not on the page could not be unticked.
        Choices = new ImportChoices(leavesOut, what == "keep" ? shown.Except(take).ToHashSet() : null);
        if (what != "keep")
            return Show(slug, id);
        switch (importFile.SaveChoices(requestContext.Viewer, slug, id, Choices))
        {
            case Outcome<ImportReview>.Done { Value: var done }:
                TempData[TempDataKeys.Said] =
                    $"Taken in: {done.Count(ImportNews.New)} new, {done.Count(ImportNews.Changed)} changed, {done.Count(ImportNews.Same)} the same.";
                TempData[TempDataKeys.MayUndo] = done.Count(ImportNews.New) + done.Count(ImportNews.Changed) > 0;
                return Redirect($"/calendars/{slug}");
            case Outcome<ImportReview>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(slug, id);
            case var other:
                return Answers.Of(other);
        }
    }

    private IActionResult Show(Slug slug, long id)
    {
        var outcome = importFile.Review(requestContext.Viewer, slug, id, Choices);
        if (outcome is not Outcome<ImportReview>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }
}
