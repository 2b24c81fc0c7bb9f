using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Queries;

/// <summary>The days and hours that somebody shows, as a form has them.</summary>
/// <param name="First">The first day, ISO; empty for today.</param>
/// <param name="Last">The last day, ISO; empty for the Friday of next week.</param>
/// <param name="From">The start of the hours, "8:00"; empty for the first bell.</param>
/// <param name="To">Their end; empty for the last bell.</param>
public sealed record OwnTimesInput(string? First = "", string? Last = "", string? From = "", string? To = "");

/// <summary>One session of somebody's week, and what others see of it.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Session">The session, as its keeper sees it.</param>
/// <param name="Strangers">What anyone sees who has the address of the class page.</param>
/// <param name="School">What everybody of the school sees who signs in.</param>
/// <param name="Named">What people and groups see that are named on the calendar, each level with how many grants give it; none for who may
/// not see who has access.</param>
/// <param name="MaySeeAccess">The viewer may see who has access to the calendar.</param>
public sealed record SeenSession(
    Calendar Calendar,
    Session Session,
    AccessLevel Strangers,
    AccessLevel School,
    ImmutableArray<(AccessLevel Level, int Grants)> Named,
    bool MaySeeAccess
);

/// <summary>A link by which somebody shows when they are free, with its token.</summary>
public sealed record FreeLinkWithToken(FreeLink Link, FeedToken Token);

/// <summary>Somebody's own times, and what others see of them.</summary>
/// <param name="School">The school.</param>
/// <param name="Start">The first day of the week.</param>
/// <param name="Week">The sessions that they hold in it, and what others see of each.</param>
/// <param name="Input">The days and hours that are shown.</param>
/// <param name="Days">When they are busy and free on these.</param>
/// <param name="Links">The links that show it to others and have not ended.</param>
public sealed record OwnTimesView(
    School School,
    LocalDate Start,
    IReadOnlyList<SeenSession> Week,
    OwnTimesInput Input,
    IReadOnlyList<DayTimes> Days,
    IReadOnlyList<FreeLinkWithToken> Links
);

/// <summary>When somebody is free, for whoever has their link.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Name">Whose times they are.</param>
/// <param name="Last">The day with which the link ends.</param>
/// <param name="Days">The days that are not over.</param>
public sealed record FreeTimesPage(
    School School,
    Instant Now,
    string Name,
    LocalDate Last,
    IReadOnlyList<DayTimes> Days
);

/// <summary>
/// What others see of somebody's week, and their busy and free times for others: as a text, and as a link that ends. Nothing but the times
/// is told by it.
/// </summary>
public sealed class OwnTimes(Gate gate, AlmanacDatabase database, IClock clock, Secrets secrets)
{
    /// <summary>The most days that are shown at once.</summary>
    public const int MostDays = 62;

    /// <summary>The most links that somebody has at once.</summary>
    public const int MostLinks = 20;

    /// <summary>How it stands.</summary>
    /// <param name="viewer">Whose.</param>
    /// <param name="input">The days and hours to be shown.</param>
    /// <param name="day">A day of the week to look at; null for today.</param>
    public Outcome<OwnTimesView> View(Viewer viewer, OwnTimesInput input, LocalDate? day) =>
        gate.Read<OwnTimesView>(Operation.KeepOwnTimes, viewer, at =>
        {
            // The addresses are for their person's eyes alone, and for no one who looks as them.
            if (viewer.LookedAtBy is not null)
                return new Outcome<OwnTimesView>.NotAllowed();
            var entry = new FormReader();
            if (Read(entry, at, input) is not { } link)
                return new Outcome<OwnTimesView>.Refused(entry.Problems);
            var start = at.School.Time.WeekOf(day ?? at.Today);
            return new Outcome<OwnTimesView>.Done(
                new OwnTimesView(
                    at.School,
                    start,
                    WeekOf(at, viewer, start),
                    FormOf(link),
                    DaysOf(at.Stores, at.School, viewer, link),
                    [
                        .. at
                            .Stores.FreeLinks.Of(at.Person, at.Today)
                            .Select(one => new FreeLinkWithToken(one, secrets.TokenOfFree(one.Id))),
                    ]
                )
            );
        });

