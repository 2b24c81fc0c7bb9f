using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Core.Data;

/// <summary>What kind of row cannot be read.</summary>
public enum UnreadableKind
{
#pragma warning disable CS1591 // The names say it.
    Term,
    NoClassDay,
    Bells,
    ShortenedDay,
    Person,
    Group,
    Calendar,
    Grant,
    JoinLink,
    Series,
    Change,
    Material,
    Outlet,
    GuestLink,
    Answer,
    Notice,
    SchoolDefaults,
#pragma warning restore CS1591
}

/// <summary>
/// A row that cannot be read: written by a newer almanac, by a hand in the database, or by a bug. It takes only itself with it:
/// whoever reads goes on without it, and pages tell of it.
/// </summary>
/// <param name="Kind">What it is.</param>
/// <param name="Id">Its id; 0 where it has none.</param>
/// <param name="Calendar">The calendar it stands on; null for none.</param>
/// <param name="Name">What people know it by.</param>
/// <param name="Reason">Why it cannot be read, without its subject: "“FREQ=BAD” is no rule".</param>
public sealed record Unreadable(UnreadableKind Kind, long Id, CalendarId? Calendar, string Name, string Reason);
