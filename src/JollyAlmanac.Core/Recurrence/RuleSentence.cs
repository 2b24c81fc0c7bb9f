using System.Globalization;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>Puts a rule into a plain English sentence that says all of it and only it.</summary>
/// <example>"every other week on Tuesday and Thursday at 13:30, until 18 Dec 2026".</example>
public static class RuleSentence
{
    private static readonly string[] Months = CultureInfo.InvariantCulture.DateTimeFormat.MonthNames;

    /// <summary>The sentence, without a capital and a full stop.</summary>
    /// <example>
    /// <code>
    /// var start = RecurrenceStart.At(new LocalDateTime(2026, 9, 25, 8, 0), zone);
    /// var rule = RuleText.Parse("FREQ=MONTHLY;BYDAY=-1FR").Rule!;
    /// RuleSentence.Of(rule, start) // every month on the last Friday of the month at 8:00, without end
    /// </code>
    /// </example>
    public static string Of(RecurrenceRule rule, RecurrenceStart start) => WithoutEnd(rule, start) + End(rule);

    /// <summary>The sentence without what it says of the end.</summary>
    public static string WithoutEnd(RecurrenceRule rule, RecurrenceStart start)
    {
        var parts = new List<string> { Every(rule) };
        parts.AddRange(Days(rule, start));
        if (!start.IsDate)
            parts.AddRange(Times(rule, start));
        var sentence = string.Join(' ', parts);
        if (!rule.Positions.IsEmpty)
            sentence +=
                $", of these only {Wording.List([.. rule.Positions.Select(position => "the " + Place(position))])} in each {Unit(rule.Frequency)}";
        if ((rule.Frequency == Frequency.Weekly && rule.Interval > 1) || !rule.WeekNumbers.IsEmpty)
            sentence += $", weeks beginning on {rule.WeekStart}";
        return sentence;
    }

    private static string Every(RecurrenceRule rule) =>
        rule.Interval switch
        {
            1 => $"every {Unit(rule.Frequency)}",
            2 => $"every other {Unit(rule.Frequency)}",
            var interval => $"every {Wording.Ordinal(interval)} {Unit(rule.Frequency)}",
        };

    private static string Unit(Frequency frequency) =>
        frequency switch
        {
            Frequency.Secondly => "second",
            Frequency.Minutely => "minute",
            Frequency.Hourly => "hour",
            Frequency.Daily => "day",
            Frequency.Weekly => "week",
            Frequency.Monthly => "month",
            _ => "year",
        };

    private static IEnumerable<string> Days(RecurrenceRule rule, RecurrenceStart start)
    {
        var (monthDays, yearDays, weeks, days) = (
            !rule.MonthDays.IsEmpty,
            !rule.YearDays.IsEmpty,
            !rule.WeekNumbers.IsEmpty,
            !rule.Days.IsEmpty
        );
        if (!rule.Months.IsEmpty)
            yield return $"in {Wording.List([.. rule.Months.Select(month => Months[month - 1])])}";
        else if (rule.Frequency == Frequency.Yearly && !monthDays && !yearDays && !weeks && !days)
            yield return $"in {Months[start.Time.Month - 1]}";
        if (weeks)
            yield return $"in {Wording.List([.. rule.WeekNumbers.Select(Week)])}";
        if (yearDays)
            yield return $"on {Wording.List([.. rule.YearDays.Select(day => $"the {Place(day)} day of the year")])}";
        if (monthDays)
            yield return $"on {Wording.List([.. rule.MonthDays.Select(day => day < 0 ? $"the {Place(day)} day of the month" : $"the {Wording.Ordinal(day)}")])}";
        if (days)
        {
            // A place in the month or year is told with what it is counted in.
            var within = rule.Frequency == Frequency.Yearly && rule.Months.IsEmpty ? "of the year" : "of the month";
            var names = Wording.List([
                .. rule.Days.Select(day =>
                    day.Place == 0
                        ? (rule.Frequency >= Frequency.Monthly ? "every " : "") + day.Day
                        : $"the {Place(day.Place)} {day.Day} {within}"
                ),
            ]);
            var limits = monthDays || yearDays || rule.Frequency < Frequency.Weekly;
            yield return limits ? $"if it is {Or(rule, within)}" : $"on {names}";
        }
        else if (rule.Frequency == Frequency.Weekly || (weeks && !monthDays && !yearDays))
        {
            yield return $"on {start.Time.DayOfWeek}";
        }
        else if (rule.Frequency >= Frequency.Monthly && !monthDays && !yearDays && !weeks)
        {
            yield return $"on the {Wording.Ordinal(start.Time.Day)}";
        }
    }

