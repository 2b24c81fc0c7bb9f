namespace JollyAlmanac.Application.Looking;

/// <summary>Whether a list of sessions can be told by their numbers.</summary>
public static class Numbering
{
    /// <summary>Whether the numbers of listed sessions go up from the first to the last: then a number alone tells which is meant. Of two
    /// series that are numbered each from 1 it does not; there, the number belongs to the title.</summary>
    /// <param name="listed">The sessions, in any order.</param>
    public static bool IsOne(IEnumerable<Core.Access.ShownSession> listed)
    {
        var last = 0;
        foreach (var number in listed.Where(one => one.Number is not null).OrderBy(one => one.Session.StartsAt)
            .Select(one => one.Number!.Value))
        {
            if (number <= last) return false;
            last = number;
        }

        return true;
    }
}
