using System.Globalization;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Doors;
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
            DoorState.Withdrawn => "This link is turned off",
            DoorState.Open
                when door is { IsByHand: false, Session: not null }
                    && Shuts(door) is { } shuts
                    && shuts < Instant.MaxValue => $"Open until {Time(shuts, zone, at.Now)}",
            DoorState.Open when door.OpenUntil is { } closes => $"Open until {Time(closes, zone, at.Now)}",
            DoorState.Open => "Open",
            DoorState.WaitsForHost => at.Entry.MayHost ? "The class waits for you" : "Opens once a host is in",
            DoorState.NothingScheduled when at.Link.Hours is not null => "Closed now",
            DoorState.OpensLater => $"Opens at {Time(at.Sessions.About!.Window.Opens, zone, at.Now)}",
            DoorState.ShutToLateComers =>
                $"Closed to late arrivals since {Time(at.Sessions.About!.Window.Shuts, zone, at.Now)}",
            DoorState.ShutByHand => door.Changes is { } opens && opens < Instant.MaxValue
                ? $"Closed by the host until {Time(opens, zone, at.Now)}"
                : "Closed by the host",
            DoorState.Over => "Over for today",
            DoorState.Cancelled => $"Cancelled: {Wording.InFull(at.Sessions.About!.Session.StartAtSchool.Date)}",
            _ => at.Sessions.Next is null ? "Nothing is scheduled" : "Nothing is scheduled today",
        };
    }

    /// <summary>What a door may shut at, as a form offers it, with the value that stands already.</summary>
    public static IEnumerable<(string Value, string Label)> LateChoices(string current)
    {
        int[] usual = [5, 10, 15, 20, 25, 30, 45, 60, 90];
        yield return (EntryRuleInput.AtTheEnd, "at the end");
        var own = int.TryParse(current, NumberStyles.None, CultureInfo.InvariantCulture, out var minutes)
            ? usual.Append(minutes)
            : usual;
        foreach (var after in own.Distinct().Order())
            yield return (after.ToString(CultureInfo.InvariantCulture), $"{after} min after the start");
        if (
            current != EntryRuleInput.AtTheEnd
            && !int.TryParse(current, NumberStyles.None, CultureInfo.InvariantCulture, out _)
        )
            yield return (current, current);
    }

    /// <summary>Whether the door is open or soon will be: within an hour.</summary>
    public static bool IsSoon(ShortAddress at) =>
        at.Door.State is DoorState.Open or DoorState.WaitsForHost
        || (at.Door.State == DoorState.OpensLater && at.Sessions.About!.Window.Opens - at.Now < Duration.FromHours(1));

    /// <summary>The state of the door for one session, as its teacher reads it, with its kind for colour.</summary>
    public static (string Text, string Kind) Of(CardDoor card, Instant now, DateTimeZone zone)
    {
        var (window, door) = (card.Window, card.Door);
        var starts =
            now < window.Starts
                ? $" · starts {Wording.Until(window.Starts - now).Replace("minutes", "min", StringComparison.Ordinal)}"
                : "";
        if (door.State == DoorState.Withdrawn)
            return ("The link is turned off", "shut");
        if (now >= window.Ends)
            return ("Over", "over");
        if (door.IsByHand && card.IsAbout)
            return door.IsOpen
                ? ($"Held open until {Time(door.OpenUntil ?? window.Ends, zone, now)}{starts}", "open")
                : (
                    $"Closed by hand{(door.Changes is { } until ? $" until {Time(until, zone, now)}" : "")}{starts}",
                    "shut"
                );
        if (door.State == DoorState.WaitsForHost && card.IsAbout)
            return ($"{(card.MayHost ? "The class waits for you" : "Opens once a host is in")}{starts}", "ahead");
        if (now < window.Opens)
            return ($"Opens at {Time(window.Opens, zone, now)}", "ahead");
        if (now < window.Shuts)
            return window.Shuts - window.Opens > Duration.FromHours(20)
                ? ($"Open all day{starts}", "open")
                : ($"Open until {Time(window.Shuts, zone, now)}{starts}", "open");
        return ($"Closed to late arrivals since {Time(window.Shuts, zone, now)}", "shut");
    }

    /// <summary>The state of a door on the switchboard, with its kind for colour.</summary>
    public static (string Text, string Kind) Of(BoardRow row, Instant now, DateTimeZone zone)
    {
        var door = row.Door;
        return door.State switch
        {
            DoorState.Withdrawn => ("turned off", "over"),
            DoorState.Open => (
                (door.IsByHand ? "held open" : "open")
                    + (
                        Shuts(door) is { } shuts && shuts < Instant.MaxValue && (door.IsByHand || !door.Open.IsEmpty)
                            ? $" until {Time(shuts, zone, now)}"
                            : ""
                    ),
                "open"
            ),
            DoorState.WaitsForHost => ("waits for a host", "ahead"),
            DoorState.OpensLater => ($"opens {Time(Opens(row, door.Session!), zone, now)}", "ahead"),
            DoorState.ShutToLateComers => ("closed to late arrivals", "shut"),
            DoorState.ShutByHand => (
                door.Changes is { } until ? $"closed by hand until {Time(until, zone, now)}" : "closed by hand",
                "shut"
            ),
            DoorState.Over => ("over for today", "over"),
            DoorState.Cancelled => ("cancelled today", "shut"),
            _ => (
                row.Link.Entry is EntryRule.Hours hours ? hours.InWords
                : door.Next is { } next ? $"next {Wording.WithWeekday(next.StartAtSchool.Date)}"
                : "nothing scheduled",
                "ahead"
            ),
        };
    }

    /// <summary>What a door does on a day that is not today.</summary>
    public static (string Text, string Kind) OnDay(BoardRow row, DateTimeZone zone)
    {
        if (row.Link.WithdrawnAt is not null)
            return ("turned off", "over");
        if (row.OnDay.IsEmpty)
            return (
                row.Link.Entry is EntryRule.Always or EntryRule.Hours ? row.Link.Entry.InWords : "nothing on this day",
                "ahead"
            );
        var first = row.OnDay.MinBy(window => window.Opens)!;
        return (
            $"opens {Time(first.Opens, zone, first.Starts)}, closes {Time(first.Shuts, zone, first.Starts)}{(row.OnDay.Length > 1 ? $", and {row.OnDay.Length - 1} more" : "")}",
            "ahead"
        );
    }

    /// <summary>"9:40", with the day where it is another one.</summary>
    public static string Time(Instant instant, DateTimeZone zone, Instant now)
    {
        var (there, here) = (instant.InZone(zone), now.InZone(zone));
        var time = Wording.Of(there.TimeOfDay);
        return there.Date == here.Date ? time
            : there.TimeOfDay == LocalTime.Midnight && there.Date == here.Date.PlusDays(1) ? "midnight"
            : $"{time}, {Wording.WithWeekday(there.Date)}";
    }

    /// <summary>When the last open window shuts.</summary>
    private static Instant? Shuts(Door door) => door.OpenUntil;

    private static Instant Opens(BoardRow row, Session session) => EntryWindow.Of(row.Link, session).Opens;
}
