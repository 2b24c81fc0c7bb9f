using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Queries;

/// <summary>What a stranger sees at the first address: what is open to anyone, and nothing else.</summary>
/// <param name="List">The calendars.</param>
/// <param name="Notices">The notices that are up for anyone on the calendars of the whole school.</param>
/// <param name="Teachers">Who teaches the classes of the list whose pages say so to anyone.</param>
public sealed record FrontPage(
    CalendarList List,
    IReadOnlyList<ShownNotice> Notices,
    IReadOnlyDictionary<CalendarId, string> Teachers
);

/// <summary>Reads the front page, always as a visitor does.</summary>
public sealed class FrontPageQuery(CalendarListQuery calendarListQuery, AlmanacDatabase database)
{
    /// <summary>The most addresses of a sitemap (sitemaps.org protocol 0.9).</summary>
    public const int MostListed = 50_000;

    private const int MostSchoolCalendars = 5;

    /// <summary>The front page; null where the school has none.</summary>
    /// <param name="within">The slug of a department, "none" for calendars without one; null for all.</param>
    /// <param name="words">A word of a title, or of a teacher's name; empty for all.</param>
    /// <param name="page">Which page of the list, from 1.</param>
    public FrontPage? Read(string? within, string words, int page)
    {
        if (
            database.Read(stores => stores.School.Find()) is not { HasFrontPage: true }
            || calendarListQuery.Read(Viewer.Visitor, within, words, page) is not { } list
        )
            return null;
        return database.Read(stores =>
        {
            var owners = list
                .Lines.Where(line => AccessRules.May(Permission.SeeDetails, line.Level))
                .ToDictionary(line => line.Calendar.Id, line => line.Calendar.Owner);
            var present = stores
                .People.Of([.. owners.Values.Distinct()])
                .Where(person => person.EndedAt is null)
                .ToDictionary(person => person.Id, person => person.Name);
            return new FrontPage(
                list,
                [
                    .. stores
                        .Calendars.OfSchool(MostSchoolCalendars)
                        .Select(calendar => (calendar.Id, Level: LevelOn(stores, calendar)))
                        .Where(one => one.Level > AccessLevel.None)
                        .SelectMany(one =>
                            CalendarFacts
                                .Read(stores, one.Id)
                                .NoticesFor(list.School.Time, one.Level, ShowChoices.Anyone, null, list.Now)
                        ),
                ],
                owners
                    .Where(pair => present.ContainsKey(pair.Value))
                    .ToDictionary(pair => pair.Key, pair => present[pair.Value])
            );
        });
    }

    /// <summary>The calendars whose pages search engines may list, by title; null where they may list none.</summary>
    public IReadOnlyList<Slug>? Listed() =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { IsListed: true })
                return null;
            var open = stores.Calendars.ReachedBy(Viewer.Visitor, null, "", 0, MostListed);
            var grants = stores.Calendars.GrantsOf([.. open.Select(calendar => calendar.Id)]);
            return (IReadOnlyList<Slug>?)
                [
                    .. open.Where(calendar =>
                            AccessRules.May(
                                Permission.SeeOutline,
                                AccessRules.LevelOf(Viewer.Visitor, grants[calendar.Id])
                            )
                        )
                        .Select(calendar => calendar.Slug),
                ];
        });

    private static AccessLevel LevelOn(Stores stores, Calendar calendar) =>
        AccessRules.LevelOf(Viewer.Visitor, stores.Calendars.GrantsOf(calendar.Id));
}
