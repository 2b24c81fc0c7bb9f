using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>One group.</summary>
public sealed class GroupModel(EditGroups keep, RequestContext requestContext) : PageModel
{
    public GroupPage View { get; private set; } = null!;

    public string? Text { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(long id)
    {
        var outcome = keep.Open(requestContext.Viewer, new GroupId(id));
        if (outcome is not Outcome<GroupPage>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }

    public IActionResult OnPostPutIn(long id, string? people)
    {
        Text = people;
        return Answer(id, keep.AddMembers(requestContext.Viewer, new GroupId(id), people), count =>
            count == 0 ? "They were all in it already." : $"{Wording.Count(count, "person", "people")} added."
        );
    }

    public IActionResult OnPostTakeOut(long id, long person) =>
        Answer(id, keep.RemoveMember(requestContext.Viewer, new GroupId(id), new PersonId(person)), _ =>
            "They are out of the group."
        );

    public IActionResult OnPostPutGroupIn(long id, long held) =>
        Answer(id, keep.AddGroup(requestContext.Viewer, new GroupId(id), new GroupId(held)), _ =>
            "The group is in it now."
        );

    public IActionResult OnPostTakeGroupOut(long id, long held) =>
        Answer(id, keep.RemoveGroup(requestContext.Viewer, new GroupId(id), new GroupId(held)), _ =>
            "The group is out of it."
        );

    public IActionResult OnPostChange(long id, string? name, GroupKind kind, int version) =>
        Answer(id, keep.Change(requestContext.Viewer, new GroupId(id), name, kind, version), _ => "Saved.");

    public IActionResult OnPostRemove(long id, string? name)
    {
        var outcome = keep.Remove(requestContext.Viewer, new GroupId(id), name);
        if (outcome is not Outcome<string>.Done { Value: var gone })
            return Answer(id, outcome, _ => "");
        TempData[TempDataKeys.Said] = $"The group {gone} is taken away.";
        return Redirect("/people/groups");
    }

    private IActionResult Answer<T>(long id, Outcome<T> outcome, Func<T, string> say) =>
        this.Back(outcome, $"/people/groups/{id}", say, refused =>
        {
            Problems = refused.Problems;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return OnGet(id);
        });
}
