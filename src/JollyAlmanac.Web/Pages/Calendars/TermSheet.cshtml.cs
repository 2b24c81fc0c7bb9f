using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class TermSheetModel(Look look, TakeOffSeries takeOff, ChangeSession changeSession, GoBack goBack, Visit visit) : PageModel
{
    public TermSheetView View { get; private set; } = null!;

    public IActionResult OnGet(string slug, long? term)
    {
        var view = look.AtTermSheet(visit.Viewer, slug, term is { } id ? new TermId(id) : null);
        if (view is null || (term is not null && view.Sheet is null)) return NotFound();
        View = view;
        return Page();
    }

    public IActionResult OnPostBringBack(string slug, long series, int version)
    {
        switch (takeOff.Undo(visit.Viewer, slug, new SeriesId(series), version))
        {
            case Outcome<Series>.Done { Value: var back }:
                TempData[Answers.Said] = $"{back.Title} is back, with its link and materials.";
                return Redirect($"/calendars/{slug}");
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostUndo(string slug) => Tell(slug, goBack.Undo(visit.Viewer, slug));

    public IActionResult OnPostSettle(string slug, string session, string? onto, int version, string act)
    {
        SessionKey to = default;
        if (!SessionKey.TryRead(session, out var key) || (act == "put" && !SessionKey.TryRead(onto, out to))) return NotFound();
        return Tell(slug, changeSession.Settle(visit.Viewer, slug, key, act == "put" ? to : null, version));
    }

    private IActionResult Tell(string slug, Outcome<string> outcome)
    {
        switch (outcome)
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[Answers.Said] = said;
                break;
            case Outcome<string>.Refused { Problems: [var first, ..] }:
                TempData[Answers.Said] = first.Message;
                break;
            case Outcome<string>.Stale { By: var by }:
                TempData[Answers.Said] = $"{by?.Who ?? "Somebody"} changed the same series since{(by is null ? "" : $": {by.Summary}")}. Nothing was done; the history leads back step by step.";
                break;
            default:
                return Answers.Of(outcome);
        }

        return Redirect($"/calendars/{slug}");
    }
}
