using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>An act that was let in: somebody at the school, within one reading or writing.</summary>
/// <param name="Operation">The act.</param>
/// <param name="Stores">What is stored.</param>
/// <param name="Viewer">Who.</param>
/// <param name="School">The school.</param>
/// <param name="Now">When.</param>
internal record AtSchool(Operation Operation, Stores Stores, Viewer Viewer, School School, Instant Now)
{
    /// <summary>Who does it. Nobody but a signed-in person is let in to do anything; a visitor may only look.</summary>
    public PersonId Person =>
        Viewer.Person ?? throw new InvalidOperationException($"{Operation.Name} was let in without a person.");

    /// <summary>The school's date.</summary>
    public LocalDate Today => Now.InZone(School.Time.Zone).Date;

    /// <summary>The calendar that the history tells it of; null for the school.</summary>
    protected virtual CalendarId? Told => null;

    /// <summary>Writes a line of history.</summary>
    /// <param name="subject">What was changed.</param>
    /// <param name="id">Its id.</param>
    /// <param name="summary">What was done, after the person's name.</param>
    /// <param name="before">How it was, as JSON; null where that is not kept.</param>
    /// <param name="after">How it is.</param>
    /// <param name="named">Whom the summary names, so that they are found when they are erased.</param>
    /// <returns>The line's id.</returns>
    public long Note(
        HistorySubject subject,
        long id,
        string summary,
        string? before = null,
        string? after = null,
        IEnumerable<PersonId>? named = null
    ) => Stores.History.Add(Now, Person, Told, subject, id, Operation.Name, summary, before, after, named);
}

/// <summary>An act that was let in to a calendar.</summary>
/// <param name="Operation">The act.</param>
/// <param name="Stores">What is stored.</param>
/// <param name="Viewer">Who.</param>
/// <param name="Context">The calendar as they stand to it.</param>
/// <param name="Now">When.</param>
internal record AtCalendar(Operation Operation, Stores Stores, Viewer Viewer, CalendarContext Context, Instant Now)
    : AtSchool(Operation, Stores, Viewer, Context.School, Now)
{
    /// <summary>The calendar.</summary>
    public Calendar Calendar => Context.Calendar;

    /// <inheritdoc />
    protected override CalendarId? Told => Calendar.Id;

    /// <summary>Whose private entries are their own alone: the viewer, unless they may change everything.</summary>
    public PersonId? HidesPrivateFrom =>
        Context.May(Permission.ChangeSeries) ? null
        : Viewer.Person is { } person && AccessRules.IsMaker(person, Calendar.Id, Viewer) ? person
        : default(PersonId);

    /// <summary>Whether the act may be done to that series of the calendar.</summary>
    public bool May(Series series) =>
        Context.May(Operation.Needs, own: AccessRules.IsMaker(series.MadeBy, series.Calendar, Viewer));

    /// <summary>Somebody else changed a thing of the calendar since.</summary>
    public Outcome<T> Stale<T>(HistorySubject subject, long id) =>
        new Outcome<T>.Stale(Stores.History.Newest(subject, Calendar.Id, id));

    /// <summary>Whether the calendar has changed since a page of that revision was made; then what is to be said.</summary>
    public Outcome<T>? StaleSince<T>(int revision) =>
        Calendar.Revision == revision
            ? null
            : new Outcome<T>.Stale(Stores.History.Last(Calendar.Id, 1) is [var newest, ..] ? newest : null);
}

