using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Terms;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core.Parsing;

/// <summary>What was read of a letter that asks for a meeting.</summary>
/// <param name="Line">A line of quick entry that says the same; empty where no day and no time was found.</param>
/// <param name="Used">The sentences that it was taken from.</param>
/// <param name="NotUsed">The other sentences, in their order.</param>
public sealed record LetterReading(string Line, ImmutableArray<string> Used, ImmutableArray<string> NotUsed);

/// <summary>
/// Reads a letter that asks for a meeting in whole sentences: "Can we meet Tuesday at ten for half an hour, in the Net room?" What is taken
/// becomes a line of <see cref="QuickEntry"/>, to be looked at and changed; every sentence that nothing was taken from is told.
/// </summary>
public static partial class LetterText
{
    /// <summary>The longest letter that is read, in characters.</summary>
    public const int Longest = 60_000;

    private const string Hour =
        @"(?:\d{1,2}(?:[:.h]\d{2})?|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|noon)";

    private const string HalfDay = @"(?:\s?(?:a\.?m\.?|p\.?m\.?|o['’]clock)(?![a-z]))?";

    /// <summary>Reads a letter.</summary>
    /// <param name="letter">The letter, with its head or without.</param>
    /// <param name="school">The school's time, by which days are understood.</param>
    /// <param name="today">The day it is read on: "Tuesday" is the next one after it.</param>
    /// <param name="places">Places that are known, to be found in it as they are written.</param>
    /// <example>
    /// <code>
    /// LetterText.Read("Are you free tomorrow at ten, for half an hour?", school, new LocalDate(2026, 9, 1), []).Line // “Meeting” 2026-09-02 10:00 30 min
    /// </code>
    /// </example>
    public static LetterReading Read(
        string letter,
        SchoolTime school,
        LocalDate today,
        IReadOnlyCollection<string> places
    )
    {
        string? subject = null;
        var sentences = new List<string>();
        var isQuoted = false;
        foreach (var raw in letter.ReplaceLineEndings("\n").Split('\n'))
        {
            var line = raw.Trim();
            // What the letter answers to was asked before: its days are others.
            isQuoted |= line.StartsWith('>') || Quote().IsMatch(line);
            if (line.Length == 0)
                continue;
            if (!isQuoted && Head().Match(line) is { Success: true } head)
            {
                if (head.Groups["name"].Value.Equals("subject", StringComparison.OrdinalIgnoreCase))
                    subject ??= Reply().Replace(head.Groups["says"].Value, "").Trim();
                continue;
            }

            sentences.AddRange(
                Sentence()
                    .Matches(line)
                    .Select(found => found.Value.Trim())
                    .Where(text => text.Length > 0)
                    .Select(text => isQuoted ? "> " + text.TrimStart('>', ' ') : text)
            );
        }

        var used = new HashSet<int>();
        LocalDate? day = null;
        (string Start, string? End)? time = null;
        int? minutes = null;
        string? place = null,
            about = null;
        // The sentence that names day and time comes first; what it does not say is looked for in the others, from the top.
        var order = Enumerable
            .Range(0, sentences.Count)
            .Where(at => !sentences[at].StartsWith('>'))
            .OrderByDescending(at =>
                (DayIn(sentences[at], school, today) is not null ? 2 : 0) + (TimeIn(sentences[at]) is not null ? 1 : 0)
            )
            .ThenBy(at => at);
        foreach (var at in order)
        {
            var sentence = sentences[at];
            void Take<T>(ref T? known, T? found)
            {
                if (known is not null || found is null)
                    return;
                known = found;
                used.Add(at);
            }

            Take(ref day, DayIn(sentence, school, today));
            Take(ref time, TimeIn(sentence));
            Take(ref minutes, LengthIn(sentence));
            Take(ref place, PlaceIn(sentence, places));
            Take(ref about, About().Match(sentence) is { Success: true } says ? says.Groups[1].Value.Trim() : null);
        }

        var title =
            subject is { Length: > 0 } ? subject
            : about is not null ? Wording.Capital(about)
            : "Meeting";
        var line_ = "";
        if (day is not null || time is not null)
        {
            var parts = new List<string>
            {
                $"“{title.Replace("“", "", StringComparison.Ordinal).Replace("”", "", StringComparison.Ordinal)}”",
            };
            if (day is { } on)
                parts.Add(LocalDatePattern.Iso.Format(on));
            if (time is var (start, end))
                parts.Add(
                    end is not null ? $"{start}-{end}"
                    : minutes is { } count ? $"{start} {count} min"
                    : start
                );
            if (place is not null)
                parts.Add($"@{place}");
            line_ = string.Join(' ', parts);
            if (line_.Length > QuickEntry.Longest)
                line_ = line_[..QuickEntry.Longest];
        }

        return new LetterReading(
            line_,
            [.. sentences.Where((_, at) => line_.Length > 0 && used.Contains(at))],
            [.. sentences.Where((_, at) => line_.Length == 0 || !used.Contains(at))]
        );
    }

