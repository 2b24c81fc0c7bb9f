using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using NodaTime;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>How often a rule repeats (FREQ).</summary>
public enum Frequency
{
#pragma warning disable CS1591 // The names are the RFC's.
    Secondly,
    Minutely,
    Hourly,
    Daily,
    Weekly,
    Monthly,
    Yearly,
#pragma warning restore CS1591
}

/// <summary>A weekday, with its place in the month or year where it has one: -1FR is the last Friday.</summary>
/// <param name="Place">1 the first, -1 the last; 0 for every such day.</param>
/// <param name="Day">The weekday.</param>
public readonly record struct WeekdayPlace(int Place, IsoDayOfWeek Day);

/// <summary>A moment as iCalendar writes it (UNTIL, RDATE, EXDATE): a date, a local time, or UTC.</summary>
public readonly record struct RuleMoment(LocalDateTime Time, bool IsDate, bool IsUtc);

/// <summary>
/// A recurrence rule of RFC 5545 §3.3.10 that the RFC allows. Made by <see cref="RuleText.Parse"/> or by hand; lists are
/// sorted and without doubles. <see cref="ToString"/> prints the canonical form.
/// </summary>
public sealed record RecurrenceRule
{
    /// <summary>FREQ.</summary>
    public required Frequency Frequency { get; init; }

    /// <summary>INTERVAL; 1 or more.</summary>
    public int Interval { get; init; } = 1;

    /// <summary>COUNT; null without. Never together with <see cref="Until"/>.</summary>
    public int? Count { get; init; }

    /// <summary>UNTIL, inclusive; null without.</summary>
    public RuleMoment? Until { get; init; }

    /// <summary>WKST.</summary>
    public IsoDayOfWeek WeekStart { get; init; } = IsoDayOfWeek.Monday;

    /// <summary>BYSECOND, 0 to 59; 60 is read as 59.</summary>
    public ImmutableArray<int> Seconds { get; init; } = [];

    /// <summary>BYMINUTE.</summary>
    public ImmutableArray<int> Minutes { get; init; } = [];

    /// <summary>BYHOUR.</summary>
    public ImmutableArray<int> Hours { get; init; } = [];

    /// <summary>BYDAY.</summary>
    public ImmutableArray<WeekdayPlace> Days { get; init; } = [];

    /// <summary>BYMONTHDAY, 1 to 31 or -31 to -1.</summary>
    public ImmutableArray<int> MonthDays { get; init; } = [];

    /// <summary>BYYEARDAY, 1 to 366 or -366 to -1.</summary>
    public ImmutableArray<int> YearDays { get; init; } = [];

    /// <summary>BYWEEKNO, 1 to 53 or -53 to -1.</summary>
    public ImmutableArray<int> WeekNumbers { get; init; } = [];

    /// <summary>BYMONTH.</summary>
    public ImmutableArray<int> Months { get; init; } = [];

    /// <summary>BYSETPOS, 1 to 366 or -366 to -1.</summary>
    public ImmutableArray<int> Positions { get; init; } = [];

    /// <summary>
    /// The same rule with the days written out that it takes from its start (RFC 5545 §3.3.10): a bare WEEKLY its weekday, MONTHLY its day
    /// of the month, YEARLY its month and day. Then it means the same days from another start on.
    /// </summary>
    /// <param name="start">The date it starts on now.</param>
    public RecurrenceRule WithDaysOf(LocalDate start)
    {
        if (!Days.IsEmpty || !MonthDays.IsEmpty || !YearDays.IsEmpty)
            return this;
        return Frequency switch
        {
            Frequency.Weekly => this with { Days = [new WeekdayPlace(0, start.DayOfWeek)] },
            Frequency.Monthly => this with { MonthDays = [start.Day] },
            Frequency.Yearly when !WeekNumbers.IsEmpty => this with { Days = [new WeekdayPlace(0, start.DayOfWeek)] },
            Frequency.Yearly => this with { MonthDays = [start.Day], Months = Months.IsEmpty ? [start.Month] : Months },
            _ => this,
        };
    }

    /// <summary>The canonical text: parts in the order of the RFC's grammar, what is usual left away.</summary>
    public override string ToString()
    {
        var text = new StringBuilder("FREQ=").Append(Frequency.ToString().ToUpperInvariant());
        if (Until is { } until)
            text.Append(";UNTIL=")
                .Append(
                    until.Time.ToString(
                        until.IsDate ? "uuuuMMdd"
                            : until.IsUtc ? "uuuuMMdd'T'HHmmss'Z'"
                            : "uuuuMMdd'T'HHmmss",
                        CultureInfo.InvariantCulture
                    )
                );
        if (Count is { } count)
            text.Append(CultureInfo.InvariantCulture, $";COUNT={count}");
        if (Interval != 1)
            text.Append(CultureInfo.InvariantCulture, $";INTERVAL={Interval}");
        Add("BYSECOND", Seconds);
        Add("BYMINUTE", Minutes);
        Add("BYHOUR", Hours);
        if (!Days.IsEmpty)
            text.Append(";BYDAY=")
                .AppendJoin(
                    ',',
                    Days.Select(day =>
                        $"{(day.Place == 0 ? "" : day.Place.ToString(CultureInfo.InvariantCulture))}{NameOf(day.Day)}"
                    )
                );
        Add("BYMONTHDAY", MonthDays);
        Add("BYYEARDAY", YearDays);
        Add("BYWEEKNO", WeekNumbers);
        Add("BYMONTH", Months);
        Add("BYSETPOS", Positions);
        if (WeekStart != IsoDayOfWeek.Monday)
            text.Append(";WKST=").Append(NameOf(WeekStart));
        return text.ToString();

        void Add(string name, ImmutableArray<int> values)
        {
            if (!values.IsEmpty)
                text.Append(';').Append(name).Append('=').AppendJoin(',', values);
        }
    }

    /// <summary>"MO" for Monday.</summary>
    /// <example>
    /// <code>
    /// RecurrenceRule.NameOf(IsoDayOfWeek.Monday) // MO
    /// </code>
    /// </example>
    public static string NameOf(IsoDayOfWeek day) => day.ToString()[..2].ToUpperInvariant();
}
