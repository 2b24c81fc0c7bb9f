using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Everything that the school publishes. For coordinators.</summary>
public sealed class PublishedModel(SchoolPublishingQuery schoolPublishingQuery, RequestContext requestContext)
    : PageModel
{
    public SchoolPublishing View { get; private set; } = null!;

    public IActionResult OnGet([FromQuery] PublicationFilter show, [FromQuery(Name = "page")] int? number)
    {
        var outcome = schoolPublishingQuery.Read(
            requestContext.Viewer,
            Enum.IsDefined(show) ? show : PublicationFilter.All,
            Math.Clamp(number ?? 1, 1, 10_000)
        );
        if (outcome is not Outcome<SchoolPublishing>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }

    /// <summary>The address of another page of them.</summary>
    public string At(PublicationFilter show, int page) =>
        "/publishing"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["show"] = show == PublicationFilter.All ? null : show.ToString().ToLowerInvariant(),
                ["page"] = page > 1 ? $"{page}" : null,
            }.Where(one => one.Value is not null)
        );
}
