using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>Reads what every page needs of the school: its time, how times are written, the ribbon of its term.</summary>
public sealed class SchoolQuery(AlmanacDatabase database, IClock clock) : IDisposable
{
    /// <inheritdoc />
    public void Dispose() => cultures.Dispose();

    /// <summary>The school, or null before the first run.</summary>
    public School? Find() => database.Read(stores => stores.School.Find());

    /// <summary>
    /// The culture by which the school writes times and dates: by 12 or by 24 hours, the day or the month first. Read anew only when
    /// something was written.
    /// </summary>
    public CultureInfo Culture() =>
        cultures.Get(0, Instant.MinValue, _ => (database.Read(stores => Culture(stores, null)), Instant.MaxValue, 1))!;

    /// <summary>The culture by which somebody reads: what they chose, and else the school's.</summary>
    public CultureInfo Culture(PersonId person) => database.Read(stores => Culture(stores, person));

    internal static CultureInfo Culture(Stores stores, PersonId? person)
    {
        var school = stores.School.Find();
        var (twelve, month) = person is { } one ? stores.People.WritingOf(one) : default;
        return Wording.Culture(twelve ?? school is { TwelveHours: true }, month ?? school is { Time.MonthFirst: true });
    }

    private readonly EpochCache<int, CultureInfo> cultures = new(database.Epoch, capacity: 1);

    /// <summary>Somebody by their address, for the terminal of whoever has all the data anyway; null for nobody.</summary>
    public Viewer? FindPerson(EmailAddress email) =>
        database.Read(stores =>
            stores.People.FindByEmail(email) is { } found ? stores.People.ViewerOf(found.Person.Id) : null
        );

    /// <summary>The ribbon of the term around today, over the viewer's own calendars or over one calendar; null without a term.</summary>
    public TermRibbon? Ribbon(Viewer viewer, Slug? slug) =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var today = clock.GetCurrentInstant().InZone(school.Time.Zone).Date;
            if (school.Time.TermToShow(today) is not { } term)
                return null;
            var plans =
                slug is { } one && CalendarContext.Find(stores, viewer, one) is { } calendarContext
                    ? CalendarFacts
                        .Read(stores, calendarContext.Calendar.Id)
                        .PlansFor(school.Time, calendarContext.Level, viewer)
                    : CalendarAccess
                        .Own(stores, viewer)
                        .SelectMany(own => own.Facts.PlansFor(school.Time, own.Level, viewer));
            return TermRibbon.Of(term, school.Time, plans, today);
        });
}
