using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A calendar in the list of calendars.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The viewer's level.</param>
/// <param name="IsOwn">It is the viewer's own.</param>
/// <param name="Patterns">When its series meet, in words; empty where the viewer may not see it.</param>
/// <param name="Next">Its next session.</param>
/// <param name="HeldInTerm">How many sessions the term has.</param>
public sealed record CalendarLine(
    Calendar Calendar,
    AccessLevel Level,
    bool IsOwn,
    IReadOnlyList<string> Patterns,
    ShownSession? Next,
    int HeldInTerm
);

/// <summary>A department in the list of calendars, with how many calendars of it the viewer may see.</summary>
/// <param name="Department">The department; null for calendars without one.</param>
/// <param name="Count">How many, itself among them.</param>
public sealed record CalendarFold(Calendar? Department, int Count);

/// <summary>
/// The list of calendars: all of them where they are few; else the viewer's own, and the others by department or by search, a page at a
/// time.
/// </summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Total">How many calendars the viewer may see.</param>
/// <param name="Lines">Those that are shown.</param>
/// <param name="MayMake">The viewer may make calendars.</param>
public sealed record CalendarList(
    School School,
    Instant Now,
    int Total,
    IReadOnlyList<CalendarLine> Lines,
    bool MayMake
)
{
    /// <summary>Up to so many calendars are shown at once, and on a page.</summary>
    public const int Page = 40;

    /// <summary>Not all are shown: the others are found by department or by search.</summary>
    public bool IsFolded { get; init; }

    /// <summary>The departments to choose from, where the list is folded.</summary>
    public IReadOnlyList<CalendarFold> Folds { get; init; } = [];

    /// <summary>The department that is opened; null for none.</summary>
    public CalendarFold? Opened { get; init; }

    /// <summary>How many departments are shown to choose from.</summary>
    public const int MostFolds = 60;

    /// <summary>There are more lines after these.</summary>
    public bool HasMore { get; init; }

    /// <summary>Those that are put away, for those who were in them: what was done in them stays readable.</summary>
    public IReadOnlyList<Calendar> Past { get; init; } = [];

    /// <summary>Those that are put away, or deleted and can be brought back, for their managers.</summary>
    public IReadOnlyList<Calendar> NotInUse { get; init; } = [];
}

/// <summary>Reads the calendars that somebody may see.</summary>
public sealed class CalendarListQuery(AlmanacDatabase database, IClock clock)
{
    /// <summary>How all calendars stand for strangers: another text after any write, and each minute.</summary>
    public string StateVersion() => $"{database.Epoch()} {clock.GetCurrentInstant().ToUnixTimeSeconds() / 60}";

    /// <summary>The departments that the viewer may know of, by title.</summary>
    public IReadOnlyList<Calendar> Departments(Viewer viewer) =>
        database.Read(stores => stores.Calendars.DepartmentsReachedBy(viewer, 500));

    /// <summary>A calendar by its slug, with the viewer's level on it; null where they may not know of it.</summary>
    public (Calendar Calendar, AccessLevel Level)? Find(Viewer viewer, Slug slug) =>
        database.Read<(Calendar, AccessLevel)?>(stores =>
            CalendarContext.Find(stores, viewer, slug) is { } calendarContext
                ? (calendarContext.Calendar, calendarContext.Level)
                : null
        );

    /// <summary>The calendars that the viewer may know of.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="department">The slug of a department to open, "none" for calendars without one; null for none.</param>
    /// <param name="words">Only those whose title holds this; empty for no search.</param>
    /// <param name="page">The page of what is opened or searched, from 1 up.</param>
    public CalendarList? Read(Viewer viewer, string? department = null, string words = "", int page = 1) =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var now = clock.GetCurrentInstant();
            var term = school.Time.TermToShow(now.InZone(school.Time.Zone).Date);
            var counts = stores.Calendars.CountReached(viewer);
            var total = counts.Values.Sum();
            var isFolded = total > CalendarList.Page;
            var opened =
                department is null ? null
                : department == "none" ? new CalendarFold(null, counts.GetValueOrDefault(default))
                : Slug.TryParse(department, null, out var slug)
                && stores.Calendars.Find(slug) is { Kind: CalendarKind.Department, IsInUse: true } found
                && counts.TryGetValue(found.Id, out var count)
                    ? new CalendarFold(found, count)
                : null;
            var (from, hasMore) = (Math.Clamp(page, 1, 10_000) - 1, false);
            List<CalendarAccess> shown;
            if (!isFolded)
                shown = CalendarAccess.Of(
                    stores,
                    viewer,
                    stores.Calendars.ReachedBy(viewer, null, "", 0, CalendarList.Page)
                );
            else if (opened is null && words.Length == 0)
                shown = CalendarAccess.Own(stores, viewer);
            else
            {
                var calendars = stores.Calendars.ReachedBy(
                    viewer,
                    opened is null ? null : opened.Department?.Id ?? default(CalendarId),
                    words,
                    from * CalendarList.Page,
                    CalendarList.Page + 1
                );
                hasMore = calendars.Count > CalendarList.Page;
                shown = CalendarAccess.Of(stores, viewer, [.. calendars.Take(CalendarList.Page)]);
            }

            var lines = shown.Select(one =>
            {
                var plans = one.Facts.PlansFor(school.Time, one.Level, viewer);
                var next = plans
                    .SelectMany(plan => plan.Held)
                    .Where(session => session.EndsAt > now)
                    .MinBy(session => session.StartsAt);
                return new CalendarLine(
                    one.Calendar,
                    one.Level,
                    one.IsOwn,
                    AccessRules.May(Permission.SeeOutline, one.Level)
                        ? [.. plans.Select(plan => SayBack.When(plan.Of.Pattern, school.Time))]
                        : [],
                    next is null
                        ? null
                        : one.Facts.For(school.Time, now, one.Level, ShowChoices.SignedIn, viewer)(next),
                    plans.SelectMany(plan => plan.Held).Count(session => term?.Holds(session.Day) ?? false)
                );
            });
            var away = stores.Calendars.NotInUse(viewer);
            var grants = stores.Calendars.GrantsOf([.. away.Select(calendar => calendar.Id)]);
            return new CalendarList(
                school,
                now,
                total,
                [.. lines],
                AccessRules.MayAtSchool(Permission.MakeCalendar, viewer.Role)
            )
            {
                IsFolded = isFolded,
                Opened = opened,
                HasMore = hasMore,
                Folds = isFolded
                    ?
                    [
                        .. stores
                            .Calendars.DepartmentsReachedBy(viewer, CalendarList.MostFolds)
                            .Select(calendar => new CalendarFold(calendar, counts.GetValueOrDefault(calendar.Id))),
                        .. counts.TryGetValue(default, out var none)
                            ? [new CalendarFold(null, none)]
                            : Array.Empty<CalendarFold>(),
                    ]
                    : [],
                Past =
                [
                    .. away.Where(calendar =>
                        calendar.DeletedAt is null
                        && CalendarContext.HadPart(viewer, [.. grants[calendar.Id]])
                        && AccessRules.LevelOf(viewer, grants[calendar.Id]) > AccessLevel.Busy
                    ),
                ],
                NotInUse =
                [
                    .. away.Where(calendar =>
                        !(calendar.DeletedAt + Calendar.Recall <= now)
                        && AccessRules.May(Permission.ChangeCalendar, AccessRules.LevelOf(viewer, grants[calendar.Id]))
                    ),
                ],
            };
        });
}
