using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>What a part of a quick entry is about.</summary>
public enum QuickField
{
#pragma warning disable CS1591 // The names say it.
    Title,
    Days,
    Time,
    From,
    End,
    Except,
    Numbering,
    Place,
    Link,
    NotUnderstood,
#pragma warning restore CS1591
}

/// <summary>A part of a quick entry: what was written, and what was read of it.</summary>
public sealed record QuickPart(QuickField Field, string Written, string Read);

/// <summary>Something a series needs and a line does not say.</summary>
/// <param name="What">"a title".</param>
/// <param name="Sentence">What to do about it.</param>
public sealed record QuickGap(string What, string Sentence);

/// <summary>What was read of one line. Nothing is guessed in silence: what the line does not say is null here.</summary>
/// <param name="Parts">Each part as it was read, in the order it was written in.</param>
/// <param name="Title">The title; empty where none was written.</param>
/// <param name="Repeat">The days; null where none were written or understood.</param>
/// <param name="Time">The time; null where none was, or only its start.</param>
/// <param name="Start">The start, where how long it takes was not written; else null.</param>
/// <param name="From">The first day; null where none was.</param>
/// <param name="Extent">The end; null where none was.</param>
/// <param name="NumberLabel">What sessions are counted as; empty for none.</param>
/// <param name="Place">The place; empty for none.</param>
/// <param name="Link">The address of a room; empty for none.</param>
/// <param name="Missing">What a series needs and the line does not say. In a form, its fields say it.</param>
/// <param name="Problems">What is doubtful or not understood, each in a sentence.</param>
public sealed record QuickReading(
    ImmutableArray<QuickPart> Parts,
    string Title,
    Repeat? Repeat,
    SessionTime? Time,
    LocalTime? Start,
    LocalDate? From,
    Extent? Extent,
    string NumberLabel,
    string Place,
    string Link,
    ImmutableArray<QuickGap> Missing,
    ImmutableArray<string> Problems
)
{
    /// <summary>The days on which its sessions are left out.</summary>
    public ImmutableArray<DaySpan> Except { get; init; } = [];

    /// <summary>How many series the line holds: one, where a form can have it.</summary>
    public int Series { get; init; } = 1;

    /// <summary>What sessions are counted as: "numbered" alone counts them by the title.</summary>
    /// <param name="title">The title, which the line or a form has.</param>
    public string CountedAs(string title) =>
        NumberLabel.Length > 0 || !Parts.Any(part => part.Field == QuickField.Numbering) ? NumberLabel : title;

    /// <summary>Whether it says enough to make a series of, without a doubt.</summary>
    public bool IsWhole => Missing.IsEmpty && Problems.IsEmpty;
}

/// <summary>
/// Understands a line as people write it: every word is used, or told of. The title is what stands before the first thing that is
/// understood (or in quotes, or, where the line begins with days or times, what is left). Two patterns on one line are two readings.
/// </summary>
/// <example>"Net Mending Tue Fri 13:30-14:20 15 Sep to 4 Dec" is a title, two weekdays, a time, a first and a last day.</example>
public static class QuickEntry
{
    /// <summary>The longest line that is read.</summary>
    public const int Longest = 400;

    /// <summary>Reads a line as one series.</summary>
    /// <param name="line">The line.</param>
    /// <param name="school">Its bells, cycle, terms and no-class days, and its order of day and month.</param>
    /// <param name="near">Days without a year are near it.</param>
    /// <example>
    /// <code>
    /// var line = QuickEntry.Read("Knots MWF 8:00-8:50 14 Sep to 18 Dec", school, new LocalDate(2026, 9, 1));
    /// line.Title // Knots
    /// ((SessionTime.Clock)line.Time!).Start // 08:00:00
    /// </code>
    /// </example>
    public static QuickReading Read(string line, SchoolTime school, LocalDate near)
    {
        var all = ReadAll(line, school, near);
        return all.Length == 1
            ? all[0]
            : all[0] with
            {
                Series = all.Length,
                Problems =
                [
                    .. all[0].Problems,
                    $"The line holds {all.Length} series, and a form holds one. Paste it as a timetable to get all of them.",
                ],
            };
    }

    /// <summary>Reads a line; one reading for each pattern on it, one at least.</summary>
    public static ImmutableArray<QuickReading> ReadAll(string line, SchoolTime school, LocalDate near)
    {
        if (line.Length > Longest)
            return
            [
                new(
                    [],
                    "",
                    null,
                    null,
                    null,
                    null,
                    null,
                    "",
                    "",
                    "",
                    [],
                    [$"The line has {line.Length} characters. It may have {Longest}; shorten it."]
                ),
            ];
        return new LineReader(line, school, near).Read();
    }

    /// <summary>One day, "14 Sep" or "Sat 14 Nov 2026"; null for what is none, with the reason.</summary>
    /// <example>
    /// <code>
    /// QuickEntry.Day("Sat 14 Nov 2026", school, new LocalDate(2026, 9, 1)).Day // Saturday, 14 November 2026
    /// </code>
    /// </example>
    public static (LocalDate? Day, string? Problem) Day(string text, SchoolTime school, LocalDate near)
    {
        var (days, problem) = Days(text, school, near);
        return days is [{ Length: 1 } only] ? (only.First, problem) : (null, problem ?? "it names more than one day");
    }

    /// <summary>Listed days: "5, 12 and 19 Nov", "3-5 Nov"; none where a word of it is not understood, with the reason.</summary>
    /// <example>
    /// <code>
    /// QuickEntry.Days("5, 12 and 19 Nov", school, new LocalDate(2026, 9, 1)).Days.Length // 3
    /// </code>
    /// </example>
    public static (ImmutableArray<DaySpan> Days, string? Problem) Days(string text, SchoolTime school, LocalDate near)
    {
        if (text.Length > Longest)
            return ([], "it is too long");
        var tokens = Token.Of(text);
        var reader = new DayReader(tokens, near, school.MonthFirst, LineReader.YearOf(school, near));
        var spans = new List<DaySpan>();
        for (var at = 0; at < tokens.Count; )
        {
            if (tokens[at].Sign is ',' or ';' or '.')
            {
                at++;
                continue;
            }

            var next = reader.Read(at, out var read);
            if (next < 0)
                return ([], "it is no day that the almanac can read");
            if (read!.Problems is [var wrong, ..])
                return ([], wrong);
            spans.AddRange(read.Spans);
            at = next;
        }

        return spans.Count == 0 ? ([], "it is no day that the almanac can read") : ([.. spans], null);
    }

    /// <summary>A time from one to another: "8:00-8:50", "10:00am-10:50am", "0800-0850"; null for anything else.</summary>
    /// <example>
    /// <code>
    /// QuickEntry.Span("0800-0850")!.End // 08:50:00
    /// QuickEntry.Span("after lunch") // null
    /// </code>
    /// </example>
    public static SessionTime.Clock? Span(string text)
    {
        if (text.Length > Longest)
            return null;
        var tokens = Token.Of(text);
        return new TimeReader(tokens).Read(0, out var read) == tokens.Count && read is { End: { } end, Problem: null }
            ? new SessionTime.Clock(read.Start, end)
            : null;
    }
}
