using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>Knows one term in the data.</summary>
public readonly record struct TermId(long Value);

/// <summary>
/// A named stretch of the school year, e.g. "Autumn term", 8 Sep to 18 Dec. Both days belong to it.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Year">The school year it lies in, as people say it: "2026–27".</param>
/// <param name="Name">What people call it.</param>
/// <param name="First">The first day, inclusive.</param>
/// <param name="Last">The last day, inclusive; never before <paramref name="First"/>.</param>
public sealed record Term(TermId Id, string Year, string Name, LocalDate First, LocalDate Last)
{
    /// <summary>Whether <paramref name="day"/> lies in the term; its first and last day do.</summary>
    public bool Holds(LocalDate day) => First <= day && day <= Last;
}
