using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>
/// Says in plain sentences what a plan makes true, before it is saved.
/// </summary>
/// <example>
/// "Tidepool Biology 9A meets Mon, Wed and Fri in period 3, 9:50–10:40, 14 Sep to 18 Dec: 38 sessions, 31 h 40; leaves
/// out 4 no-class days."
/// </example>
public static class SayBack
{
    /// <summary>
    /// "9:50–10:40", "all day", or by both clocks where the series goes by another: "8:30–9:15 (9:00–9:45 in St Johns)", with the
    /// weekday there where it is another one.
    /// </summary>
    public static string Span(Session session) =>
        session.IsAllDay
            ? Period.DaysBetween(session.Start.Date, session.End.Date) is > 1 and var days
                ? $"all day, {days} days to {Wording.WithWeekday(session.Start.Date.PlusDays(days - 1))}"
                : "all day"
            : session.EndAtSchool.Date != session.Day && session.School is null
                ? $"{Wording.Of(session.Start.TimeOfDay)} to {Wording.WithWeekday(session.End.Date)}, {Wording.Of(session.End.TimeOfDay)}"
                : session.School is null
                    ? Wording.Span(session.Start.TimeOfDay, session.End.TimeOfDay)
                    : $"{Wording.Span(session.StartAtSchool.TimeOfDay, session.EndAtSchool.TimeOfDay)} ({(session.Day == session.Start.Date ? "" : Wording.Brief(session.Start.DayOfWeek) + " ")}{Wording.Span(session.Start.TimeOfDay, session.End.TimeOfDay)} in {Wording.Place(session.Of.Pattern.Zone)})";

    /// <summary>The pattern alone, to follow the word "meets": "Mon and Wed in period 3, 9:50–10:40".</summary>
    /// <example>
    /// <code>
    /// var repeat = Repeat.Weekly([IsoDayOfWeek.Monday, IsoDayOfWeek.Wednesday], 1, IsoDayOfWeek.Monday);
    /// var pattern = new MeetingPattern(repeat, new SessionTime.InPeriod("1"), zone, term.First, new Extent.WithTerm(term.Id));
    /// SayBack.When(pattern, school) // Mon and Wed in period 1, 8:00–8:50
    /// </code>
    /// </example>
    public static string When(MeetingPattern pattern, SchoolTime school)
    {
        var often = Often(pattern);
        if (pattern.Time is SessionTime.AllDay)
            return $"{often}, {Of(pattern.Time)}";
        if (pattern.Time is SessionTime.Clock { Nights: > 0 })
            return $"{often}, {Of(pattern.Time)}";
        if (pattern.Time.On(school.Bells) is not var (start, minutes))
            return $"{often}, at a time that the bells no longer have";
        var end = start.PlusMinutes(minutes);
        var at = pattern.Time is SessionTime.InPeriod named
            ? $" in period {named.Period}, {Wording.Span(start, end)}"
            : $", {Wording.Span(start, end)}";
        return often + at + Zone(pattern, school, start, end);
    }

    /// <summary>A time of day in words: "9:00–9:50", "period 3", "all day".</summary>
    /// <example>
    /// <code>
    /// SayBack.Of(new SessionTime.Clock(new LocalTime(9, 0), new LocalTime(9, 50))) // 9:00–9:50
    /// SayBack.Of(new SessionTime.InPeriod("3")) // period 3
    /// </code>
    /// </example>
    public static string Of(SessionTime time) =>
        time switch
        {
            SessionTime.Clock { Nights: > 0 } clock =>
                $"{Wording.Of(clock.Start)} to {Wording.Of(clock.End)} {(clock.Nights == 1 ? "the next day" : $"{clock.Nights} days later")}",
            SessionTime.Clock clock => Wording.Span(clock.Start, clock.End),
            SessionTime.InPeriod named => $"period {named.Period}",
            SessionTime.AllDay { Days: > 1 and var days } => $"all day for {days} days",
            _ => "all day",
        };

    /// <summary>A time as a form shows it, to be read back as the same.</summary>
    public static string Typed(SessionTime time) =>
        time switch
        {
            SessionTime.Clock { Nights: > 0 } clock =>
                $"{Wording.Typed(clock.Start)} to {Wording.Typed(clock.End)} {(clock.Nights == 1 ? "the next day" : $"{clock.Nights} days later")}",
            SessionTime.Clock clock => Wording.Typed(clock.Start, clock.End),
            _ => Of(time),
        };

