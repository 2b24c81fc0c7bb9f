using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A week over several calendars.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Start">The first day of the week.</param>
/// <param name="Calendars">The calendars to choose from.</param>
/// <param name="Chosen">The slugs of those that are laid over each other.</param>
/// <param name="Sheet">The sheet.</param>
public sealed record WeekView(
    School School,
    Instant Now,
    LocalDate Start,
    IReadOnlyList<Calendar> Calendars,
    IReadOnlyCollection<Slug> Chosen,
    WeekSheet Sheet
)
{
    /// <summary>There are more calendars to choose from than these: they are found by their title.</summary>
    public bool HasMore { get; init; }

    /// <summary>The viewer may add to one of the calendars.</summary>
    public bool MayAdd { get; init; }
}

/// <summary>Reads a week of several calendars.</summary>
public sealed class WeekQuery(AlmanacDatabase database, IClock clock)
{
    /// <summary>A week over several calendars.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="day">A day of the week; null for today.</param>
    /// <param name="chosen">The slugs of the calendars; none for the viewer's own.</param>
    /// <param name="words">Calendars whose title holds this are given to choose from, too; empty for none.</param>
    public WeekView? Read(Viewer viewer, LocalDate? day, IReadOnlyCollection<Slug> chosen, string words = "") =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var now = clock.GetCurrentInstant();
            var own = CalendarAccess.Own(stores, viewer);
            var hasMore = stores.Calendars.ReachesMoreThan(viewer, DayQuery.MostLaid);
            // Where they are few, all can be chosen; else one's own, those that are chosen and those that are looked for.
            var others = !hasMore
                ? stores.Calendars.ReachedBy(viewer, null, "", 0, DayQuery.MostLaid)
                :
                [
                    .. stores.Calendars.InUse([.. chosen.Take(DayQuery.MostLaid)]),
                    .. words.Length > 0 ? stores.Calendars.ReachedBy(viewer, null, words, 0, DayQuery.MostLaid) : [],
                ];
            List<CalendarAccess> all =
            [
                .. own,
                .. CalendarAccess.Of(
                    stores,
                    viewer,
                    [.. others.DistinctBy(one => one.Id).ExceptBy(own.Select(one => one.Calendar.Id), one => one.Id)]
                ),
            ];
            var picked = all.Where(one => chosen.Count > 0 ? chosen.Contains(one.Calendar.Slug) : one.IsOwn)
                .Take(DayQuery.MostLaid)
                .ToList();
            if (chosen.Count == 0 && picked.Count == 0 && !hasMore)
                picked = all;
            var start = school.Time.WeekOf(day ?? now.InZone(school.Time.Zone).Date);
            // Who is on a class list is for those who work with it.
            var grants = stores.Calendars.GrantsOf([
                .. picked.Where(one => one.Level >= AccessLevel.Contributor).Select(one => one.Calendar.Id),
            ]);
            var classLists = stores.Groups.ClassLists([
                .. grants
                    .SelectMany(group => group)
                    .Select(grant => grant.To)
                    .OfType<Grantee.OneGroup>()
                    .Select(to => to.Group)
                    .Distinct(),
            ]);
            var members = stores.Groups.MembersOf(classLists);
            var sessions = picked
                .SelectMany(one =>
                {
                    var show = one.Facts.For(school.Time, now, one.Level, ShowChoices.Working, viewer);
                    PersonId? teacher = one.Calendar.Kind == CalendarKind.Class ? one.Calendar.Owner : null;
                    ImmutableArray<PersonId> students =
                    [
                        .. grants[one.Calendar.Id]
                            .Select(grant => grant.To)
                            .OfType<Grantee.OneGroup>()
                            .Where(to => classLists.Contains(to.Group))
                            .SelectMany(to => members[to.Group])
                            .Distinct(),
                    ];
                    return one
                        .Facts.PlansFor(school.Time, one.Level, viewer)
                        .SelectMany(plan => plan.Sessions)
                        .Where(session =>
                            session.IsVisible && start <= session.LastDay && session.Day < start.PlusWeeks(1)
                        )
                        .Select(show)
                        .OfType<ShownSession>()
                        .Select(shown => new WeekSession(
                            one.Calendar,
                            shown,
                            AccessRules.May(
                                Permission.ChangeSeries,
                                one.Level,
                                own: AccessRules.IsMaker(shown.Session.Of.MadeBy, shown.Session.Of.Calendar, viewer)
                            ),
                            teacher,
                            students
                        ));
                })
                .OrderBy(one => one.Shown.Session.StartsAt)
                .ToList();
            var names = stores.People.NamesOf([.. picked.Select(one => one.Calendar.Owner).Distinct()]);
            return new WeekView(
                school,
                now,
                start,
                [.. all.Select(one => one.Calendar)],
                [.. picked.Select(one => one.Calendar.Slug)],
                WeekSheet.Of(start, school.Time, sessions, names)
            )
            {
                HasMore = hasMore,
                MayAdd = all.Exists(one => AccessRules.May(Permission.AddSeries, one.Level)),
            };
        });
}
