using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>How the state of a door is said, on every page alike.</summary>
public static class DoorWords
{
    /// <summary>The state of a door at a short address, in a few words.</summary>
    public static string Heading(ShortAddress at)
    {
        var (door, zone) = (at.Door, at.School.Time.Zone);
        return door.State switch
        {
            DoorState.Withdrawn => "This link is withdrawn",
            DoorState.Open when door is { IsByHand: false, Session: not null } && Shuts(door) is { } shuts && shuts < Instant.MaxValue => $"Open until {Time(shuts, zone, at.Now)}",
            DoorState.Open when door.IsByHand && door.Changes is { } until => $"Open until {Time(until, zone, at.Now)}",
            DoorState.Open => "Open",
            DoorState.OpensLater => $"Opens at {Time(at.Session!.Window.Opens, zone, at.Now)}",
            DoorState.ShutToLateComers => $"Shut to late-comers since {Time(at.Session!.Window.Shuts, zone, at.Now)}",
            DoorState.ShutByHand => door.Changes is { } until ? $"Shut until {Time(until, zone, at.Now)}" : "Shut for now",
            DoorState.Over => "Over for today",
            DoorState.Cancelled => $"Cancelled: {Wording.InFull(at.Session!.Session.StartAtSchool.Date)}",
            _ => at.Next is null ? "Nothing is scheduled" : "Nothing is scheduled today",
        };
    }

    /// <summary>Whether the door is open or soon will be: within an hour.</summary>
    public static bool IsSoon(ShortAddress at) => at.Door.IsOpen || (at.Door.State == DoorState.OpensLater && at.Session!.Window.Opens - at.Now < Duration.FromHours(1));

    /// <summary>The state of the door for one session, as its teacher reads it, with its kind for colour.</summary>
    public static (string Text, string Kind) Of(CardDoor card, Instant now, DateTimeZone zone)
    {
        var (window, door) = (card.Window, card.Door);
        var starts = now < window.Starts ? $" · starts {Wording.Until(window.Starts - now).Replace("minutes", "min", StringComparison.Ordinal)}" : "";
        if (door.State == DoorState.Withdrawn) return ("The link is withdrawn", "shut");
        if (now >= window.Ends) return ("Over", "over");
        if (door.IsByHand && card.IsAbout) return door.IsOpen ? ($"Held open until {Time(door.Changes ?? window.Ends, zone, now)}{starts}", "open") : ($"Shut by hand{(door.Changes is { } until ? $" until {Time(until, zone, now)}" : "")}{starts}", "shut");
        if (now < window.Opens) return ($"Opens at {Time(window.Opens, zone, now)}", "ahead");
        if (now < window.Shuts) return window.Shuts - window.Opens > Duration.FromHours(20) ? ($"Open all day{starts}", "open") : ($"Open until {Time(window.Shuts, zone, now)}{starts}", "open");
        return ($"Shut to late-comers since {Time(window.Shuts, zone, now)}", "shut");
    }

    /// <summary>The state of a door on the switchboard, with its kind for colour.</summary>
    public static (string Text, string Kind) Of(BoardRow row, Instant now, DateTimeZone zone)
    {
        var door = row.Door;
        return door.State switch
        {
            DoorState.Withdrawn => ("withdrawn", "over"),
            DoorState.Open => ((door.IsByHand ? "held open" : "open") + (Shuts(door) is { } shuts && shuts < Instant.MaxValue && (door.IsByHand || !door.Open.IsEmpty) ? $" until {Time(shuts, zone, now)}" : ""), "open"),
            DoorState.OpensLater => ($"opens {Time(Opens(row, door.Session!), zone, now)}", "ahead"),
            DoorState.ShutToLateComers => ("shut to late-comers", "shut"),
            DoorState.ShutByHand => (door.Changes is { } until ? $"shut by hand until {Time(until, zone, now)}" : "shut by hand", "shut"),
            DoorState.Over => ("over for today", "over"),
            DoorState.Cancelled => ("cancelled today", "shut"),
            _ => (door.Next is { } next ? $"next {Wording.WithWeekday(next.StartAtSchool.Date)}" : "nothing scheduled", "ahead"),
        };
    }

    /// <summary>"9:40", with the day where it is another one.</summary>
    public static string Time(Instant instant, DateTimeZone zone, Instant now)
    {
        var (there, here) = (instant.InZone(zone), now.InZone(zone));
        var time = Wording.Of(there.TimeOfDay);
        return there.Date == here.Date ? time : there.TimeOfDay == LocalTime.Midnight && there.Date == here.Date.PlusDays(1) ? "midnight" : $"{time}, {Wording.WithWeekday(there.Date)}";
    }

    /// <summary>When the last open window shuts.</summary>
    private static Instant? Shuts(Door door) => door.IsByHand ? door.Changes : door.Open.IsEmpty ? null : door.Open.Max(window => window.Shuts);

    private static Instant Opens(BoardRow row, Session session) => row.Link.WindowOf(session).Opens;
}
