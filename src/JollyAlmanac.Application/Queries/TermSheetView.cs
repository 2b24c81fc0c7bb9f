using System.Collections.Immutable;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A series on a term sheet, with what the viewer may do to it.</summary>
/// <param name="Series">The series.</param>
/// <param name="Sentence">What is true of it.</param>
/// <param name="HasLink">It has a join link that the viewer may see.</param>
/// <param name="MayChange">Whether the viewer may change it.</param>
/// <param name="Plan">Its plan: loose changes and the sessions to put them on.</param>
/// <param name="OnlyFor">Whom alone it is for, in words, for those who work on it; else empty.</param>
public sealed record SheetSeries(
    Series Series,
    string Sentence,
    bool HasLink,
    bool MayChange,
    Plan Plan,
    string OnlyFor
);

/// <summary>The term sheet of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The viewer's level.</param>
/// <param name="Sheet">The sheet; null while the school has no term.</param>
/// <param name="Series">Its series; empty where the viewer may not see titles.</param>
/// <param name="Links">The join links of its series.</param>
/// <param name="Last">Its last changes, for those who may change it.</param>
/// <param name="Feeds">How many feeds there are, for managers.</param>
/// <param name="Embeds">How many embeds.</param>
/// <param name="TakenOff">The series that was taken off last and can be brought back, or null.</param>
/// <param name="ToUndo">The viewer's own last change that can be undone, or null.</param>
public sealed record TermSheetView(
    School School,
    Instant Now,
    Calendar Calendar,
    AccessLevel Level,
    TermSheet? Sheet,
    IReadOnlyList<SheetSeries> Series,
    IReadOnlyList<JoinLink> Links,
    IReadOnlyList<HistoryLine> Last,
    int Feeds,
    int Embeds,
    Series? TakenOff,
    HistoryLine? ToUndo
)
{
    /// <summary>Sessions to come without material, where the others around them have some; for those who may change them.</summary>
    public IReadOnlySet<SessionKey> Missing { get; init; } = new HashSet<SessionKey>();

    /// <summary>What of it cannot be read as it is stored, for those who may change it.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];

    /// <summary>For each series that cannot be read, its version, to take it off by.</summary>
    public IReadOnlyDictionary<long, int> UnreadableVersions { get; init; } = new Dictionary<long, int>();
}

/// <summary>Reads a class’s whole term.</summary>
public sealed class TermSheetQuery(Gate gate)
{
    /// <summary>The term sheet of a calendar, for somebody who is signed in.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="termId">The term; null for the one around today.</param>
    public TermSheetView? Read(Viewer viewer, Slug slug, TermId? termId) =>
        gate.Read<TermSheetView>(Operation.SeeTermSheet, viewer, slug, at =>
        {
            var (stores, calendarContext, now) = (at.Stores, at.Context, at.Now);
            var (school, calendar) = (calendarContext.School, calendarContext.Calendar);
            var term = termId is { } id
                ? school.Time.Find(id)
                : school.Time.TermToShow(now.InZone(school.Time.Zone).Date);
            var facts = CalendarFacts.Read(stores, calendar.Id);
            var plans = facts.PlansFor(school.Time, calendarContext.Level, viewer);
            var sheet = term is null
                ? null
                : TermSheet.Of(
                    term,
                    school.Time,
                    plans,
                    facts.For(school.Time, now, calendarContext.Level, ShowChoices.Working, viewer),
                    now
                );
            bool Sees(Series one, Permission permission) =>
                AccessRules.May(permission, Redaction.LevelOn(one, calendarContext.Level, viewer));
            var keeps = calendarContext.Level >= AccessLevel.Contributor;
            var some =
                keeps && plans.Any(plan => plan.Of.OnlyFor is not null)
                    ? AudienceReader.Choices(stores, [], plans.Select(plan => plan.Of.OnlyFor))
                    : null;
            var series = plans
                .Where(plan => Sees(plan.Of, Permission.SeeOutline))
                .Select(plan => new SheetSeries(
                    plan.Of,
                    SayBack.Sentence(plan, school.Time, calendar.Title),
                    calendarContext.May(Permission.SeeDetails) && plan.Of.JoinLink is not null,
                    calendarContext.May(
                        Permission.ChangeSeries,
                        own: AccessRules.IsMaker(plan.Of.MadeBy, calendar.Id, viewer)
                    ),
                    plan,
                    some?.InWords(plan.Of.OnlyFor) ?? ""
                ))
                .ToList();
            var last = keeps ? stores.History.Last(calendar.Id, 5, hidesFrom: at.HidesPrivateFrom) : [];
            var publications = calendarContext.May(Permission.Publish)
                ? stores.Publications.Of(calendar.Id).CountBy(publication => publication.Kind).ToDictionary()
                : [];
            var takenOff = last is [{ Act: "TakeOffSeries" } line, ..]
                ? stores.Series.Find(new SeriesId(line.SubjectId), alsoTakenOff: true)
                : null;
            List<Unreadable> unreadable = keeps
                ?
                [
                    .. stores.Unreadable.Where(one =>
                        one.Calendar == calendar.Id
                        && !(one.Kind == UnreadableKind.Series && stores.Series.IsTakenOff(new SeriesId(one.Id)))
                    ),
                ]
                : [];
            return new Outcome<TermSheetView>.Done(
                new TermSheetView(
                    school,
                    now,
                    calendar,
                    calendarContext.Level,
                    sheet,
                    series,
                    !calendarContext.May(Permission.SeeDetails)
                        ? []
                        :
                        [
                            .. LinkDoor
                                .UsedOn(stores, [.. facts.Series.Where(one => Sees(one, Permission.SeeDetails))])
                                .Where(link =>
                                    AccessRules.IsFor(link.OnlyFor, calendarContext.Level, viewer, link.Calendar)
                                ),
                        ],
                    last,
                    publications.GetValueOrDefault(Core.Publishing.PublicationKind.Feed),
                    publications.GetValueOrDefault(Core.Publishing.PublicationKind.Embed),
                    takenOff,
                    keeps && viewer.Person is { } person ? UndoEdits.Last(stores, calendar.Id, person) : null
                )
                {
                    Missing = series
                        .Where(one => one.MayChange)
                        .SelectMany(one => Core.Materials.MissingMaterials.Of(one.Plan, facts.MaterialsOf, now))
                        .Select(session => session.Key)
                        .ToHashSet(),
                    Unreadable = unreadable,
                    UnreadableVersions = unreadable
                        .Where(one => one.Kind == UnreadableKind.Series)
                        .DistinctBy(one => one.Id)
                        .ToDictionary(one => one.Id, one => stores.Series.FindBare(new SeriesId(one.Id))?.Version ?? 0),
                }
            );
        }).OrNone;

    // Its title is for those who may know of it.
    internal static Calendar? DepartmentFor(Stores stores, Viewer viewer, Calendar calendar) =>
        calendar.Department is { } id
        && stores.Calendars.Get(id) is { IsInUse: true } department
        && AccessRules.May(Permission.SeeOutline, AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(id)))
            ? department
            : null;
}