    /// <summary>Makes a link that shows these days and hours, and ends with the last of them.</summary>
    public Outcome<FreeLinkWithToken> MakeLink(Viewer viewer, OwnTimesInput input) =>
        gate.Write<FreeLinkWithToken>(Operation.KeepOwnTimes, viewer, at =>
        {
            var entry = new FormReader();
            if (Read(entry, at, input) is not { } link)
                return new Outcome<FreeLinkWithToken>.Refused(entry.Problems);
            if (at.Stores.FreeLinks.Of(at.Person, at.Today).Count >= MostLinks)
                return Outcome.Because<FreeLinkWithToken>(
                    "",
                    $"You have {MostLinks} such links already. End one of them first."
                );
            var id = at.Stores.FreeLinks.Add(link, at.Now);
            var token = secrets.TokenOfFree(id);
            at.Stores.FreeLinks.SetToken(id, Secrets.HashOf(token));
            at.Note(
                HistorySubject.Person,
                at.Person.Value,
                $"made a link to their free times from {Wording.WithYear(link.First)} to {Wording.WithYear(link.Last)}"
            );
            return new Outcome<FreeLinkWithToken>.Done(new FreeLinkWithToken(link with { Id = id }, token));
        });

    /// <summary>Ends a link before its time.</summary>
    public Outcome<bool> EndLink(Viewer viewer, long id) => gate.Write<bool>(Operation.KeepOwnTimes, viewer, at =>
        {
            if (!at.Stores.FreeLinks.End(at.Person, id, at.Now))
                return new Outcome<bool>.NotFound();
            at.Note(HistorySubject.Person, at.Person.Value, "ended a link to their free times");
            return new Outcome<bool>.Done(true);
        });

    /// <summary>What a link shows; null for one that is unknown or has ended, and where its person has left.</summary>
    public FreeTimesPage? ByToken(FeedToken token) =>
        database.Read(stores =>
        {
            var now = clock.GetCurrentInstant();
            if (
                stores.School.Find() is not { } school
                || now.InZone(school.Time.Zone).Date is var today
                    && stores.FreeLinks.Find(Secrets.HashOf(token), today) is not { } link
                || stores.People.ViewerOf(link.Person) is not { Person: not null } viewer
                || stores.People.Get(link.Person) is not { } person
            )
                return null;
            // Days that are over are nobody's to know.
            return new FreeTimesPage(
                school,
                now,
                person.Name,
                link.Last,
                DaysOf(stores, school, viewer, link with { First = LocalDate.Max(link.First, today) })
            );
        });

    private static OwnTimesInput FormOf(FreeLink link) =>
        new(
            LocalDatePattern.Iso.Format(link.First),
            LocalDatePattern.Iso.Format(link.Last),
            Clock.Format(link.From),
            Clock.Format(link.To)
        );

    private static readonly LocalTimePattern Clock = LocalTimePattern.CreateWithInvariantCulture("H:mm");

    private static FreeLink? Read(FormReader entry, AtSchool at, OwnTimesInput input)
    {
        static bool Is(string? text) => !string.IsNullOrWhiteSpace(text);
        var bells = at.School.Time.Bells.Periods;
        var first = Is(input.First) ? entry.Day("First", input.First, "The first day") : at.Today;
        var last = Is(input.Last)
            ? entry.Day("Last", input.Last, "The last day")
            : (first ?? at.Today).Next(IsoDayOfWeek.Friday).PlusWeeks(1);
        var from = Is(input.From)
            ? entry.Time("From", input.From, "The start of the hours")
            : bells.FirstOrDefault()?.Start ?? new LocalTime(8, 0);
        var to = Is(input.To)
            ? entry.Time("To", input.To, "The end of the hours")
            : bells.LastOrDefault()?.End ?? new LocalTime(16, 0);
        if (last < first)
            entry.Wrong("Last", "The last day is before the first. Choose a later one.");
        else if (last is { } ends && first is { } begins && Period.DaysBetween(begins, ends) >= MostDays)
            entry.Wrong("Last", $"These are more than {MostDays} days. Choose an earlier last day.");
        if (last < at.Today)
            entry.Wrong("Last", "These days are over. Choose a last day that is to come.");
        if (to <= from)
            entry.Wrong("To", "The hours end before they begin. Give a later time.");
        return entry.IsGood ? new FreeLink(0, at.Person, first!.Value, last!.Value, from!.Value, to!.Value) : null;
    }

