using JollyAlmanac.Application;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>How the refusals of acts become answers, for all pages alike.</summary>
internal static class Answers
{
    /// <summary>The TempData key of what was just done, shown once on the next page.</summary>
    public const string Said = "Said";

    /// <summary>The TempData key that says that what was just done can be undone.</summary>
    public const string MayUndo = "MayUndo";

    /// <summary>The answer to an outcome that a page does not handle itself.</summary>
    public static IActionResult Of<T>(Outcome<T> outcome) => new StatusCodeResult(outcome switch
    {
        Outcome<T>.NotFound => StatusCodes.Status404NotFound,
        Outcome<T>.NotAllowed => StatusCodes.Status403Forbidden,
        Outcome<T>.Stale => StatusCodes.Status409Conflict,
        Outcome<T>.Refused => StatusCodes.Status422UnprocessableEntity,
        _ => throw new InvalidOperationException("What is done is no refusal."),
    });

    /// <summary>The page again with another status, to say what is wrong.</summary>
    public static PageResult Again(this PageModel page, int status)
    {
        page.Response.StatusCode = status;
        return page.Page();
    }
}