/// <summary>An act that was let in to a series.</summary>
/// <param name="At">Its calendar.</param>
/// <param name="Series">The series as it is stored.</param>
internal sealed record AtSeries(AtCalendar At, Series Series) : AtCalendar(At)
{
    /// <summary>Keeps a changed series with its history. Its calendar's feeds have news then.</summary>
    /// <param name="after">The series as it is to be.</param>
    /// <param name="summary">What was done.</param>
    /// <returns>False where somebody else was faster.</returns>
    public bool Store(Series after, string summary)
    {
        var materials = Stores.Materials.Of(Calendar.Id);
        if (!Stores.Series.Change(after with { ChangedAt = Now }, Series.Version))
            return false;
        Stores.Calendars.Touch(Calendar.Id, Now);
        Note(
            HistorySubject.Series,
            Series.Id.Value,
            summary,
            SeriesState.Write([SeriesState.Of(Series, takenOff: false, materials)]),
            SeriesState.Write([
                SeriesState.Of(Stores.Series.Find(Series.Id)!, takenOff: false, Stores.Materials.Of(Calendar.Id)),
            ])
        );
        return true;
    }
}

/// <summary>An act that was let in to a join link.</summary>
/// <param name="Operation">The act.</param>
/// <param name="Stores">What is stored.</param>
/// <param name="Viewer">Who.</param>
/// <param name="Door">The link with its door.</param>
/// <param name="Now">When.</param>
internal sealed record AtLink(Operation Operation, Stores Stores, Viewer Viewer, LinkDoor Door, Instant Now)
    : AtSchool(Operation, Stores, Viewer, Door.School, Now)
{
    /// <summary>The link.</summary>
    public JoinLink Link => Door.Link;

    /// <inheritdoc />
    protected override CalendarId? Told => Link.Calendar;

    /// <summary>Somebody else changed the link since.</summary>
    public Outcome<T> Stale<T>() =>
        new Outcome<T>.Stale(Stores.History.Newest(HistorySubject.JoinLink, Door.Owner.Id, Link.Id.Value));

    /// <summary>Writes a line of history about the link.</summary>
    public void Note(string summary) => Note(HistorySubject.JoinLink, Link.Id.Value, summary);

    /// <summary>Keeps a changed link with its history.</summary>
    /// <param name="link">The link as it is to be.</param>
    /// <param name="summary">What was done.</param>
    /// <param name="target">Another room to stand behind it; null to leave the room.</param>
    /// <param name="session">The one session that room is for; null for all.</param>
    public Outcome<JoinLink> Store(JoinLink link, string summary, JoinTarget? target = null, Session? session = null)
    {
        if (!Stores.JoinLinks.Change(link with { CannotBeRead = null }, Link.Version, Now))
            return Stale<JoinLink>();
        if (target is not null)
            Stores.JoinLinks.AddTarget(link.Id, target, Person, Now, session?.Key);
        // Feeds carry the short address, so a new one is news to every calendar that uses it.
        if (link.Code != Link.Code)
            foreach (var (calendar, _) in Door.Users)
                Stores.Calendars.Touch(calendar.Id, Now);
        Note(summary);
        return new Outcome<JoinLink>.Done(Stores.JoinLinks.Get(link.Id));
    }
}

/// <summary>An act that was let in to a feed or an embed.</summary>
/// <param name="At">Its calendar.</param>
/// <param name="Outlet">The feed or embed.</param>
internal sealed record AtPublication(AtCalendar At, Publication Outlet) : AtCalendar(At);

/// <summary>
/// The one way in for acts: finds what an act is done to, asks whether the person may, looks whether it is still what they saw, and
/// keeps what is done in one transaction, or nothing of it. What one may not know of is not found.
/// </summary>
/// <example>
/// <code>
/// gate.Write(Act.TakeOffSeries, viewer, "french-8", series, version, at => …);
/// </code>
/// </example>
public sealed class Gate(AlmanacDatabase database, IClock clock)
{
    /// <summary>
    /// Looks at something of the school in order to do the act; what is read is no different from what the act itself reads.
    /// </summary>
    internal Outcome<T> Read<T>(Operation operation, Viewer viewer, Func<AtSchool, Outcome<T>> look) =>
        database.Read(stores => Enter(stores, operation, viewer).Then(look));

    /// <summary>Looks at a calendar in order to do the act.</summary>
    internal Outcome<T> Read<T>(Operation operation, Viewer viewer, Slug slug, Func<AtCalendar, Outcome<T>> look) =>
        database.Read(stores => Enter(stores, operation, viewer, slug).Then(look));

