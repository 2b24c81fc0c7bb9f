using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>
/// What stands on a calendar: its series and materials, and the short addresses of links, read at once. Kept while it stands the same.
/// </summary>
internal sealed class CalendarFacts(IReadOnlyList<Series> series, IReadOnlyDictionary<JoinLinkId, JoinWay> ways,
    IReadOnlyList<Material> materials, IReadOnlyList<Notice> notices)
{
    // About what a series of a school year has.
    private const int SessionsOfSeries = 150;

    private Planned? planned;

    /// <summary>Its series that are not taken off.</summary>
    public IReadOnlyList<Series> Series => series;

    /// <summary>Its materials.</summary>
    public IReadOnlyList<Material> Materials => materials;

    /// <summary>Its notices that were not taken down, the newest first: those that are up, were, and will be.</summary>
    public IReadOnlyList<Notice> Notices => notices;

    /// <summary>The notices that are up, for a reader of that level, as they may see them.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    /// <param name="now">When.</param>
    public IEnumerable<ShownNotice> NoticesFor(SchoolTime school, AccessLevel level, ShowChoices choices, Viewer? reader, Instant now)
    {
        foreach (var notice in notices)
        {
            var about = notice.About is { } key
                ? Plans(school).FirstOrDefault(plan => plan.Of.Id == key.Series)?.Find(key) : null;
            if (notice.IsUp(now, school.Zone, about) && ShownNotice.Of(notice, about, level, choices, materials,
                about is null ? null : WayInto(about), reader) is { } shown) yield return shown;
        }
    }

    /// <summary>What stands on a calendar now.</summary>
    public static CalendarFacts Read(Stores stores, CalendarId calendar) => stores.Keep(
        calendar, stores.Calendars.StandingOf(calendar),
        () => new CalendarFacts(stores.Series.Of(calendar), stores.JoinLinks.WaysOn(calendar), stores.Materials.Of(calendar),
            stores.Notices.Of(calendar)),
        facts => facts.Series.Count * SessionsOfSeries + facts.Materials.Count + facts.Notices.Count);

    /// <summary>
    /// The plans of its series by the school's time, for who works on it. Planned once for as long as both stay what they are.
    /// </summary>
    public IReadOnlyList<Plan> Plans(SchoolTime school)
    {
        if (planned is { } known && ReferenceEquals(known.School, school)) return known.Plans;
        // Two at once plan the same; the later one is kept.
        return (planned = new Planned(school, [.. series.Select(one => Planner.PlanOf(one, school))])).Plans;
    }

    /// <summary>Those of the plans that are there at all for a reader of that level.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="level">Their level on the calendar.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public IReadOnlyList<Plan> PlansFor(SchoolTime school, AccessLevel level, Viewer? reader) => series.All(one => one.OnlyFor is null)
        ? Plans(school) : [.. Plans(school).Where(plan => Redaction.LevelOn(plan.Of, level, reader) > AccessLevel.None)];

    /// <summary>The way into a session; null where it has none.</summary>
    public JoinWay? WayInto(Session session) => session.JoinLink is { } link && ways.TryGetValue(link, out var way) ? way : null;

    /// <summary>The redaction for a reader of that level.</summary>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public Func<Session, ShownSession?> For(AccessLevel level, ShowChoices choices, Viewer? reader) =>
        session => Redaction.Show(session, level, choices, materials, WayInto(session), reader);

    private sealed record Planned(SchoolTime School, IReadOnlyList<Plan> Plans);
}
