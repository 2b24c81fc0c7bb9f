using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>How the session of a file was found.</summary>
public enum MatchedBy
{
    /// <summary>By the day in its name.</summary>
    Day,

    /// <summary>By the session's number in its name.</summary>
    Number,

    /// <summary>Its name has neither: by its place among the files.</summary>
    Order,

    /// <summary>Not: its name has a day or a number that no session has, or no session is left.</summary>
    Nothing,
}

/// <summary>Which session a file goes to.</summary>
/// <param name="Name">The file's name.</param>
/// <param name="To">The session; null for none.</param>
/// <param name="By">How it was found.</param>
public sealed record MatchedFile(string Name, Session? To, MatchedBy By);

/// <summary>
/// Deals files out to the sessions of a series, by what their names say: "03 tides.pdf" to session 3, "2026-11-02.pdf" and
/// "Sheet 2 Nov.pdf" to that day. Those whose names say neither go, in their order, to the sessions to come that get none otherwise.
/// </summary>
public static partial class MaterialMatching
{
    /// <summary>Where each of the files goes.</summary>
    /// <param name="names">The names of the files, in the order they were chosen in.</param>
    /// <param name="held">The sessions of the series that are held, in order.</param>
    /// <param name="now">When; sessions that are over get no file by order alone.</param>
    /// <param name="has">Whether a session has material of its own already: then it gets none by order alone, while others have none.</param>
    public static ImmutableArray<MatchedFile> Of(
        IReadOnlyList<string> names,
        IReadOnlyList<Session> held,
        Instant now,
        Func<Session, bool> has
    )
    {
        var matchedFile = names.Select(name => Said(name, held)).ToList();
        // Of several sessions on one day, each gets a file before any gets two.
        var taken = new Dictionary<SessionKey, int>();
        for (var at = 0; at < matchedFile.Count; at++)
        {
            if (matchedFile[at]?.To is not { } to)
                continue;
            if (matchedFile[at]!.By == MatchedBy.Day)
                to = held.Where(one => one.Day == to.Day).MinBy(one => taken.GetValueOrDefault(one.Key))!;
            taken[to.Key] = taken.GetValueOrDefault(to.Key) + 1;
            matchedFile[at] = matchedFile[at]! with { To = to };
        }

        var free = new Queue<Session>(
            held.Where(one => one.EndsAt > now && !taken.ContainsKey(one.Key)).OrderBy(one => has(one))
        );
        return
        [
            .. matchedFile.Select(
                (one, at) =>
                    one
                    ?? (
                        free.TryDequeue(out var next)
                            ? new MatchedFile(names[at], next, MatchedBy.Order)
                            : new MatchedFile(names[at], null, MatchedBy.Nothing)
                    )
            ),
        ];
    }

    // What the name says; null where it says nothing.
    private static MatchedFile? Said(string name, IReadOnlyList<Session> held)
    {
        var words = Path.GetFileNameWithoutExtension(name).Replace('_', ' ');
        if (DayInText.Find(words, out _) is var (year, month, day))
            return
                held.FirstOrDefault(one =>
                    one.Day.Month == month && one.Day.Day == day && (year is null || one.Day.Year == year)
                )
                    is { } on
                ? new MatchedFile(name, on, MatchedBy.Day)
                : new MatchedFile(name, null, MatchedBy.Nothing);
        if (NumberIn(words) is not { } number)
            return null;
        return held.FirstOrDefault(one => one.Number == number) is { } numbered
            ? new MatchedFile(name, numbered, MatchedBy.Number)
            : new MatchedFile(name, null, MatchedBy.Nothing);
    }

    // "session 3" before a number at the begin, and that before one anywhere: "v2" and "9A" are none.
    private static int? NumberIn(string words) =>
        new[] { Named().Match(words), Leading().Match(words), Alone().Match(words) }.FirstOrDefault(match =>
            match.Success
        )
            is { } found
            ? int.Parse(found.Groups["d"].ValueSpan, CultureInfo.InvariantCulture)
            : null;

    [GeneratedRegex(
        @"(?<![a-z])(?:session|lesson|class|lecture|meeting|unit|no|nr|number)[-. #]{0,2}(?<d>\d{1,3})(?![\da-z])",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Named();

    [GeneratedRegex(@"^[ #]*(?<d>\d{1,3})(?![\da-z])", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex Leading();

    [GeneratedRegex(
        @"(?<![\da-z.]|\d-)(?<d>\d{1,3})(?![\da-z.]|-\d)",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Alone();
}
