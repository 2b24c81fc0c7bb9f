using System.Globalization;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>A new entry begins where one looks, with what its calendar has.</summary>
public sealed class EntryTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private SeriesInput Begin(EntryPlace? place) =>
        TestSchool.Done(school.Compose.Open(school.Teacher, TestSchool.Slug, null, place)).Input;

    [Theory]
    [InlineData("2026-10-14", "3", "", "3", "2026-10-14", "3", "", "")]
    [InlineData("2026-10-16", "4", "4", "5", "2026-10-16", "4", "", "")]
    [InlineData("2026-10-14", "3", "4", "3", "2026-10-14", "", "09:50", "11:45")]
    [InlineData("2026-10-14", "4", "3", "3", "2026-10-14", "", "09:50", "11:45")] // drawn upwards
    [InlineData("2026-10-14", "no such", "4", "3", "2026-10-14", "1", "", "")]
    [InlineData("14 October", "<b>", "\u202E", "", null, "1", "", "")]
    [InlineData("9999-12-31", "", "", "", null, "1", "", "")]
    public void A_cell_fills_day_and_period(
        string day,
        string period,
        string to,
        string weekdays,
        string? from,
        string atPeriod,
        string start,
        string end
    )
    {
        var (usual, begun) = (Begin(null), Begin(new EntryPlace(day, period, to)));
        Assert.Equal(weekdays, string.Join(',', begun.Days ?? []));
        Assert.Equal(from ?? usual.From, begun.From);
        Assert.Equal((atPeriod, start, end), (begun.Period, begun.Start, begun.End));
        Assert.Equal("term", begun.Extent);
    }

    [Fact]
    public void A_day_between_terms_ends_on_a_day()
    {
        var begun = Begin(new EntryPlace("2026-07-06"));
        Assert.Equal(("until", "6 Jul 2026"), (begun.Extent, begun.Dates));
    }

    [Fact]
    public void A_new_series_takes_the_link_of_the_others()
    {
        Assert.Equal("", Begin(null).Link);
        var series = school.Add();
        var link = school.Now(series).JoinLink!.Value;
        Assert.Equal(link.Value.ToString(CultureInfo.InvariantCulture), Begin(null).Link);
        // Of another that fewer use it takes none.
        school.Add(TestSchool.Good with { Title = "Knots", LinkName = "Knots", Period = "1" });
        school.Add(TestSchool.Good with { Title = "Barnacles", Link = $"{link.Value}", Period = "4" });
        Assert.Equal(link.Value.ToString(CultureInfo.InvariantCulture), Begin(null).Link);
    }

    [Fact]
    public async Task A_series_without_the_link_that_the_others_have_is_noticed_and_takes_it()
    {
        var series = school.Add();
        var bare = school.Add(TestSchool.Good with { Title = "Barnacles", Link = "", Period = "1" });
        var noted = school
            .Switchboard.At(school.Teacher, null, null)!
            .Findings.Single(one => one.Finding.Kind == FindingKind.WithoutLink);
        Assert.Equal("Barnacles meets without a join link", noted.Finding.Title);
        TestSchool.Done(
            await school.Mend.Do(
                school.Teacher,
                noted.Code,
                noted.Finding.Remedies.Single().Key,
                noted.Version,
                TestContext.Current.CancellationToken
            )
        );
        Assert.Equal(school.Now(series).JoinLink, school.Now(bare).JoinLink);
        Assert.DoesNotContain(school.Switchboard.At(school.Teacher, null, null)!.Findings, one =>
            one.Finding.Kind == FindingKind.WithoutLink
        );
    }

    // What it is in RFC 5545: BYDAY with a place, BYMONTHDAY, INTERVAL (§3.3.10).
    [Theory]
    [InlineData("1", "1", "1", "1", "FREQ=MONTHLY;BYDAY=1MO")]
    [InlineData("-1", "5", "", "1", "FREQ=MONTHLY;BYDAY=-1FR")]
    [InlineData("day", "", "15", "1", "FREQ=MONTHLY;BYMONTHDAY=15")]
    [InlineData("2", "7", "x", "2", "FREQ=MONTHLY;INTERVAL=2;BYDAY=2SU")]
    [InlineData("day", "1", "32", "1", null)]
    [InlineData("day", "1", "0", "1", null)]
    [InlineData("0", "1", "1", "1", null)]
    [InlineData("5", "1", "1", "1", null)]
    [InlineData("1", "8", "1", "1", null)]
    [InlineData("1", "1", "1", "13", null)]
    [InlineData("1", "1", "1", "0", null)]
    public void A_monthly_pattern_is_a_rule_and_comes_back_as_it_was(
        string nth,
        string weekday,
        string monthDay,
        string months,
        string? rule
    )
    {
        var form = new MonthlyInput(nth, weekday, monthDay, months);
        var input = TestSchool.Good with { Meets = "monthly", Monthly = form, Link = "" };
        if (rule is null)
        {
            var problem = Assert.Single(
                TestSchool.Refused(
                    school
                        .Compose.Save(school.Teacher, TestSchool.Slug, null, input, Materials.MaterialInput.None)
                        .Waited()
                )
            );
            Assert.Equal("Monthly", problem.Field);
            return;
        }

        var saved = school.Add(input);
        Assert.Equal(rule, ((Repeat.ByRule)saved.Pattern.Repeat).Rule.ToString());
        var again = TestSchool.FormOf(school.Now(saved));
        Assert.Equal(("monthly", rule), (again.Meets, again.Monthly.ToRule()!.ToString()));
    }

    [Theory]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO,3MO")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=-1")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1")]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO;BYMONTH=9,10")]
    [InlineData("FREQ=YEARLY;BYDAY=1MO")]
    public void What_the_form_cannot_say_stays_a_rule(string rule)
    {
        var saved = school.Add(TestSchool.Good with { Meets = "rule", Rule = rule, Link = "", Extent = "open" });
        Assert.Equal(("rule", rule), (TestSchool.FormOf(saved).Meets, TestSchool.FormOf(saved).Rule));
    }

    [Fact]
    public void The_example_of_the_composer_is_read()
    {
        var (reading, form) = TestSchool.Done(
            school.Quick.Fill(
                school.Teacher,
                TestSchool.Slug,
                "Net Mending every other Tue p4 from 15 Sep, 8 sessions",
                Begin(null)
            )
        );
        Assert.Empty(reading.Problems);
        Assert.Equal(
            ("Net Mending", "2", "2", "4", "2026-09-15", "held", "8"),
            (form.Title, form.Days!.Single(), form.EveryWeeks, form.Period, form.From, form.Extent, form.Held)
        );
    }

    [Fact]
    public async Task A_door_that_is_always_open_though_its_sessions_have_times_is_noticed_and_mended()
    {
        school.Add();
        var link = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single();
        TestSchool.Done(
            await school.Links.Change(
                school.Teacher,
                link.Code,
                LinkInput.Of(link) with
                {
                    Entry = new EntryRuleInput("always"),
                },
                TestContext.Current.CancellationToken
            )
        );
        var noted = school
            .Switchboard.At(school.Teacher, null, null)!
            .Findings.Single(one => one.Finding.Kind == FindingKind.AlwaysOpen);
        TestSchool.Done(
            await school.Mend.Do(
                school.Teacher,
                noted.Code,
                noted.Finding.Remedies.Single().Key,
                noted.Version,
                TestContext.Current.CancellationToken
            )
        );
        Assert.Equal(
            EntryRule.Usual,
            school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Entry
        );
    }

    [Fact]
    public void An_entry_that_begins_elsewhere_goes_on_the_calendar_of_the_last_one()
    {
        var query = new NewEntryQuery(school.Database);
        Assert.Equal(TestSchool.Slug, query.CalendarFor(school.Teacher));
        Assert.Null(query.CalendarFor(school.Student));
        Assert.Null(query.CalendarFor(Viewer.Visitor));
    }

    [Fact]
    public void Who_reads_a_coming_session_is_told_when_its_door_opens()
    {
        var series = school.Add();
        Instant? Opens(Viewer viewer, string session) =>
            school
                .ClassPageQuery.Read(viewer, TestSchool.Slug, asVisitor: false, wholeTerm: true)!
                .Coming.Single(one => one.Session.Key == TestSchool.Key(series, session))
                .Opens;
        // 9:50 at Halifax in October is 12:50 UTC; its door opens ten minutes before.
        Assert.Equal(Instant.FromUtc(2026, 10, 16, 12, 40), Opens(school.Student, "2026-10-16T09:50"));
        school.Change(
            series,
            "2026-10-16T09:50",
            new SessionInput("door", Door: new SessionDoorInput(Opens: "around", Lead: "25", Late: "5"))
        );
        Assert.Equal(Instant.FromUtc(2026, 10, 16, 12, 25), Opens(school.Student, "2026-10-16T09:50"));
        school.Change(
            series,
            "2026-10-16T09:50",
            new SessionInput("door", Door: new SessionDoorInput(Opens: "always"))
        );
        Assert.Null(Opens(school.Student, "2026-10-16T09:50"));
    }

    [Fact]
    public void A_notice_about_a_series_begins_with_its_sentence_and_a_private_one_tells_nothing()
    {
        var series = school.Add();
        var about = TestSchool.Done(school.Notices.View(school.Teacher, TestSchool.Slug, series.Id)).About!;
        Assert.StartsWith("Tidepool Biology 9A meets Mon, Wed and Fri", about.Text, StringComparison.Ordinal);
        Assert.Equal(series.JoinLink!.Value.Value.ToString(CultureInfo.InvariantCulture), about.Link);
        var secret = school.Add(
            TestSchool.Good with
            {
                Title = "Review of marks",
                IsPrivate = true,
                Period = "1",
                Link = "",
            }
        );
        Assert.Null(TestSchool.Done(school.Notices.View(school.Teacher, TestSchool.Slug, secret.Id)).About);
        Assert.Null(TestSchool.Done(school.Notices.View(school.Teacher, TestSchool.Slug, new SeriesId(999))).About);
    }
}