    private static LocalDate? DayIn(string sentence, SchoolTime school, LocalDate today)
    {
        foreach (Match found in Day().Matches(sentence))
        {
            var text = found.Value;
            if (found.Groups["weekday"] is { Success: true, Value: var name } && !found.Groups["date"].Success)
            {
                var wanted = Array.FindIndex(["mon", "tue", "wed", "thu", "fri", "sat", "sun"], one =>
                    name.StartsWith(one, StringComparison.OrdinalIgnoreCase)
                );
                var next = today.Next((IsoDayOfWeek)(wanted + 1));
                // "Tuesday next week" and "next Tuesday" are of the week after this one.
                var isNext =
                    text.Contains("next", StringComparison.OrdinalIgnoreCase)
                    || text.Contains("week", StringComparison.OrdinalIgnoreCase);
                return isNext && school.WeekOf(next) == school.WeekOf(today) ? next.PlusWeeks(1) : next;
            }

            if (
                QuickEntry.Day(found.Groups["date"].Success ? found.Groups["date"].Value : text, school, today).Day is
                { } day
            )
                return day;
        }

        return null;
    }

    private static (string Start, string? End)? TimeIn(string sentence)
    {
        if (Span().Match(sentence) is { Success: true } span)
            return Clock(span.Groups["a"].Value, "") is { } from && Clock(span.Groups["b"].Value, "") is { } to
                ? (from, to)
                : null;
        foreach (Match found in At().Matches(sentence))
            if (Clock(found.Groups["hour"].Value, found.Groups["part"].Value) is { } start)
                return (start, null);
        return null;
    }

    // As quick entry has it; what is doubtful there stays so: "6:15" may be morning or evening.
    private static string? Clock(string hour, string part)
    {
        hour = hour.Trim().ToLowerInvariant();
        var half = HalfDayOf().Match(hour);
        var bare = half.Success ? hour[..half.Index].Trim() : hour;
        var suffix = half.Success
            ? half.Value[..1] switch
            {
                "a" => "am",
                "p" => "pm",
                _ => "",
            }
            : "";
        if (bare == "noon")
            return "12:00";
        var word = Words.Number(bare);
        if (word > 0)
            bare = word.ToString(CultureInfo.InvariantCulture);
        var pieces = bare.Split(':', '.', 'h');
        if (
            !int.TryParse(pieces[0], NumberStyles.None, CultureInfo.InvariantCulture, out var hours)
            || hours > 24
            || (pieces.Length > 1 && !int.TryParse(pieces[1], NumberStyles.None, CultureInfo.InvariantCulture, out _))
        )
            return null;
        var minute = pieces.Length > 1 ? pieces[1] : "00";
        (hours, minute) = part.Trim().ToLowerInvariant() switch
        {
            "half past" => (hours, "30"),
            "quarter past" => (hours, "15"),
            "quarter to" => (hours == 1 ? 12 : hours - 1, "45"),
            _ => (hours, minute),
        };
        return $"{hours.ToString(CultureInfo.InvariantCulture)}:{minute}{suffix}";
    }

    private static int? LengthIn(string sentence)
    {
        if (Length().Match(sentence) is not { Success: true } found)
            return null;
        var text = found.Value.ToLowerInvariant();
        if (
            text.Contains("half an hour", StringComparison.Ordinal)
            || text.Contains("half hour", StringComparison.Ordinal)
        )
            return 30;
        if (text.Contains("quarter", StringComparison.Ordinal))
            return text.Contains("three", StringComparison.Ordinal) ? 45 : 15;
        var number = found.Groups["count"].Value.ToLowerInvariant();
        var word = Words.Number(number);
        var count =
            word > 0 ? word
            : double.TryParse(number, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var written)
                ? written
            : 0;
        var minutes =
            (int)Math.Round(text.Contains("min", StringComparison.Ordinal) ? count : count * 60)
            + (text.Contains("and a half", StringComparison.Ordinal) ? 30 : 0);
        return minutes is > 0 and <= 12 * 60 ? minutes : null;
    }

