using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>A session on the day's page.</summary>
public sealed record SessionCard(OnCalendar Of, DayView Day, SchoolTime School)
{
    public Session Session => Of.Shown.Session;

    /// <summary>The day leads with it where there is little room.</summary>
    public bool IsFirst { get; init; }

    /// <summary>Where it stands on the page.</summary>
    public string Anchor => $"at-{Session.Key}";

    /// <summary>The period by name, where it has one.</summary>
    public string? Period =>
        School.BellsOn(Session.Day).Find(Session.StartAtSchool.TimeOfDay, Session.EndAtSchool.TimeOfDay)?.Name;

    /// <summary>The day is today.</summary>
    public bool IsToday => Day.Day == Day.Now.InZone(School.Zone).Date;

    /// <summary>Its door; null where it has none.</summary>
    public CardDoor? Door => Day.Doors.GetValueOrDefault(Session);

    /// <summary>Where the session stands now, in words: by its door, where it has one.</summary>
    public (string Text, string Kind) State =>
        Session.IsCancelled ? ("Cancelled", "shut")
        : Door is { } door && Day.Now < Session.EndsAt ? DoorWords.Of(door, Day.Now, School.Zone)
        : Session.PhaseAt(Day.Now) switch
        {
            SessionPhase.On when Session.IsAllDay => ("All day", "open"),
            SessionPhase.Over => ("Over", "over"),
            SessionPhase.On => ($"On now, until {Wording.Of(Session.EndAtSchool.TimeOfDay)}", "open"),
            _ when Session.StartsAt - Day.Now < Duration.FromHours(12) => (
                $"Starts {Wording.Until(Session.StartsAt - Day.Now)}",
                "ahead"
            ),
            _ => ($"Starts at {Wording.Of(Session.StartAtSchool.TimeOfDay)}", "ahead"),
        };

    /// <summary>The door is open to its class now.</summary>
    public bool IsOpen =>
        Door is { } door
        && (
            door.Window.Holds(Day.Now)
                ? door.Door.IsOpen
                : door.Door is { IsByHand: true, IsOpen: true } && State.Kind == "open"
        );
}
