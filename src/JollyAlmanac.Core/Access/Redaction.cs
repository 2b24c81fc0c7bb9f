using System.Collections.Immutable;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Access;

/// <summary>What a place chooses to show, below what its level allows.</summary>
/// <param name="Descriptions">Show descriptions.</param>
/// <param name="Materials">Show materials.</param>
/// <param name="JoinLinks">Show short addresses of join links.</param>
/// <param name="Public">The reader is nobody the school knows: show only materials that are for anyone.</param>
public sealed record ShowChoices(bool Descriptions, bool Materials, bool JoinLinks, bool Public)
{
    /// <summary>All that the level allows, to somebody who is signed in.</summary>
    public static ShowChoices SignedIn { get; } = new(true, true, true, Public: false);

    /// <summary>All that the level allows, to anybody.</summary>
    public static ShowChoices Anyone { get; } = new(true, true, true, Public: true);

    /// <summary>All that the level allows, on a page that somebody works with: also what is hidden until given to others.</summary>
    public static ShowChoices Working { get; } = SignedIn with { Unreleased = true };

    /// <summary>Whoever may change a material sees it before its release. Never where others read.</summary>
    public bool Unreleased { get; init; }
}

/// <summary>
/// A session as one reader may see it. What is not in here was not theirs to see.
/// </summary>
/// <param name="Session">
/// Where it lies in time. Its series must not be shown: that is what redaction is for. Where only the time may be seen, it holds no more.
/// </param>
/// <param name="Title">The title, or "Busy".</param>
/// <param name="IsBusyOnly">Only the time may be seen.</param>
/// <param name="Number">Its number among the held ones; null when busy only.</param>
/// <param name="Place">Empty where it may not be seen.</param>
/// <param name="Description">Empty where it may not be seen.</param>
/// <param name="Note">A note for this session alone; empty where there is none or it may not be seen.</param>
/// <param name="Materials">Those that may be seen.</param>
/// <param name="Join">The join link's short address, never its target; null where it may not be seen.</param>
public sealed record ShownSession(
    Session Session,
    string Title,
    bool IsBusyOnly,
    int? Number,
    string Place,
    string Description,
    string Note,
    ImmutableArray<Material> Materials,
    JoinCode? Join
)
{
    /// <summary>That it was cancelled, or is not certain yet; empty for neither, and where only its time may be seen.</summary>
    public string State =>
        IsBusyOnly ? ""
        : Session.IsCancelled ? "cancelled"
        : Session.IsTentative ? "not certain yet"
        : "";

    /// <summary>When its door opens; null where it has none that may be seen, and where it is open all the time.</summary>
    public Instant? Opens { get; init; }
}

/// <summary>
/// The one function from a session, a level and a place's choices to what may be shown. Pages, feeds, embeds and
/// exports all go through it.
/// </summary>
public static class Redaction
{
    /// <summary>
    /// The level at which somebody sees one series of a calendar: of one that is only for others none; of a private one that is not
    /// theirs only the times, unless they may change everything.
    /// </summary>
    /// <param name="series">The series.</param>
    /// <param name="level">The reader's level on its calendar.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a feed or an embed.</param>
    public static AccessLevel LevelOn(Series.Series series, AccessLevel level, Viewer? reader) =>
        !AccessRules.IsFor(series.OnlyFor, level, reader, series.Calendar) ? AccessLevel.None
        : !series.IsPrivate
        || level is AccessLevel.None or >= AccessLevel.Editor
        || AccessRules.IsMaker(series.MadeBy, series.Calendar, reader)
            ? level
        : AccessLevel.Busy;

    /// <summary>What a reader of that level may see of a session; null where nothing.</summary>
    /// <param name="session">The session.</param>
    /// <param name="level">The reader's level on its calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="materials">The materials of the session's calendar as of now; those of the session are picked.</param>
    /// <param name="join">The way in of the session's link, if it has one.</param>
    /// <param name="reader">
    /// Who reads, where that is somebody: their own private entries are theirs to see, and what is only for them.
    /// </param>
    public static ShownSession? Show(
        Session session,
        AccessLevel level,
        ShowChoices choices,
        MaterialsAt materials,
        JoinWay? join,
        Viewer? reader = null
    )
    {
        level = LevelOn(session.Of, level, reader);
        if (!AccessRules.May(Permission.SeeTimes, level))
            return null;
        var series = session.Of;
        if (!AccessRules.May(Permission.SeeOutline, level))
            return session.IsHeld
                ? new ShownSession(session.OnlyItsTime(), "Busy", true, null, "", "", "", [], null)
                : null;
        var details = AccessRules.May(Permission.SeeDetails, level);
        var seen =
            details
            && choices.JoinLinks
            && join is { } way
            && AccessRules.IsFor(way.OnlyFor, level, reader, series.Calendar)
                ? join
                : null;
        return new ShownSession(
            session,
            session.Title,
            false,
            session.Number,
            session.Place,
            details && choices.Descriptions ? series.Description : "",
            details && choices.Descriptions ? session.Note : "",
            details && choices.Materials
                ?
                [
                    .. materials
                        .For(session)
                        .Select(one => Show(one.Material, one.IsGiven, series, level, choices, reader))
                        .OfType<Material>(),
                ]
                : [],
            seen?.Code
        )
        {
            Opens =
                (session.Change?.Entry ?? seen?.Entry) is EntryRule.Around around && seen is not null
                    ? EntryWindow.Of(around, session).Opens
                    : null,
        };
    }

    /// <summary>A material as a reader of a place may have it; null where they may not.</summary>
    /// <param name="material">The material.</param>
    /// <param name="isGiven">Whether it is given now.</param>
    /// <param name="of">The series it is on; null for the whole calendar.</param>
    /// <param name="level">The reader's level on that series, or on the calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a feed or an embed.</param>
    public static Material? Show(
        Material material,
        bool isGiven,
        Series.Series? of,
        AccessLevel level,
        ShowChoices choices,
        Viewer? reader
    )
    {
        if (
            !choices.Materials
            || (choices.Public && material.Audience != MaterialAudience.Anyone)
            || !AccessRules.IsFor(material.OnlyFor, level, reader, material.Calendar)
            // To be named on a material gives nothing to who may not see its calendar any more.
            || (material.OnlyFor is not null && !AccessRules.May(Permission.SeeDetails, level))
        )
            return null;
        if (isGiven)
            return material;
        return
            choices.Unreleased
            && AccessRules.May(
                Permission.ChangeSeries,
                level,
                material.Series is not null && of is not null && AccessRules.IsMaker(of.MadeBy, of.Calendar, reader)
            )
            ? material with
            {
                IsHeldBack = true,
            }
            : null;
    }
}
