using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Publishing;

/// <summary>A frozen copy of some days of a calendar, that goes by mail.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">busy, outline or full.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day, inclusive.</param>
/// <param name="Says">A word that goes with it; empty for none.</param>
/// <param name="MadeBy">Who gives it.</param>
/// <param name="MadeAt">When.</param>
public sealed record CalendarCopy(
    CalendarId Calendar,
    AccessLevel Level,
    LocalDate First,
    LocalDate Last,
    string Says,
    PersonId MadeBy,
    Instant MadeAt
)
{
    /// <summary>The address outside the school that it goes to; empty where it goes to people of the school.</summary>
    public EmailAddress? Address { get; init; }
}
