using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using JollyAlmanac.Web.Serving.Jobs;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages;

public sealed class TodayModel(
    OwnPageQuery ownPageQuery,
    DayQuery dayQuery,
    SchoolDayQuery schoolDayQuery,
    EditNotices editNotices,
    OpenRoom openRoom,
    RequestContext requestContext,
    IEnumerable<IHostedService> services
) : PageModel
{
    /// <summary>The most notices that stand above a day.</summary>
    public const int MostNotices = 6;

    public DayView View { get; private set; } = null!;

    /// <summary>The whole school's day, for its coordinators; null for anybody else.</summary>
    public SchoolDay? AtSchool { get; private set; }

    /// <summary>What the server does again and again, for coordinators.</summary>
    public IReadOnlyList<PeriodicJob> Jobs => [.. services.OfType<PeriodicJob>()];

    /// <summary>The jobs whose last run failed.</summary>
    public IReadOnlyList<PeriodicJob> FailedJobs => [.. Jobs.Where(job => job.Last is { Failure: not null })];

    /// <summary>What the day leads with where there is little room: the session that is on or next; null where all are over.</summary>
    public SessionCard? First { get; private set; }

    /// <summary>What stands on the page of a student or a family member beside the day; null for anybody else, and on other days.</summary>
    public OwnPage? Own { get; private set; }

    /// <summary>What the reader may open a room for; null for who keeps no join links, and on other days.</summary>
    public RoomOffer? Room { get; private set; }

    public async Task<IActionResult> OnGetAsync(string? day, string? all, long? child, CancellationToken cancellation)
    {
        LocalDate? date = null;
        if (day is not null)
        {
            if (LocalDatePattern.Iso.Parse(day) is not { Success: true, Value: { Year: >= 1950 and <= 2150 } parsed })
                return NotFound();
            date = parsed;
        }

        Own = ownPageQuery.Read(requestContext.Viewer, child is { } id ? new Core.People.PersonId(id) : null);
        View = (await dayQuery.Read(requestContext.Viewer, date, ownOnly: all != "1", Own?.Child, cancellation))!;
        AtSchool = schoolDayQuery.Read(requestContext.Viewer, View.Day);
        if (View.Day == View.Now.InZone(View.School.Time.Zone).Date)
            Room = openRoom.Offer(requestContext.Viewer);
        var cards = View
            .Sessions.Select(one => new SessionCard(one, View, View.School.Time))
            .Where(card => !card.Session.IsCancelled)
            .ToList();
        First = cards.Find(card => card.IsOpen)
            ?? cards.Find(card => !card.Session.IsAllDay && card.Session.PhaseAt(View.Now) == SessionPhase.On)
            ?? cards.Find(card => card.Session.StartsAt > View.Now);
        // Those alone that the page has room for.
        editNotices.Saw(requestContext.Viewer, View.Notices.Take(MostNotices).Select(one => one.Shown));
        return Page();
    }

    public async Task<IActionResult> OnPostRoomAsync([FromForm] OpenRoomInput input, CancellationToken cancellation) =>
        Tell(await openRoom.Do(requestContext.Viewer, input, cancellation), link =>
            $"{requestContext.Root}in/{link.Code} is open. Give its address to whoever is to come."
        );

    public async Task<IActionResult> OnPostEndRoomAsync(JoinCode code, int version, CancellationToken cancellation) =>
        Tell(await openRoom.End(requestContext.Viewer, code, version, cancellation), link => $"{link.Name} has ended.");

    public IActionResult OnPostDone([FromServices] MarkDone mark, MaterialKey? key, bool done, long? child)
    {
        var outcome = mark.Do(requestContext.Viewer, key ?? default, done);
        return outcome.IsDone
            ? Redirect(
                child is { } id
                    ? string.Create(CultureInfo.InvariantCulture, $"/today?child={id}#to-be-done")
                    : "/today#to-be-done"
            )
            : Answers.Of(outcome);
    }

    private IActionResult Tell(Outcome<JoinLink> outcome, Func<JoinLink, string> say)
    {
        switch (outcome)
        {
            case Outcome<JoinLink>.Done { Value: var link }:
                TempData[TempDataKeys.Said] = say(link);
                break;
            case Outcome<JoinLink>.Refused { Problems: [var first, ..] }:
                TempData[TempDataKeys.Said] = first.Message;
                break;
            case Outcome<JoinLink>.Stale:
                TempData[TempDataKeys.Said] =
                    "Somebody changed the room since. Nothing was done; look at it as it is now.";
                break;
            default:
                return Answers.Of(outcome);
        }

        return Redirect("/today");
    }
}
