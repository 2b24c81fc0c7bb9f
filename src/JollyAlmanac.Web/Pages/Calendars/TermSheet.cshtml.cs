using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class TermSheetModel(
    TermSheetQuery termSheetQuery,
    RemoveSeries takeOff,
    ChangeSession changeSession,
    ExcludeRange excludeRange,
    UndoEdits undo,
    RequestContext requestContext
) : PageModel
{
    public TermSheetView View { get; private set; } = null!;

    /// <summary>The range to be left out, as the form begins with it; null where it stays shut.</summary>
    public RangeInput? Leave { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug, long? term, string? first, string? last)
    {
        if (first is { Length: <= 20 } && last is null or { Length: <= 20 })
            Leave = new RangeInput(first, last);
        var view = termSheetQuery.Read(requestContext.Viewer, slug, term is { } id ? new TermId(id) : null);
        if (view is null || (term is not null && view.Sheet is null))
            return NotFound();
        View = view;
        return Page();
    }

    public IActionResult OnPostBringBack(Slug slug, long series, int version)
    {
        switch (takeOff.Undo(requestContext.Viewer, slug, new SeriesId(series), version))
        {
            case Outcome<Series>.Done { Value: var back }:
                TempData[TempDataKeys.Said] = $"{back.Title} is back, with its link and materials.";
                return Redirect($"/calendars/{slug}");
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostRange(Slug slug, [FromForm] RangeInput input, string? act, long? term)
    {
        var outcome =
            act == "bring-back"
                ? excludeRange.BringBack(requestContext.Viewer, slug, input)
                : excludeRange.Do(requestContext.Viewer, slug, input);
        if (outcome is Outcome<string>.Refused { Problems: var problems })
        {
            (Problems, Leave) = (problems, input);
            if (OnGet(slug, term, null, null) is not PageResult page)
                return NotFound();
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return page;
        }

        if (outcome.IsDone)
            TempData[TempDataKeys.MayUndo] = true;
        return Tell(slug, outcome);
    }

    public IActionResult OnPostUndo(Slug slug) => Tell(slug, undo.Undo(requestContext.Viewer, slug));

    public IActionResult OnPostCertain(Slug slug, long series, int version)
    {
        var outcome = changeSession.MakeCertain(requestContext.Viewer, slug, new SeriesId(series), version);
        if (outcome.IsDone)
            TempData[TempDataKeys.MayUndo] = true;
        return Tell(slug, outcome);
    }

    public IActionResult OnPostSettle(Slug slug, string session, string? onto, int version, string act)
    {
        SessionKey to = default;
        if (!SessionKey.TryRead(session, out var key))
            return NotFound();
        if (act == "put" && !SessionKey.TryRead(onto, out to))
            return Tell(slug, Outcome.Because<string>("Onto", "Choose a session to put the change on."));
        return Tell(slug, changeSession.Settle(requestContext.Viewer, slug, key, act == "put" ? to : null, version));
    }

    private IActionResult Tell(Slug slug, Outcome<string> outcome)
    {
        switch (outcome)
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[TempDataKeys.Said] = said;
                break;
            case Outcome<string>.Refused { Problems: [var first, ..] }:
                TempData[TempDataKeys.Said] = first.Message;
                break;
            case Outcome<string>.Stale { By: var by }:
                TempData[TempDataKeys.Said] =
                    $"{by?.Who ?? "Somebody"} changed the same calendar since{(by is null ? "" : $": {by.Summary}")}. Nothing was done. Look at it as it is now, then do it again; the history leads back step by step.";
                break;
            default:
                return Answers.Of(outcome);
        }

        return Redirect($"/calendars/{slug}");
    }
}
