using JollyAlmanac.Application;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Begins to look as somebody else, and ends it.</summary>
public sealed class LookAsModel(LookAs lookAs, Visit visit) : PageModel
{
    public IActionResult OnGet() => Redirect("/today");

    /// <summary>Begins: on the class page of the calendar one comes from, or on the other's Today.</summary>
    public IActionResult OnPost(string? who, string? slug)
    {
        if (visit.Looking is not null) return StatusCode(StatusCodes.Status403Forbidden);
        return lookAs.Begin(visit.Viewer, visit.Token, who ?? "", slug ?? "") switch
        {
            Outcome<LookingAs>.Done { Value: var looking } => Redirect(looking.IsStranger || looking.From.Length > 0
                ? looking.From.Length > 0 ? $"/c/{looking.From}" : "/sign-in" : "/today"),
            var other => Answers.Of(other),
        };
    }

    /// <summary>Ends it, and leads back to where it was begun.</summary>
    public IActionResult OnPostEnd()
    {
        var from = visit.Looking?.From;
        lookAs.End(visit.Token);
        return Redirect(string.IsNullOrEmpty(from) ? "/people" : $"/calendars/{from}/sharing");
    }
}
