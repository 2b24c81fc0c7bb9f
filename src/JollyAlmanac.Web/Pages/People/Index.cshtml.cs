using JollyAlmanac.Application;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.People;

/// <summary>The people of the school, for coordinators; and the finding of people, for all who work there.</summary>
public sealed class PeopleModel(
    EditPeople keep,
    Invitations invitations,
    AddRequests requests,
    RequestContext requestContext
) : PageModel
{
    public PeoplePage View { get; private set; } = null!;

    public string Find { get; private set; } = "";

    public SchoolRole? Role { get; private set; }

    public bool Left { get; private set; }

    public long? Group { get; private set; }

    public int Number { get; private set; } = 1;

    /// <summary>Whom keepers of calendars ask to add.</summary>
    public IReadOnlyList<WaitingPerson> ToAdd { get; private set; } = [];

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(string? find, string? role, long? group, [FromQuery(Name = "page")] int? number)
    {
        Find = find?.Trim() is { Length: <= 100 } words ? words : "";
        Left = role == "left";
        Role = Enum.TryParse<SchoolRole>(role, ignoreCase: true, out var known) && Enum.IsDefined(known) ? known : null;
        (Group, Number) = (group, Math.Clamp(number ?? 1, 1, 10_000));
        var outcome = keep.Page(
            requestContext.Viewer,
            new PeopleFilter(
                Find,
                Role is { } one ? [one] : null,
                group is { } id ? new GroupId(id) : null,
                Left,
                Number
            )
        );
        if (outcome is not Outcome<PeoplePage>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        ToAdd = requests.Waiting(requestContext.Viewer).OrNone ?? [];
        return Page();
    }

    public IActionResult OnPostAdd(long id, string? name, SchoolRole role) =>
        Answer(
            requests
                .Add(requestContext.Viewer, id, name, role)
                .Select(called => $"{called} is added; their invitation is on the way.")
        );

    public IActionResult OnPostDecline(long id) =>
        Answer(requests.Decline(requestContext.Viewer, id).Select(email => $"{email} is not added."));

    private IActionResult Answer(Outcome<string> outcome)
    {
        switch (outcome)
        {
            case Outcome<string>.Done { Value: var said }:
                TempData[TempDataKeys.Said] = said;
                return Redirect("/people");
            case Outcome<string>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return OnGet(null, null, null, null);
            default:
                return Answers.Of(outcome);
        }
    }

    /// <summary>People and groups by the first letters of their names, as entries of a list.</summary>
    public IActionResult OnGetFind(string? who, string? heir) =>
        keep.Find(requestContext.Viewer, who ?? heir ?? "", 8) switch
        {
            Outcome<(IReadOnlyList<Person>, IReadOnlyList<Group>)>.Done { Value: var found } => Partial(
                "_Found",
                found
            ),
            var other => Answers.Of(other),
        };

    public IActionResult OnPostInvite(long[] person)
    {
        TempData[TempDataKeys.Said] = invitations.Invite(
            requestContext.Viewer,
            [.. person.Take(500).Select(id => new PersonId(id))]
        ) switch
        {
            Outcome<int>.Done { Value: var count } =>
                $"{Wording.Count(count, "invitation is", "invitations are")} on the way. Each works once, for two weeks.",
            Outcome<int>.Refused { Problems: [var first, ..] } => first.Message,
            _ => null,
        };
        return TempData.Peek(TempDataKeys.Said) is null
            ? StatusCode(StatusCodes.Status403Forbidden)
            : Redirect("/people");
    }

    /// <summary>The address of another page of what is shown.</summary>
    public string At(int page) =>
        "/people"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["find"] = Find.Length > 0 ? Find : null,
                ["role"] = Left ? "left" : Role?.ToString(),
                ["group"] = Group?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                ["page"] = page > 1 ? $"{page}" : null,
            }.Where(one => one.Value is not null)
        );
}
