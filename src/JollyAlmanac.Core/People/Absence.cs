using NodaTime;

namespace JollyAlmanac.Core.People;

/// <summary>A member of staff is away for whole days, in the school's zone.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Person">Who is away.</param>
/// <param name="First">The first day.</param>
/// <param name="Last">The last day; not before the first.</param>
/// <param name="Reason">Why, for coordinators alone; may be empty.</param>
public sealed record Absence(long Id, PersonId Person, LocalDate First, LocalDate Last, string Reason)
{
    /// <summary>The most days one absence lasts, the last one included.</summary>
    public const int Longest = 366;
}
