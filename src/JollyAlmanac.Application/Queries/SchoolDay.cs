using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>What a coordinator looks after on a day, over the whole school.</summary>
/// <param name="Unusual">What does not take place, or not as usual, on the day and the next, by its start.</param>
/// <param name="Asking">The calendars on which somebody waits for access, with how many.</param>
/// <param name="Troubled">E-mail that did not go, the newest first.</param>
/// <param name="ToAdd">How many people the keepers of calendars ask to have added.</param>
/// <param name="Clashes">What will go wrong at links that several series share, of those the coordinator keeps.</param>
/// <param name="Published">How much is published: notices that are up, feeds that nobody asks for.</param>
/// <param name="Away">Who is away on the day or the next, the earliest first, with how many sessions of theirs are then.</param>
/// <param name="BackupAt">When the last backup was made; null where none is known of.</param>
public sealed record SchoolDay(
    IReadOnlyList<OnCalendar> Unusual,
    IReadOnlyList<(Calendar Calendar, int Count)> Asking,
    IReadOnlyList<QueuedLetter> Troubled,
    int ToAdd,
    IReadOnlyList<NotedFinding> Clashes,
    PublishedCounts Published,
    IReadOnlyList<(Person Person, Absence Absence, int Sessions)> Away,
    Instant? BackupAt
);

/// <summary>Reads the school’s day, for its coordinators.</summary>
public sealed class SchoolDayQuery(AlmanacDatabase database, IClock clock, Switchboard switchboard, FileVault vault)
{
    /// <summary>The most calendars that are looked through for what is not as usual.</summary>
    private const int MostUnusual = 40;

    /// <summary>The school's day; null for anybody but a coordinator. Only what the coordinator may see of each calendar.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="day">The day.</param>
    public SchoolDay? Read(Viewer viewer, LocalDate day) =>
        database.Read(stores =>
        {
            if (
                viewer is not { Role: SchoolRole.Coordinator, Person: not null, LookedAtBy: null }
                || stores.School.Find() is not { } school
            )
                return null;
            var now = clock.GetCurrentInstant();
            var (first, last) = (day, day.PlusDays(1));
            bool IsThen(LocalDate date) => first <= date && date <= last;
            var unusual = CalendarAccess
                .Of(stores, viewer, stores.Calendars.InUse(stores.Series.ChangedOn(first, last, MostUnusual)))
                .SelectMany(one =>
                    one.Facts.PlansFor(school.Time, one.Level, viewer)
                        .SelectMany(plan => plan.Sessions)
                        .Where(session =>
                            session.IsVisible
                            && session.Change is not null
                            && (IsThen(session.Day) || IsThen(session.PlannedAtSchool))
                        )
                        .Select(one.Facts.For(school.Time, now, one.Level, ShowChoices.Working, viewer))
                        .OfType<ShownSession>()
                        .Where(shown => !shown.IsBusyOnly)
                        .Select(shown => new OnCalendar(one.Calendar, shown))
                )
                .OrderBy(one => one.Shown.Session.StartsAt)
                .ToList();
            var asked = stores
                .Requests.Waiting(MostUnusual)
                .GroupBy(request => request.Calendar)
                .ToDictionary(group => group.Key, group => group.Count());
            var asking = CalendarAccess
                .Of(stores, viewer, stores.Calendars.InUse([.. asked.Keys]))
                .Where(one => AccessRules.May(Permission.Publish, one.Level))
                .Select(one => (one.Calendar, asked[one.Calendar.Id]))
                .ToList();
            var shared = stores
                .JoinLinks.Shared(MostUnusual)
                .Select(id => LinkDoor.Read(stores, school, id))
                .Where(door => door.MayKeep(viewer));
            var absences = stores.Absences.On(first, last, MostUnusual);
            var people = stores
                .People.Of([.. absences.Select(one => one.Person).Distinct()])
                .ToDictionary(one => one.Id);
            var away = absences
                .Where(one => people.ContainsKey(one.Person))
                .Select(one =>
                    (
                        people[one.Person],
                        one,
                        CalendarAccess
                            .Of(
                                stores,
                                viewer,
                                [.. stores.Calendars.OwnedBy(one.Person).Where(calendar => calendar.IsInUse)]
                            )
                            .Sum(theirs =>
                                theirs
                                    .Facts.PlansFor(school.Time, theirs.Level, viewer)
                                    .SelectMany(plan => plan.Sessions)
                                    .Count(session =>
                                        session is { IsVisible: true, IsCancelled: false }
                                        && IsThen(session.Day)
                                        && one.First <= session.Day
                                        && session.Day <= one.Last
                                    )
                            )
                    )
                )
                .ToList();
            return new SchoolDay(
                unusual,
                asking,
                stores.Letters.Troubled(MostUnusual),
                stores.Requests.OfPeople.Count(),
                [
                    .. switchboard
                        .Notice(stores, shared, now)
                        .Where(noted => noted.Finding.Severity == Core.Findings.Severity.MustFix),
                ],
                stores.Publications.Counts(
                    now - Duration.FromDays(SchoolPublishing.IdleDays),
                    now.InZone(school.Time.Zone).Date
                ),
                away,
                DataDirectory.LastBackupOf(vault.DataDirectory)
            );
        });
}
