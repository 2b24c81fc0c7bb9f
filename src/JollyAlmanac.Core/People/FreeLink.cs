using NodaTime;

namespace JollyAlmanac.Core.People;

/// <summary>A link by which somebody shows when they are free.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Person">Whose times it shows.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day, with which it ends.</param>
/// <param name="From">The start of the hours of each day.</param>
/// <param name="To">Their end.</param>
public sealed record FreeLink(long Id, PersonId Person, LocalDate First, LocalDate Last, LocalTime From, LocalTime To);
