using System.Collections.Immutable;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A room without fixed times on a class page.</summary>
/// <param name="Code">Its short address.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Until">When it ends, where it was opened for a while; else null.</param>
/// <param name="Hours">When it is open on class days; null for always.</param>
public sealed record OpenRoomRow(JoinCode Code, string Name, Instant? Until, EntryRule.Hours? Hours);

/// <summary>The class page of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The level it is shown at.</param>
/// <param name="MayKeep">The viewer may go back to its term sheet.</param>
/// <param name="Top">The session that is on, or the next one.</param>
/// <param name="Coming">The sessions after it, to the end of next week; the first few where there are none that soon.</param>
/// <param name="Past">The last few, newest first.</param>
/// <param name="Materials">The materials for all sessions: the class's, then each series'.</param>
public sealed record ClassPage(
    School School,
    Instant Now,
    Calendar Calendar,
    AccessLevel Level,
    bool MayKeep,
    ShownSession? Top,
    ImmutableArray<ShownSession> Coming,
    ImmutableArray<ShownSession> Past,
    ImmutableArray<Material> Materials
)
{
    /// <summary>The door of the session at the top, where it has one that the viewer may see.</summary>
    public ShortAddress? Door { get; init; }

    /// <summary>What is to be done and not late, the first due first.</summary>
    public IReadOnlyList<ToBeDone> ToBeDone { get; init; } = [];

    /// <summary>How many sessions come after those that are shown.</summary>
    public int Later { get; init; }

    /// <summary>How many sessions are over.</summary>
    public int Over { get; init; }

    /// <summary>The first day of next week.</summary>
    public LocalDate NextWeek { get; init; }

    /// <summary>Who teaches it, where that may be seen.</summary>
    public string Teacher { get; init; } = "";

    /// <summary>What the class is about, where that may be seen.</summary>
    public string Description { get; init; } = "";

    /// <summary>Whom to ask where something does not work, where that may be seen.</summary>
    public string Contact { get; init; } = "";

    /// <summary>What each series is about that says so, where that may be seen.</summary>
    public IReadOnlyList<(string Title, string About)> Series { get; init; } = [];

    /// <summary>Where it meets.</summary>
    public IReadOnlyList<string> Places { get; init; } = [];

    /// <summary>When it meets, a sentence a series.</summary>
    public IReadOnlyList<string> Meets { get; init; } = [];

    /// <summary>Its rooms without fixed times, whose doors are open at any time, or until then.</summary>
    public IReadOnlyList<OpenRoomRow> OpenRooms { get; init; } = [];

    /// <summary>The notices that are up, as the viewer may see them.</summary>
    public IReadOnlyList<ShownNotice> Notices { get; init; } = [];

    /// <summary>The token of the feed that is offered to whoever may open this page; null where none is.</summary>
    public FeedToken? FeedToken { get; init; }
}

