using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>Takes a list for review.</summary>
public sealed class RosterImportModel(RosterImport rosterImport, RequestContext requestContext) : PageModel
{
    public string? Text { get; private set; }

    /// <summary>The group that they are to come into, where one was on the page before.</summary>
    public string? Group { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(string? group)
    {
        Group = group is { Length: <= 200 } ? group : null;
        return requestContext.Viewer.Role == SchoolRole.Coordinator
            ? Page()
            : StatusCode(StatusCodes.Status403Forbidden);
    }

    public async Task<IActionResult> OnPostAsync(string? text, IFormFile? file, string? group)
    {
        (Text, Group) = (text, group);
        var bytes = file is null ? null : await file.ReadBytes();
        switch (rosterImport.Begin(requestContext.Viewer, text, Path.GetFileName(file?.FileName ?? ""), bytes))
        {
            case Outcome<long>.Done { Value: var id }:
                return Redirect(
                    $"/people/bring-in/{id}{(string.IsNullOrEmpty(group) ? "" : $"?group={Uri.EscapeDataString(group)}")}"
                );
            case Outcome<long>.Refused refused:
                Problems = refused.Problems;
                return this.Again(StatusCodes.Status422UnprocessableEntity);
            case var other:
                return Answers.Of(other);
        }
    }
}
