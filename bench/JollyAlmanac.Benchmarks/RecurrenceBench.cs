using System.Diagnostics;
using System.Globalization;
using System.Text;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;
using RecurrenceRule = JollyAlmanac.Core.Recurrence.RecurrenceRule;

/// <summary>The recurrence engine beside Ical.Net, the same work in one run, best of many on one thread.</summary>
internal static class RecurrenceBench
{
    private static readonly DateTimeZone Halifax = DateTimeZoneProviders.Tzdb["America/Halifax"];

    private static readonly string[] Days = ["MO,WE,FR", "TU,TH", "MO", "TU,FR"];

    public static void Run()
    {
        var week = Parse("FREQ=WEEKLY;BYDAY=MO,WE,FR;UNTIL=20360914T110000Z");
        var start = RecurrenceStart.At(new LocalDateTime(2026, 9, 14, 8, 0), Halifax);
        var reference = new CalendarEvent
        {
            Start = new CalDateTime(2026, 9, 14, 8, 0, 0, "America/Halifax"),
            Duration = Ical.Net.DataTypes.Duration.FromMinutes(50),
            RecurrenceRule = new Ical.Net.DataTypes.RecurrenceRule("FREQ=WEEKLY;BYDAY=MO,WE,FR;UNTIL=20360914T110000Z"),
        };
        var ours = Best(400, () => Count(new RecurrenceSet(week, start).All()));
        var theirs = Best(20, () => reference.GetOccurrences().Count());
        Say("weekly MWF, 10 years, Halifax", ours);
        Say("  the same, Ical.Net 5.2.4", theirs);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {theirs.Milliseconds / ours.Milliseconds:0.0} times as fast; {ours.Result} and {theirs.Result} occurrences"
            )
        );
        foreach (var years in new[] { 3, 30 })
        {
            var from = new LocalDateTime(2026, 9, 7, 0, 0);
            List<RecurrenceSet> sets =
            [
                .. Enumerable
                    .Range(0, 400)
                    .Select(at => new RecurrenceSet(
                        Parse($"FREQ=WEEKLY;BYDAY={Days[at % Days.Length]}"),
                        RecurrenceStart.At(from.PlusYears(-years).PlusDays(at % 5).PlusHours(8 + at % 7), Halifax)
                    )),
            ];
            Say(
                $"400 series begun {years} years before, 16 weeks",
                Best(60, () => sets.Sum(set => Count(set.Between(from, from.PlusWeeks(16)))))
            );
        }

        var before = GC.GetAllocatedBytesForCurrentThread();
        var many = Count(new RecurrenceSet(week, start).All());
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  bytes allocated for {many} occurrences: {GC.GetAllocatedBytesForCurrentThread() - before}"
            )
        );
    }

    /// <summary>Planning a school year of 300 series with changes, and what an edit of the school's time does to them.</summary>
    public static void Plans()
    {
        var bells = new BellSchedule(
            "Regular bells",
            [
                .. Enumerable
                    .Range(0, 7)
                    .Select(at => new BellPeriod($"{at + 1}", new LocalTime(8 + at, 0), new LocalTime(8 + at, 50))),
            ]
        );
        NoClassDay Off(int month, int day) =>
            new(new LocalDate(2026, month, day), new LocalDate(2026, month, day), "Off", NoClassKind.Holiday);
        SchoolTime Time(params NoClassDay[] off) =>
            new(
                Halifax,
                IsoDayOfWeek.Monday,
                [
                    new Term(new TermId(1), "", "Autumn term", new LocalDate(2026, 9, 8), new LocalDate(2026, 12, 18)),
                    new Term(new TermId(2), "", "Spring term", new LocalDate(2027, 1, 4), new LocalDate(2027, 6, 25)),
                ],
                off,
                bells,
                new DayCycle(["1", "2", "3", "4", "5", "6"], new LocalDate(2026, 9, 8))
            );
        var time = Time(Off(10, 12), Off(11, 11));
        var from = new LocalDate(2026, 9, 8);
        List<Series> series =
        [
            .. Enumerable
                .Range(0, 300)
                .Select(at => new Series(
                    new SeriesId(at + 1),
                    new CalendarId(1),
                    $"{at}@skerry.example",
                    $"Class {at}",
                    "",
                    "",
                    new MeetingPattern(
                        at % 10 == 0
                            ? new Repeat.OnCycleDays(["2", "5"])
                            : Repeat.Weekly(
                                Days[at % Days.Length]
                                    .Split(',')
                                    .Select(day =>
                                        (IsoDayOfWeek)(Array.IndexOf(["MO", "TU", "WE", "TH", "FR"], day) + 1)
                                    ),
                                1,
                                IsoDayOfWeek.Monday
                            ),
                        new SessionTime.InPeriod($"{at % 7 + 1}"),
                        Halifax,
                        from,
                        at % 3 == 0 ? new Extent.Held(60) : new Extent.WithTerm(new TermId(2))
                    ),
                    null,
                    new PersonId(1),
                    1,
                    default,
                    default
                )
                {
                    Changes =
                    [
                        new Change(from.PlusDays(6 + at % 5) + new LocalTime(8 + at % 7, 0), SessionStatus.Cancelled),
                        new Change(from.PlusDays(20) + new LocalTime(9, 0), Note: "Boots"),
                    ],
                }),
        ];
        Say(
            "planning a school year of 300 series",
            Best(60, () => series.Sum(one => Planner.PlanOf(one, time).HeldCount))
        );
        var after = Time(Off(10, 12), Off(11, 11), Off(10, 26));
        Say(
            "what a new no-class day does to 300 series",
            Best(60, () => SchoolTimeEffect.Between(time, after, series).Series.Sum(one => one.What.Gone.Length))
        );
    }

    /// <summary>Reading a file of 300 events, each weekly with ten sessions changed, and all their sessions of a year.</summary>
    public static void Files()
    {
        var text = new StringBuilder("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//A//B//EN\r\n");
        for (var at = 0; at < 300; at++)
        {
            var head =
                $"BEGIN:VEVENT\r\nUID:{at}@skerry.example\r\nDTSTAMP:20260901T000000Z\r\nSUMMARY:Class {at}\r\nDESCRIPTION:Bring boots\\, and a pencil.\r\n";
            text.Append(
                CultureInfo.InvariantCulture,
                $"{head}DTSTART;TZID=America/Halifax:20260914T{8 + at % 7:00}0000\r\nDURATION:PT50M\r\nRRULE:FREQ=WEEKLY;COUNT=40\r\nEND:VEVENT\r\n"
            );
            for (var week = 1; week <= 10; week++)
            {
                var day = new LocalDate(2026, 9, 14).PlusWeeks(week);
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"{head}RECURRENCE-ID;TZID=America/Halifax:{day:uuuuMMdd}T{8 + at % 7:00}0000\r\nDTSTART;TZID=America/Halifax:{day.PlusDays(1):uuuuMMdd}T{8 + at % 7:00}0000\r\nDURATION:PT50M\r\nEND:VEVENT\r\n"
                );
            }
        }

        var file = text.Append("END:VCALENDAR\r\n").ToString();
        var bytes = Encoding.UTF8.GetBytes(file);
        var ours = Best(20, () => ICalendarSessions.Of(ICalendarReader.Read(bytes), null, null, null).Sessions.Count);
        var theirs = Best(3, () => Ical.Net.Calendar.Load(file)!.GetOccurrences<CalendarEvent>().Count());
        Say($"a file of 300 events, {bytes.Length / 1024} KB, with its sessions", ours);
        Say("  the same, Ical.Net 5.2.4", theirs);
    }

    private static RecurrenceRule Parse(string text) => RuleText.Parse(text).Rule!;

    // Looks at the instant, so that nothing is left undone.
    private static int Count(IEnumerable<JollyAlmanac.Core.Recurrence.Occurrence> occurrences)
    {
        var count = 0;
        foreach (var one in occurrences)
            if (one.At > Instant.MinValue)
                count++;
        return count;
    }

    private static (double Milliseconds, int Result) Best(int times, Func<int> work)
    {
        var (best, result) = (double.MaxValue, 0);
        for (var turn = 0; turn < times; turn++)
        {
            var started = Stopwatch.GetTimestamp();
            result = work();
            best = Math.Min(best, Stopwatch.GetElapsedTime(started).TotalMilliseconds);
        }

        return (best, result);
    }

    private static void Say(string what, (double Milliseconds, int Result) told) =>
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{what, -46}{told.Milliseconds, 9:0.000} ms best, {told.Result} occurrences"
            )
        );
}
