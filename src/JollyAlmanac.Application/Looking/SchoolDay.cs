using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Keeping;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Application.Looking;

/// <summary>What a coordinator looks after on a day, over the whole school.</summary>
/// <param name="Unusual">What does not take place, or not as usual, on the day and the next, by its start.</param>
/// <param name="Asking">The calendars on which somebody waits for access, with how many.</param>
/// <param name="Troubled">E-mail that did not go, the newest first.</param>
public sealed record SchoolDay(IReadOnlyList<OnCalendar> Unusual, IReadOnlyList<(Calendar Calendar, int Count)> Asking,
    IReadOnlyList<QueuedLetter> Troubled);

public sealed partial class Look
{
    /// <summary>The most calendars that are looked through for what is not as usual.</summary>
    private const int MostUnusual = 40;

    /// <summary>The school's day; null for anybody but a coordinator. Only what the coordinator may see of each calendar.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="day">The day.</param>
    public SchoolDay? AtSchoolDay(Viewer viewer, LocalDate day) => database.Read(stores =>
    {
        if (viewer is not { Role: SchoolRole.Coordinator, Person: not null, LookedAtBy: null } || stores.School.Find() is not { } school)
            return null;
        var now = clock.GetCurrentInstant();
        var (first, last) = (day, day.PlusDays(1));
        bool IsThen(LocalDate date) => first <= date && date <= last;
        var unusual = Stand(stores, viewer, stores.Calendars.InUse(stores.Series.ChangedOn(first, last, MostUnusual)))
            .SelectMany(one => one.Facts.PlansFor(school.Time, one.Level, viewer).SelectMany(plan => plan.Sessions)
                .Where(session => session.IsTold && session.Change is not null
                    && (IsThen(session.Day) || IsThen(session.PlannedAtSchool)))
                .Select(one.Facts.For(school.Time, now, one.Level, ShowChoices.Working, viewer)).OfType<ShownSession>()
                .Where(shown => !shown.IsBusyOnly).Select(shown => new OnCalendar(one.Calendar, shown)))
            .OrderBy(one => one.Shown.Session.StartsAt).ToList();
        var asked = stores.Requests.Waiting(MostUnusual).GroupBy(request => request.Calendar).ToDictionary(group => group.Key,
            group => group.Count());
        var asking = Stand(stores, viewer, stores.Calendars.InUse([.. asked.Keys]))
            .Where(one => AccessRules.May(Deed.Publish, one.Level)).Select(one => (one.Calendar, asked[one.Calendar.Id])).ToList();
        return new SchoolDay(unusual, asking, stores.Letters.Troubled(MostUnusual));
    });
}
