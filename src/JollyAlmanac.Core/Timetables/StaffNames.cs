using System.Text.RegularExpressions;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Core.Timetables;

/// <summary>Finds those who teach by whatever a timetable calls them: address, code, name, family name, letters.</summary>
public sealed partial class StaffNames
{
    private readonly List<ILookup<string, KnownPerson>> ways;

    /// <summary>Those of the people who teach and are here.</summary>
    public StaffNames(IEnumerable<KnownPerson> people)
    {
        Staff = [.. people.Where(one => !one.HasLeft && one.Role is SchoolRole.Teacher or SchoolRole.Coordinator)];
        // The surest way first; one that finds nobody leaves it to the next.
        ways =
        [
            By(one => one.Email?.Value ?? ""),
            By(one => one.Source),
            By(one => one.Name),
            By(one => one.Name.Split(' ')[^1]),
            By(one => one.Name.Split(' ') is [{ Length: > 0 } first, .., var last] ? $"{first[0]} {last}" : ""),
            By(one => one.Name.Split(' ') is [_, .., { Length: > 0 } last] names ? $"{last} {names[0][..1]}" : ""),
            By(one =>
                string.Concat(one.Name.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(word => word[0]))
            ),
            By(one => one.Name.Split(' ')[^1] is { Length: >= 3 } last ? last[..3] : ""),
        ];
    }

    /// <summary>Those who teach.</summary>
    public IReadOnlyList<KnownPerson> Staff { get; }

    /// <summary>Who that may be: nobody, one, or several among whom somebody has to choose.</summary>
    /// <example>
    /// <code>
    /// new StaffNames([]).Matching("OM").Count // 0
    /// </code>
    /// </example>
    public IReadOnlyList<KnownPerson> Matching(string text)
    {
        var wanted = Plain(AddressList.FirstNameFirst(Title().Replace(text.Trim(), "")));
        if (wanted.Length == 0)
            return [];
        foreach (var way in ways)
            if (way[wanted].ToList() is { Count: > 0 } found)
                return found;
        return [];
    }

    private ILookup<string, KnownPerson> By(Func<KnownPerson, string> text) =>
        Staff
            .Select(one => (one, text: Plain(text(one))))
            .Where(pair => pair.text.Length > 0)
            .ToLookup(pair => pair.text, pair => pair.one);

    // Dots and signs between words are no part of a name.
    private static string Plain(string text) => Between().Replace(PlainLetters.Fold(text), " ").Trim();

    [GeneratedRegex(@"^(mr|mrs|ms|miss|mx|dr|prof)\b\.?\s*", RegexOptions.IgnoreCase)]
    private static partial Regex Title();

    [GeneratedRegex(@"[^\p{L}\p{N}@]+")]
    private static partial Regex Between();
}
