using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>A session opened, on its own page or in place on a term sheet.</summary>
public sealed record OpenedSession(Slug Slug, OpenSession Open, SessionInput Input)
{
    public string Address => $"/calendars/{Slug}/sessions/{Open.Session.Key}";
}

public sealed class SessionModel(ChangeSession changeSession, RequestContext requestContext) : PageModel
{
    public OpenedSession Opened { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug, string key, [FromQuery] SessionInput input)
    {
        if (!SessionKey.TryRead(key, out var of))
            return NotFound();
        switch (changeSession.Open(requestContext.Viewer, slug, of, input))
        {
            case Outcome<OpenSession>.Done { Value: var open }:
                Opened = new OpenedSession(slug, open, input);
                // In place on a sheet, it is a piece of the page; anywhere else, a page.
                return Request.Headers.ContainsKey("HX-Request") ? Partial("_OpenSession", Opened) : Page();
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPost(Slug slug, string key, [FromForm] SessionInput input, string? back)
    {
        if (!SessionKey.TryRead(key, out var of))
            return NotFound();
        switch (changeSession.Do(requestContext.Viewer, slug, of, input))
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[TempDataKeys.Said] = said;
                TempData[TempDataKeys.MayUndo] = true;
                return Redirect(
                    back is not null && back.StartsWith("/week", StringComparison.Ordinal) && Url.IsLocalUrl(back)
                        ? back
                        : $"/calendars/{slug}"
                );
            case Outcome<string>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                break;
            case Outcome<string>.Stale { By: var by }:
                Problems =
                [
                    new Problem(
                        "",
                        $"{(by is null ? "Somebody" : by.Who)} changed the series while you were here{(by is null ? "" : $": {by.Summary}")}. Nothing of yours was done; look at it again below."
                    ),
                ];
                Response.StatusCode = StatusCodes.Status409Conflict;
                break;
            case var other:
                return Answers.Of(other);
        }

        if (
            changeSession.Open(requestContext.Viewer, slug, of, input)
            is not Outcome<OpenSession>.Done { Value: var open }
        )
            return NotFound();
        Opened = new OpenedSession(slug, open, input with { Do = open.Problems.Count > 0 ? "" : input.Do });
        return Page();
    }
}
