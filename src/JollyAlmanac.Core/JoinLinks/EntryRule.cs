using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>When the door of a link is open around its sessions. Hosts may enter at any time.</summary>
public abstract record EntryRule
{
    private EntryRule() { }

    /// <summary>The longest lead and lateness: four hours.</summary>
    public const int MostMinutes = 240;

    /// <summary>Opens 10 minutes before the start, shuts 20 minutes after it (common practice, no source).</summary>
    public static EntryRule Usual { get; } = new Around(10, 20);

    /// <summary>Around each session.</summary>
    /// <param name="Lead">Minutes before the start at which it opens.</param>
    /// <param name="Late">Minutes after the start at which it shuts to late-comers; null for the session's end.</param>
    public sealed record Around(int Lead, int? Late) : EntryRule;

    /// <summary>From midnight to midnight on days with a session.</summary>
    public sealed record AllDay : EntryRule;

    /// <summary>Always.</summary>
    public sealed record Always : EntryRule;

    /// <summary>
    /// The window of a session, half open. It never reaches past the session's end; an all-day session is open all day.
    /// </summary>
    public EntryWindow WindowOf(Session session)
    {
        if (this is Around around && !session.IsAllDay)
        {
            var (starts, ends) = (session.StartsAt, session.EndsAt);
            var shuts = around.Late is { } late ? Instant.Min(starts + Duration.FromMinutes(late), ends) : ends;
            return new EntryWindow(session, starts - Duration.FromMinutes(around.Lead), shuts, starts, ends);
        }

        // A day of the school, whatever clock the series goes by.
        var (day, zone) = (session.Day, session.School ?? session.Of.Pattern.Zone);
        return new EntryWindow(session, zone.AtStartOfDay(day).ToInstant(), zone.AtStartOfDay(day.PlusDays(1)).ToInstant(), session.StartsAt, session.EndsAt);
    }

    /// <summary>In words: "opens 10 min before, shuts 20 min after the start".</summary>
    public string InWords => this switch
    {
        Around { Lead: var lead, Late: null } => $"opens {Before(lead)}, shuts at the end",
        Around { Lead: var lead, Late: { } late } => $"opens {Before(lead)}, shuts {(late == 0 ? "at the start" : $"{Wording.Amount(late)} after the start")}",
        AllDay => "open all day on days with a session",
        _ => "always open",
    };

    private static string Before(int lead) => lead == 0 ? "at the start" : $"{Wording.Amount(lead)} before";
}

/// <summary>When the door is open for one session: from <paramref name="Opens"/> up to, not with, <paramref name="Shuts"/>.</summary>
/// <param name="Session">The session.</param>
/// <param name="Opens">When the door opens.</param>
/// <param name="Shuts">When it shuts to late-comers.</param>
/// <param name="Starts">When the session starts.</param>
/// <param name="Ends">When it ends.</param>
public readonly record struct EntryWindow(Session Session, Instant Opens, Instant Shuts, Instant Starts, Instant Ends)
{
    /// <summary>Whether the door is open at that instant.</summary>
    public bool Holds(Instant now) => Opens <= now && now < Shuts;
}

/// <summary>What somebody did to a door by hand; it ends by itself.</summary>
/// <param name="IsOpen">Held open, or held shut.</param>
/// <param name="From">Since when.</param>
/// <param name="Until">Until when, not with it; the far end of time for "until somebody opens it".</param>
/// <param name="Session">The session it was done for; null for none.</param>
public sealed record DoorHand(bool IsOpen, Instant From, Instant Until, SessionKey? Session);

/// <summary>How far a room reaches before its provider ends it.</summary>
public abstract record LinkReach
{
    private LinkReach() { }

    /// <summary>No limit is known.</summary>
    public sealed record Unlimited : LinkReach;

    /// <summary>Up to a day, with it.</summary>
    public sealed record Until(LocalDate Day) : LinkReach;

    /// <summary>So many days from when the room was put there.</summary>
    public sealed record Days(int Count) : LinkReach;

    /// <summary>So many sessions from when the room was put there.</summary>
    public sealed record Sessions(int Count) : LinkReach;

    /// <summary>The last day the room can be used; null without a limit, or while fewer sessions than the limit are planned.</summary>
    /// <param name="setAt">When the room was put there.</param>
    /// <param name="held">The held sessions that use it, in order.</param>
    /// <param name="zone">The school's zone.</param>
    public LocalDate? LastDay(Instant setAt, IEnumerable<Session> held, DateTimeZone zone) => this switch
    {
        Until until => until.Day,
        Days days => setAt.InZone(zone).Date.PlusDays(days.Count),
        Sessions sessions => held.Where(session => session.EndsAt > setAt).Skip(sessions.Count - 1).Select(session => (LocalDate?)session.StartAtSchool.Date).FirstOrDefault(),
        _ => null,
    };
}
