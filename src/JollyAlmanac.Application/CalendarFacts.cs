using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>
/// What stands on a calendar: its series and materials, and the short addresses of links, read at once. Kept while it stands the same.
/// </summary>
internal sealed class CalendarFacts(
    IReadOnlyList<ReadSeries> read,
    IReadOnlyDictionary<JoinLinkId, JoinWay> ways,
    MaterialsOf materials,
    IReadOnlyList<Notice> notices,
    CalendarFacts? before
)
{
    // About what a series of a school year has.
    private const int SessionsOfSeries = 150;

    private readonly IReadOnlyList<Series> series = [.. read.Select(one => one.Series)];

    // What was planned before: what is still the same series is not planned again.
    private Planned? planned = before?.planned;

    /// <summary>Its series that are not taken off.</summary>
    public IReadOnlyList<Series> Series => series;

    /// <summary>The join links that its series have, the one that most have first.</summary>
    public IEnumerable<JoinLinkId> LinksByUse =>
        series
            .Select(one => one.JoinLink)
            .OfType<JoinLinkId>()
            .CountBy(link => link)
            .OrderByDescending(one => one.Value)
            .Select(one => one.Key);

    private IReadOnlyList<ReadSeries> Known => read;

    /// <summary>Its materials.</summary>
    public IReadOnlyList<Material> Materials => materials.All;

    /// <summary>The same, laid out by what they are for.</summary>
    public MaterialsOf MaterialsOf => materials;

    /// <summary>Its materials as of now.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="now">When.</param>
    public MaterialsAt MaterialsAt(SchoolTime school, Instant now) => new(materials, now, school.Zone);

    /// <summary>Whether there are materials for that session alone, whoever they are for.</summary>
    public bool HasOwnMaterials(Session session) => materials.HasOwn(session);

    /// <summary>The one session that a material is for; null where it is for several, or gone.</summary>
    public Session? SessionOf(SchoolTime school, Material material) =>
        material.ForSession is { } original
            ? Plans(school).FirstOrDefault(plan => plan.Of.Id == material.Series)?.Find(original)
            : null;

    /// <summary>
    /// When next a material is given, or given no more: until then a place that showed them shows the same. The end of time for never.
    /// </summary>
    public Instant NextRelease(SchoolTime school, Instant now)
    {
        var next = Instant.MaxValue;
        foreach (var material in materials.All)
        {
            if (material is { Release: Release.AtOnce, LastDay: null })
                continue;
            foreach (
                var moment in new[]
                {
                    material.Release.Moment(SessionOf(school, material), school.Zone),
                    material.Ends(school.Zone),
                }
            )
                if (moment > now && moment < next)
                    next = moment.Value;
        }

        return next;
    }

    /// <summary>Its notices that were not taken down, the newest first: those that are up, were, and will be.</summary>
    public IReadOnlyList<Notice> Notices => notices;

    /// <summary>The notices that are up, for a reader of that level, as they may see them.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    /// <param name="now">When.</param>
    public IEnumerable<ShownNotice> NoticesFor(
        SchoolTime school,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader,
        Instant now
    )
    {
        foreach (var notice in notices)
        {
            var about = notice.About is { } key
                ? Plans(school).FirstOrDefault(plan => plan.Of.Id == key.Series)?.Find(key)
                : null;
            if (
                notice.IsUp(now, school.Zone, about)
                && ShownNotice.Of(
                    notice,
                    about,
                    level,
                    choices,
                    MaterialsAt(school, now),
                    material => SessionOf(school, material),
                    about is null ? null : WayInto(about),
                    reader,
                    notice.Link is { } link && ways.TryGetValue(link, out var own) ? own : null
                )
                    is { } shown
            )
                yield return shown;
        }
    }

    /// <summary>What stands on a calendar now.</summary>
    public static CalendarFacts Read(Stores stores, CalendarId calendar) =>
        stores.Cached.GetOrCreate(
            calendar,
            stores.Calendars.StateVersionOf(calendar),
            (CalendarFacts? before) =>
                new CalendarFacts(
                    stores.Series.Of(calendar, before?.Known ?? []),
                    stores.JoinLinks.WaysOn(calendar),
                    new MaterialsOf(stores.Materials.Of(calendar)),
                    stores.Notices.Of(calendar),
                    before
                ),
            facts => facts.Series.Count * SessionsOfSeries + facts.Materials.Count + facts.Notices.Count
        );

    /// <summary>
    /// The plans of its series by the school's time, for who works on it. Planned once for as long as both stay what they are.
    /// </summary>
    public IReadOnlyList<Plan> Plans(SchoolTime school)
    {
        var known = planned is { } one && ReferenceEquals(one.School, school) ? one : null;
        if (ReferenceEquals(known?.Of, series))
            return known.Plans;
        var plans = known?.Plans.ToDictionary<Plan, Series>(plan => plan.Of, ReferenceEqualityComparer.Instance);
        // Two at once plan the same; the later one is kept.
        return (
            planned = new Planned(
                series,
                school,
                Chained([.. series.Select(of => plans?.GetValueOrDefault(of) ?? Planner.PlanOf(of, school))])
            )
        ).Plans;
    }

    // A series that carries on another counts on from it, however many of its sessions are held by now.
    private static Plan[] Chained(Plan[] plans)
    {
        if (!plans.Any(plan => plan.Of.Follows is not null))
            return plans;
        var places = plans.Select((plan, place) => (plan.Of.Id, place)).ToDictionary(one => one.Id, one => one.place);
        var done = new HashSet<SeriesId>();
        foreach (var plan in plans)
            Number(plan.Of.Id);
        return plans;

        void Number(SeriesId id)
        {
            if (
                !done.Add(id)
                || plans[places[id]].Of.Follows is not { } follows
                || !places.TryGetValue(follows, out var before)
            )
                return;
            Number(follows);
            plans[places[id]] = plans[places[id]].NumberedFrom(plans[before].NextNumber);
        }
    }

    /// <summary>Those of the plans that are there at all for a reader of that level.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="level">Their level on the calendar.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public IReadOnlyList<Plan> PlansFor(SchoolTime school, AccessLevel level, Viewer? reader) =>
        series.All(one => one.OnlyFor is null)
            ? Plans(school)
            : [.. Plans(school).Where(plan => Redaction.LevelOn(plan.Of, level, reader) > AccessLevel.None)];

    /// <summary>The way into a session; null where it has none.</summary>
    public JoinWay? WayInto(Session session) =>
        session.JoinLink is { } link && ways.TryGetValue(link, out var way) ? way : null;

    /// <summary>One material as a reader has it who may see what it is on; null where they may not.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="now">When.</param>
    /// <param name="material">One of its materials.</param>
    /// <param name="level">The reader's level on the calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public Material? Show(
        SchoolTime school,
        Instant now,
        Material material,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader
    )
    {
        var of = series.FirstOrDefault(one => one.Id == material.Series);
        // What is on a series that cannot be read is nobody's to see.
        if (of is null && material.Series is not null)
            return null;
        if (of is not null)
            level = Redaction.LevelOn(of, level, reader);
        return AccessRules.May(Permission.SeeDetails, level)
            ? Redaction.Show(
                material,
                material.IsReleased(SessionOf(school, material), now, school.Zone),
                of,
                level,
                choices,
                reader
            )
            : null;
    }

    /// <summary>The materials for every session as a reader may have them: the class's, then those of each series that they see.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="now">When.</param>
    /// <param name="level">The reader's level on the calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public IEnumerable<Material> ForEverySession(
        SchoolTime school,
        Instant now,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader
    ) =>
        materials
            .At(null, null)
            .Concat(PlansFor(school, level, reader).SelectMany(plan => materials.At(plan.Of.Id, null)))
            .Select(one => Show(school, now, one, level, choices, reader))
            .OfType<Material>();

    /// <summary>What is to be done, as a reader may have it, in the order in which it is due.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="now">When.</param>
    /// <param name="since">What was due before then is left away.</param>
    /// <param name="level">The reader's level on the calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public IReadOnlyList<ToBeDone> ToBeDone(
        SchoolTime school,
        Instant now,
        Instant since,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader
    ) =>
        [
            .. Materials
                .Where(material => material.Due is not null)
                .Select(material =>
                    SessionOf(school, material) is var session
                    // What is for a session that is not held is not to be done for it.
                    && (material.ForSession is null || session is { IsHeld: true })
                    && material.Due!.Moment(session, school.Zone) is { } due
                    && due.At > since
                    && Show(school, now, material, level, choices, reader) is { } shown
                        ? new ToBeDone(shown, due)
                        : null
                )
                .OfType<ToBeDone>()
                .OrderBy(one => one.Due.At)
                .ThenBy(one => one.Material.Id.Value),
        ];

    /// <summary>The redaction for a reader of that level.</summary>
    /// <param name="school">The school's time.</param>
    /// <param name="now">When.</param>
    /// <param name="level">The level.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that is read by many.</param>
    public Func<Session, ShownSession?> For(
        SchoolTime school,
        Instant now,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader
    )
    {
        var at = MaterialsAt(school, now);
        return session => Redaction.Show(session, level, choices, at, WayInto(session), reader);
    }

    private sealed record Planned(IReadOnlyList<Series> Of, SchoolTime School, IReadOnlyList<Plan> Plans);
}
