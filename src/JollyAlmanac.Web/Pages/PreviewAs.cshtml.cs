using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Begins to look as somebody else, and ends it.</summary>
public sealed class PreviewAsModel(PreviewAs previewAs, ClassPageQuery classPageQuery, RequestContext requestContext)
    : PageModel
{
    /// <summary>Whom one looks as, where that one finds nothing at the class page one came from.</summary>
    public PreviewIdentity Looking { get; private set; } = null!;

    /// <summary>Leads to what the other sees, or says that it is nothing.</summary>
    public IActionResult OnGet()
    {
        if (requestContext.Looking is not { } looking)
            return Redirect("/today");
        Looking = looking;
        if (looking.From is not { } from)
            return Redirect(looking.IsStranger ? "/sign-in" : "/today");
        return classPageQuery.Read(requestContext.Viewer, from, asVisitor: false) is null
            ? Page()
            : Redirect($"/c/{from}");
    }

    /// <summary>Begins: on the class page of the calendar one comes from, or on the other's Today.</summary>
    public IActionResult OnPost(string? who, Slug? slug)
    {
        if (requestContext.Looking is not null)
            return StatusCode(StatusCodes.Status403Forbidden);
        return previewAs.Begin(requestContext.Viewer, requestContext.Token, who ?? "", slug) switch
        {
            Outcome<PreviewIdentity>.Done { Value: var looking } => Redirect(
                looking.From is not null ? "/look-as"
                : looking.IsStranger ? "/sign-in"
                : "/today"
            ),
            var other => Answers.Of(other),
        };
    }

    /// <summary>Ends it, and leads back to where it was begun.</summary>
    public IActionResult OnPostEnd()
    {
        var from = requestContext.Looking?.From;
        previewAs.End(requestContext.Token);
        return Redirect(from is null ? "/people" : $"/calendars/{from}/sharing");
    }
}