    /// <summary>The whole sentence, the calendar named where its title is another.</summary>
    public static string Sentence(Plan plan, SchoolTime school, string calendarTitle)
    {
        var series = plan.Of;
        var on = series.Title == calendarTitle ? "" : $" on {calendarTitle}";
        if (plan.HeldCount == 0)
            return $"{series.Title} would have no session{on}: {NoSession(plan)}";
        var held = plan.Held.ToList();
        var span =
            series.Pattern.IsOnce ? ""
            : held.Count == 1 ? $", once, on {Day(held[0].Start.Date, school)}"
            : $", {Day(held[0].Start.Date, school)} to {Day(held[^1].Start.Date, school)}";
        var length = plan.Minutes == 0 ? "" : $", {Wording.Amount(plan.Minutes)}";
        var sentence =
            $"{series.Title}{on} meets {When(series.Pattern, school)}{span}: {Wording.Count(plan.HeldCount, "session", "sessions")}{length}";
        if (series.NumberLabel.Length > 0)
            sentence +=
                $", numbered {series.NumberLabel} {held[0].Number}{(held.Count == 1 ? "" : $" to {held[^1].Number}")}";
        return Whole([sentence, .. Exceptions(plan)]);
    }

    /// <summary>Where the first session is not on the stated day, why; else null.</summary>
    public static string? LaterStart(Plan plan) =>
        plan.StartsLaterThanStated
            ? $"{Wording.WithWeekday(plan.Of.Pattern.From)} is not one of its days, so it starts on {Wording.WithWeekday(plan.First!.Value)}."
            : null;

    private static string Whole(IReadOnlyList<string> parts) => string.Join("; ", parts) + ".";

    private static IEnumerable<string> Exceptions(Plan plan)
    {
        var without = plan.LeftOut.Count(session =>
            !session.IsExtra && plan.Of.Pattern.Without.Contains(session.Planned)
        );
        var leftOut = plan.LeftOut.Count() - without;
        if (without > 0)
            yield return $"leaves out {Wording.Count(without, "date", "dates")}";
        if (leftOut > 0)
            yield return $"leaves out {Wording.Count(leftOut, "no-class day", "no-class days")}";
        var pushed = plan.Held.Count(session => session.Change?.Day is null && session.Start.Date != session.Planned);
        if (pushed > 0)
            yield return $"moves {Wording.Count(pushed, "session", "sessions")} off no-class days to the next class day";
        if (!plan.Of.Pattern.Extra.IsEmpty)
            yield return $"with {Wording.Count(plan.Of.Pattern.Extra.Length, "extra session", "extra sessions")}";
        var cancelled = plan.Cancelled.Count();
        if (cancelled > 0)
            yield return $"{cancelled} cancelled";
        var moved = plan.Held.Count(session => session.Change is { Day: not null } or { Time: not null });
        if (moved > 0)
            yield return $"{moved} moved by hand";
        if (plan.Of.Pattern is { Extent: Extent.Open, Repeat: not Repeat.OnDates })
            yield return "it has no end and goes on with the school's terms";
    }

    private static string Often(MeetingPattern pattern)
    {
        switch (pattern.Repeat)
        {
            case Repeat.OnCycleDays cycle:
                return $"on {(cycle.Names.Length == 1 ? "Day" : "Days")} {Wording.List(cycle.Names)} of the cycle";
            case Repeat.OnDates { Dates: [var only] }:
                return $"once, on {Wording.WithWeekday(only)}";
            case Repeat.OnDates listed:
                return $"on {listed.Dates.Length} listed dates";
            case Repeat.ByRule { Rule: var rule } when pattern.Repeat.WeeklyDays is { IsEmpty: false } weekdays:
                var days = weekdays.Length == 7 ? "every day" : Wording.List([.. weekdays.Select(Wording.Brief)]);
                return rule.Interval switch
                {
                    1 => days,
                    2 => $"every other week on {days}",
                    var weeks => $"every {Wording.Ordinal(weeks)} week on {days}",
                };
            case Repeat.ByRule { Rule: var rule }:
                return RuleSentence.WithoutEnd(rule, RecurrenceStart.OnDay(pattern.From));
            default:
                return "";
        }
    }

    // Both clocks, where the series goes by another than the school's: told for its first day.
    private static string Zone(MeetingPattern pattern, SchoolTime school, LocalTime start, LocalTime end)
    {
        if (pattern.Zone.Equals(school.Zone))
            return "";
        LocalTime Here(LocalTime time) =>
            WallClock.InstantOf(pattern.From + time, pattern.Zone).InZone(school.Zone).TimeOfDay;
        return $" ({pattern.Zone.Id} time; {Wording.Span(Here(start), Here(end))} at school)";
    }

    private static string NoSession(Plan plan) =>
        plan.Sessions.IsEmpty ? "no such day lies between its start and its end."
        : plan.LeftOut.Any() ? "every day it meets on is a no-class day."
        : "every session of it is cancelled.";

    // The year is said only where the term's year would not settle it.
    private static string Day(LocalDate day, SchoolTime school) =>
        school.TermOn(day) is null ? Wording.WithYear(day) : Wording.Brief(day);
}
