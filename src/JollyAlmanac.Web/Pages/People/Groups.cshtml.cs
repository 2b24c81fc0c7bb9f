using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>All groups.</summary>
public sealed class GroupsModel(EditGroups keep, AddPeople addPeople, RequestContext requestContext) : PageModel
{
    public IReadOnlyList<Group> Groups { get; private set; } = [];

    public string? Name { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet()
    {
        var outcome = keep.All(requestContext.Viewer);
        if (outcome is not Outcome<IReadOnlyList<Group>>.Done { Value: var groups })
            return Answers.Of(outcome);
        Groups = groups;
        return Page();
    }

    public IActionResult OnPost(string? name, GroupKind kind)
    {
        Name = name;
        switch (addPeople.AddGroup(requestContext.Viewer, name ?? "", kind, []))
        {
            case Outcome<GroupId>.Done { Value: var id }:
                return Redirect($"/people/groups/{id.Value}");
            case Outcome<GroupId>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return OnGet();
            case var other:
                return Answers.Of(other);
        }
    }
}
