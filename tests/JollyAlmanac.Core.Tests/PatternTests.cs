using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Patterns, policies, changes and scopes. The dates are those of the invented school, counted by hand on its calendar.</summary>
public class PatternTests
{
    private static readonly LocalDate TermStart = new(2026, 9, 14);

    private static readonly Extent Term = new Extent.WithTerm(Skerry.Autumn.Id);

    private static readonly SessionTime Third = new SessionTime.InPeriod("3");

    [Fact]
    public void Cycle_days_rotate_over_class_days_only()
    {
        var plan = Skerry.Plan(
            new MeetingPattern(
                new Repeat.OnCycleDays(["2", "5"]),
                Third,
                Skerry.Halifax,
                new LocalDate(2026, 10, 1),
                new Extent.Until(new LocalDate(2026, 10, 16))
            )
        );
        // 8 Sep is Day 1; 17 class days later 1 Oct is Day 6, 2 Oct Day 1, 5 Oct Day 2; Thanksgiving, 12 Oct, uses none up.
        Assert.Equal(
            ["2026-10-05", "2026-10-08", "2026-10-14"],
            plan.Held.Select(session => $"{session.Start.Date:uuuu-MM-dd}")
        );
    }

    [Theory]
    [InlineData(NoClassPolicy.LeaveOut, "5 19 26", 1)]
    [InlineData(NoClassPolicy.MeetAnyway, "5 12 19 26", 0)]
    [InlineData(NoClassPolicy.NextClassDay, "5 13 19 26", 0)]
    public void A_no_class_day_leaves_out_keeps_or_moves(NoClassPolicy policy, string days, int leftOut)
    {
        var plan = Skerry.Plan(
            Skerry.Pattern("Mon", Third, new LocalDate(2026, 10, 1), new Extent.Until(new LocalDate(2026, 10, 31))) with
            {
                NoClass = policy,
            }
        );
        Assert.Equal(days, string.Join(' ', plan.Held.Select(session => session.Start.Day)));
        Assert.Equal(leftOut, plan.LeftOut.Count());
    }

