using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Queries;

/// <summary>A material that was found.</summary>
/// <param name="Calendar">The calendar it is on.</param>
/// <param name="Material">The material.</param>
/// <param name="For">The one session it is for; null for several.</param>
public sealed record FoundMaterial(Calendar Calendar, Material Material, ShownSession? For);

/// <summary>What was found of all that somebody may see.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Typed">What was looked for.</param>
/// <param name="Calendars">Calendars by their title.</param>
/// <param name="Sessions">Sessions: of a series by its words, by number, by day.</param>
/// <param name="Materials">Materials, the best first.</param>
/// <param name="People">People, for those who work at the school.</param>
public sealed record SearchFound(
    School School,
    Instant Now,
    string Typed,
    ImmutableArray<Calendar> Calendars,
    ImmutableArray<OnCalendar> Sessions,
    ImmutableArray<FoundMaterial> Materials,
    ImmutableArray<Person> People
)
{
    /// <summary>Nothing was found.</summary>
    public bool IsEmpty => Calendars.IsEmpty && Sessions.IsEmpty && Materials.IsEmpty && People.IsEmpty;
}

/// <summary>Reads what is found by words.</summary>
public sealed class SearchQuery(AlmanacDatabase database, IClock clock)
{
    // What fits on a page; and how much is looked at for it, as not all that has the words is the reader's to see.
    private const int MostFound = 12,
        MostLookedAt = 120;

    /// <summary>What somebody looks for, among all that they may see.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="typed">Words, a number, a day.</param>
    public SearchFound? Read(Viewer viewer, string? typed) =>
        database.Read(stores =>
        {
            if (viewer.Person is null || stores.School.Find() is not { } school)
                return null;
            var (now, looked, time) = (clock.GetCurrentInstant(), SearchText.Read(typed), school.Time);
            var words = (typed ?? "").Trim();
            if (looked.IsEmpty)
                return new SearchFound(school, now, words, [], [], [], []);
            var reached = stores.Calendars.IdsReachedBy(viewer);
            var mine = new Dictionary<CalendarId, CalendarAccess?>();
            CalendarAccess? At(CalendarId id) =>
                mine.TryGetValue(id, out var known)
                    ? known
                    : mine[id] = CalendarAccess.Of(stores, viewer, stores.Calendars.InUse([id])).SingleOrDefault();
            var sessions = new List<OnCalendar>();
            // By number or day alone: of one's own classes; else every session of the school has that number.
            var series = looked.Words.IsEmpty
                ? CalendarAccess
                    .Own(stores, viewer)
                    .SelectMany(own => own.Facts.Series.Select(one => (one.Id, own.Calendar.Id)))
                : stores.Search.Series(looked.Words, reached, MostLookedAt);
            foreach (var (id, calendar) in series)
            {
                if (sessions.Count >= MostFound)
                    break;
                if (
                    At(calendar) is not { } at
                    || at.Facts.Plans(time).FirstOrDefault(one => one.Of.Id == id) is not { } plan
                    || !AccessRules.May(Permission.SeeOutline, Redaction.LevelOn(plan.Of, at.Level, viewer))
                )
                    continue;
                var show = at.Facts.For(time, now, at.Level, ShowChoices.SignedIn, viewer);
                // The one that has the words itself, before the next of the series that has them.
                if (Best(plan, looked, show, now) is { } best)
                    sessions.Add(new OnCalendar(at.Calendar, best));
            }

            var materials = new List<FoundMaterial>();
            foreach (var (id, calendar) in stores.Search.Materials(looked.Words, reached, MostLookedAt))
            {
                if (materials.Count >= MostFound)
                    break;
                if (
                    At(calendar) is not { } at
                    || at.Facts.Materials.FirstOrDefault(one => one.Id == id) is not { } material
                )
                    continue;
                var session = at.Facts.SessionOf(time, material);
                if (
                    (material.ForSession is not null && session is not { IsVisible: true })
                    || (looked.Day is not null && (session is null || !looked.IsOn(session.Day)))
                )
                    continue;
                if (at.Facts.Show(time, now, material, at.Level, ShowChoices.SignedIn, viewer) is { } shown)
                    materials.Add(
                        new FoundMaterial(
                            at.Calendar,
                            shown,
                            session is null
                                ? null
                                : at.Facts.For(time, now, at.Level, ShowChoices.SignedIn, viewer)(session)
                        )
                    );
            }

            return new SearchFound(
                school,
                now,
                words,
                looked.Words.IsEmpty
                    ? []
                    :
                    [
                        .. CalendarAccess
                            .Of(stores, viewer, stores.Calendars.ReachedBy(viewer, null, words, 0, MostFound))
                            .Select(one => one.Calendar),
                    ],
                [.. sessions.OrderBy(one => one.Shown.Session.EndsAt <= now).ThenBy(one => one.Shown.Session.StartsAt)],
                [.. materials],
                AccessRules.MayAtSchool(Permission.FindPeople, viewer.Role) && viewer.LookedAtBy is null
                    ? [.. stores.People.Find(words, MostFound)]
                    : []
            );
        });

    private static ShownSession? Best(Plan plan, SearchText looked, Func<Session, ShownSession?> show, Instant now)
    {
        var told = plan.Sessions.Where(session => session.IsVisible);
        // What stands where the reader may not look is not found by them either.
        bool Has(ShownSession shown) =>
            looked.Words.IsEmpty
            || looked.IsIn($"{shown.Title} {plan.Of.Title} {shown.Description} {shown.Place} {shown.Note}");
        if (looked.Number is not null || looked.Day is not null)
            return told.Where(session =>
                    (looked.Number is not { } number || session.Number == number) && looked.IsOn(session.Day)
                )
                .Select(show)
                .OfType<ShownSession>()
                .FirstOrDefault(Has);
        if (!looked.IsIn($"{plan.Of.Title} {plan.Of.Description} {plan.Of.Place}"))
            return told.Where(session => session.Change is not null)
                .Select(show)
                .OfType<ShownSession>()
                .FirstOrDefault(shown => looked.IsIn($"{shown.Title} {shown.Note} {shown.Place}"));
        return
            (plan.Held.FirstOrDefault(session => session.EndsAt > now) ?? plan.Held.LastOrDefault()) is { } next
            && show(next) is { } coming
            && Has(coming)
            ? coming
            : null;
    }
}
