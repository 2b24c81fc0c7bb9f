using JollyAlmanac.Application;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Asks the keepers of a calendar for access.</summary>
public sealed class AskModel(Share share, RequestContext requestContext) : PageModel
{
    public Slug Slug { get; private set; }

    public AccessLevel Level { get; private set; } = AccessLevel.Full;

    public string? Why { get; private set; }

    public bool IsAsked { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public void OnGet(Slug slug) => Slug = slug;

    public IActionResult OnPost(Slug slug, AccessLevel level, string? why)
    {
        (Slug, Level, Why) = (slug, level, why);
        switch (share.Ask(requestContext.Viewer, slug, level, why))
        {
            case Outcome<bool>.Done:
                IsAsked = true;
                return Page();
            case Outcome<bool>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }
}