    /// <summary>Looks at a series in order to do the act.</summary>
    internal Outcome<T> Read<T>(
        Operation operation,
        Viewer viewer,
        Slug slug,
        SeriesId id,
        Func<AtSeries, Outcome<T>> look
    ) => database.Read(stores => Enter(stores, operation, viewer, slug, id).Then(look));

    /// <summary>Looks at a join link in order to do the act.</summary>
    internal Outcome<T> Read<T>(Operation operation, Viewer viewer, JoinCode code, Func<AtLink, Outcome<T>> look) =>
        database.Read(stores => Enter(stores, operation, viewer, code).Then(look));

    /// <summary>Does the act at the school.</summary>
    internal Outcome<T> Write<T>(Operation operation, Viewer viewer, Func<AtSchool, Outcome<T>> keep) =>
        Kept(viewer, stores => Enter(stores, operation, viewer).Then(keep));

    /// <summary>Does the act to a calendar.</summary>
    internal Outcome<T> Write<T>(Operation operation, Viewer viewer, Slug slug, Func<AtCalendar, Outcome<T>> keep) =>
        Kept(viewer, stores => Enter(stores, operation, viewer, slug).Then(keep));

    /// <summary>Does the act to a calendar that still has the version.</summary>
    internal Outcome<T> Write<T>(
        Operation operation,
        Viewer viewer,
        Slug slug,
        int version,
        Func<AtCalendar, Outcome<T>> keep
    ) =>
        Kept(viewer, stores =>
            Enter(stores, operation, viewer, slug)
                .Then(at =>
                    at.Calendar.Version == version
                        ? keep(at)
                        : at.Stale<T>(HistorySubject.Calendar, at.Calendar.Id.Value)
                )
        );

    /// <summary>Does the act to a series that still has the version.</summary>
    internal Outcome<T> Write<T>(
        Operation operation,
        Viewer viewer,
        Slug slug,
        SeriesId id,
        int version,
        Func<AtSeries, Outcome<T>> keep
    ) =>
        Kept(viewer, stores =>
            Enter(stores, operation, viewer, slug, id)
                .Then(at => at.Series.Version == version ? keep(at) : at.Stale<T>(HistorySubject.Series, id.Value))
        );

    /// <summary>Does the act to a join link.</summary>
    internal Outcome<T> Write<T>(Operation operation, Viewer viewer, JoinCode code, Func<AtLink, Outcome<T>> keep) =>
        Kept(viewer, stores => Enter(stores, operation, viewer, code).Then(keep));

    /// <summary>Does the act to a join link that still has the version.</summary>
    internal Outcome<T> Write<T>(
        Operation operation,
        Viewer viewer,
        JoinCode code,
        int version,
        Func<AtLink, Outcome<T>> keep
    ) =>
        Kept(viewer, stores =>
            Enter(stores, operation, viewer, code).Then(at => at.Link.Version == version ? keep(at) : at.Stale<T>())
        );

    /// <summary>Does the act to a feed or embed that still has the version.</summary>
    internal Outcome<T> Write<T>(
        Operation operation,
        Viewer viewer,
        Slug slug,
        PublicationId id,
        int version,
        Func<AtPublication, Outcome<T>> keep
    ) => Kept(viewer, stores => Enter(stores, operation, viewer, slug)
                .Then(at =>
                    stores.Publications.Find(id) is not { } publication || publication.Calendar != at.Calendar.Id
                        ? new Outcome<T>.NotFound()
                    : publication.Version != version ? at.Stale<T>(HistorySubject.Outlet, id.Value)
                    : keep(new AtPublication(at, publication))
                ));

    /// <summary>Lets an act in at the school, within a reading or writing that is under way.</summary>
    internal Outcome<AtSchool> Enter(Stores stores, Operation operation, Viewer viewer)
    {
        if (stores.School.Find() is not { } school)
            return new Outcome<AtSchool>.NotFound();
        return viewer.Person is not null && AccessRules.MayAtSchool(operation.Needs, viewer.Role)
            ? new Outcome<AtSchool>.Done(new AtSchool(operation, stores, viewer, school, clock.GetCurrentInstant()))
            : new Outcome<AtSchool>.NotAllowed();
    }

