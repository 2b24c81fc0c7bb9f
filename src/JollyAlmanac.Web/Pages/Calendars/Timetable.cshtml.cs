using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class TimetableModel(
    QuickAdd quickAdd,
    CalendarListQuery calendarListQuery,
    RequestContext requestContext
) : PageModel
{
    public Calendar Calendar { get; private set; } = null!;

    public string Text { get; private set; } = "";

    public QuickReview? Review { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IReadOnlyList<(Calendar Calendar, Series Series)> Made { get; private set; } = [];

    /// <summary>Shows the page; with a line that was typed elsewhere, what is understood of it.</summary>
    public IActionResult OnGet(Slug slug, string? line)
    {
        if (Find(slug) is { } refusal)
            return refusal;
        Text = line ?? "";
        if (
            Text.Length > 0
            && quickAdd.Review(requestContext.Viewer, slug, Text, new Dictionary<int, string>())
                is Outcome<QuickReview>.Done { Value: var review }
        )
            Review = review;
        return Page();
    }

    public IActionResult OnPost(Slug slug, string? text, string? act)
    {
        if (Find(slug) is { } refusal)
            return refusal;
        Text = text ?? "";
        var chosen = Request
            .Form.Where(field =>
                field.Key.StartsWith("On.", StringComparison.Ordinal)
                && int.TryParse(field.Key.AsSpan(3), NumberStyles.None, CultureInfo.InvariantCulture, out _)
            )
            // "On.1" and "On.01" are the same line: the first counts.
            .GroupBy(field => int.Parse(field.Key.AsSpan(3), CultureInfo.InvariantCulture))
            .ToDictionary(same => same.Key, same => same.First().Value.ToString());
        if (act == "save")
        {
            switch (quickAdd.Save(requestContext.Viewer, slug, Text, chosen))
            {
                case Outcome<QuickSaved>.Done { Value: var saved }:
                    (Made, Text) = (saved.Made, saved.Left);
                    if (Text.Length == 0 && Made.All(one => one.Calendar.Slug == slug))
                    {
                        TempData[TempDataKeys.Said] =
                            $"{Wording.Count(Made.Count, "series is", "series are")} on the calendar.";
                        return Redirect($"/calendars/{slug}");
                    }

                    if (
                        Text.Length > 0
                        && quickAdd.Review(requestContext.Viewer, slug, Text, new Dictionary<int, string>())
                            is Outcome<QuickReview>.Done { Value: var left }
                    )
                        Review = left;
                    return Page();
                case Outcome<QuickSaved>.Refused { Problems: var problems }:
                    Problems = problems;
                    break;
                case var other:
                    return Answers.Of(other);
            }
        }

        switch (quickAdd.Review(requestContext.Viewer, slug, Text, chosen))
        {
            case Outcome<QuickReview>.Done { Value: var review }:
                Review = review;
                return Problems.Count == 0 ? Page() : this.Again(StatusCodes.Status422UnprocessableEntity);
            case Outcome<QuickReview>.Refused { Problems: var problems }:
                Problems = problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }

    private IActionResult? Find(Slug slug)
    {
        var refusal = calendarListQuery.Refusal(requestContext.Viewer, slug, Permission.AddSeries, out var calendar);
        Calendar = calendar;
        return refusal;
    }
}
