using System.Globalization;
using System.Text;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What a form, a file or a feed shows is read back as itself.</summary>
public sealed class FormRoundTripTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private static void Under(bool twelve, Action act)
    {
        var before = CultureInfo.CurrentCulture;
        CultureInfo.CurrentCulture = Wording.Culture(twelve);
        try
        {
            act();
        }
        finally
        {
            CultureInfo.CurrentCulture = before;
        }
    }

    // The largest unit that holds it whole.
    [Theory]
    [InlineData(1, "1 minutes")]
    [InlineData(60, "1 hours")]
    [InlineData(90, "90 minutes")]
    [InlineData(120, "2 hours")]
    [InlineData(1440, "1 days")]
    [InlineData(1500, "25 hours")]
    public void A_release_is_shown_in_the_unit_it_was_given_in(int minutes, string shown)
    {
        var material = new Material(
            default,
            default,
            null,
            null,
            MaterialKey.New(),
            "Tides",
            new MaterialContent.Link(new Uri("https://tides.skerry.example")),
            MaterialAudience.Anyone
        )
        {
            Release = new Release.WithSession(AfterEnd: true, minutes),
        };
        var input = ReleaseInput.Of(material);
        Assert.Equal(shown, $"{input.GiveAmount} {input.GiveUnit}");
    }

    // An early bell stays in the morning, however often the form is saved.
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void The_school_s_time_is_read_back_as_it_is_shown(bool twelve) => Under(twelve, () =>
        {
            var view = TestSchool.Done(school.SchoolTime.Open(school.Coordinator));
            var input = view.Input with
            {
                Bells = new BellsRow(
                    "Regular bells",
                    "E 4:30am-5:20am\n0 6:45am-7:30am\n1 8:00-8:50\n3 9:50-10:40\n5 12:35-13:25\nL 1:30pm-2:20pm"
                ),
            };
            TestSchool.Done(school.SchoolTime.Save(school.Coordinator, input));
            for (var turn = 0; turn < 3; turn++)
            {
                view = TestSchool.Done(school.SchoolTime.Open(school.Coordinator));
                Assert.Equal(
                    ["04:30", "06:45", "08:00", "09:50", "12:35", "13:30"],
                    view.School.Time.Bells.Periods.Select(period =>
                        period.Start.ToString("HH:mm", CultureInfo.InvariantCulture)
                    )
                );
                // Saved untouched it is the same, and something else may be changed beside it.
                TestSchool.Done(
                    school.SchoolTime.Save(
                        school.Coordinator,
                        view.Input with
                        {
                            CycleNames = turn == 1 ? "A, B" : "1, 2, 3",
                            CycleStart = "2026-09-08",
                        }
                    )
                );
            }
        });

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_series_is_read_back_as_its_form_shows_it(bool twelve) => Under(twelve, () =>
        {
            var series = school.Add(
                TestSchool.Good with
                {
                    Period = "",
                    Start = "06:10",
                    End = "07:00",
                    Extra = "Sat 14 Nov 3:30am-4:20am\n15 Nov 06:10-07:05\n16 Nov 4:10pm-5pm\n17 Nov period 3\n18 Nov",
                }
            );
            for (var turn = 0; turn < 2; turn++)
            {
                var before = school.Now(series);
                var saved = TestSchool.Done(
                    school
                        .Compose.Save(school.Teacher, Slug, series.Id, SeriesInput.Of(before), MaterialInput.None)
                        .Waited()
                );
                Assert.Equal(
                    before.Pattern.Extra.Select(extra => (extra.Day, extra.Time)),
                    saved.Pattern.Extra.Select(extra => (extra.Day, extra.Time))
                );
                Assert.Equal(before.Pattern.Time, saved.Pattern.Time);
            }

            Assert.Equal(
                [new LocalTime(3, 30), new LocalTime(6, 10), new LocalTime(16, 10)],
                school
                    .Now(series)
                    .Pattern.Extra.Select(extra => extra.Time)
                    .OfType<SessionTime.Clock>()
                    .Select(clock => clock.Start)
                    .Take(3)
            );
        });

    // Over midnight and over days, as the form offers it.
    [Fact]
    public void A_session_over_midnight_and_a_camp_are_moved_by_hand()
    {
        var night = school.Add(
            TestSchool.Good with
            {
                Title = "Night watch",
                Days = ["3"],
                Period = "",
                Start = "22:00",
                End = "01:30",
                Later = "1",
                Link = "",
            }
        );
        school.Change(
            night,
            "2026-10-14T22:00",
            new SessionInput("move", new SessionTimeInput(Start: "21:00", End: "00:30"))
        );
        var moved = Find(night, new LocalDate(2026, 10, 14));
        Assert.Equal(
            (new LocalDateTime(2026, 10, 14, 21, 0), new LocalDateTime(2026, 10, 15, 0, 30)),
            (moved.Start, moved.End)
        );
        school.Change(
            night,
            "2026-10-14T22:00",
            new SessionInput("move", new SessionTimeInput(Start: "18:00", End: "20:00"))
        );
        Assert.Equal(new LocalDateTime(2026, 10, 14, 20, 0), Find(night, new LocalDate(2026, 10, 14)).End);
        var camp = school.Add(
            TestSchool.Good with
            {
                Title = "Camp",
                Days = ["5"],
                Period = "",
                Start = "09:00",
                End = "15:00",
                Later = "2",
                Link = "",
            }
        );
        school.Change(
            camp,
            "2026-10-16T09:00",
            new SessionInput("move", new SessionTimeInput(Start: "10:00", End: "15:00"))
        );
        Assert.Equal(
            (new LocalDateTime(2026, 10, 16, 10, 0), new LocalDateTime(2026, 10, 18, 15, 0)),
            (Find(camp, new LocalDate(2026, 10, 16)).Start, Find(camp, new LocalDate(2026, 10, 16)).End)
        );
        school.Change(
            camp,
            "2026-10-16T09:00",
            new SessionInput("move", new SessionTimeInput(Start: "10:00", End: "16:00", Nights: "1"))
        );
        Assert.Equal(new LocalDateTime(2026, 10, 17, 16, 0), Find(camp, new LocalDate(2026, 10, 16)).End);
        Assert.Contains(
            TestSchool.Refused(
                school.Sessions.Do(
                    school.Teacher,
                    Slug,
                    TestSchool.Key(camp, "2026-10-16T09:00"),
                    new SessionInput(
                        "move",
                        new SessionTimeInput(Start: "10:00", End: "09:00", Nights: "0"),
                        Version: school.Now(camp).Version
                    )
                )
            ),
            problem => problem.Field == "End"
        );

        Session Find(Series series, LocalDate day) =>
            Core.Series.Planner.PlanOf(school.Now(series), School).Sessions.First(one => one.Original.Date == day);
    }

    private Core.Terms.SchoolTime School => school.SchoolQuery.Find()!.Time;

    // 1 Nov 2026 the clocks of Halifax go back (tzdb): a session from Friday 9:00 to Sunday 15:00 ends at 15:00 in every form.
    [Fact]
    public void A_session_over_days_ends_at_its_hour_across_a_change_of_the_clocks_in_every_form()
    {
        var camp = school.Add(
            TestSchool.Good with
            {
                Title = "Camp",
                Days = ["5"],
                Period = "",
                Start = "09:00",
                End = "15:00",
                Later = "2",
                Link = "",
            }
        );
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    Core.Publishing.PublicationKind.Feed,
                    new PublicationInput("All", Core.Access.AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        var bytes = school.ReadFeed.Do(token, TestSchool.Root, _ => false, "")!.Body!.Plain;
        var expected = Core
            .Series.Planner.PlanOf(school.Now(camp), School)
            .Held.Select(session => (session.StartsAt, session.EndsAt))
            .ToList();
        Assert.Contains(expected, one => one.EndsAt == Instant.FromUtc(2026, 11, 1, 19, 0));
        // Ical.Net 5.2.4, another reader of the same bytes.
        var other = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(bytes))!;
        var found = other
            .GetOccurrences(new Ical.Net.DataTypes.CalDateTime(2026, 9, 1))
            .Take(100)
            .Select(one =>
                (
                    Instant.FromDateTimeUtc(one.Period.StartTime.AsUtc),
                    Instant.FromDateTimeUtc((one.Period.EffectiveEndTime ?? one.Period.StartTime).AsUtc)
                )
            )
            .Order()
            .ToList();
        Assert.Equal(expected.Order(), found);
        Assert.Equal(
            expected.Order(),
            ICalendarSessions
                .Of(ICalendarReader.Read(bytes), null, null, null)
                .Sessions.Select(one => (one.Start.At, one.End.At))
                .Order()
        );
        // RFC 8984 §1.4.6: two nominal days and six hours.
        Assert.Contains(
            "\"duration\":\"P2DT6H\"",
            Encoding
                .UTF8.GetString(JSCalendar.Of(ICalendarReader.Read(bytes).Calendars[0], "x"))
                .Replace(" ", "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
    }

    // A table that was given out comes in as the same sessions, on another calendar.
    [Fact]
    public void What_is_exported_as_a_table_is_imported_as_the_same()
    {
        school.Add(
            TestSchool.Good with
            {
                Title = "Camp",
                Days = ["5"],
                Period = "",
                Start = "09:00",
                End = "15:00",
                Later = "2",
                Link = "",
            }
        );
        school.Add(
            TestSchool.Good with
            {
                Title = "Tokyo call",
                Days = ["2"],
                Period = "",
                Start = "08:00",
                End = "08:50",
                Zone = "Asia/Tokyo",
                Link = "",
            }
        );
        school.Add(
            TestSchool.Good with
            {
                Title = "Fair",
                Days = ["4"],
                Period = SeriesInput.AllDay,
                Later = "2",
                Link = "",
            }
        );
        school.Add(TestSchool.Good with { Link = "" });
        var table = school.Database.Read(stores =>
            ExportCalendar.Of(stores, Slug, null, null, ExportFormat.Csv, null, school.Clock.GetCurrentInstant())
        )!;
        var copy = TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new Calendars.CalendarInput(
                    "Copy",
                    Core.Calendars.CalendarKind.Class,
                    "",
                    "",
                    Core.Calendars.MarkColour.Rose,
                    Core.Calendars.MarkShape.Ring,
                    Calendars.OpenTo.Named
                )
            )
        );
        var id = TestSchool.Done(school.Import.Begin(school.Teacher, copy.Slug, null, "table.csv", table));
        var review = TestSchool.Done(school.Import.Review(school.Teacher, copy.Slug, id, new ImportChoices()));
        Assert.Empty(review.Remarks);
        TestSchool.Done(school.Import.SaveChoices(school.Teacher, copy.Slug, id, new ImportChoices()));
        Assert.Equal(Sessions(Slug), Sessions(copy.Slug));

        List<(string, Instant, Instant)> Sessions(Slug slug) =>
            [
                .. school
                    .TermSheetQuery.Read(school.Teacher, slug, null)!
                    .Series.SelectMany(one =>
                        Core.Series.Planner.PlanOf(one.Series, School)
                            .Held.Select(session => (session.Title, session.StartsAt, session.EndsAt))
                    )
                    .Order(),
            ];
    }

    [Fact]
    public void A_column_that_is_not_read_is_told()
    {
        var table = "Date,Title,Teacher,Where\n2026-10-14,Field day,Orla,Pier\n"u8.ToArray();
        var id = TestSchool.Done(school.Import.Begin(school.Teacher, Slug, null, "table.csv", table));
        var review = TestSchool.Done(school.Import.Review(school.Teacher, Slug, id, new ImportChoices()));
        Assert.Contains("“Teacher” is not read", review.Remarks.Single(), StringComparison.Ordinal);
        TestSchool.Done(school.Import.SaveChoices(school.Teacher, Slug, id, new ImportChoices()));
        Assert.Equal("Pier", school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Single().Series.Place);
    }

    // Split, and then a session of the first half left out: the second half counts on without a gap.
    [Fact]
    public void Numbers_have_no_gap_after_a_split_and_a_leave_out()
    {
        var series = school.Add();
        school.Change(series, "2026-10-14T09:50", new SessionInput("tell", Title: "Second half", Scope: "later"));
        school.Change(series, "2026-09-16T09:50", new SessionInput("leave-out"));
        var numbers = school
            .TermSheetQuery.Read(school.Teacher, Slug, null)!
            .Sheet!.Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions)
            .Where(shown => shown.Session.IsHeld)
            .OrderBy(shown => shown.Session.StartsAt)
            .Select(shown => shown.Number)
            .ToList();
        Assert.Equal(Enumerable.Range(1, numbers.Count).Select(number => (int?)number), numbers);
    }

    // The clocks of Halifax go forward at 2:00 on 14 Mar 2027 (tzdb): a file's session at 2:30 that day is in the feed as on the page.
    [Fact]
    public void An_imported_session_in_the_spring_gap_is_in_the_feed()
    {
        var file =
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//x//EN\r\nBEGIN:VEVENT\r\nUID:gap\r\nDTSTAMP:20260901T000000Z\r\nDTSTART;TZID=America/Halifax:20270307T023000\r\nDURATION:PT50M\r\nRRULE:FREQ=WEEKLY;COUNT=3\r\nSUMMARY:Night watch\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"u8.ToArray();
        var id = TestSchool.Done(school.Import.Begin(school.Teacher, Slug, null, "gap.ics", file));
        TestSchool.Done(school.Import.SaveChoices(school.Teacher, Slug, id, new ImportChoices()));
        var bytes = school.Database.Read(stores =>
            ExportCalendar.Of(stores, Slug, null, null, ExportFormat.Ics, null, school.Clock.GetCurrentInstant())
        )!;
        Instant[] expected =
        [
            Instant.FromUtc(2027, 3, 7, 6, 30),
            Instant.FromUtc(2027, 3, 14, 6, 30),
            Instant.FromUtc(2027, 3, 21, 5, 30),
        ];
        Assert.Equal(
            expected,
            ICalendarSessions.Of(ICalendarReader.Read(bytes), null, null, null).Sessions.Select(one => one.Start.At)
        );
        var other = Ical.Net.Calendar.Load(Encoding.UTF8.GetString(bytes))!;
        Assert.Equal(
            expected,
            other
                .GetOccurrences(new Ical.Net.DataTypes.CalDateTime(2027, 3, 1))
                .Take(10)
                .Select(one => Instant.FromDateTimeUtc(one.Period.StartTime.AsUtc))
                .Order()
        );
    }

    [Theory]
    [InlineData("FREQ=WEEKLY", "2026-09-10", IsoDayOfWeek.Thursday, 0)]
    [InlineData("FREQ=MONTHLY", "2026-09-15", IsoDayOfWeek.None, 15)]
    public void A_term_is_carried_on_the_days_it_had(string rule, string from, IsoDayOfWeek weekday, int day)
    {
        var spring = School.Terms.Single(term => term.Name == "Spring term");
        var series = school.Add(
            TestSchool.Good with
            {
                Meets = "rule",
                Rule = rule,
                From = from,
                Link = "",
                NoClass = "MeetAnyway",
            }
        );
        var preview = TestSchool.Done(
            school.RollOver.Preview(school.Teacher, School.Terms.First(term => term.Id != spring.Id).Id, spring.Id)
        );
        TestSchool.Done(
            school.RollOver.Do(
                school.Teacher,
                School.Terms.First(term => term.Id != spring.Id).Id,
                spring.Id,
                [series.Id],
                false,
                preview.School.Revision
            )
        );
        var carried = school
            .TermSheetQuery.Read(school.Teacher, Slug, null)!
            .Series.Single(one => one.Series.Id != series.Id)
            .Series;
        Assert.All(Core.Series.Planner.PlanOf(carried, School).Held, session =>
            Assert.True(weekday == IsoDayOfWeek.None ? session.Start.Day == day : session.Start.DayOfWeek == weekday)
        );
    }
}
