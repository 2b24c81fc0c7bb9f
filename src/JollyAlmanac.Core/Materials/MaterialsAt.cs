using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>The materials of a calendar, laid out so that those of a session are found at once.</summary>
/// <param name="all">All of them.</param>
public sealed class MaterialsOf(IReadOnlyList<Material> all)
{
    // In the order that people gave them; of the same place, the older one first.
    private readonly IReadOnlyList<Material> ofCalendar = [.. InOrder(all.Where(one => one.Series is null))];
    private readonly ILookup<SeriesId, Material> ofSeries = InOrder(
            all.Where(one => one is { Series: not null, ForSession: null })
        )
        .ToLookup(one => one.Series!.Value);
    private readonly ILookup<(SeriesId, LocalDate), Material> ofSession = InOrder(
            all.Where(one => one is { Series: not null, ForSession: not null })
        )
        .ToLookup(one => (one.Series!.Value, one.ForSession!.Value.Date));

    /// <summary>None.</summary>
    public static MaterialsOf None { get; } = new([]);

    /// <summary>All of them.</summary>
    public IReadOnlyList<Material> All => all;

    /// <summary>The headings that there are, in their order.</summary>
    public IReadOnlyList<string> Headings =>
        [.. InOrder(all).Select(one => one.Heading).Where(heading => heading.Length > 0).Distinct()];

    /// <summary>Those of a session: its own, then its series', then the calendar's.</summary>
    /// <param name="session">The session.</param>
    /// <param name="own">Also those that are for it alone.</param>
    public IEnumerable<Material> For(Session session, bool own = true)
    {
        var single = own ? ofSession[(session.Of.Id, session.Original.Date)].Where(one => one.BelongsTo(session)) : [];
        return single.Concat(ofSeries[session.Of.Id]).Concat(ofCalendar);
    }

    /// <summary>Those that hang at one place, in their order.</summary>
    /// <param name="series">The series; null for the whole calendar.</param>
    /// <param name="session">The one session; null for every session.</param>
    public IEnumerable<Material> At(SeriesId? series, Session? session) =>
        series is not { } id ? ofCalendar
        : session is null ? ofSeries[id]
        : ofSession[(id, session.Original.Date)].Where(one => one.BelongsTo(session));

    /// <summary>Those that hang where that one does, in their order.</summary>
    public IEnumerable<Material> Beside(Material material) =>
        material.Series is not { } id ? ofCalendar
        : material.ForSession is not { } original ? ofSeries[id]
        : ofSession[(id, original.Date)].Where(one => one.ForSession == original);

    /// <summary>Whether there are some for that session alone, whoever they are for.</summary>
    public bool HasOwn(Session session) =>
        ofSession[(session.Of.Id, session.Original.Date)].Any(one => one.BelongsTo(session));

    /// <summary>Materials by their headings: those without one first, then each heading where the first of it stands.</summary>
    public static IReadOnlyList<(string Heading, IReadOnlyList<Material> Materials)> ByHeading(
        IEnumerable<Material> materials
    ) =>
        [
            .. materials
                .GroupBy(one => one.Heading)
                .OrderBy(group => group.Key.Length > 0)
                .Select(group => (group.Key, (IReadOnlyList<Material>)[.. group])),
        ];

    private static IOrderedEnumerable<Material> InOrder(IEnumerable<Material> materials) =>
        materials.OrderBy(one => one.Position).ThenBy(one => one.Id.Value);
}

/// <summary>The materials of a calendar as of a moment: what is hidden until given, and what is given no more, is known as such.</summary>
/// <param name="of">The materials.</param>
/// <param name="now">The moment.</param>
/// <param name="school">The school's zone.</param>
/// <param name="own">Also those that are for single sessions.</param>
public sealed class MaterialsAt(MaterialsOf of, Instant now, DateTimeZone school, bool own = true)
{
    /// <summary>None.</summary>
    public static MaterialsAt None { get; } = new(MaterialsOf.None, default, DateTimeZone.Utc);

    /// <summary>Those of a session, each with whether it is given.</summary>
    public IEnumerable<(Material Material, bool IsGiven)> For(Session session) =>
        of.For(session, own).Select(one => (one, one.IsReleased(session, now, school)));

    /// <summary>The one of that id, and whether it is given; null where there is none.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="session">Finds the session that it is for.</param>
    public (Material Material, bool IsGiven)? Find(MaterialId? id, Func<Material, Session?> session) =>
        id is { } known && of.All.FirstOrDefault(one => one.Id == known) is { } found
            ? (found, found.IsReleased(session(found), now, school))
            : null;

    /// <summary>The same without those of single sessions.</summary>
    public MaterialsAt ForEvery => new(of, now, school, own: false);
}
