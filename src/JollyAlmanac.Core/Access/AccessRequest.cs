using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Access;

/// <summary>Somebody asks the keepers of a calendar for access.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">Which calendar.</param>
/// <param name="Person">Who asks.</param>
/// <param name="Level">For which level.</param>
/// <param name="Why">In their words.</param>
/// <param name="MadeAt">When.</param>
/// <param name="AnsweredAt">When it was answered; null while it waits.</param>
/// <param name="Given">The level that was given; none for a no, and while it waits.</param>
public sealed record AccessRequest(
    long Id,
    CalendarId Calendar,
    PersonId Person,
    AccessLevel Level,
    string Why,
    Instant MadeAt,
    Instant? AnsweredAt,
    AccessLevel Given
);