    private static string? PlaceIn(string sentence, IReadOnlyCollection<string> places) =>
        places
            .Where(place => place.Length > 2 && sentence.Contains(place, StringComparison.OrdinalIgnoreCase))
            .MaxBy(place => place.Length)
        ?? (Place().Match(sentence) is { Success: true } found ? found.Groups[1].Value.Trim() : null);

    [GeneratedRegex(@"^(?<name>subject|from|to|cc|date|sent|reply-to)\s*:\s*(?<says>.*)$", RegexOptions.IgnoreCase)]
    private static partial Regex Head();

    [GeneratedRegex(@"^(?:(?:re|fwd?|aw|wg)\s*:\s*)+", RegexOptions.IgnoreCase)]
    private static partial Regex Reply();

    [GeneratedRegex(@"^(?:-{2,}\s*original|on\s.{4,80}\swrote:$)", RegexOptions.IgnoreCase)]
    private static partial Regex Quote();

    // A dot ends a sentence where a space follows that no figure or half of a day stands before: "at 10. Bring", not "p.m." or "14.10.".
    [GeneratedRegex(@"(?:[^.?!]|\.(?!\s|$)|(?<=\b[ap]\.?m)\.|(?<=\d)\.(?=\s?\d))+[.?!]*", RegexOptions.IgnoreCase)]
    private static partial Regex Sentence();

    [GeneratedRegex(
        @"\b(?:(?:next\s+|this\s+|on\s+)*(?<weekday>mon|tues?|wed(?:nes)?|thu(?:rs?)?|fri|sat(?:ur)?|sun)(?:day)?\b\.?(?:,?\s+next\s+week)?,?\s*(?<date>(?:the\s+)?\d{1,2}(?:st|nd|rd|th)?\s+(?:of\s+)?(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*(?:\s+\d{4})?|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\s+\d{1,2}(?:st|nd|rd|th)?)?|(?<date>\d{4}-\d{2}-\d{2}|\d{1,2}(?:st|nd|rd|th)?\s+(?:of\s+)?(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*(?:\s+\d{4})?|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\s+\d{1,2}(?:st|nd|rd|th)?(?!\d))|tomorrow|today)(?![a-z])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Day();

    [GeneratedRegex(
        @"\b(?:from|between)?\s*(?<![\d-])(?<a>"
            + Hour
            + HalfDay
            + @")\s*(?:-|–|to|until|till|and)\s*(?<b>"
            + Hour
            + HalfDay
            + @")(?![\d-]|\s*(?:min|hour|people|of\b))",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Span();

    [GeneratedRegex(
        @"(?:\b(?:at|from|around|by)\s+(?:about\s+)?(?:(?<part>half past|quarter past|quarter to)\s+)?(?<hour>"
            + Hour
            + HalfDay
            + @")|\b(?<part>half past|quarter past|quarter to)\s+(?<hour>"
            + Hour
            + HalfDay
            + @")|(?<![\d.:-])(?<hour>\d{1,2}[:h]\d{2}\s?(?:[ap]\.?m\.?)?|\d{1,2}\s?[ap]\.?m\.?))(?![a-z\d])",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex At();

    [GeneratedRegex(@"(?:a\.?m|p\.?m|o['’]clock)\.?$", RegexOptions.IgnoreCase)]
    private static partial Regex HalfDayOf();

    [GeneratedRegex(
        @"\b(?:half an hour|(?:a )?half[- ]hour|(?:three[- ])?quarters? of an hour|(?<count>an?|\d{1,3}(?:\.\d)?|one|two|three|four|five|six|ten)[- ]?(?:hours?|minutes?|mins?)(?:\s+and a half)?)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Length();

    [GeneratedRegex(
        @"\b(?:[Ii]n|[Aa]t)\s+(?:the\s+|my\s+|your\s+)?((?:[A-Z][\w’'-]*\s+){0,3}(?:[Rr]oom|[Hh]all|[Ll]ibrary|[Oo]ffice|[Ll]ab|[Gg]ym|[Ss]tudio|[Ww]orkshop)(?:\s+[A-Z]?\d{1,4}[a-z]?)?)"
    )]
    private static partial Regex Place();

    [GeneratedRegex(
        @"\b(?:to\s+(?:talk\s+about|discuss|go\s+over|look\s+at|speak\s+about)|about)\s+((?:the\s+|our\s+|your\s+)?[^.,;?!]{3,60}?)(?=\s+(?:on|at|in|for|with|next|this|tomorrow)\b|[.,;?!]|$)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex About();
}
