using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>How the refusals of acts become answers, for all pages alike.</summary>
internal static class Answers
{
    /// <summary>The answer to an outcome that a page does not handle itself.</summary>
    public static IActionResult Of<T>(Outcome<T> outcome) =>
        new StatusCodeResult(
            outcome switch
            {
                Outcome<T>.NotFound => StatusCodes.Status404NotFound,
                Outcome<T>.NotAllowed => StatusCodes.Status403Forbidden,
                Outcome<T>.Stale => StatusCodes.Status409Conflict,
                Outcome<T>.Refused => StatusCodes.Status422UnprocessableEntity,
                _ => throw new InvalidOperationException("What is done is no refusal."),
            }
        );

    /// <summary>The answer to an act of a page that comes back to one address, done or not.</summary>
    /// <param name="page">Whose answer it is.</param>
    /// <param name="outcome">What came of the act.</param>
    /// <param name="address">Where it goes once it is done, or when somebody was faster.</param>
    /// <param name="say">What to say of it there; null for nothing.</param>
    /// <param name="refused">Shows the page again with what is wrong.</param>
    public static IActionResult Back<T>(
        this PageModel page,
        Outcome<T> outcome,
        string address,
        Func<T, string?> say,
        Func<Outcome<T>.Refused, IActionResult> refused
    )
    {
        switch (outcome)
        {
            case Outcome<T>.Done { Value: var value }:
                if (say(value) is { } said)
                    page.TempData[TempDataKeys.Said] = said;
                return new RedirectResult(address);
            case Outcome<T>.Refused problems:
                return refused(problems);
            case Outcome<T>.Stale:
                page.TempData[TempDataKeys.Said] = "Somebody changed it in the meantime. Here it is as it is now.";
                return new RedirectResult(address);
            default:
                return Of(outcome);
        }
    }

    /// <summary>Problems of one form among several, each leading to its field there: "Text-new".</summary>
    /// <param name="problems">The problems.</param>
    /// <param name="form">What the ids of the form's fields end with, after a dash.</param>
    public static IReadOnlyList<Problem> OfForm(this IEnumerable<Problem> problems, string form) =>
        [
            .. problems.Select(problem =>
                problem.Field.Length == 0 ? problem : problem with { Field = $"{problem.Field}-{form}" }
            ),
        ];

    /// <summary>The bytes of a file that was sent.</summary>
    public static async Task<byte[]> ReadBytes(this IFormFile file)
    {
        using var copy = new MemoryStream();
        await file.CopyToAsync(copy);
        return copy.ToArray();
    }

    /// <summary>Why a page about that calendar, for those who may do the deed on it, is not shown; null where it is.</summary>
    public static IActionResult? Refusal(
        this CalendarListQuery calendarListQuery,
        Viewer viewer,
        Slug slug,
        Permission permission,
        out Calendar calendar
    )
    {
        (calendar, var level) = calendarListQuery.Find(viewer, slug) ?? (null!, default);
        return calendar is null ? new NotFoundResult()
            : AccessRules.May(permission, level) ? null
            : new StatusCodeResult(StatusCodes.Status403Forbidden);
    }

    /// <summary>The page again with another status, to say what is wrong.</summary>
    public static PageResult Again(this PageModel page, int status)
    {
        page.Response.StatusCode = status;
        return page.Page();
    }
}
