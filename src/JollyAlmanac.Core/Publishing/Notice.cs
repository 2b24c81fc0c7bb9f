using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Publishing;

/// <summary>Knows one notice in the data.</summary>
public readonly record struct NoticeId(long Value);

/// <summary>A dated message of a calendar, to all of its people or to some.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Text">Plain text, of several lines perhaps.</param>
/// <param name="First">The first day it is up, by the school's clock.</param>
/// <param name="Last">The last day, inclusive.</param>
/// <param name="Version">Rises with each change.</param>
/// <param name="MadeBy">Who put it up.</param>
/// <param name="MadeAt">When.</param>
/// <param name="ChangedAt">When it last changed.</param>
public sealed record Notice(
    NoticeId Id,
    CalendarId Calendar,
    string Text,
    LocalDate First,
    LocalDate Last,
    int Version,
    PersonId MadeBy,
    Instant MadeAt,
    Instant ChangedAt
)
{
    /// <summary>What stands above its text; empty for nothing.</summary>
    public string Headline { get; init; } = "";

    /// <summary>The only ones it is for; null for all who see the calendar in full.</summary>
    public Audience? OnlyFor { get; init; }

    /// <summary>The session it is about; null for none.</summary>
    public SessionKey? About { get; init; }

    /// <summary>It comes down when its session is over, though its last day is not.</summary>
    public bool EndsWithSession { get; init; }

    /// <summary>The session's short join address stands in it.</summary>
    public bool ShowsJoin { get; init; }

    /// <summary>A join link whose short address stands in it, whatever it is about; null for none.</summary>
    public JoinLinkId? Link { get; init; }

    /// <summary>A material that stands in it; null for none.</summary>
    public MaterialId? Material { get; init; }

    /// <summary>When somebody took it down; null while nobody has.</summary>
    public Instant? WithdrawnAt { get; init; }

    /// <summary>The longest text.</summary>
    public const int Longest = 2_000;

    /// <summary>The longest headline.</summary>
    public const int LongestHeadline = 120;

    /// <summary>The headline and the text, as they stand one above the other.</summary>
    public string Whole => Headline.Length > 0 ? $"{Headline}\n{Text}" : Text;

    /// <summary>Its headline, or else its first line, to tell it by.</summary>
    public string Heading =>
        Headline.Length > 0 ? Headline
        : Text.Split('\n')[0] is { Length: > 90 } longer ? longer[..90] + "…"
        : Text.Split('\n')[0];

    /// <summary>The last day it is really up: its session's, where it comes down with that.</summary>
    /// <param name="about">Its session; null where it has none, or that is gone.</param>
    public LocalDate LastUp(Session? about) =>
        EndsWithSession && about is not null && about.EndAtSchool.Date < Last ? about.EndAtSchool.Date : Last;

    /// <summary>Whether it is up at an instant.</summary>
    /// <param name="now">The instant.</param>
    /// <param name="school">The school's zone.</param>
    /// <param name="about">Its session; null where it has none, or that is gone.</param>
    public bool IsUp(Instant now, DateTimeZone school, Session? about) =>
        WithdrawnAt is null
        && !IsAhead(now, school)
        && now < WallClock.InstantOf(Last.PlusDays(1).AtMidnight(), school)
        && !(EndsWithSession && about is not null && about.EndsAt <= now);

    /// <summary>The notice as it goes up on a calendar that opens on that day: not before.</summary>
    /// <param name="opens">The day; null for a calendar that is open.</param>
    public Notice NotBefore(LocalDate? opens) => opens is { } day && First < day ? this with { First = day } : this;

    /// <summary>Whether it is still to go up.</summary>
    public bool IsAhead(Instant now, DateTimeZone school) => now < WallClock.InstantOf(First.AtMidnight(), school);
}

/// <summary>A notice as one reader may see it.</summary>
/// <param name="Notice">The notice; its text and days may be shown, and nothing else of it.</param>
/// <param name="About">The session it is about; null where there is none that they may see.</param>
/// <param name="Join">The short address, never what is behind it; null where it is not shown.</param>
/// <param name="Material">The material; null where there is none that they may open.</param>
public sealed record ShownNotice(Notice Notice, ShownSession? About, JoinCode? Join, Material? Material)
{
    /// <summary>What one reader may see of a notice; null where nothing.</summary>
    /// <param name="notice">The notice.</param>
    /// <param name="about">Its session; null for none.</param>
    /// <param name="level">The reader's level on its calendar.</param>
    /// <param name="choices">What the place shows at all.</param>
    /// <param name="materials">The calendar's materials as of now.</param>
    /// <param name="sessionOf">Finds the session that a material is for.</param>
    /// <param name="way">The way into the session; null where it has none.</param>
    /// <param name="reader">Who reads; null for a stranger, and for a place that many read.</param>
    /// <param name="own">The way in of the link it names; null where it names none.</param>
    public static ShownNotice? Of(
        Notice notice,
        Session? about,
        AccessLevel level,
        ShowChoices choices,
        MaterialsAt materials,
        Func<Material, Session?> sessionOf,
        JoinWay? way,
        Viewer? reader,
        JoinWay? own = null
    )
    {
        if (
            !AccessRules.May(Permission.SeeDetails, level)
            || !AccessRules.IsFor(notice.OnlyFor, level, reader, notice.Calendar)
        )
            return null;
        var shown = about is null ? null : Redaction.Show(about, level, choices, materials, way, reader);
        if (shown is { IsBusyOnly: true })
            shown = null;
        var material = materials.Find(notice.Material, sessionOf) is var (found, isGiven)
            ? Redaction.Show(found, isGiven, null, level, choices, reader)
            : null;
        var join = notice.ShowsJoin && shown is { Session.IsHeld: true } ? shown.Join : null;
        if (choices.JoinLinks && own is { } link && AccessRules.IsFor(link.OnlyFor, level, reader, notice.Calendar))
            join = link.Code;
        return new ShownNotice(notice, shown, join, material);
    }
}