    private static string Or(RecurrenceRule rule, string within) =>
        string.Join(
            " or ",
            rule.Days.Select(day => day.Place == 0 ? $"a {day.Day}" : $"the {Place(day.Place)} {day.Day} {within}")
        );

    private static IEnumerable<string> Times(RecurrenceRule rule, RecurrenceStart start)
    {
        var time = start.Time.TimeOfDay;
        if (rule.Frequency >= Frequency.Daily)
        {
            IReadOnlyList<int> hours = rule.Hours.IsEmpty ? [time.Hour] : rule.Hours;
            IReadOnlyList<int> minutes = rule.Minutes.IsEmpty ? [time.Minute] : rule.Minutes;
            IReadOnlyList<int> seconds = rule.Seconds.IsEmpty ? [time.Second] : rule.Seconds;
            if (hours.Count * minutes.Count * seconds.Count <= 8)
            {
                yield return "at "
                    + Wording.List([
                        .. from hour in hours
                        from minute in minutes
                        from second in seconds
                        select Clock(hour, minute, second),
                    ]);
                yield break;
            }

            yield return $"in {Named("hour", hours)}, in each at {Named("minute", minutes)}{(seconds is [0] ? "" : $" and {Named("second", seconds)}")}";
            yield break;
        }

        if (!rule.Hours.IsEmpty)
            yield return $"in {Named("hour", rule.Hours)}";
        if (rule.Frequency == Frequency.Hourly)
            yield return $"at {Named("minute", rule.Minutes.IsEmpty ? [time.Minute] : rule.Minutes)}";
        else if (!rule.Minutes.IsEmpty)
            yield return $"in {Named("minute", rule.Minutes)}";
        if (rule.Frequency == Frequency.Secondly && !rule.Seconds.IsEmpty)
            yield return $"at {Named("second", rule.Seconds)}";
        else if (rule.Frequency != Frequency.Secondly && !(rule.Seconds.IsEmpty && time.Second == 0))
            yield return $"and {Named("second", rule.Seconds.IsEmpty ? [time.Second] : rule.Seconds)}";
    }

    private static string Named(string unit, IReadOnlyList<int> values) =>
        $"{unit}{(values.Count == 1 ? "" : "s")} {Wording.List([.. values.Select(value => value.ToString(CultureInfo.InvariantCulture))])}";

    private static string Clock(int hour, int minute, int second) =>
        second == 0
            ? string.Create(CultureInfo.InvariantCulture, $"{hour}:{minute:00}")
            : string.Create(CultureInfo.InvariantCulture, $"{hour}:{minute:00}:{second:00}");

    private static string Week(int week) => week > 0 ? $"week {week}" : $"the {Place(week)} week";

    private static string Place(int place) =>
        place switch
        {
            -1 => "last",
            < 0 => $"{Place(-place)} last",
            <= 5 => Wording.SmallOrdinals[place],
            _ => Wording.Ordinal(place),
        };

    private static string End(RecurrenceRule rule)
    {
        if (rule.Count is { } count)
            return count == 1 ? ", once" : $", {count} times";
        if (rule.Until is not { } until)
            return ", without end";
        var time = until.Time.ToString(
            until.Time.Second == 0 ? "d MMM yyyy, H:mm" : "d MMM yyyy, H:mm:ss",
            CultureInfo.InvariantCulture
        );
        return until.IsDate
            ? $", until {Wording.WithYear(until.Time.Date)}"
            : $", until {time}{(until.IsUtc ? " UTC" : "")}";
    }
}