    [Fact]
    public void The_next_class_day_is_one_on_which_the_series_does_not_meet_already()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Mon Tue",
                Third,
                new LocalDate(2026, 10, 12),
                new Extent.Until(new LocalDate(2026, 10, 16))
            ) with
            {
                NoClass = NoClassPolicy.NextClassDay,
            }
        );
        Assert.Equal("13 14", string.Join(' ', plan.Held.Select(session => session.Start.Day)));
        // Two no-class days in a row push their sessions onto two days.
        var two = Skerry.Plan(
            Skerry.Pattern(
                "Thu Fri",
                Third,
                new LocalDate(2026, 10, 22),
                new Extent.Until(new LocalDate(2026, 10, 23))
            ) with
            {
                NoClass = NoClassPolicy.NextClassDay,
            }
        );
        Assert.Equal("26 27", string.Join(' ', two.Held.Select(session => session.Start.Day)));
    }

    [Fact]
    public void A_shortened_day_moves_period_times_but_not_clock_times_and_keeps_the_original_start()
    {
        var school = new SchoolTime(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Autumn],
            [],
            Skerry.Bells,
            null,
            [new BellSchedule("Short bells", [new("3", Skerry.At(9, 10), Skerry.At(9, 45))])],
            [new ShortenedDay(new LocalDate(2026, 9, 25), "Short bells")]
        );
        Session On(SessionTime time) =>
            Skerry
                .Plan(Skerry.Pattern("Fri", time, TermStart, Term), school)
                .Sessions.Single(one => one.Original.Date == new LocalDate(2026, 9, 25));
        var inPeriod = On(Third);
        Assert.Equal(
            ("9:10–9:45", 35, Skerry.At(9, 50)),
            (SayBack.Span(inPeriod), inPeriod.Minutes, inPeriod.Original.TimeOfDay)
        );
        Assert.Equal("9:50–10:40", SayBack.Span(On(Skerry.Clock(9, 50, 10, 40))));
        Assert.Equal("no period 4 on Short bells", On(new SessionTime.InPeriod("4")).LeftOut?.Name);
    }

    [Fact]
    public void Extra_sessions_are_numbered_in_order_and_numbers_have_a_label()
    {
        var pattern = Skerry.Pattern("Mon", Third, TermStart, new Extent.Held(3)) with
        {
            Extra =
            [
                new ExtraSession(
                    new LocalDate(2026, 9, 19),
                    Skerry.Clock(10, 0, 11, 0),
                    new LocalDateTime(2026, 9, 19, 10, 0, 1)
                ),
            ],
        };
        var plan = Planner.PlanOf(Skerry.Series(pattern) with { NumberLabel = "Review", FirstNumber = 4 }, Skerry.Time);
        Assert.Equal(
            "14:4 19:5 21:6 28:7",
            string.Join(' ', plan.Held.Select(session => $"{session.Start.Day}:{session.Number}"))
        );
        Assert.Equal("Tidepool Biology 9A: Review 5", plan.Sessions[1].Title);
    }

    [Fact]
    public void A_single_event_an_all_day_entry_and_an_open_end_are_planned_and_said()
    {
        var once = Skerry.Plan(
            new MeetingPattern(
                new Repeat.OnDates([new LocalDate(2026, 11, 5)]),
                Skerry.Clock(18, 30, 19, 30),
                Skerry.Halifax,
                new LocalDate(2026, 11, 5),
                new Extent.Open()
            )
        );
        Assert.Equal(
            "Tidepool Biology 9A meets once, on Thu 5 Nov, 18:30–19:30: 1 session, 1 h.",
            SayBack.Sentence(once, Skerry.Time, "Tidepool Biology 9A")
        );
        var allDay = Skerry.Plan(
            Skerry.Pattern(
                "Mon Tue Wed Thu Fri",
                new SessionTime.AllDay(),
                TermStart,
                new Extent.Until(new LocalDate(2026, 9, 18))
            )
        );
        Assert.Equal(
            "Tidepool Biology 9A meets Mon, Tue, Wed, Thu and Fri, all day, 14 Sep to 18 Sep: 5 sessions.",
            SayBack.Sentence(allDay, Skerry.Time, "Tidepool Biology 9A")
        );
        var open = Skerry.Plan(Skerry.Pattern("Mon", Third, TermStart, new Extent.Open()));
        Assert.Contains(
            "it has no end",
            SayBack.Sentence(open, Skerry.Time, "Tidepool Biology 9A"),
            StringComparison.Ordinal
        );
        Assert.Equal(new LocalDate(2027, 9, 13), open.Sessions[^1].Start.Date);
    }

    [Fact]
    public void Rules_of_months_and_years_are_school_patterns_too()
    {
        var plan = Skerry.Plan(Skerry.Rule("FREQ=MONTHLY;BYDAY=1MO", Third, TermStart, Term));
        Assert.Equal(
            "5 Oct, 2 Nov, 7 Dec",
            string.Join(", ", plan.Held.Select(session => Wording.Brief(session.Start.Date)))
        );
        Assert.Equal(
            "every month on the first Monday of the month in period 3, 9:50–10:40",
            SayBack.When(plan.Of.Pattern, Skerry.Time)
        );
    }

    // St. John's is half an hour ahead of Halifax (IANA tzdb).
    [Fact]
    public void A_series_by_another_clock_is_told_in_both()
    {
        var pattern = Skerry.Pattern("Mon", Skerry.Clock(9, 0, 9, 45), TermStart, new Extent.Held(1)) with
        {
            Zone = DateTimeZoneProviders.Tzdb["America/St_Johns"],
        };
        Assert.Equal("8:30–9:15 (9:00–9:45 in St Johns)", SayBack.Span(Skerry.Plan(pattern).Held.Single()));
    }

    // One session: what is wanted of it | what the calendar shows from 5 to 16 Oct (days, a cancelled one in brackets).
    [Theory]
    [InlineData("cancel 7", "5 (7) 9 14 16")]
    [InlineData("move 7 to 8", "5 8 9 14 16")]
    [InlineData("move 9 to 12", "5 7 12 14 16")]
    [InlineData("hold 12", "5 7 9 12 14 16")]
    public void One_session_is_changed_without_touching_the_others(string wish, string days)
    {
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Mon Wed Fri",
                Third,
                new LocalDate(2026, 10, 5),
                new Extent.Until(new LocalDate(2026, 10, 16))
            )
        );
        var words = wish.Split(' ');
        var session = plan.Find(October(words[1]) + Skerry.At(9, 50))!;
        var edit = words[0] switch
        {
            "cancel" => new SessionEdit(Meets: false),
            "hold" => new SessionEdit(Meets: true),
            _ => new SessionEdit(Day: October(words[3])),
        };
        var altered = Planner.PlanOf(
            Alteration.Of(plan, session, edit, ChangeScope.This, Skerry.Time).Altered!.Kept!,
            Skerry.Time
        );
        Assert.Equal(
            days,
            string.Join(
                ' ',
                altered
                    .Sessions.Where(one => one.IsHeld || one.IsCancelled)
                    .Select(one => one.IsCancelled ? $"({one.Start.Day})" : $"{one.Start.Day}")
            )
        );
        // Undone by hand, nothing is left of it.
        var again = altered.Find(session.Original)!;
        var back = Alteration
            .Of(
                altered,
                again,
                words[0] switch
                {
                    "cancel" => new SessionEdit(Meets: true),
                    "hold" => new SessionEdit(Meets: false),
                    _ => new SessionEdit(Day: session.Original.Date),
                },
                ChangeScope.This,
                Skerry.Time
            )
            .Altered!.Kept!;
        if (words[0] != "hold")
            Assert.Empty(back.Changes);
    }

    [Fact]
    public void This_and_later_ends_the_old_series_and_carries_on_numbers_and_changes()
    {
        var pattern = Skerry.Pattern("Mon Wed Fri", Third, TermStart, new Extent.Held(20));
        var plan = Skerry.Plan(pattern);
        var noted = plan.Find(October("19") + Skerry.At(9, 50))!;
        plan = Planner.PlanOf(
            Alteration
                .Of(plan, noted, new SessionEdit(Note: "Bring boots."), ChangeScope.This, Skerry.Time)
                .Altered!.Kept!,
            Skerry.Time
        );
        var (altered, reason) = Alteration.Of(
            plan,
            plan.Find(October("14") + Skerry.At(9, 50))!,
            new SessionEdit(Time: new SessionTime.InPeriod("4")),
            ChangeScope.Later,
            Skerry.Time
        );
        Assert.Null(reason);
        var (head, tail) = (Planner.PlanOf(altered!.Kept!, Skerry.Time), Planner.PlanOf(altered.Split!, Skerry.Time));
        Assert.Equal((12, 8), (head.HeldCount, tail.HeldCount));
        Assert.Equal(
            (new LocalDate(2026, 10, 9), new LocalDate(2026, 10, 14)),
            (head.Held.Last().Start.Date, tail.Held.First().Start.Date)
        );
        Assert.Equal(Enumerable.Range(13, 8), tail.Held.Select(session => session.Number!.Value));
        Assert.Equal("Bring boots.", tail.Sessions.Single(session => session.Note.Length > 0).Note);
        Assert.Equal(("10:55–11:45", plan.Of.Id), (SayBack.Span(tail.Sessions[0]), altered.Split!.Follows));
    }

    [Theory]
    [InlineData("14", "15", "Mon Thu Fri", "15 16 19")]
    [InlineData("14", "13", "Mon Tue Fri", "13 16 19")]
    public void This_and_later_moves_a_weekday(string from, string to, string days, string first)
    {
        var plan = Skerry.Plan(Skerry.Pattern("Mon Wed Fri", Third, TermStart, Term));
        var altered = Alteration
            .Of(
                plan,
                plan.Find(October(from) + Skerry.At(9, 50))!,
                new SessionEdit(Day: October(to)),
                ChangeScope.Later,
                Skerry.Time
            )
            .Altered!;
        Assert.Equal(days, string.Join(' ', altered.Split!.Pattern.Repeat.WeeklyDays.Select(Wording.Brief)));
        Assert.Equal(
            first,
            string.Join(
                ' ',
                Planner.PlanOf(altered.Split, Skerry.Time).Held.Take(3).Select(session => session.Start.Day)
            )
        );
        Assert.Equal(9, Planner.PlanOf(altered.Kept!, Skerry.Time).Held.Last().Start.Day);
    }

    [Fact]
    public void Every_session_moves_with_what_hangs_on_it()
    {
        var plan = Skerry.Plan(Skerry.Pattern("Mon Wed Fri", Third, TermStart, Term));
        var wednesday = plan.Find(October("14") + Skerry.At(9, 50))!;
        plan = Planner.PlanOf(
            Alteration
                .Of(plan, wednesday, new SessionEdit(Note: "Boots"), ChangeScope.This, Skerry.Time)
                .Altered!.Kept!,
            Skerry.Time
        );
        var every = Alteration
            .Of(
                plan,
                plan.Find(October("21") + Skerry.At(9, 50))!,
                new SessionEdit(Day: October("20")),
                ChangeScope.Every,
                Skerry.Time
            )
            .Altered!;
        var after = Planner.PlanOf(every.Kept!, Skerry.Time);
        Assert.Empty(after.Loose);
        Assert.Equal(13, after.Sessions.Single(session => session.Note == "Boots").Start.Day);
    }

    [Theory]
    [InlineData("14", "19", "Another week")]
    [InlineData("14", "16", "meets on Fri already")]
    public void What_cannot_be_done_to_several_is_refused_with_the_reason(string from, string to, string reason)
    {
        var plan = Skerry.Plan(Skerry.Pattern("Mon Wed Fri", Third, TermStart, Term));
        Assert.Contains(
            reason,
            Alteration
                .Of(
                    plan,
                    plan.Find(October(from) + Skerry.At(9, 50))!,
                    new SessionEdit(Day: October(to)),
                    ChangeScope.Every,
                    Skerry.Time
                )
                .Reason
        );
    }

    [Fact]
    public void A_change_survives_a_new_hour_and_is_loose_when_its_day_is_gone()
    {
        var plan = Skerry.Plan(Skerry.Pattern("Mon Wed Fri", Third, TermStart, Term));
        var changed = Alteration
            .Of(
                plan,
                plan.Find(October("14") + Skerry.At(9, 50))!,
                new SessionEdit(Title: "Barnacle day"),
                ChangeScope.This,
                Skerry.Time
            )
            .Altered!.Kept!;
        Series.Series With(MeetingPattern pattern) => changed with { Pattern = pattern };
        var later = Planner.PlanOf(With(changed.Pattern with { Time = Skerry.Clock(13, 0, 14, 0) }), Skerry.Time);
        Assert.Equal("Barnacle day", later.Sessions.Single(session => session.Original.Date == October("14")).Title);
        Assert.Empty(later.Loose);
        var without = Planner.PlanOf(With(Skerry.Pattern("Mon Fri", Third, TermStart, Term)), Skerry.Time);
        Assert.Equal("Barnacle day", Assert.Single(without.Loose).Title);
        Assert.Equal(
            "1 change loses its session and will be listed as loose",
            Consequences.Between([later], [without]).InWords[^54..]
        );
    }

    private static LocalDate October(string day) =>
        new(2026, 10, int.Parse(day, System.Globalization.CultureInfo.InvariantCulture));

    // A week off from its Tuesday: the session finds the Tuesday after, which is the seventh day, and none beyond.
    [Theory]
    [InlineData(19, new[] { 6, 20 })]
    [InlineData(20, new[] { 6 })]
    public void One_that_moves_goes_a_week_at_most(int lastOff, int[] days)
    {
        var off = new NoClassDay(
            new LocalDate(2026, 10, 13),
            new LocalDate(2026, 10, lastOff),
            "Storm",
            NoClassKind.Weather
        );
        var time = new SchoolTime(Skerry.Halifax, IsoDayOfWeek.Monday, [Skerry.Autumn], [off], Skerry.Bells);
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Tue",
                Skerry.Clock(9, 0, 9, 45),
                new LocalDate(2026, 10, 6),
                new Extent.Until(new LocalDate(2026, 10, 13))
            ) with
            {
                NoClass = NoClassPolicy.NextClassDay,
            },
            time
        );
        Assert.Equal(days, plan.Held.Select(session => session.Day.Day));
    }

    [Fact]
    public void One_that_a_no_class_day_takes_out_meets_where_somebody_moves_it_to()
    {
        var pattern = Skerry.Pattern(
            "Mon",
            Third,
            new LocalDate(2026, 10, 12),
            new Extent.Until(new LocalDate(2026, 10, 12))
        );
        Assert.Equal(0, Skerry.Plan(pattern).HeldCount);
        var moved = Skerry.Series(pattern) with
        {
            Changes = [new Change(new LocalDateTime(2026, 10, 12, 9, 50)) { Day = new LocalDate(2026, 10, 13) }],
        };
        Assert.Equal(new LocalDate(2026, 10, 13), Planner.PlanOf(moved, Skerry.Time).Held.Single().Day);
    }

    [Fact]
    public void One_that_only_ends_later_counts_as_moved()
    {
        Plan Until(int minute) =>
            Skerry.Plan(
                Skerry.Pattern(
                    "Mon",
                    Skerry.Clock(9, 50, 10, minute),
                    new LocalDate(2026, 9, 14),
                    new Extent.WithTerm(Skerry.Autumn.Id)
                )
            );
        var (before, after) = (Until(40), Until(45));
        Assert.Equal(before.HeldCount, Consequences.Between([before], [after]).Moved.Length);
        // The same where the bells ring later: period 3 ends at 10:45 then.
        var later = new BellSchedule(
            "Later",
            [
                .. Skerry.Bells.Periods.Select(period =>
                    period.Name == "3" ? period with { End = Skerry.At(10, 45) } : period
                ),
            ]
        );
        var time = new SchoolTime(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Spring, Skerry.Autumn],
            Skerry.NoClass,
            later,
            Skerry.Time.Cycle
        );
        var series = Skerry.Series(
            Skerry.Pattern("Mon", Third, new LocalDate(2026, 9, 14), new Extent.WithTerm(Skerry.Autumn.Id))
        );
        Assert.Single(SchoolTimeEffect.Between(Skerry.Time, time, [series]).Series);
    }
}
