using JollyAlmanac.Application;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class LinkModel(JoinLinks joinLinks, Visit visit) : PageModel
{
    public KeptLink Kept { get; private set; } = null!;

    public string? Name { get; private set; }

    public string? Address { get; private set; }

    public bool IsStale { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(string slug, string code)
    {
        var outcome = joinLinks.Open(visit.Viewer, slug, new JoinCode(code));
        if (outcome is not Outcome<KeptLink>.Done { Value: var kept }) return Answers.Of(outcome);
        Kept = kept;
        return Page();
    }

    public IActionResult OnPost(string slug, string code, string? name, string? address, int version)
    {
        var outcome = joinLinks.Replace(visit.Viewer, slug, new JoinCode(code), name, address, version);
        switch (outcome)
        {
            case Outcome<JoinLink>.Done { Value: var link }:
                TempData[Answers.Said] = string.IsNullOrWhiteSpace(address) ? $"The link is called {link.Name} now." : $"{link.Name} leads to the new room now. Its short address is the same.";
                return Redirect($"/calendars/{slug}");
            case Outcome<JoinLink>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                break;
            case Outcome<JoinLink>.Stale:
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                break;
            default:
                return Answers.Of(outcome);
        }

        (Name, Address) = (name, address);
        return OnGet(slug, code);
    }
}
