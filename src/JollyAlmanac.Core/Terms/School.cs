using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>The school as it is stored: its name, and its time.</summary>
/// <param name="Name">The school's name.</param>
/// <param name="Time">Zone, terms, no-class days, bells, cycle.</param>
/// <param name="Revision">Rises with each change of any of it.</param>
/// <param name="ChangedAt">When that was.</param>
public sealed record School(string Name, SchoolTime Time, int Revision, Instant ChangedAt)
{
    /// <summary>Times are written by twelve hours: "1:30 pm".</summary>
    public bool TwelveHours { get; init; }

    /// <summary>A stranger finds the classes that are open to anyone at the first address.</summary>
    public bool HasFrontPage { get; init; }

    /// <summary>Search engines may list the front page, and the class pages that are open to anyone.</summary>
    public bool IsListed { get; init; }

    /// <summary>How many days a passcode may be in use; null for as long as one likes.</summary>
    public int? PasscodeDays { get; init; }

    /// <summary>What to do, and whom to ask, where something does not work: some lines for whoever enters a room. Anybody reads them.</summary>
    public string Help { get; init; } = "";

    /// <summary>The most characters of <see cref="Help"/>.</summary>
    public const int LongestHelp = 600;
}
