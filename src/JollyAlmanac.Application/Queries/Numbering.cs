using JollyAlmanac.Core.Access;

namespace JollyAlmanac.Application.Queries;

/// <summary>Which sessions of a list are told by their number alone.</summary>
public static class Numbering
{
    /// <summary>
    /// The title whose sessions' numbers say by themselves which is meant: the calendar's own, or the only one there is, where the numbers
    /// go up from the first to the last. The numbers of all others belong beside their titles: of two series that count from 1 each, a
    /// number alone says nothing. Null where no title is so.
    /// </summary>
    /// <param name="listed">The sessions, in any order.</param>
    /// <param name="calendar">The calendar's title.</param>
    public static string? TitleOf(IEnumerable<ShownSession> listed, string calendar)
    {
        var numbered = listed.Where(one => one.Number is not null).ToList();
        var title =
            numbered.Exists(one => one.Title == calendar) ? calendar
            : numbered.Select(one => one.Title).Distinct().ToList() is [var only] ? only
            : null;
        var last = 0;
        foreach (
            var number in numbered
                .Where(one => one.Title == title)
                .OrderBy(one => one.Session.StartsAt)
                .Select(one => one.Number!.Value)
        )
        {
            if (number <= last)
                return null;
            last = number;
        }

        return title;
    }
}
