using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Publishing;

/// <summary>One calendar of a feed.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">At which level it is told.</param>
/// <param name="Reader">Who reads, of somebody's own feed; null for one that many read.</param>
internal sealed record FeedPart(Calendar Calendar, AccessLevel Level, Viewer? Reader);

/// <summary>What a feed tells, of which calendars, for whoever has its address.</summary>
/// <param name="Key">How all that it tells stands: the same text means the same document.</param>
/// <param name="Outlet">The feed; null for somebody's own.</param>
/// <param name="Own">Somebody's own feed; null for one of a calendar.</param>
/// <param name="LastFetchedAt">When it was asked for last.</param>
/// <param name="Parts">Its calendars, where they had to be found to know how it stands; null where that was not needed.</param>
internal sealed record FeedSource(
    string Key,
    PublicationId? Outlet,
    OwnFeed? Own,
    Instant? LastFetchedAt,
    IReadOnlyList<FeedPart>? Parts
)
{
    /// <summary>The source of a token; null for one that is unknown, revoked or renewed.</summary>
    public static FeedSource? Find(Stores stores, byte[] hash, LocalDate today)
    {
        if (stores.Publications.StateVersionOf(PublicationKind.Feed, hash) is { } state)
        {
            var key = string.Create(
                CultureInfo.InvariantCulture,
                $"{state.Id} {state.Calendar}:{state.StateVersion} {state.School}"
            );
            IReadOnlyList<FeedPart>? parts = null;
            if (state.IsMore && stores.Publications.Find(PublicationKind.Feed, hash) is { } publication)
                key += KeyOf(stores, parts = PartsOf(stores, publication), publication.Options, today);
            return new FeedSource(
                key,
                new PublicationId(state.Id),
                null,
                state.LastFetchedAt is { } at ? Instant.FromUnixTimeMilliseconds(at) : null,
                parts
            );
        }

        // Who has left has no classes.
        if (stores.OwnFeeds.Find(hash) is not { } own || stores.People.ViewerOf(own.Person).Person is null)
            return null;
        var all = PartsOf(stores, own);
        return new FeedSource(
            string.Create(
                CultureInfo.InvariantCulture,
                $"own {own.Person.Value} {own.Version} {stores.School.StateVersion()}"
            ) + KeyOf(stores, all, own.Options, today),
            null,
            own,
            own.LastFetchedAt,
            all
        );
    }

    private static string KeyOf(
        Stores stores,
        IReadOnlyList<FeedPart> parts,
        PublicationOptions options,
        LocalDate today
    ) =>
        string.Concat(
            parts
                .Select(part =>
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $" {part.Calendar.Id.Value}:{stores.Calendars.StateVersionOf(part.Calendar.Id)}:{part.Level}"
                    )
                )
                .Append(options.IsByTheDay ? " " + today.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture) : "")
                .Append(
                    parts is [{ Reader: { } reader }, ..]
                        ? " " + string.Join(',', reader.Groups.Select(group => group.Value).Order())
                        : ""
                )
        );

    /// <summary>
    /// The calendars of a feed, its own first. Of the others only what its maker may publish, or what anyone may see: a feed gives away
    /// no more than its maker could, when it is read as when it was made.
    /// </summary>
    public static IReadOnlyList<FeedPart> PartsOf(Stores stores, Publication publication)
    {
        var own = stores.Calendars.Get(publication.Calendar);
        var parts = new List<FeedPart>();
        if (own.IsInUse && own.OpensOn is null)
            parts.Add(new FeedPart(own, publication.Level, null));
        var others = publication.Scope switch
        {
            PublicationScope.School => stores.Calendars.Beside(own.Id, isDepartment: false, Publications.MostBeside),
            PublicationScope.Department => stores.Calendars.Beside(own.Id, isDepartment: true, Publications.MostBeside),
            PublicationScope.Group => publication.Group is { } group
                ? stores.Calendars.InUse([
                    .. stores.Calendars.GrantsToGroup(group).Select(grant => grant.Calendar).Distinct(),
                ])
                : [],
            _ => stores.Calendars.InUse(publication.Others),
        };
        others =
        [
            .. others
                .Where(calendar => calendar.Id != own.Id && calendar.OpensOn is null)
                .Take(Publications.MostBeside),
        ];
        if (others.Count == 0)
            return parts;
        var maker = stores.People.ViewerOf(publication.MadeBy);
        var grants = stores.Calendars.GrantsOf([.. others.Select(calendar => calendar.Id)]);
        foreach (var calendar in others)
        {
            var level = AccessRules.May(Permission.Publish, AccessRules.LevelOf(maker, grants[calendar.Id]))
                ? publication.Level
                : AccessLevelOf(Viewer.Visitor, grants[calendar.Id], publication.Level);
            // No more than the group has of it.
            if (
                publication is { Scope: PublicationScope.Group, Group: { } of }
                && AccessLevelOf(new Viewer(null, null, new HashSet<GroupId> { of }), grants[calendar.Id], level)
                    is var has
                && has < level
            )
                level = has;
            if (level > AccessLevel.None)
                parts.Add(new FeedPart(calendar, level, null));
        }

        return parts;
    }

    /// <summary>The calendars that are somebody's own, each at their own level.</summary>
    public static IReadOnlyList<FeedPart> PartsOf(Stores stores, OwnFeed own)
    {
        var viewer = stores.People.ViewerOf(own.Person);
        var calendars = stores.Calendars.InUse(stores.Calendars.OwnOf(viewer));
        var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Select(calendar => calendar.Id)]);
        return
        [
            .. calendars
                .Select(calendar => new FeedPart(calendar, AccessRules.LevelOf(viewer, grants[calendar.Id]), viewer))
                .Where(part => part.Level > AccessLevel.None),
        ];
    }

    private static AccessLevel AccessLevelOf(Viewer viewer, IEnumerable<Grant> grants, AccessLevel most)
    {
        var level = AccessRules.LevelOf(viewer, grants);
        return level < most ? level : most;
    }
}