    // What binds somebody: the sessions of calendars that they keep, attend or are named on in full, and days on which they are away.
    private static IReadOnlyList<DayTimes> DaysOf(Stores stores, School school, Viewer viewer, FreeLink link)
    {
        var (time, zone) = (school.Time, school.Time.Zone);
        var begins = zone.AtStartOfDay(link.First).ToInstant();
        var ends = zone.AtStartOfDay(link.Last.PlusDays(1)).ToInstant();
        var calendars = CalendarAccess.Own(stores, viewer);
        var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Select(own => own.Calendar.Id)]);
        var taken = calendars
            // Who is named for less is not there, though the class may be open to all.
            .Where(own =>
                AccessRules.LevelOf(
                    viewer,
                    grants[own.Calendar.Id].Where(grant => grant.To is Grantee.OnePerson or Grantee.OneGroup)
                ) >= AccessLevel.Full
            )
            .SelectMany(own =>
                own.Facts.PlansFor(time, own.Level, viewer)
                    .Where(plan => Redaction.LevelOn(plan.Of, own.Level, viewer) >= AccessLevel.Full)
                    .SelectMany(plan => plan.Held)
            )
            .Where(session => !session.IsAllDay && session.StartsAt < ends && session.EndsAt > begins)
            .Select(session => new Interval(session.StartsAt, session.EndsAt));
        var away = stores
            .Absences.Of(link.Person, link.First)
            .Where(absence => absence.First <= link.Last)
            .Select(absence => new Interval(
                zone.AtStartOfDay(absence.First).ToInstant(),
                zone.AtStartOfDay(absence.Last.PlusDays(1)).ToInstant()
            ));
        return FreeTimes.Of(taken.Concat(away), link.First, link.Last, new ClockSpan(link.From, link.To), zone);
    }

    private static List<SeenSession> WeekOf(AtSchool at, Viewer viewer, LocalDate start)
    {
        var kept = CalendarAccess.Own(at.Stores, viewer).FindAll(own => own.Level >= AccessLevel.Contributor);
        var grants = at.Stores.Calendars.GrantsOf([.. kept.Select(own => own.Calendar.Id)]);
        var week = new List<SeenSession>();
        foreach (var own in kept)
        {
            var given = grants[own.Calendar.Id].ToList();
            var strangers = AccessRules.LevelOf(Viewer.Visitor, given);
            var everyone = given
                .Where(grant => grant.To is Grantee.Everyone or Grantee.Anyone && !grant.AwaitsOpening)
                .Select(grant => grant.Level)
                .DefaultIfEmpty(AccessLevel.None)
                .Max();
            var maySee = AccessRules.May(Permission.ChangeCalendar, own.Level);
            foreach (
                var session in own
                    .Facts.PlansFor(at.School.Time, own.Level, viewer)
                    .SelectMany(plan => plan.Sessions)
                    .Where(session => session.IsVisible && session.Day >= start && session.Day < start.PlusWeeks(1))
            )
                week.Add(
                    new SeenSession(
                        own.Calendar,
                        session,
                        Seen(session, strangers),
                        Seen(session, everyone),
                        [
                            .. given
                                .Where(grant =>
                                    maySee
                                    && grant.To is (Grantee.OneGroup or Grantee.OnePerson)
                                    && grant.To != new Grantee.OnePerson(at.Person)
                                )
                                .GroupBy(grant => Seen(session, grant.Level))
                                .OrderByDescending(group => group.Key)
                                .Select(group => (group.Key, group.Count())),
                        ],
                        maySee
                    )
                );
        }

        return [.. week.OrderBy(one => one.Session.StartsAt).ThenBy(one => one.Calendar.Title, StringComparer.Ordinal)];

        // Of what is private, or for some only, no more than the one function lets through; whom it is for sees it besides.
        static AccessLevel Seen(Session session, AccessLevel level) =>
            (AccessLevel)Math.Min((int)Redaction.LevelOn(session.Of, level, null), (int)AccessLevel.Full);
    }
}
