using System.Text;
using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>One person of the school, or somebody new.</summary>
public sealed class PersonModel(
    EditPeople keep,
    Invitations invitations,
    RequestContext requestContext,
    Absences absences
) : PageModel
{
    /// <summary>The person; null for somebody new.</summary>
    public long? Id { get; private set; }

    public PersonPage? View { get; private set; }

    public PersonInput Input { get; private set; } = new("", "", SchoolRole.Teacher);

    public int Version { get; private set; }

    public bool IsStale { get; private set; }

    /// <summary>A password that was made just now.</summary>
    public string? Password { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The addresses of a family's children, as typed.</summary>
    public string Children { get; private set; } = "";

    /// <summary>When they are to be away, as typed.</summary>
    public AbsenceInput Away { get; private set; } = new(null, null, null);

    public IActionResult OnGet(long? id) => Show(id, null);

    public IActionResult OnPost(long? id, [FromForm] PersonInput input)
    {
        if (id is not { } known)
        {
            var added = keep.Add(requestContext.Viewer, input);
            if (added is Outcome<PersonId>.Refused refused)
                return Again(null, input, refused.Problems);
            if (added is not Outcome<PersonId>.Done { Value: var fresh })
                return Answers.Of(added);
            TempData[TempDataKeys.Said] = $"{input.Name} is known from now on. Invite them, so that they can sign in.";
            return Redirect($"/people/{fresh.Value}");
        }

        switch (keep.Change(requestContext.Viewer, new PersonId(known), input))
        {
            case Outcome<Person>.Done:
                TempData[TempDataKeys.Said] = "Saved.";
                return Redirect($"/people/{known}");
            case Outcome<Person>.Refused refused:
                return Again(id, input, refused.Problems);
            case Outcome<Person>.Stale:
                IsStale = true;
                Response.StatusCode = StatusCodes.Status409Conflict;
                return Show(id, input);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnPostInvite(long id) =>
        Answer(id, invitations.Invite(requestContext.Viewer, [new PersonId(id)]), _ =>
            "The invitation is on its way. It works once, for two weeks."
        );

    public IActionResult OnPostWithdraw(long id) =>
        Answer(id, invitations.Withdraw(requestContext.Viewer, new PersonId(id)), _ =>
            "The invitation is taken back; its e-mail is worth nothing now."
        );

    public IActionResult OnPostPassword(long id)
    {
        var outcome = keep.GivePassword(requestContext.Viewer, new PersonId(id));
        if (outcome is not Outcome<string>.Done { Value: var password })
            return Answer(id, outcome, _ => "");
        Password = password;
        Response.Headers.CacheControl = "no-store";
        return Show(id, null);
    }

    public IActionResult OnPostEnd(long id, int version, long? heir) =>
        Answer(
            id,
            keep.End(requestContext.Viewer, new PersonId(id), version, heir is { } next ? new PersonId(next) : null),
            person => $"{person.Name} has left. What they kept is with somebody else now."
        );

    public IActionResult OnPostBringBack(long id, int version) =>
        Answer(id, keep.BringBack(requestContext.Viewer, new PersonId(id), version), person =>
            $"{person.Name} is back."
        );

    public IActionResult OnPostErase(long id, string? name)
    {
        var outcome = keep.Erase(requestContext.Viewer, new PersonId(id), name);
        if (outcome is not Outcome<string>.Done)
            return Answer(id, outcome, _ => "");
        TempData[TempDataKeys.Said] = "All that was kept of them is erased.";
        return Redirect("/people");
    }

    public IActionResult OnPostAway(long id, [FromForm] AbsenceInput input)
    {
        Away = input;
        return Answer(id, absences.Add(requestContext.Viewer, new PersonId(id), input), absence =>
            $"Away {Wording.Days(absence.First, absence.Last)}: coordinators see it on Today."
        );
    }

    public IActionResult OnPostNotAway(long id, long absence) =>
        Answer(id, absences.Remove(requestContext.Viewer, new PersonId(id), absence), removed =>
            $"Not away {Wording.Days(removed.First, removed.Last)}."
        );

    public IActionResult OnPostChildren(long id, string? children)
    {
        Children = children ?? "";
        return Answer(id, keep.SetChildren(requestContext.Viewer, new PersonId(id), children), count =>
            count == 0
                ? "No children are noted any more."
                : $"{Wording.Count(count, "child is", "children are")} noted."
        );
    }

    public IActionResult OnPostExport(long id) =>
        keep.Export(requestContext.Viewer, new PersonId(id)) switch
        {
            Outcome<string>.Done { Value: var json } => File(
                Encoding.UTF8.GetBytes(json),
                "application/json",
                $"person-{id}.json"
            ),
            var other => Answers.Of(other),
        };

    private IActionResult Answer<T>(long id, Outcome<T> outcome, Func<T, string> say) =>
        this.Back(outcome, $"/people/{id}", say, refused => Again(id, null, refused.Problems));

    private IActionResult Again(long? id, PersonInput? input, IReadOnlyList<Problem> problems)
    {
        Problems = problems;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Show(id, input);
    }

    private IActionResult Show(long? id, PersonInput? input)
    {
        Id = id;
        if (id is { } known)
        {
            var outcome = keep.Open(requestContext.Viewer, new PersonId(known));
            if (outcome is not Outcome<PersonPage>.Done { Value: var view })
                return Answers.Of(outcome);
            (View, Version) = (view, view.Entry.Person.Version);
            if (Children.Length == 0)
                Children = string.Join('\n', view.Children.Select(child => child.Email));
            Input = input
                ?? new PersonInput(view.Entry.Person.Name, view.Entry.Person.Email?.Value, view.Entry.Person.Role);
            return Page();
        }

        if (requestContext.Viewer.Role != SchoolRole.Coordinator)
            return StatusCode(StatusCodes.Status403Forbidden);
        Input = input ?? Input;
        return Page();
    }
}
