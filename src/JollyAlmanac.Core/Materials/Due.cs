using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>By when a material is to be done.</summary>
public abstract record Due
{
    private Due() { }

    /// <summary>On a day by the school's clock.</summary>
    /// <param name="Day">The day.</param>
    /// <param name="Time">By that time, to the minute; null for the whole day.</param>
    public sealed record On(LocalDate Day, LocalTime? Time) : Due;

    /// <summary>When its one session starts, wherever that is moved to.</summary>
    public sealed record WithSession : Due;

    /// <summary>When that is.</summary>
    /// <param name="session">The one session that the material is for; null for several.</param>
    /// <param name="school">The school's zone.</param>
    /// <returns>Null where the session is not held, so that nothing is due.</returns>
    public DueMoment? Moment(Session? session, DateTimeZone school) =>
        this switch
        {
            On { Day: var day, Time: { } time } => new DueMoment(day, time, WallClock.InstantOf(day + time, school)),
            On { Day: var day } => new DueMoment(day, null, WallClock.InstantOf(day.PlusDays(1).AtMidnight(), school)),
            WithSession when session is { IsHeld: true } => session.IsAllDay
                ? new DueMoment(session.Day, null, session.StartsAt)
                : new DueMoment(session.Day, session.StartAtSchool.TimeOfDay, session.StartsAt),
            _ => null,
        };
}

/// <summary>When something is due.</summary>
/// <param name="Day">The day by the school's clock.</param>
/// <param name="Time">The time of that day; null for the whole day.</param>
/// <param name="At">From then on it is late.</param>
public sealed record DueMoment(LocalDate Day, LocalTime? Time, Instant At);

/// <summary>A material that is to be done.</summary>
/// <param name="Material">The material, as its reader may have it.</param>
/// <param name="Due">By when.</param>
public sealed record ToBeDone(Material Material, DueMoment Due);
