using JollyAlmanac.Application;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.JoinLinks;

/// <summary>The join card of a link: ready to be pasted elsewhere, and to be printed.</summary>
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class CardModel(JoinCards cards, RequestContext requestContext) : PageModel
{
    public JoinCardView Kept { get; private set; } = null!;

    public IActionResult OnGet(JoinCode code, CardParts[]? part, string? words)
    {
        var outcome = cards.Of(
            requestContext.Viewer,
            code,
            requestContext.Root,
            (part ?? []).Aggregate(CardParts.None, (all, one) => all | one),
            words
        );
        if (outcome is not Outcome<JoinCardView>.Done { Value: var kept })
            return Answers.Of(outcome);
        Kept = kept;
        return Page();
    }
}
