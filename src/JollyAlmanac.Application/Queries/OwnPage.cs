using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>Something that came since somebody last looked.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Session">The session it is about, or stands on; null for the whole class.</param>
/// <param name="Material">A material; null where the session itself has changed.</param>
public sealed record News(Calendar Calendar, ShownSession? Session, Material? Material);

/// <summary>Something that is to be done.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Task">The material, and by when.</param>
/// <param name="IsDone">The reader marked it as done; never so for whoever looks as them, since the mark is not theirs to see.</param>
public sealed record OwnTask(Calendar Calendar, ToBeDone Task, bool IsDone);

/// <summary>The materials of a class that are for every session.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Materials">Those that the reader may have, in their order.</param>
public sealed record OwnMaterials(Calendar Calendar, ImmutableArray<Material> Materials);

/// <summary>What stands on a student's or a family member's own page beside the day.</summary>
/// <param name="Children">A family's children; none for anybody else.</param>
/// <param name="Child">The one it is about; null for all.</param>
/// <param name="Week">The sessions of the rest of this week and the next, after today.</param>
/// <param name="Since">Since when news are new; null on the first look.</param>
/// <param name="New">What came since, the newest first.</param>
/// <param name="Missed">Sessions of the last weeks whose room they were not in, the newest first.</param>
public sealed record OwnPage(
    ImmutableArray<Person> Children,
    PersonId? Child,
    ImmutableArray<OnCalendar> Week,
    Instant? Since,
    ImmutableArray<News> New,
    ImmutableArray<OnCalendar> Missed
)
{
    /// <summary>So far back a missed session is told.</summary>
    public static readonly Duration Back = Duration.FromDays(21);

    /// <summary>So long something that was not done in time still stands there.</summary>
    public static readonly Duration Late = Duration.FromDays(14);

    /// <summary>What is to be done, the first due first.</summary>
    public ImmutableArray<OwnTask> Tasks { get; init; } = [];

    /// <summary>What is for every session, a class each; classes without are not in it.</summary>
    public ImmutableArray<OwnMaterials> Materials { get; init; } = [];
}

/// <summary>Reads the own page of a student or a family.</summary>
public sealed class OwnPageQuery(AlmanacDatabase database, IClock clock)
{
    private const int MostNews = 8,
        MostMissed = 6,
        MostAhead = 20,
        MostTasks = 20;

    private static readonly Duration FirstLook = Duration.FromDays(7);

    // Looks within this are one sitting: what was new at its begin stays so.
    private static readonly Duration Sitting = Duration.FromMinutes(30);

