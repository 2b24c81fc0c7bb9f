using System.Text;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

public sealed class FeedTests : IDisposable
{
    private readonly TestSchool school = new();

    [Theory]
    [InlineData(AccessLevel.Full)]
    [InlineData(AccessLevel.Outline)]
    [InlineData(AccessLevel.Busy)]
    public void An_independent_reader_finds_the_sessions_of_the_term_sheet(AccessLevel level)
    {
        school.Add(
            materials: new MaterialInput(Address: "https://tides.skerry.example", ForSession: "2026-10-14T09:50:00")
        );
        school.Add(
            TestSchool.Good with
            {
                Title = "Lab",
                Days = ["2"],
                EveryWeeks = "2",
                Period = "",
                Start = "13:00",
                End = "14:15",
                Link = "",
                Extent = "held",
                Held = "7",
            }
        );
        school.Add(TestSchool.Good with { Title = "Once", Days = ["4"], Link = "", Extent = "held", Held = "1" });
        var sheet = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, new TermId(1))!.Sheet!;
        var expected = sheet
            .Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions)
            .Select(shown => (shown.Session.StartsAt, shown.Session.EndsAt))
            .Order()
            .ToList();
        Assert.Equal(expected, Read(Feed(level)));
    }

    // RFC 5545 §3.6: a calendar has at least one component; a feed of nothing has its zone.
    [Fact]
    public void A_feed_in_which_nothing_meets_is_a_whole_document()
    {
        var empty = Feed(AccessLevel.Full);
        var zone = Assert.Single(Assert.Single(ICalendarReader.Read(Encoding.UTF8.GetBytes(empty)).Calendars).Parts);
        Assert.Equal(("VTIMEZONE", "America/Halifax"), (zone.Name, zone.Find("TZID")?.Value));
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Encoding.UTF8.GetBytes(empty))));
        Assert.Empty(Occurrences(empty));
    }

    // Ical.Net 5.2.4 reads what we write: whatever the pattern and the changes, it must find what the planner planned.
    [Property(MaxTest = 300)]
    public Property Whatever_the_pattern_an_independent_reader_finds_what_was_planned() =>
        Prop.ForAll(AllSeries(), series =>
        {
            string Say(IEnumerable<LocalDateTime> times) =>
                string.Join(' ', times.Distinct().Order().Select(time => time.ToString("MM-dd'T'HH:mm", null)));
            var time = SchoolTimeOf(series.Pattern.Zone);
            var plan = Planner.PlanOf(series, time);
            if (plan.Sessions.Length == 0)
                return true;
            var text = TextOf(plan, time);
            // A cancelled one at the moment of a held one hides it from this reader, which takes both for one.
            if (plan.Cancelled.Any(gone => plan.Held.Any(held => held.StartsAt == gone.StartsAt)))
                return true;
            // All-day entries are dates; no zone turns them into instants. Two sessions moved to one moment are one to this reader.
            var (planned, found) =
                series.Pattern.Time is SessionTime.AllDay
                    ? (
                        Say(plan.Held.Select(session => session.Start)),
                        Say(Occurrences(text).Select(one => LocalDateTime.FromDateTime(one.Period.StartTime.Value)))
                    )
                    : (
                        Say(plan.Held.SelectMany(session => Both(session.StartsAt, session.EndsAt))),
                        Say(Read(text).SelectMany(one => Both(one.Item1, one.Item2)))
                    );
            Assert.Equal(planned, found);
            return true;
            IEnumerable<LocalDateTime> Both(Instant start, Instant end) =>
                [start.InUtc().LocalDateTime, end.InUtc().LocalDateTime];
        });

    // RFC 5545 §3.8.4.4 (RECURRENCE-ID), §3.8.1.11 (STATUS), §3.8.4.5 (RELATED-TO).
    [Fact]
    public void Changes_are_told_as_components_of_their_own_and_a_split_by_a_new_UID()
    {
        var series = school.Add();
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        school.Change(series, "2026-10-21T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20", "4")));
        school.Change(
            series,
            "2026-10-26T09:50",
            new SessionInput("tell", Title: "Barnacle day", Note: "Bring boots.")
        );
        school.Change(
            series,
            "2026-11-02T09:50",
            new SessionInput("move", new SessionTimeInput(Period: "4"), Scope: "later")
        );
        var token = Make(AccessLevel.Full);
        string[] Lines() => Unfold(school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Text!);
        var lines = Lines();
        foreach (
            var line in new[]
            {
                "RECURRENCE-ID;TZID=America/Halifax:20261016T095000",
                "STATUS:CANCELLED",
                "RECURRENCE-ID;TZID=America/Halifax:20261021T095000",
                "DTSTART;TZID=America/Halifax:20261020T105500",
                "SUMMARY:Barnacle day",
                $"RELATED-TO;RELTYPE=SIBLING:{series.Uid}",
                "DTSTART;TZID=America/Halifax:20261102T105500",
            }
        )
            Assert.Contains(line, lines);
        Assert.Equal(2, lines.Where(line => line.StartsWith("UID:", StringComparison.Ordinal)).Distinct().Count());
        Assert.Contains("SEQUENCE:5", lines);
        var expected = school
            .TermSheetQuery.Read(school.Teacher, TestSchool.Slug, new TermId(1))!
            .Sheet!.Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions)
            .Where(shown => shown.Session.IsHeld)
            .Select(shown => (shown.Session.StartsAt, shown.Session.EndsAt))
            .Order();
        Assert.Equal(expected, Read(string.Join("\r\n", lines)));
        // Busy tells no one that something was cancelled.
        Assert.DoesNotContain("STATUS:CANCELLED", Unfold(Feed(AccessLevel.Busy)));
        Assert.Equal(expected, Read(Feed(AccessLevel.Busy)));
    }

    [Fact]
    public void A_full_feed_says_all_that_RFC_5545_and_7986_ask_for()
    {
        school.Add(materials: new MaterialInput([Pdf()], "Field sheet, with ; and \\"));
        var lines = Unfold(Feed(AccessLevel.Full));
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Code;
        foreach (
            var line in new[]
            {
                "VERSION:2.0",
                "NAME:Tidepool Biology 9A",
                "X-WR-CALNAME:Tidepool Biology 9A",
                "REFRESH-INTERVAL;VALUE=DURATION:PT1H",
                "X-PUBLISHED-TTL:PT1H",
                "DTSTART;TZID=America/Halifax:20260914T095000",
                "DTEND;TZID=America/Halifax:20260914T104000",
                "SEQUENCE:1",
                "RRULE:FREQ=WEEKLY;UNTIL=20261219T035959Z;BYDAY=MO,WE,FR",
                "EXDATE;TZID=America/Halifax:20261012T095000,20261023T095000",
                "SUMMARY:Tidepool Biology 9A",
                "LOCATION:Tide Room",
                $"URL;VALUE=URI:https://almanac.example/in/{code}",
                // RFC 7986 §5.5 and §5.11.
                "URL;VALUE=URI:https://almanac.example/c/tidepool-biology-9a",
                $"CONFERENCE;VALUE=URI;FEATURE=VIDEO;LABEL=Join:https://almanac.example/in/{code}",
                "CATEGORIES:Tidepool Biology 9A",
                "COLOR:darkgreen",
            }
        )
            Assert.Contains(line, lines);
        foreach (var name in new[] { "PRODID", "UID", "DTSTAMP", "LAST-MODIFIED", "CREATED", "ATTACH", "DESCRIPTION" })
            Assert.Contains(lines, line => line.StartsWith(name, StringComparison.Ordinal));
        Assert.Contains(lines, line =>
            line.StartsWith("DESCRIPTION:Bring boots.\\nJoin: https://almanac.example/in/", StringComparison.Ordinal)
            && line.Contains("Field sheet\\, with \\; and \\\\: https://almanac.example/m/", StringComparison.Ordinal)
        );
        Assert.DoesNotContain(lines, line =>
            line.Contains("rooms.skerry.example", StringComparison.Ordinal)
            || line.Contains("kelp", StringComparison.Ordinal)
        );
    }

    // What the class is about, for those alone who may read descriptions.
    [Fact]
    public void A_feed_says_what_its_calendar_is_about_where_it_may()
    {
        school.Add();
        school.Execute("update calendars set description = 'About the rocks.'");
        foreach (
            var (level, descriptions, told) in new[]
            {
                (AccessLevel.Full, true, true),
                (AccessLevel.Full, false, false),
                (AccessLevel.Outline, true, false),
                (AccessLevel.Busy, true, false),
            }
        )
        {
            var token = TestSchool
                .Done(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        PublicationKind.Feed,
                        new PublicationInput("A feed", level, descriptions, true, true)
                    )
                )
                .Token;
            Assert.Equal(
                told,
                school
                    .ReadFeed.Do(token, TestSchool.Root, _ => false)!
                    .Text!.Contains(
                        "\r\nDESCRIPTION:About the rocks.\r\nX-WR-CALDESC:About the rocks.\r\n",
                        StringComparison.Ordinal
                    )
            );
        }
    }

    [Fact]
    public void A_busy_feed_gives_nothing_away()
    {
        school.Add(materials: new MaterialInput([Pdf()]));
        var lines = Unfold(Feed(AccessLevel.Busy));
        Assert.Contains("SUMMARY:Busy", lines);
        Assert.DoesNotContain(lines, line =>
            line.StartsWith("LOCATION", StringComparison.Ordinal)
            || line.StartsWith("DESCRIPTION", StringComparison.Ordinal)
            || line.StartsWith("URL", StringComparison.Ordinal)
            || line.StartsWith("ATTACH", StringComparison.Ordinal)
            || line.StartsWith("CATEGORIES", StringComparison.Ordinal)
        );
    }

    // RFC 5545 §3.1: CRLF, at most 75 octets a line, and "a long line can be split between any two characters".
    [Fact]
    public void Lines_are_folded_at_75_octets_and_no_character_is_cut()
    {
        var title = string.Concat(Enumerable.Repeat("🌊 مدّ é ", 22)).Trim();
        school.Add(TestSchool.Good with { Title = title });
        var text = Feed(AccessLevel.Full);
        Assert.EndsWith("END:VCALENDAR\r\n", text, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', text.Replace("\r\n", "", StringComparison.Ordinal));
        Assert.All(text.Split("\r\n"), line => Assert.InRange(Encoding.UTF8.GetByteCount(line), 0, 75));
        Assert.Equal(text, Encoding.UTF8.GetString(new UTF8Encoding(false, throwOnInvalidBytes: true).GetBytes(text)));
        Assert.Contains($"SUMMARY:{title}", Unfold(text));
        Assert.Equal(title, Ical.Net.Calendar.Load(text)!.Events[0]!.Summary);
    }

    [Theory]
    [InlineData("plain", "plain")]
    [InlineData("a,b;c\\d", "a\\,b\\;c\\\\d")]
    [InlineData("one\r\ntwo\nthree", "one\\ntwo\\nthree")]
    [InlineData("bell\u0007 tab\t", "bell tab\t")]
    public void Text_is_escaped_as_section_3_3_11_says(string value, string escaped) =>
        Assert.Equal(escaped, ContentLine.Text(value));

    // RFC 5545 §3.2: quotes around a colon, a semicolon or a comma; a quote or a control character nowhere.
    [Theory]
    [InlineData("plain", "plain")]
    [InlineData("Room: A", "\"Room: A\"")]
    [InlineData("a;b", "\"a;b\"")]
    [InlineData("a,b", "\"a,b\"")]
    [InlineData("a\"b\r\nATTENDEE:evil;c", "\"abATTENDEE:evil;c\"")]
    [InlineData("a\"b\r\nevil", "abevil")]
    public void A_parameter_cannot_break_out_of_its_line(string value, string written)
    {
        var line = new StringBuilder();
        new ContentLine("X", "v", ("CN", value)).WriteTo(line);
        Assert.Equal($"X;CN={written}:v\r\n", line.ToString());
    }

    [Fact]
    public void A_change_of_a_session_is_a_change_of_its_calendar()
    {
        var series = school.Add();
        school.Clock.AdvanceDays(1);
        school.Change(series, "2026-10-16T09:50", new SessionInput("tell", Note: "Bring boots."));
        var read = ICalendarReader.Read(Encoding.UTF8.GetBytes(Feed(AccessLevel.Full))).Calendars[0];
        Assert.Equal(
            school.Clock.GetCurrentInstant().ToString("uuuuMMdd'T'HHmmss'Z'", null),
            read.Find("LAST-MODIFIED")!.Value
        );
    }

    // Facts of the IANA data: how many stretches of one offset lie between 1 Sep and 30 Jun.
    [Theory]
    [InlineData("America/Halifax", 2026, 3)]
    [InlineData("Africa/Casablanca", 2024, 3)] // off during Ramadan, 23 Feb to 6 Apr 2025
    [InlineData("Europe/Dublin", 2026, 3)]
    [InlineData("Asia/Tokyo", 2026, 1)]
    public void A_zone_is_defined_for_the_dates_used(string id, int year, int observances)
    {
        var zone = DateTimeZoneProviders.Tzdb[id];
        var text = ZoneDefinition
            .Of(zone, Instant.FromUtc(year, 9, 1, 0, 0), Instant.FromUtc(year + 1, 6, 30, 0, 0))
            .ToString();
        Assert.Equal(
            observances,
            text.Split("DTSTART:").Length
                - 1
                + text.Split("\r\n")
                    .Where(line => line.StartsWith("RDATE", StringComparison.Ordinal))
                    .Sum(line => line.Split(',').Length)
        );
        var first = zone.GetZoneInterval(Instant.FromUtc(year, 9, 1, 0, 0));
        Assert.Contains($"TZNAME:{first.Name}\r\n", text, StringComparison.Ordinal);
    }

    [Fact]
    public void The_ETag_stays_while_nothing_changes_and_changes_with_everything_that_shows()
    {
        var series = school.Add();
        var token = Make(AccessLevel.Full);
        FeedAnswer Ask(string? has = null) => school.ReadFeed.Do(token, TestSchool.Root, etag => etag == has)!;
        var first = Ask();
        Assert.Equal(first.Text, Ask().Text);
        Assert.Null(Ask(first.ETag).Text);
        school.Clock.AdvanceMinutes(5);
        Assert.Equal(first.ETag, Ask().ETag);
        var seen = new HashSet<string> { first.ETag };
        Assert.True(
            seen.Add(
                After(() =>
                    TestSchool.Done(
                        school
                            .Compose.Save(
                                school.Teacher,
                                TestSchool.Slug,
                                series.Id,
                                TestSchool.FormOf(series) with
                                {
                                    Place = "Elsewhere",
                                },
                                MaterialInput.None
                            )
                            .Waited()
                    )
                )
            )
        );
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Code;
        Assert.True(
            seen.Add(
                After(() =>
                    TestSchool.Done(
                        school
                            .Links.Change(school.Teacher, code, new LinkInput("Room", "tide-room", Version: 1))
                            .Waited()
                    )
                )
            )
        );
        Assert.True(seen.Add(school.ReadFeed.Do(token, new Uri("https://other.example/"), _ => false)!.ETag));
        Assert.True(
            seen.Add(After(() => TestSchool.Done(school.TakeOff.Do(school.Teacher, TestSchool.Slug, series.Id, 2))))
        );
        // Of a feed without a session its page is the one address; of busy times there is none: the same bytes have the same ETag.
        Assert.True(seen.Add(school.ReadFeed.Do(token, new Uri("https://other.example/"), _ => false)!.ETag));
        var busy = Make(AccessLevel.Busy);
        Assert.Single(
            new[] { TestSchool.Root, new Uri("https://other.example/") }
                .Select(root => school.ReadFeed.Do(busy, root, _ => false)!.ETag)
                .Distinct()
        );
        Assert.True(Ask().LastModified > first.LastModified);

        string After(Action change)
        {
            school.Clock.AdvanceMinutes(1);
            change();
            return Ask(first.ETag).ETag;
        }
    }

    [Fact]
    public void SEQUENCE_rises_with_each_change()
    {
        var series = school.Add();
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    TestSchool.FormOf(series) with
                    {
                        Place = "Elsewhere",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        var lines = Unfold(Feed(AccessLevel.Full));
        Assert.Contains("SEQUENCE:2", lines);
        TestSchool.Done(
            school.SchoolTime.Do(school.Coordinator, time => new SchoolTime(
                time.Zone,
                time.FirstDayOfWeek,
                time.Terms,
                [],
                time.Bells,
                time.Cycle
            ))
        );
        Assert.Contains("SEQUENCE:3", Unfold(Feed(AccessLevel.Full)));
        Assert.Contains($"UID:{series.Uid}", lines);
    }

    public void Dispose() => school.Dispose();

    /// <summary>The feed of one series.</summary>
    internal static string TextOf(Plan plan, SchoolTime time)
    {
        ShownSession? Show(Session session) =>
            Redaction.Show(session, AccessLevel.Full, ShowChoices.Anyone, MaterialsAt.None, null);
        var calendar = new Calendar(
            new CalendarId(1),
            CalendarKind.Class,
            null,
            "Class",
            new Slug("class"),
            "",
            default,
            plan.Of.Pattern.Zone,
            new PersonId(1),
            1,
            1,
            default
        );
        return FeedDocument.Of(
            new FeedContent(
                "Class",
                calendar,
                1,
                default,
                [FeedEntry.Of(plan, time, session => Show(session)!, Show, _ => false, null)],
                TestSchool.Root
            )
        );
    }

    private FeedToken Make(AccessLevel level) =>
        (
            TestSchool
                .Done(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        PublicationKind.Feed,
                        new PublicationInput("For families", level, true, true, true)
                    )
                )
                .Token
        );

    private string Feed(AccessLevel level) => school.ReadFeed.Do(Make(level), TestSchool.Root, _ => false)!.Text!;

    private static IEnumerable<Ical.Net.DataTypes.Occurrence> Occurrences(string text) =>
        Ical
            .Net.Calendar.Load(text)!
            .GetOccurrences<Ical.Net.CalendarComponents.CalendarEvent>()
            .Take(2000)
            .Where(one => ((Ical.Net.CalendarComponents.CalendarEvent)one.Source).Status != "CANCELLED");

    private static List<(Instant, Instant)> Read(string text) =>
        [
            .. Occurrences(text)
                .Select(one =>
                    (
                        Instant.FromDateTimeUtc(one.Period.StartTime.AsUtc),
                        Instant.FromDateTimeUtc(one.Period.EffectiveEndTime!.AsUtc)
                    )
                )
                .Order(),
        ];

    internal static string[] Unfold(string text) =>
        text.Replace("\r\n ", "", StringComparison.Ordinal).Split("\r\n", StringSplitOptions.RemoveEmptyEntries);

    private static Upload Pdf() => new("Field sheet.pdf", 9, () => new MemoryStream("%PDF-1.7 "u8.ToArray()));

    // RFC 5545 §3.8.4.4: a RECURRENCE-ID belongs to a component that recurs. The second date is left out, the first one moved.
    [Fact]
    public void What_is_left_of_a_series_may_be_one_session_and_is_simply_when_it_is()
    {
        var series = school.Add(
            TestSchool.Good with
            {
                Meets = "dates",
                Days = null,
                Dates = "2026-10-14\n2026-10-22",
            }
        );
        school.Change(series, "2026-10-14T09:50", new SessionInput("move", new SessionTimeInput("2026-10-15", "4")));
        var lines = Unfold(Feed(AccessLevel.Full));
        Assert.DoesNotContain(lines, line => line.StartsWith("RECURRENCE-ID", StringComparison.Ordinal));
        Assert.Contains("DTSTART;TZID=America/Halifax:20261015T105500", lines);
    }

    internal static Arbitrary<Series> AllSeries() =>
        Arb.From(
            from repeat in Gen.Choose(0, 5)
            from days in Gen.NonEmptyListOf(Gen.Choose(1, 7))
            from every in Gen.Choose(1, 4)
            from zone in Gen.Elements(
                "America/Halifax",
                "America/St_Johns",
                "Europe/Dublin",
                "Australia/Lord_Howe",
                "Asia/Kathmandu",
                "Africa/Casablanca"
            )
            from time in Gen.Elements<SessionTime>(
                new SessionTime.InPeriod("1"),
                new SessionTime.InPeriod("3"),
                new SessionTime.Clock(new LocalTime(4, 5), new LocalTime(5, 0)),
                new SessionTime.Clock(new LocalTime(13, 0), new LocalTime(14, 15)),
                new SessionTime.AllDay()
            )
            from offset in Gen.Choose(-30, 90)
            from extent in Gen.Choose(0, 3)
            from size in Gen.Choose(1, 40)
            from policy in Gen.Elements(Enum.GetValues<NoClassPolicy>())
            from extra in Gen.ListOf(Gen.Choose(-10, 120))
            from label in Gen.Elements("", "", "Review")
            from picks in Gen.ListOf(Gen.Choose(0, 60))
            from kind in Gen.Choose(0, 4)
            select Changed(
                new Series(
                    new SeriesId(1),
                    new CalendarId(1),
                    "one@skerry.example",
                    "Class",
                    "",
                    "",
                    new MeetingPattern(
                        Repeated(repeat, [.. days.Select(day => (IsoDayOfWeek)day)], every, offset),
                        time,
                        DateTimeZoneProviders.Tzdb[zone],
                        TermStart.PlusDays(offset),
                        extent switch
                        {
                            0 => new Extent.WithTerm(new TermId(1)),
                            1 => new Extent.Held(size),
                            2 => new Extent.Until(TermStart.PlusDays(offset + size * 3)),
                            _ => new Extent.Until(TermStart.PlusDays(200)),
                        }
                    )
                    {
                        NoClass = policy,
                        Extra =
                        [
                            .. extra
                                .Distinct()
                                .Order()
                                .Select(day => new ExtraSession(
                                    TermStart.PlusDays(day),
                                    time is SessionTime.AllDay
                                        ? time
                                        : new SessionTime.Clock(new LocalTime(17, 30), new LocalTime(18, 0)),
                                    TermStart.PlusDays(day).At(new LocalTime(17, 30, 1))
                                )),
                        ],
                    },
                    null,
                    new PersonId(1),
                    1,
                    default,
                    default
                )
                {
                    NumberLabel = label,
                },
                picks,
                kind
            )
        );

    private static readonly LocalDate TermStart = new(2026, 9, 8);

    private static Repeat Repeated(int kind, IsoDayOfWeek[] days, int every, int offset) =>
        kind switch
        {
            0 or 1 => Repeat.Weekly(days, every, IsoDayOfWeek.Monday),
            2 => new Repeat.OnCycleDays(["2"]),
            3 => new Repeat.OnDates([
                .. days.Select(day => TermStart.PlusDays(offset + (int)day * 5)).Distinct().Order(),
            ]),
            4 => Rule($"FREQ=MONTHLY;BYDAY={every}{RecurrenceRule.NameOf(days[0])},-1FR"),
            _ => Rule($"FREQ=DAILY;INTERVAL={every}"),
        };

    private static Repeat.ByRule Rule(string text) => new(RuleText.Parse(text).Rule!);

    // What people do to single sessions: cancelled, moved by day or time, brought back, retitled; and a change that is loose.
    private static Series Changed(Series series, IEnumerable<int> picks, int kind)
    {
        var sessions = Planner.PlanOf(series, SchoolTimeOf(series.Pattern.Zone)).Sessions;
        if (sessions.IsEmpty)
            return series;
        var isAllDay = series.Pattern.Time is SessionTime.AllDay;
        var changes = picks
            .Select(pick => sessions[pick % sessions.Length])
            .DistinctBy(session => session.Original)
            .Select(
                (session, at) =>
                    ((at + kind) % 5) switch
                    {
                        0 => new Change(session.Original, SessionStatus.Cancelled),
                        1 => new Change(session.Original, Day: session.Original.Date.PlusDays(1)),
                        2 => new Change(session.Original, Title: "Another"),
                        3 when !isAllDay => new Change(
                            session.Original,
                            Time: new SessionTime.Clock(new LocalTime(19, 0), new LocalTime(19, 20))
                        ),
                        _ => new Change(session.Original, SessionStatus.Held, Note: "All the same"),
                    }
            );
        return series with
        {
            Changes =
            [
                .. changes
                    .Append(new Change(new LocalDateTime(2030, 1, 1, 9, 0), Note: "Loose"))
                    .OrderBy(change => change.Original),
            ],
        };
    }

    internal static SchoolTime SchoolTimeOf(DateTimeZone zone) =>
        new(
            zone,
            IsoDayOfWeek.Monday,
            [new Term(new TermId(1), "", "Autumn term", TermStart, new LocalDate(2026, 12, 18))],
            [
                new NoClassDay(TermStart, new LocalDate(2026, 9, 9), "Late start", NoClassKind.Weather),
                new NoClassDay(new LocalDate(2026, 10, 12), new LocalDate(2026, 10, 16), "Break", NoClassKind.Holiday),
            ],
            new BellSchedule(
                "Regular bells",
                [
                    new("1", new LocalTime(8, 0), new LocalTime(8, 50)),
                    new("3", new LocalTime(9, 50), new LocalTime(10, 40)),
                ]
            ),
            new DayCycle(["1", "2", "3"], TermStart),
            [new BellSchedule("Short bells", [new("1", new LocalTime(8, 0), new LocalTime(8, 35))])],
            [
                new ShortenedDay(new LocalDate(2026, 9, 25), "Short bells"),
                new ShortenedDay(new LocalDate(2026, 11, 3), "Short bells"),
            ]
        );
}
