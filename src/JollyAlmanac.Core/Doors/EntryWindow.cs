using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Doors;

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

    /// <summary>
    /// The window of a session, half open. It never reaches past the session's end; an all-day session is open all day.
    /// </summary>
    /// <param name="rule">When the door is open around sessions.</param>
    /// <param name="session">The session.</param>
    public static EntryWindow Of(EntryRule rule, Session session)
    {
        if (rule is EntryRule.Around around && !session.IsAllDay)
        {
            var (starts, ends) = (session.StartsAt, session.EndsAt);
            var shuts = around.Late is { } late ? Instant.Min(starts + Duration.FromMinutes(late), ends) : ends;
            return new EntryWindow(session, starts - Duration.FromMinutes(around.Lead), shuts, starts, ends);
        }

        // The hours are open without it; a session that is not between them, or on no class day, is entered while it goes on.
        if (rule is EntryRule.Hours && !session.IsAllDay)
            return new EntryWindow(session, session.StartsAt, session.EndsAt, session.StartsAt, session.EndsAt);

        // Days of the school, whatever clock the series goes by: from its first day to its last.
        var (day, zone) = (session.Day, session.School ?? session.Of.Pattern.Zone);
        return new EntryWindow(
            session,
            zone.AtStartOfDay(day).ToInstant(),
            zone.AtStartOfDay(session.LastDay.PlusDays(1)).ToInstant(),
            session.StartsAt,
            session.EndsAt
        );
    }

    /// <summary>
    /// The window of a session that is joined by a link: by the session's own rule, where it has one, else by the link's.
    /// </summary>
    public static EntryWindow Of(JoinLink link, Session session) => Of(session.Change?.Entry ?? link.Entry, session);
}
