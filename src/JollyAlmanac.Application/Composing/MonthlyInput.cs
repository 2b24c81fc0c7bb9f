using System.Globalization;
using JollyAlmanac.Core.Recurrence;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>What a form says of a monthly pattern, as typed: "the last Friday of every second month", "the 15th".</summary>
/// <param name="Nth">"1" to "4", "-1" for the last, or "day" for a day of the month.</param>
/// <param name="NthDay">The weekday by its ISO number: "1" is Monday. Not read with a day of the month.</param>
/// <param name="MonthDay">The day of the month, "1" to "31".</param>
/// <param name="EveryMonths">"1" is every month.</param>
public sealed record MonthlyInput(
    string? Nth = "1",
    string? NthDay = "1",
    string? MonthDay = "1",
    string? EveryMonths = "1"
)
{
    /// <summary>The choice of <see cref="Nth"/> for a day of the month.</summary>
    public const string ByDay = "day";

    /// <summary>A rule as the form has it; null for one that says more, or something else.</summary>
    public static MonthlyInput? Of(RecurrenceRule rule)
    {
        var months = rule.Interval.ToString(CultureInfo.InvariantCulture);
        var form = rule switch
        {
            { Days: [{ Place: >= 1 and <= 4 or -1 } one], MonthDays.IsEmpty: true } => new MonthlyInput(
                one.Place.ToString(CultureInfo.InvariantCulture),
                ((int)one.Day).ToString(CultureInfo.InvariantCulture),
                EveryMonths: months
            ),
            { MonthDays: [var day and > 0], Days.IsEmpty: true } => new MonthlyInput(
                ByDay,
                MonthDay: day.ToString(CultureInfo.InvariantCulture),
                EveryMonths: months
            ),
            _ => null,
        };
        return form is not null && rule.ToString() == form.ToRule()?.ToString() ? form : null;
    }

    /// <summary>The rule; null where a number is none, or out of its range.</summary>
    public RecurrenceRule? ToRule()
    {
        static int? Number(string? text, int least, int most) =>
            int.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            && least <= number
            && number <= most
                ? number
                : null;
        if (Number(EveryMonths, 1, 12) is not { } months)
            return null;
        var rule = new RecurrenceRule { Frequency = Frequency.Monthly, Interval = months };
        return Nth == ByDay
            ? Number(MonthDay, 1, 31) is { } day
                ? rule with
                {
                    MonthDays = [day],
                }
                : null
            : Number(Nth, -1, 4) is { } place and not 0 && Number(NthDay, 1, 7) is { } weekday
                ? rule with
                {
                    Days = [new WeekdayPlace(place, (IsoDayOfWeek)weekday)],
                }
                : null;
    }
}
