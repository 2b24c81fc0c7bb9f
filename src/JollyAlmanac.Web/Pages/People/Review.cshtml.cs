using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>The review of a list, and the taking in of it.</summary>
public sealed class ReviewModel(RosterImport rosterImport, RequestContext requestContext) : PageModel
{
    public RosterImportReview View { get; private set; } = null!;

    public RosterImportChoices Choices { get; private set; } = new();

    public IActionResult OnGet(long id, string? group)
    {
        Choices = Choices with { Group = group };
        return Show(id);
    }

    public IActionResult OnGetProgress(long id)
    {
        var outcome = rosterImport.Progress(requestContext.Viewer, id);
        return outcome is Outcome<(int Looked, int Of)>.Done { Value: var (looked, of) }
            ? Partial("_Progress", (id, looked, of))
            : Answers.Of(outcome);
    }

    public IActionResult OnPost(
        long id,
        SchoolRole role,
        string? group,
        GroupKind kind,
        bool endGone,
        bool invite,
        [FromForm(Name = "do")] string? what
    )
    {
        Choices = new RosterImportChoices(
            Enum.IsDefined(role) && role != SchoolRole.Coordinator ? role : SchoolRole.Student,
            group,
            Enum.IsDefined(kind) ? kind : GroupKind.ClassList,
            Columns(),
            endGone,
            invite
        );
        if (what != "keep")
            return Show(id);
        var outcome = rosterImport.SaveChoices(requestContext.Viewer, id, Choices);
        if (outcome is not Outcome<RosterImportResult>.Done { Value: var done })
            return Answers.Of(outcome);
        TempData[TempDataKeys.Said] =
            $"Taken in: {done.New} new, {done.Changed} changed, {done.Same} the same."
            + (
                done.Refused.Length > 0
                    ? $" {Wording.Count(done.Refused.Length, "line was", "lines were")} not understood and left out."
                    : ""
            )
            + (
                done.Invited > 0
                    ? $" {Wording.Count(done.Invited, "invitation is", "invitations are")} on the way."
                    : ""
            );
        return Redirect(done.Group is { } into ? $"/people/groups/{into.Value}" : "/people");
    }

    private Dictionary<PeopleColumn, int>? Columns()
    {
        var chosen = new Dictionary<PeopleColumn, int>();
        foreach (var column in Enum.GetValues<PeopleColumn>())
            if (int.TryParse(Request.Form[$"column-{column}"], CultureInfo.InvariantCulture, out var at) && at >= 0)
                chosen[column] = at;
        return Request.Form.Keys.Any(key => key.StartsWith("column-", StringComparison.Ordinal)) ? chosen : null;
    }

    private IActionResult Show(long id)
    {
        var outcome = rosterImport.Review(requestContext.Viewer, id, Choices);
        if (outcome is not Outcome<RosterImportReview>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }
}