/// <summary>Reads the class page of a calendar.</summary>
public sealed class ClassPageQuery(Gate gate, AlmanacDatabase database, IClock clock, Doors doors, Secrets secrets)
    : IDisposable
{
    // A class that meets several times a day is not listed for two weeks.
    private const int MostComing = 24;

    private const int MostAbout = 8;

    /// <summary>How many of the rest of the term are shown to who asks for it.</summary>
    private const int MostOfTerm = 400;

    /// <inheritdoc />
    public void Dispose() => classPages.Dispose();

    private readonly EpochCache<Slug, string> classPages = new(database.Epoch, capacity: 4_000);

    /// <summary>
    /// How all that a class page shows stands: the same text means the same page to a stranger within the same minute. Null where there is
    /// no such calendar.
    /// </summary>
    public string? StateVersionOf(Slug slug) =>
        classPages.Get(slug, Instant.MinValue, _ =>
            database.Read(stores => stores.Calendars.StateVersionOf(slug)) is { } read
                ? (read, Instant.MaxValue, 1)
                : null
        )
            is { } stateVersion
            ? $"{stateVersion} {clock.GetCurrentInstant().ToUnixTimeSeconds() / 60}"
            : null;

    /// <summary>
    /// The day on which a calendar opens to a viewer who does not see it yet; null where they see it, or would not then either.
    /// </summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar, whether there is one or not.</param>
    public LocalDate? OpensOn(Viewer viewer, Slug slug) =>
        database.Read(stores =>
            stores.Calendars.Find(slug) is { IsInUse: true, OpensOn: { } day } calendar
            && stores.Calendars.GrantsOf(calendar.Id) is var grants
            && AccessRules.LevelOf(viewer, grants) == AccessLevel.None
            && AccessRules.LevelOf(viewer, Grant.OnceOpen(grants)) > AccessLevel.None
                ? day
                : (LocalDate?)null
        );

    /// <summary>The class page of a calendar; null where it is not open to the viewer.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="asVisitor">Show it as a visitor sees it who is not signed in. Where it is closed to them: as a student of the
    /// class.</param>
    /// <param name="wholeTerm">All that is coming, not the next weeks alone.</param>
    public ClassPage? Read(Viewer viewer, Slug slug, bool asVisitor, bool wholeTerm = false) =>
        gate.Read<ClassPage>(Operation.SeeClassPage, viewer, slug, at =>
        {
            var (stores, calendarContext, now) = (at.Stores, at.Context, at.Now);
            if (!calendarContext.Calendar.IsInUse)
                return new Outcome<ClassPage>.NotFound();
            // Nobody gains by looking "as": the level can only fall.
            var visitors = AccessRules.LevelOf(Viewer.Visitor, calendarContext.Grants);
            var isVisitor = viewer.Person is null || (asVisitor && visitors > AccessLevel.None);
            var level = isVisitor ? visitors : (AccessLevel)Math.Min((int)calendarContext.Level, (int)AccessLevel.Full);
            var facts = CalendarFacts.Read(stores, calendarContext.Calendar.Id);
            var reader = isVisitor ? null : viewer;
            var show = facts.For(
                calendarContext.School.Time,
                now,
                level,
                isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn,
                reader
            );
            var sessions = facts
                .PlansFor(calendarContext.School.Time, level, reader)
                .SelectMany(plan => plan.Sessions)
                .Where(session => session.IsVisible)
                .OrderBy(session => session.StartsAt)
                .ToList();
            var time = calendarContext.School.Time;
            var nextWeek = time.WeekOf(now.InZone(time.Zone).Date).PlusWeeks(1);
            var ahead = sessions.Where(session => session.EndsAt > now).ToList();
            // What is near is shown whole; of a class that meets seldom, the next few.
            // Days that are taken whole crowd no lesson off the page: they stand between those that are shown, and are not counted.
            var lessons = ahead.Where(session => !session.IsAllDay).ToList();
            if (lessons.Count == 0)
                lessons = ahead;
            var near = wholeTerm
                ? Math.Min(lessons.Count, MostOfTerm)
                : Math.Clamp(
                    lessons.Count(session => session.Day < nextWeek.PlusWeeks(1)),
                    Math.Min(4, lessons.Count),
                    MostComing
                );
            var until =
                near == 0 ? default
                : near == lessons.Count ? Instant.MaxValue
                : lessons[near - 1].StartsAt;
            var coming = ahead
                .Where(session => session.StartsAt <= until)
                .Take(wholeTerm ? MostOfTerm : 2 * MostComing)
                .Select(show)
                .OfType<ShownSession>()
                .ToList();
            var later = ahead.Count - coming.Count;
            // On top stands the next lesson, not the day that it lies in.
            if (coming.FindIndex(one => !one.Session.IsAllDay) is > 0 and var lesson)
            {
                coming.Insert(0, coming[lesson]);
                coming.RemoveAt(lesson + 1);
            }

            var plans = facts.PlansFor(time, level, reader);
            var choices = isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn;
            var details = AccessRules.May(Permission.SeeDetails, level);
            var past = sessions
                .Where(session => session.IsHeld && session.EndsAt <= now)
                .TakeLast(5)
                .Reverse()
                .Select(show)
                .OfType<ShownSession>();
            var materials = facts.ForEverySession(time, now, level, choices, reader);
            return new Outcome<ClassPage>.Done(
                new ClassPage(
                    calendarContext.School,
                    now,
                    calendarContext.Calendar,
                    level,
                    calendarContext.Level >= AccessLevel.Contributor,
                    coming.FirstOrDefault(),
                    [.. coming.Skip(1)],
                    [.. past],
                    [.. materials]
                )
                {
                    ToBeDone = facts.ToBeDone(time, now, now, level, choices, reader),
                    Later = later,
                    Over = sessions.Count - ahead.Count,
                    NextWeek = nextWeek,
                    Description = AccessRules.May(Permission.SeeOutline, level)
                        ? calendarContext.Calendar.Description
                        : "",
                    Teacher =
                        details && stores.People.Get(calendarContext.Calendar.Owner) is { EndedAt: null } teacher
                            ? teacher.Name
                            : "",
                    Contact = details ? calendarContext.Calendar.Contact : "",
                    Series =
                    [
                        .. plans
                            .Where(plan =>
                                plan.Of.Description.Length > 0
                                && AccessRules.May(Permission.SeeDetails, Redaction.LevelOn(plan.Of, level, reader))
                                && plan.Held.Any(session => session.EndsAt > now)
                            )
                            .Select(plan => (plan.Of.Title, plan.Of.Description))
                            .Distinct()
                            .Take(MostAbout),
                    ],
                    Places =
                    [
                        .. plans
                            .Where(plan =>
                                AccessRules.May(Permission.SeeOutline, Redaction.LevelOn(plan.Of, level, reader))
                            )
                            .Select(plan => plan.Of.Place)
                            .Where(place => place.Length > 0)
                            .Distinct(),
                    ],
                    Meets =
                    [
                        .. plans
                            .Where(plan =>
                                AccessRules.May(Permission.SeeOutline, Redaction.LevelOn(plan.Of, level, reader))
                                && plan.Held.Any(session => session.EndsAt > now)
                            )
                            .Select(plan => SayBack.When(plan.Of.Pattern, time))
                            .Distinct()
                            .Take(6),
                    ],
                    OpenRooms = AccessRules.May(Permission.SeeDetails, level)
                        ?
                        [
                            .. stores
                                .JoinLinks.Of(calendarContext.Calendar.Id)
                                .Where(link =>
                                    (
                                        link.Entry is EntryRule.Always or EntryRule.Hours
                                        || (link.EndsAt > now && !link.IsPersonal)
                                    )
                                    && !link.LeadsNowhere
                                    && AccessRules.IsFor(link.OnlyFor, level, reader, link.Calendar)
                                )
                                .Select(link => new OpenRoomRow(
                                    link.Code,
                                    link.Name,
                                    link.EndsAt,
                                    link.Entry as EntryRule.Hours
                                )),
                        ]
                        : [],
                    Notices =
                    [
                        .. facts.NoticesFor(
                            calendarContext.School.Time,
                            level,
                            isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn,
                            reader,
                            now
                        ),
                    ],
                    FeedToken = stores
                        .Publications.Of(calendarContext.Calendar.Id)
                        .FirstOrDefault(publication =>
                            publication is { Kind: PublicationKind.Feed, IsOffered: true, PausedAt: null }
                            && publication.Level <= level
                        )
                        is { } offered
                        ? secrets.TokenOf(offered)
                        : null,
                    Door = coming.FirstOrDefault()?.Join is { } code
                        ? doors.Glance(code, new AtDoor(isVisitor ? Viewer.Visitor : viewer))
                        : null,
                }
            );
        }).OrNone;
}
