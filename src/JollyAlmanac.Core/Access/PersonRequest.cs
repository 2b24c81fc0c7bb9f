using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Access;

/// <summary>A keeper of a calendar asks the coordinators to add somebody whom the school does not know.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">Which calendar they are to have access to.</param>
/// <param name="Email">Their address.</param>
/// <param name="Level">The level they are to have on it.</param>
/// <param name="Until">The last day of that; null for as long as nobody ends it.</param>
/// <param name="MadeBy">Who asks.</param>
/// <param name="MadeAt">When.</param>
public sealed record PersonRequest(
    long Id,
    CalendarId Calendar,
    EmailAddress Email,
    AccessLevel Level,
    LocalDate? Until,
    PersonId MadeBy,
    Instant MadeAt
);