    /// <summary>What stands on the own page of a student or a family member; null for anybody else.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="child">One of a family's children; null for all of them.</param>
    public OwnPage? Read(Viewer viewer, PersonId? child)
    {
        if (
            viewer.Person is not { } person
            || viewer.Role is not (SchoolRole.Student or SchoolRole.Family or SchoolRole.Guest)
        )
            return null;
        // Who looks as somebody else leaves no trace.
        if (
            viewer.LookedAtBy is null
            && clock.GetCurrentInstant() is var at
            && database.Read(stores => stores.People.LookedAt(person)) is var last
            && !(last + Duration.FromMinutes(1) > at)
        )
            database.Note(stores => stores.People.Looks(person, at, Sitting));
        return database.Read<OwnPage?>(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var (now, time) = (clock.GetCurrentInstant(), school.Time);
            var children = viewer.Role == SchoolRole.Family ? stores.People.Of(stores.People.ChildrenOf(person)) : [];
            var one = children.Any(known => known.Id == child) ? child : null;
            var today = now.InZone(time.Zone).Date;
            var ends = time.WeekOf(today).PlusWeeks(2);
            // On the first look, what the last week brought.
            var last = stores.People.NewSince(person);
            var since = last ?? now - FirstLook;
            var done = viewer.LookedAtBy is null ? stores.Materials.DoneBy(person) : ImmutableHashSet<MaterialId>.Empty;
            var (tasks, materials) = (new List<OwnTask>(), new List<OwnMaterials>());
            var (week, news, missed) = (
                new List<OnCalendar>(),
                new List<(Instant At, News News)>(),
                new List<OnCalendar>()
            );
            // Whoever is meant, the child or one of the children, has a name that the room told, or did not.
            (string Name, IReadOnlyList<CalendarId>? Own)[] readers =
                viewer.Role == SchoolRole.Family
                    ?
                    [
                        .. children
                            .Where(known => one is null || known.Id == one)
                            .Select(known => (known.Name, stores.Calendars.OwnOf(stores.People.ViewerOf(known.Id)))),
                    ]
                : stores.People.Get(person) is { } self ? [(self.Name, null)]
                : [];
            foreach (var own in CalendarAccess.OwnOf(stores, viewer, one))
            {
                var show = own.Facts.For(time, now, own.Level, ShowChoices.SignedIn, viewer);
                var sessions = own
                    .Facts.PlansFor(time, own.Level, viewer)
                    .SelectMany(plan => plan.Sessions)
                    .Where(session => session.IsVisible)
                    .ToList();
                week.AddRange(
                    sessions
                        .Where(session => session.Day > today && session.Day < ends)
                        .Select(show)
                        .OfType<ShownSession>()
                        .Select(shown => new OnCalendar(own.Calendar, shown))
                );
                news.AddRange(NewsOf(own, sessions, show, since, now, time, viewer));
                tasks.AddRange(
                    own.Facts.ToBeDone(time, now, now - OwnPage.Late, own.Level, ShowChoices.SignedIn, viewer)
                        .Select(task => new OwnTask(own.Calendar, task, done.Contains(task.Material.Id)))
                        // What is done and over is put away; what is late stands until it is done.
                        .Where(task => task.Task.Due.At > now || !task.IsDone)
                );
                ImmutableArray<Material> every =
                [
                    .. own.Facts.ForEverySession(time, now, own.Level, ShowChoices.SignedIn, viewer),
                ];
                if (every.Length > 0)
                    materials.Add(new OwnMaterials(own.Calendar, every));
                var over = sessions
                    .Where(session => session.EndsAt <= now && session.EndsAt > now - OwnPage.Back)
                    .ToList();
                var names = readers
                    .Where(reader => reader.Own?.Contains(own.Calendar.Id) ?? true)
                    .Select(reader => reader.Name);
                foreach (var key in names.SelectMany(name => ArchiveQuery.Missed(stores, over, name)).Distinct())
                    if (
                        over.FirstOrDefault(session => session.Key == key) is { } session
                        && show(session) is { IsBusyOnly: false } shown
                    )
                        missed.Add(new OnCalendar(own.Calendar, shown));
            }

            return new OwnPage(
                [.. children],
                one,
                [.. week.OrderBy(shown => shown.Shown.Session.StartsAt).Take(MostAhead)],
                last,
                [.. news.OrderByDescending(item => item.At).Select(item => item.News).Take(MostNews)],
                [.. missed.OrderByDescending(shown => shown.Shown.Session.StartsAt).Take(MostMissed)]
            )
            {
                Tasks = [.. tasks.OrderBy(one => one.Task.Due.At).Take(MostTasks)],
                Materials = [.. materials],
            };
        });
    }

    // Materials that were given since, and sessions to come that were changed.
    private static IEnumerable<(Instant, News)> NewsOf(
        CalendarAccess own,
        IEnumerable<Session> sessions,
        Func<Session, ShownSession?> show,
        Instant since,
        Instant now,
        SchoolTime school,
        Viewer viewer
    )
    {
        foreach (var session in sessions)
        {
            var mayBeNew = session.EndsAt > now && session.Change is not null && session.Of.ChangedAt > since;
            if (!mayBeNew && !own.Facts.HasOwnMaterials(session))
                continue;
            if (show(session) is not { IsBusyOnly: false } shown)
                continue;
            if (mayBeNew)
                yield return (session.Of.ChangedAt, new News(own.Calendar, shown, null));
            foreach (var material in shown.Materials.Where(one => one.ForSession is not null))
                if (GivenAt(material, session, school.Zone) is var given && given > since)
                    yield return (given, new News(own.Calendar, shown, material));
        }

        foreach (var material in own.Facts.Materials.Where(one => one.ForSession is null))
        {
            if (
                GivenAt(material, null, school.Zone) is var given
                && given > since
                && own.Facts.Show(school, now, material, own.Level, ShowChoices.SignedIn, viewer) is { } shown
            )
                yield return (given, new News(own.Calendar, null, shown));
        }
    }

    private static Instant GivenAt(Material material, Session? session, DateTimeZone school) =>
        Instant.Max(material.MadeAt, material.Release.Moment(session, school) ?? Instant.MinValue);
}
