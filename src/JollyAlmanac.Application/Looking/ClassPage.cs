using System.Collections.Immutable;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Looking;

/// <summary>The class page of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The level it is shown at.</param>
/// <param name="MayKeep">The viewer may go back to its term sheet.</param>
/// <param name="Top">The session that is on, or the next one.</param>
/// <param name="Coming">The sessions after it.</param>
/// <param name="Past">The last few, newest first.</param>
/// <param name="Materials">All materials, in order of their sessions.</param>
public sealed record ClassPage(
    School School, Instant Now, Calendar Calendar, AccessLevel Level, bool MayKeep, ShownSession? Top, ImmutableArray<ShownSession> Coming,
    ImmutableArray<ShownSession> Past, ImmutableArray<Material> Materials)
{
    /// <summary>The door of the session at the top, where it has one that the viewer may see.</summary>
    public ShortAddress? Door { get; init; }

    /// <summary>Its rooms without fixed times, whose doors are open at any time.</summary>
    public IReadOnlyList<(JoinCode Code, string Name)> OpenRooms { get; init; } = [];

    /// <summary>The notices that are up, as the viewer may see them.</summary>
    public IReadOnlyList<ShownNotice> Notices { get; init; } = [];

    /// <summary>The token of the feed that is offered to whoever may open this page; null where none is.</summary>
    public string? FeedToken { get; init; }
}

public sealed partial class Look
{
    private readonly StandingOnce classPages = new(database);

    /// <summary>
    /// How all that a class page shows stands: the same text means the same page to a stranger within the same minute. Null where there is
    /// no such calendar.
    /// </summary>
    public string? StandingOf(string slug) => slug.Length > Slug.Longest ? null
        : classPages.Of(slug, stores => stores.Calendars.StandingOf(slug)) is { } standing
            ? $"{standing} {clock.GetCurrentInstant().ToUnixTimeSeconds() / 60}" : null;

    /// <summary>The class page of a calendar; null where it is not open to the viewer.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="asVisitor">Show it as a visitor sees it who is not signed in. Where it is closed to them: as a student of the
    /// class.</param>
    public ClassPage? AtClassPage(Viewer viewer, string slug, bool asVisitor) => gate.Read<ClassPage>(Act.SeeClassPage, viewer, slug, at =>
    {
        var (stores, setting, now) = (at.Stores, at.Setting, at.Now);
        if (!setting.Calendar.IsInUse) return new Outcome<ClassPage>.NotFound();
        // Nobody gains by looking "as": the level can only fall.
        var visitors = AccessRules.LevelOf(Viewer.Visitor, setting.Grants);
        var isVisitor = viewer.Person is null || (asVisitor && visitors > AccessLevel.None);
        var level = isVisitor ? visitors : (AccessLevel)Math.Min((int)setting.Level, (int)AccessLevel.Full);
        var facts = CalendarFacts.Read(stores, setting.Calendar.Id);
        var reader = isVisitor ? null : viewer;
        var show = facts.For(setting.School.Time, now, level, isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn, reader);
        var sessions = facts.PlansFor(setting.School.Time, level, reader).SelectMany(plan => plan.Sessions).Where(session => session.IsTold)
            .OrderBy(session => session.StartsAt).ToList();
        var coming = sessions.Where(session => session.EndsAt > now).Take(9).Select(show).OfType<ShownSession>().ToList();
        var past = sessions.Where(session => session.IsHeld && session.EndsAt <= now).TakeLast(5).Reverse().Select(show)
            .OfType<ShownSession>();
        var materials = sessions.Select(show).OfType<ShownSession>().SelectMany(shown => shown.Materials)
            .Where(material => material.ForSession is null).DistinctBy(material => material.Id);
        return new Outcome<ClassPage>.Done(new ClassPage(
            setting.School, now, setting.Calendar, level, setting.Level >= AccessLevel.Contributor, coming.FirstOrDefault(),
            [.. coming.Skip(1)], [.. past], [.. materials])
        {
            OpenRooms = AccessRules.May(Deed.SeeDetails, level)
                ? [.. stores.JoinLinks.Of(setting.Calendar.Id).Where(link => link.Entry is EntryRule.Always && !link.LeadsNowhere
                    && AccessRules.IsFor(link.OnlyFor, level, reader))
                .Select(link => (link.Code, link.Name))] : [],
            Notices = [.. facts.NoticesFor(setting.School.Time, level, isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn, reader, now)],
            FeedToken = stores.Outlets.Of(setting.Calendar.Id)
            .FirstOrDefault(outlet => outlet is { Kind: OutletKind.Feed, IsOffered: true, PausedAt: null }
            && outlet.Level <= level) is { } offered ? secrets.TokenOf(offered) : null,
            Door = coming.FirstOrDefault()?.Join is { } code ? doors.Glance(code, new AtDoor(isVisitor ? Viewer.Visitor : viewer)) : null,
        });
    }).OrNone;
}
