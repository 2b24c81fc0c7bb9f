using System.Collections.Immutable;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Timetables;

/// <summary>When a class meets, once it was understood.</summary>
/// <param name="Repeat">Its days.</param>
/// <param name="Time">Its time.</param>
/// <param name="From">The first day; null for that of the term.</param>
/// <param name="Extent">The end; null for that of the term.</param>
public sealed record MeetingPatternRead(Repeat Repeat, SessionTime Time, LocalDate? From, Extent? Extent);

/// <summary>
/// Understands the texts of a timetable by the grammar of quick entry and the school's bells. Each text is read once, however many rows
/// have it.
/// </summary>
/// <param name="school">The school's time.</param>
/// <param name="term">The term that it is for: days without a year are near it, week A is that of its first day.</param>
/// <param name="near">A day near which days without a year are, where there is no term.</param>
public sealed partial class MeetingReader(SchoolTime school, Term? term, LocalDate near)
{
    // Any time and any days do, where only the other part is read.
    private const string SomeTime = "8:00-8:50";

    private readonly Dictionary<string, QuickReading> known = [];

    /// <summary>Reads when a class meets.</summary>
    /// <returns>
    /// A pattern for each time of the day (periods that follow each other are one), or why it is not understood, for people.
    /// </returns>
    public (ImmutableArray<MeetingPatternRead> Patterns, string? Problem) Read(MeetingTimes times)
    {
        var days = Line($"{DaysOf(times.Days)} {SomeTime}");
        if (days.Repeat is not { } repeat || !days.Problems.IsEmpty)
            return ([], $"{Wording.Quote(times.Days)} is not understood as days.{Told(days)}");
        var (at, wrong) = TimesOf(times);
        if (at.IsEmpty)
            return ([], wrong);
        LocalDate? from = null;
        Extent? extent = null;
        if (times.From.Length > 0 || times.Until.Length > 0)
        {
            var span = Line(
                $"Mon {SomeTime}{(times.From.Length > 0 ? $" from {times.From}" : "")}{(times.Until.Length > 0 ? $" until {times.Until}" : "")}"
            );
            if (
                !span.Problems.IsEmpty
                || (times.From.Length > 0 && span.From is null)
                || (times.Until.Length > 0 && span.Extent is null)
            )
                return (
                    [],
                    $"{Wording.Quote($"{times.From} {times.Until}".Trim())} is not understood as first and last day.{Told(span)}"
                );
            (from, extent) = (span.From, span.Extent);
        }

        if (times.Week.Length > 0)
        {
            if (repeat.WeeklyDays is not { IsEmpty: false } weekdays || term is null)
                return ([], $"Weeks A and B need weekdays, and a term to count from.");
            var first = school.WeekOf(term.First).PlusWeeks(times.Week == "A" ? 0 : 1);
            repeat = Repeat.Weekly(weekdays, 2, school.FirstDayOfWeek);
            // The week it begins in decides which weeks are its own.
            while (from is { } later && first.PlusWeeks(1) <= later)
                first = first.PlusWeeks(2);
            from = first < term.First && times.Week == "A" ? term.First : first;
        }

        return ([.. at.Select(time => new MeetingPatternRead(repeat, time, from, extent))], null);
    }

    // One letter alone is that weekday where it can be no other.
    private static string DaysOf(string days) =>
        days.Trim() switch
        {
            "M" or "m" => "Mon",
            "W" or "w" => "Wed",
            "F" or "f" => "Fri",
            "R" or "r" => "Thu",
            var other => other.Replace('\n', ' '),
        };

    private (ImmutableArray<SessionTime> Times, string? Problem) TimesOf(MeetingTimes times)
    {
        if (times.Periods.Length > 0)
        {
            if (PeriodsOf(times.Periods) is { IsEmpty: false } periods)
                return (periods, null);
            if (times.Clock.Length == 0)
                return (
                    [],
                    school.Bells.Periods.IsEmpty
                        ? $"The school has no bells, so period {Wording.Quote(times.Periods)} has no time. Set them under School time, or give the times."
                        : $"No bell is called {Wording.Quote(times.Periods)}; they are {Wording.List([.. school.Bells.Periods.Select(period => period.Name)])}."
                );
        }

        // Sheets write seconds.
        var clock = Line($"Mon {Seconds().Replace(times.Clock.Replace('\n', ' '), "$1")}");
        if (clock.Time is not SessionTime.Clock time || !clock.Problems.IsEmpty)
            return clock.Time is SessionTime.InPeriod named
                ? ([named], null)
                : ([], $"{Wording.Quote(times.Clock)} is not understood as a time.{Told(clock)}");
        // A time that is a bell's is that period, and moves with the bells.
        return (
            [school.Bells.Find(time.Start, time.End) is { } bell ? new SessionTime.InPeriod(bell.Name) : time],
            null
        );
    }

    private ImmutableArray<SessionTime> PeriodsOf(string text)
    {
        var named = new List<int>();
        foreach (Match part in PeriodRange().Matches(text))
        {
            var (first, last) = (
                Place(part.Groups["first"].Value),
                part.Groups["last"].Success ? Place(part.Groups["last"].Value) : null
            );
            if (first is not { } from || (part.Groups["last"].Success && last is null) || last < from)
                return [];
            for (var at = from; at <= (last ?? from); at++)
                named.Add(at);
        }

        // What is left over beside them was not understood.
        if (PeriodRange().Replace(text, "").Any(char.IsAsciiLetterOrDigit))
            return [];
        var times = ImmutableArray.CreateBuilder<SessionTime>();
        foreach (var run in Runs([.. named.Distinct().Order()]))
            times.Add(
                run.First == run.Last
                    ? new SessionTime.InPeriod(school.Bells.Periods[run.First].Name)
                    : new SessionTime.Clock(school.Bells.Periods[run.First].Start, school.Bells.Periods[run.Last].End)
            );
        return times.ToImmutable();
    }

    private int? Place(string name)
    {
        for (var at = 0; at < school.Bells.Periods.Length; at++)
            if (
                school
                    .Bells.Periods[at]
                    .Name.TrimStart('0')
                    .Equals(name.TrimStart('0'), StringComparison.OrdinalIgnoreCase)
                || school.Bells.Periods[at].Name.Equals($"P{name}", StringComparison.OrdinalIgnoreCase)
            )
                return at;
        return null;
    }

    private static IEnumerable<(int First, int Last)> Runs(List<int> places)
    {
        for (var at = 0; at < places.Count; )
        {
            var end = at;
            while (end + 1 < places.Count && places[end + 1] == places[end] + 1)
                end++;
            yield return (places[at], places[end]);
            at = end + 1;
        }
    }

    private QuickReading Line(string text) =>
        known.TryGetValue(text, out var read) ? read : known[text] = QuickEntry.Read($"“x” {text}", school, near);

    private static string Told(QuickReading reading) =>
        reading.Problems.IsEmpty ? "" : " " + string.Join(' ', reading.Problems);

    [GeneratedRegex(@"\b(\d{1,2}:\d{2}):00\b")]
    private static partial Regex Seconds();

    [GeneratedRegex(
        @"(?:\b(?:periods?|per|pd|block|slot)\.?\s*)?(?:\bp)?(?<first>\d{1,2}|\b[A-Z])(?:st|nd|rd|th)?(?:\s*(?:-|–|to)\s*(?:p(?:eriod)?\s*)?(?<last>\d{1,2}|[A-Z])\b)?",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PeriodRange();
}
