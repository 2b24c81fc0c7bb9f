using JollyAlmanac.Core.Terms;

namespace JollyAlmanac.Core.Parsing;

/// <summary>
/// Reads a period as bells are written: "1 8:00-8:50", "Period 1: 8:00am – 8:50am", "P1 0800-0850", "8:00-8:50 Period 1", "Homeroom
/// 8:00-8:10".
/// </summary>
public static class BellText
{
    /// <summary>The longest name of a period.</summary>
    public const int LongestName = 12;

    /// <summary>The longest line.</summary>
    public const int LongestLine = 100;

    /// <summary>The line of a period, which is read back as the same period.</summary>
    /// <example>
    /// <code>
    /// BellText.Of(new BellPeriod("3", new LocalTime(9, 50), new LocalTime(10, 40))) // 3 09:50-10:40
    /// </code>
    /// </example>
    public static string Of(BellPeriod period)
    {
        var times = Wording.Typed(period.Start, period.End);
        var plain = $"{period.Name} {times}";
        // "Period 1", or a name that looks like a time, stays a name in quotes.
        return Read(plain).Period == period ? plain : $"\"{period.Name}\" {times}";
    }

    /// <summary>The period of a line, or the reason why it is none, to stand behind the line in quotes.</summary>
    /// <param name="line">A name and two times, "3 9:50-10:40" or "Period 3: 9.50 am to 10.40 am".</param>
    /// <returns>Never both and never neither; two periods on one line are none.</returns>
    /// <example>
    /// <code>
    /// BellText.Read("3 9:50-10:40").Period!.Start // 09:50:00
    /// </code>
    /// </example>
    public static (BellPeriod? Period, string? Problem) Read(string line)
    {
        if (line.Length > LongestLine)
            return (null, "is too long for a period");
        var tokens = Token.Of(line);
        var times = new TimeReader(tokens);
        for (var at = 0; at < tokens.Count; at++)
        {
            // The number of a period stands by itself; a time has an end.
            if (times.Read(at, out var read) is not (> 0 and var next) || read!.End is not { } end)
                continue;
            if (
                at + 1 < tokens.Count
                && tokens[at].Number >= 0
                && tokens[at + 1].Sign == '-'
                && tokens[at].Text.Length <= 2
                && next == at + 3
                && tokens.Count > next
            )
                continue;
            if (read.Problem is not null && end > read.Start)
                return (null, "is not clear: " + read.Problem.TrimEnd('.'));
            if (end <= read.Start)
                return (null, $"ends at {Wording.Of(end)}, which is not after its start");
            var words = tokens
                .Where((_, place) => place < at || place >= next)
                .Where(token => token.Kind is TokenKind.Word or TokenKind.Number or TokenKind.Quoted)
                .Where(token => token.Word is not ("period" or "per" or "pd" or "from" or "p" or "min" or "minutes"))
                .ToList();
            // "1a" stays one word; "1st" is 1.
            var name = string.Concat(
                words.Select((token, place) => (place > 0 && token.Stands ? " " : "") + token.Text)
            );
            if (words is [{ Number: >= 0 } number, { Word: "st" or "nd" or "rd" or "th" }])
                name = number.Text;
            if (name.Length is 0 or > LongestName)
                return (
                    null,
                    name.Length == 0
                        ? "has no name. Write one before its times, like “1 8:00-8:50”"
                        : $"has a name of {name.Length} characters; {LongestName} fit"
                );
            return (new BellPeriod(name, read.Start, end), null);
        }

        return (null, "is no period. Write its name and times, like “1 8:00-8:50”");
    }
}
