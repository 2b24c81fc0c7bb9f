using JollyAlmanac.Application;
using JollyAlmanac.Application.Bulk;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Does one thing to several calendars at once: chosen, looked at, done, taken back.</summary>
public sealed class SeveralCalendarsModel(BulkChange bulkChange, Prints prints, RequestContext requestContext)
    : PageModel
{
    public BulkChoices Choices { get; private set; } = null!;

    /// <summary>What it would come to; null while it is chosen.</summary>
    public BulkReview? Review { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public BulkInput Input { get; private set; } = new(BulkAction.Open) { Shape = EmbedShape.Agenda };

    /// <summary>What they are found by: a department's slug, words of the title, who manages them; empty for all.</summary>
    public (string In, string Find, string Teacher) Filter { get; private set; } = ("", "", "");

    /// <summary>The fields of the form but those that a page writes anew, to go on with its next step.</summary>
    public IEnumerable<(string Name, string Value)> Carried =>
        Request
            .Form.Where(one =>
                one.Key
                    is not (
                        "Ticked"
                        or "Found"
                        or "All"
                        or "Slugs"
                        or "Seen"
                        or "Count"
                        or "__RequestVerificationToken"
                    )
            )
            .SelectMany(one => one.Value.Select(value => (one.Key, value ?? "")));

    public bool IsTicked(string slug) => Input.Chosen.Contains(slug);

    public IActionResult OnGet([FromQuery(Name = "in")] string? department, string? find, string? teacher)
    {
        Filter = (Bounded(department), Bounded(find), Bounded(teacher));
        return Load() ?? Page();
    }

    /// <summary>Shows what it would come to.</summary>
    public IActionResult OnPost([FromForm] BulkInput input, string? found, string? all, List<string>? ticked)
    {
        Take(Chosen(input, found, all, ticked));
        return Shown(bulkChange.Review(requestContext.Viewer, Input));
    }

    /// <summary>Back from the review to the choice, with everything as it was typed.</summary>
    public IActionResult OnPostChoose([FromForm] BulkInput input)
    {
        Take(input);
        return Load() ?? Page();
    }

    public async Task<IActionResult> OnPostDoAsync([FromForm] BulkInput input, CancellationToken cancellation)
    {
        Take(input);
        switch (await bulkChange.Do(requestContext.Viewer, Input, cancellation))
        {
            case Outcome<BulkReview>.Done { Value: var done }:
                TempData[TempDataKeys.Said] = $"Done: you {done.Summary}. It can be taken back in one press.";
                return Redirect("/several-calendars");
            case Outcome<BulkReview>.Stale:
                Problems =
                [
                    new Problem(
                        "",
                        "Something changed in the meantime, so nothing was done yet. Look at it as it is now."
                    ),
                ];
                return Shown(bulkChange.Review(requestContext.Viewer, Input));
            case Outcome<BulkReview>.Refused { Problems: [{ Field: "Count" }, ..] } refused:
                Problems = refused.Problems;
                return Shown(bulkChange.Review(requestContext.Viewer, Input));
            case var other:
                return Shown(other);
        }
    }

    /// <summary>The term sheets of those that are ticked, as one PDF.</summary>
    public IActionResult OnPostSheets([FromForm] BulkInput input, string? found, string? all, List<string>? ticked) =>
        Printed(
            Chosen(input, found, all, ticked),
            slugs => prints.TermSheets(requestContext.Viewer, slugs, requestContext.Root, QrPicture.ModulesOf),
            "term-sheets.pdf"
        );

    /// <summary>The join cards of those that are ticked, as one PDF.</summary>
    public IActionResult OnPostCards([FromForm] BulkInput input, string? found, string? all, List<string>? ticked) =>
        Printed(
            Chosen(input, found, all, ticked),
            slugs => prints.Cards(requestContext.Viewer, slugs, requestContext.Root, QrPicture.ModulesOf),
            "join-cards.pdf"
        );

    private static BulkInput Chosen(BulkInput input, string? found, string? all, List<string>? ticked) =>
        input with
        {
            Slugs = all is null ? string.Join('\n', ticked ?? []) : found,
        };

    private IActionResult Printed(BulkInput input, Func<List<Slug>, byte[]?> print, string name)
    {
        Take(input);
        var slugs = input
            .Chosen.Select(text => Slug.TryParse(text, null, out var slug) ? slug : default(Slug?))
            .OfType<Slug>()
            .ToList();
        if (slugs.Count > 0 && print(slugs) is { } pdf)
        {
            Response.Headers.CacheControl = "private, no-store";
            return File(pdf, "application/pdf", name);
        }

        Problems =
        [
            new Problem(
                "Slugs",
                slugs.Count == 0 ? "Tick the calendars to print." : "There is nothing of these that you could print."
            ),
        ];
        return Load() ?? this.Again(StatusCodes.Status422UnprocessableEntity);
    }

    public IActionResult OnPostUndo() =>
        this.Back(
            bulkChange.Undo(requestContext.Viewer),
            "/several-calendars",
            said => said,
            refused =>
            {
                Problems = refused.Problems;
                return Load() ?? this.Again(StatusCodes.Status422UnprocessableEntity);
            }
        );

    private void Take(BulkInput input)
    {
        Input = input;
        Filter = (Bounded(Request.Form["In"]), Bounded(Request.Form["Find"]), Bounded(Request.Form["Teacher"]));
    }

    private IActionResult Shown(Outcome<BulkReview> outcome)
    {
        switch (outcome)
        {
            case Outcome<BulkReview>.Done { Value: var review }:
                Review = review;
                break;
            case Outcome<BulkReview>.Refused refused:
                Problems = refused.Problems;
                break;
            default:
                return Answers.Of(outcome);
        }

        return Load() ?? (Problems.Count == 0 ? Page() : this.Again(StatusCodes.Status422UnprocessableEntity));
    }

    // Why there is no page; null where there is one.
    private IActionResult? Load()
    {
        var choices = bulkChange.Choices(requestContext.Viewer, Filter.In, Filter.Find, Filter.Teacher);
        if (choices is not Outcome<BulkChoices>.Done { Value: var found })
            return Answers.Of(choices);
        Choices = found;
        return null;
    }

    private static string Bounded(string? text) => text?.Trim() is { Length: <= 120 } words ? words : "";
}