    /// <summary>Lets an act in to a calendar, within a reading or writing that is under way.</summary>
    internal Outcome<AtCalendar> Enter(Stores stores, Operation operation, Viewer viewer, Slug slug)
    {
        var now = clock.GetCurrentInstant();
        var recalled = operation.To == Subject.AnyCalendar ? now : (Instant?)null;
        if (
            CalendarContext.Find(stores, viewer, slug, recalled, operation.To == Subject.PastCalendar)
            is not { } calendarContext
        )
            return new Outcome<AtCalendar>.NotFound();
        // What is done to several series of a calendar is asked of each of them then; here, whether any could be.
        return IsSomebody(operation, viewer) && calendarContext.May(operation.Needs, own: true)
            ? new Outcome<AtCalendar>.Done(new AtCalendar(operation, stores, viewer, calendarContext, now))
            : new Outcome<AtCalendar>.NotAllowed();
    }

    /// <summary>Lets an act in to a series, within a reading or writing that is under way.</summary>
    internal Outcome<AtSeries> Enter(Stores stores, Operation operation, Viewer viewer, Slug slug, SeriesId id)
    {
        if (CalendarContext.Find(stores, viewer, slug) is not { } calendarContext)
            return new Outcome<AtSeries>.NotFound();
        var any = operation.To == Subject.AnySeries;
        var found = stores.Series.Find(id, alsoTakenOff: any) ?? (any ? stores.Series.FindBare(id) : null);
        if (found is not { } series || series.Calendar != calendarContext.Calendar.Id)
            return new Outcome<AtSeries>.NotFound();
        return
            IsSomebody(operation, viewer)
            && calendarContext.May(operation.Needs, own: AccessRules.IsMaker(series.MadeBy, series.Calendar, viewer))
            ? new Outcome<AtSeries>.Done(
                new AtSeries(
                    new AtCalendar(operation, stores, viewer, calendarContext, clock.GetCurrentInstant()),
                    series
                )
            )
            : new Outcome<AtSeries>.NotAllowed();
    }

    /// <summary>Lets an act in to a join link, within a reading or writing that is under way.</summary>
    internal Outcome<AtLink> Enter(Stores stores, Operation operation, Viewer viewer, JoinCode code)
    {
        // Rooms and passcodes are shown to who keeps or hosts a link, and never to somebody who looks as them.
        if (viewer.LookedAtBy is not null)
            return new Outcome<AtLink>.NotAllowed();
        if (stores.School.Find() is not { } school || stores.JoinLinks.Find(code) is not { } link)
            return new Outcome<AtLink>.NotFound();
        var door = LinkDoor.Read(stores, school, link.Id);
        if (viewer.Person is null || door.Highest(viewer) == AccessLevel.None)
            return new Outcome<AtLink>.NotFound();
        return (
            operation.Needs == Permission.WorkDoor
                ? door.MayHost(viewer)
                : AccessRules.May(operation.Needs, door.LevelOf(viewer))
        )
            ? new Outcome<AtLink>.Done(new AtLink(operation, stores, viewer, door, clock.GetCurrentInstant()))
            : new Outcome<AtLink>.NotAllowed();
    }

    // To look is for visitors, too; what is done is done by somebody.
    private static bool IsSomebody(Operation operation, Viewer viewer) =>
        viewer.Person is not null
        || operation.Needs is Permission.SeeTimes or Permission.SeeOutline or Permission.SeeDetails;

    // Who looks as somebody else only looks.
    private Outcome<T> Kept<T>(Viewer viewer, Func<Stores, Outcome<T>> write) =>
        viewer.LookedAtBy is not null ? new Outcome<T>.NotAllowed() : database.Write(write, outcome => outcome.IsDone);
}
