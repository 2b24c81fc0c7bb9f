using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class HistoryModel(
    CalendarHistoryQuery calendarHistoryQuery,
    UndoEdits undo,
    RequestContext requestContext
) : PageModel
{
    public CalendarHistory View { get; private set; } = null!;

    public IActionResult OnGet(Slug slug, long? before)
    {
        if (calendarHistoryQuery.Read(requestContext.Viewer, slug, before) is not { } view)
            return NotFound();
        View = view;
        return Page();
    }

    public IActionResult OnPostRestore(Slug slug, long line, int revision)
    {
        switch (undo.Restore(requestContext.Viewer, slug, line, revision))
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[TempDataKeys.Said] = said;
                TempData[TempDataKeys.MayUndo] = true;
                return Redirect($"/calendars/{slug}");
            case Outcome<string>.Refused { Problems: [var first, ..] }:
                TempData[TempDataKeys.Said] = first.Message;
                break;
            case Outcome<string>.Stale { By: var by }:
                TempData[TempDataKeys.Said] =
                    $"{by?.Who ?? "Somebody"} changed the calendar while you were here. Nothing was done; look at the newest line first.";
                break;
            case var other:
                return Answers.Of(other);
        }

        return Redirect($"/calendars/{slug}/history");
    }
}
