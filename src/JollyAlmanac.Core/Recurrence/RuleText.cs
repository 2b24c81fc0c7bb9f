using System.Collections.Immutable;
using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// Reads the text of a recurrence rule as strictly as RFC 5545 §3.3.10 writes it: what it forbids is refused, with the part named and the
/// reason.
/// </summary>
/// <example>"FREQ=MONTHLY;BYDAY=-1FR" is a rule; "FREQ=WEEKLY;BYDAY=6MO" is refused, because only months and years have a sixth
/// Monday.</example>
public static class RuleText
{
    // In the order of the enumeration; never Enum.Parse, which takes lists and numbers for names, too.
    private static readonly string[] Frequencies =
    [
        "SECONDLY",
        "MINUTELY",
        "HOURLY",
        "DAILY",
        "WEEKLY",
        "MONTHLY",
        "YEARLY",
    ];

    private static readonly string[] Weekdays = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];

    private static readonly LocalDateTimePattern Local = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuuMMdd'T'HHmmss"
    );

    private static readonly LocalDatePattern Date = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");

    /// <summary>The longest text that is read: every BY part whole, and room beside.</summary>
    public const int Longest = 8000;

    /// <summary>Reads a rule, as strictly as RFC 5545 §3.3.10 writes it: letters' case apart, without "RRULE:" before it.</summary>
    /// <returns>
    /// The rule, or the reason why the text is none, a sentence for people. Never both and never neither; a text that cannot be a rule
    /// throws nothing.
    /// </returns>
    /// <example>
    /// <code>
    /// RuleText.Parse("FREQ=WEEKLY;BYDAY=MO,WE").Rule!.Interval // 1
    /// RuleText.Parse("FREQ=DAILY;COUNT=3;UNTIL=20261218").Rule // null
    /// </code>
    /// </example>
    public static (RecurrenceRule? Rule, string? Reason) Parse(string text)
    {
        try
        {
            return (Read(text), null);
        }
        catch (Refusal refusal)
        {
            return (null, refusal.Message);
        }
    }

    private static RecurrenceRule Read(string text)
    {
        if (text.Length == 0)
            throw new Refusal("The rule is empty.");
        if (text.Length > Longest)
            throw new Refusal($"The rule has {text.Length} characters; {Longest} are read.");
        var parts = new Dictionary<string, string>();
        foreach (var part in text.ToUpperInvariant().Split(';'))
        {
            if (part.Any(char.IsWhiteSpace))
                throw new Refusal($"“{part}” has white space in it, which a rule may not have.");
            if (part.Split('=') is not [{ Length: > 0 } name, { Length: > 0 } value])
                throw new Refusal(
                    part.Length == 0
                        ? "The rule has an empty part."
                        : $"“{part}” is no part of a rule; a part is NAME=VALUE."
                );
            if (!parts.TryAdd(name, value))
                throw new Refusal($"{name} stands twice.");
        }

        if (!parts.Remove("FREQ", out var frequency))
            throw new Refusal("FREQ is missing.");
        if (Array.IndexOf(Frequencies, frequency) is not (>= 0 and var place))
            throw new Refusal(
                $"FREQ={frequency} is none of SECONDLY, MINUTELY, HOURLY, DAILY, WEEKLY, MONTHLY, YEARLY."
            );
        var rule = new RecurrenceRule { Frequency = (Frequency)place };
        foreach (var (name, value) in parts)
        {
            rule = name switch
            {
                "INTERVAL" => rule with { Interval = Number(name, value, 1, int.MaxValue) },
                "COUNT" => rule with { Count = Number(name, value, 1, int.MaxValue) },
                "UNTIL" => rule with { Until = End(value) },
                "WKST" => rule with { WeekStart = Weekday(name, value) },
                "BYSECOND" => rule with
                {
                    Seconds = [.. List(name, value, 0, 60).Select(second => Math.Min(second, 59)).Distinct()],
                },
                "BYMINUTE" => rule with { Minutes = List(name, value, 0, 59) },
                "BYHOUR" => rule with { Hours = List(name, value, 0, 23) },
                "BYDAY" => rule with
                {
                    Days =
                    [
                        .. value.Split(',').Select(Place).Distinct().OrderBy(day => day.Place).ThenBy(day => day.Day),
                    ],
                },
                "BYMONTHDAY" => rule with { MonthDays = SignedList(name, value, 31) },
                "BYYEARDAY" => rule with { YearDays = SignedList(name, value, 366) },
                "BYWEEKNO" => rule with { WeekNumbers = SignedList(name, value, 53) },
                "BYMONTH" => rule with { Months = List(name, value, 1, 12) },
                "BYSETPOS" => rule with { Positions = SignedList(name, value, 366) },
                _ => throw new Refusal($"{name} is no part that RFC 5545 knows."),
            };
        }

        Check(rule);
        return rule;
    }

    private static void Check(RecurrenceRule rule)
    {
        var frequency = rule.Frequency.ToString().ToUpperInvariant();
        if (rule.Count is not null && rule.Until is not null)
            throw new Refusal("COUNT and UNTIL stand together; a rule ends by one of them.");
        if (!rule.WeekNumbers.IsEmpty && rule.Frequency != Frequency.Yearly)
            throw new Refusal($"BYWEEKNO goes with FREQ=YEARLY only, not with {frequency}.");
        if (!rule.YearDays.IsEmpty && rule.Frequency is (Frequency.Daily or Frequency.Weekly or Frequency.Monthly))
            throw new Refusal($"BYYEARDAY does not go with FREQ={frequency}.");
        if (!rule.MonthDays.IsEmpty && rule.Frequency == Frequency.Weekly)
            throw new Refusal("BYMONTHDAY does not go with FREQ=WEEKLY.");
        if (rule.Days.Any(day => day.Place != 0))
        {
            if (rule.Frequency is not (Frequency.Monthly or Frequency.Yearly))
                throw new Refusal(
                    $"BYDAY has a number before its day, which goes with FREQ=MONTHLY and YEARLY only, not with {frequency}."
                );
            if (!rule.WeekNumbers.IsEmpty)
                throw new Refusal("BYDAY has a number before its day, which does not go with BYWEEKNO.");
        }

        if (
            !rule.Positions.IsEmpty
            && rule.Seconds.IsEmpty
            && rule.Minutes.IsEmpty
            && rule.Hours.IsEmpty
            && rule.Days.IsEmpty
            && rule.MonthDays.IsEmpty
            && rule.YearDays.IsEmpty
            && rule.WeekNumbers.IsEmpty
            && rule.Months.IsEmpty
        )
            throw new Refusal("BYSETPOS stands alone; it picks from what another BY part gives.");
    }

    private static int Number(string name, string value, int least, int most) =>
        int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
        && number >= least
        && number <= most
            ? number
            : throw new Refusal(
                $"{name}={value} is no whole number from {least}{(most == int.MaxValue ? " up" : $" to {most}")}."
            );

    private static ImmutableArray<int> List(string name, string value, int least, int most) =>
        [.. value.Split(',').Select(one => Number(name, one, least, most)).Distinct().Order()];

    private static ImmutableArray<int> SignedList(string name, string value, int most) =>
        [.. value.Split(',').Select(one => Signed(name, one, most)).Distinct().Order()];

    private static int Signed(string name, string value, int most)
    {
        var sign = value.StartsWith('-') ? -1 : 1;
        return sign * Number(name, value.StartsWith('-') || value.StartsWith('+') ? value[1..] : value, 1, most);
    }

    private static WeekdayPlace Place(string value)
    {
        if (value.Length < 2)
            throw new Refusal($"BYDAY={value} is no weekday.");
        var day = Weekday("BYDAY", value[^2..]);
        return new WeekdayPlace(value.Length == 2 ? 0 : Signed("BYDAY", value[..^2], 53), day);
    }

    private static IsoDayOfWeek Weekday(string name, string value) =>
        Array.IndexOf(Weekdays, value) is >= 0 and var at
            ? (IsoDayOfWeek)(at + 1)
            : throw new Refusal($"{name}={value} is no weekday; weekdays are MO, TU, WE, TH, FR, SA, SU.");

    private static RuleMoment End(string value)
    {
        if (Date.Parse(value) is { Success: true, Value: var date })
            return new RuleMoment(date.AtMidnight(), IsDate: true, IsUtc: false);
        var isUtc = value.EndsWith('Z');
        if (Local.Parse(isUtc ? value[..^1] : value) is { Success: true, Value: var time })
            return new RuleMoment(time, IsDate: false, isUtc);
        throw new Refusal($"UNTIL={value} is no date (20261218) and no time (20261218T135000Z).");
    }

    private sealed class Refusal(string message) : Exception(message);
}
