using System.Text;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage.Calendars;

namespace JollyAlmanac.Application.Tests;

public sealed class ComposeSeriesTests : IDisposable
{
    private readonly TestSchool school = new();

    // Field, value, and a word of what must be said beside it.
    [Theory]
    [InlineData("Title", "", "missing")]
    [InlineData("Title", "long:10000", "10000")]
    [InlineData("Description", "long:6000", "6000")]
    [InlineData("Place", "long:300", "300")]
    [InlineData("Days", "", "weekday")]
    [InlineData("Days", "9", "weekday")]
    [InlineData("EveryWeeks", "0", "1 to 52")]
    [InlineData("EveryWeeks", "x", "1 to 52")]
    [InlineData("CycleDays", "9", "No cycle day is chosen")]
    [InlineData("Dates", "some day", "no day that the almanac can read")]
    [InlineData("Dates", "", "No date is listed")]
    [InlineData("Rule", "FREQ=WEEKLY;BYDAY=6MO", "BYDAY")]
    [InlineData("Rule", "FREQ=DAILY;COUNT=3", "names its own end")]
    [InlineData("Rule", "FREQ=HOURLY", "times of day")]
    [InlineData("Zone", "Mars/Olympus", "no zone")]
    [InlineData("Extra", "whenever", "no day with a time")]
    [InlineData("NoClass", "Dance", "no-class days")]
    [InlineData("Period", "nine", "no such period")]
    [InlineData("End", "9:00", "not after its start")]
    [InlineData("End", "10:00", "not after its start")]
    [InlineData("End", "25:00", "no time")]
    [InlineData("Start", "", "missing")]
    [InlineData("From", "", "missing")]
    [InlineData("From", "2026-02-30", "no day")]
    [InlineData("From", "2026-12-19", "after the Autumn term has ended")]
    [InlineData("Until", "2026-09-13", "before it starts")]
    [InlineData("Until", "2046-09-13", "ten years")]
    [InlineData("Held", "0", "1 to 500")]
    [InlineData("Term", "99", "term")]
    [InlineData("Term", "", "term")]
    [InlineData("Extent", "forever", "how far")]
    [InlineData("LinkTarget", "javascript:alert(1)", "https://")]
    [InlineData("LinkTarget", "", "missing")]
    [InlineData("Link", "77", "is not yours to use")]
    [InlineData("MaterialAddress", "javascript:alert(1)", "https://")]
    [InlineData("MaterialForSession", "2026-09-15T09:50:00", "not among those")]
    public void What_cannot_be_is_said_beside_its_field_and_changes_nothing(string field, string value, string said)
    {
        if (value.StartsWith("long:", StringComparison.Ordinal))
            value = new string('x', int.Parse(value[5..], System.Globalization.CultureInfo.InvariantCulture));
        var input = field switch
        {
            "Title" => TestSchool.Good with { Title = value },
            "Description" => TestSchool.Good with { Description = value },
            "Place" => TestSchool.Good with { Place = value },
            "Days" => TestSchool.Good with { Days = value.Length == 0 ? null : [value] },
            "EveryWeeks" => TestSchool.Good with { EveryWeeks = value },
            "CycleDays" => TestSchool.Good with { Meets = "cycle", CycleDays = [value] },
            "Dates" => TestSchool.Good with { Meets = "dates", Dates = value },
            "Rule" => TestSchool.Good with { Meets = "rule", Rule = value },
            "Zone" => TestSchool.Good with { Zone = value },
            "Extra" => TestSchool.Good with { Extra = value },
            "NoClass" => TestSchool.Good with { NoClass = value },
            "Period" => TestSchool.Good with { Period = value },
            "Start" => TestSchool.Good with { Period = "", Start = value, End = "10:00" },
            "End" => TestSchool.Good with { Period = "", Start = "10:00", End = value },
            "From" => TestSchool.Good with { From = value },
            "Until" => TestSchool.Good with { Extent = "until", Until = value },
            "Held" => TestSchool.Good with { Extent = "held", Held = value },
            "Term" => TestSchool.Good with { Term = value },
            "Extent" => TestSchool.Good with { Extent = value },
            "Link" => TestSchool.Good with { Link = value },
            "LinkTarget" => TestSchool.Good with { LinkTarget = value },
            _ => TestSchool.Good,
        };
        var material = field switch
        {
            "MaterialAddress" => new MaterialInput(Address: value),
            "MaterialForSession" => new MaterialInput(Address: "https://tides.skerry.example", ForSession: value),
            _ => MaterialInput.None,
        };
        var before = school.Rows();
        var problems = TestSchool.Refused(
            school.Compose.Save(school.Teacher, TestSchool.Slug, null, input, material).Waited()
        );
        Assert.Contains(problems, problem =>
            problem.Field == field && problem.Message.Contains(said, StringComparison.Ordinal)
        );
        Assert.Equal(before, school.Rows());
    }

    /// <summary>A night at sea and a trip of three days: as the form has them, they are stored, said and shown again.</summary>
    [Theory]
    [InlineData("", "22:00", "02:00", "1", "22:00 to 2:00 the next day")]
    [InlineData("", "15:00", "13:00", "2", "15:00 to 13:00 2 days later")]
    [InlineData("all day", "", "", "2", "all day for 3 days")]
    [InlineData("all day", "", "", "", "all day")]
    [InlineData("all day", "", "", "0", "all day")]
    [InlineData("3", "", "", "4", "period 3")]
    public void A_session_may_end_on_a_later_day(string period, string start, string end, string later, string said)
    {
        using var school = new TestSchool();
        var form = TestSchool.Good with
        {
            Period = period,
            Start = start,
            End = end,
            Later = later,
            Days = ["3"],
            Extra =
                "14 Nov 22:00 to 02:00 the next day\n15 Nov all day for 3 days\n21 Nov 3:00 pm to 1 pm 2 days later",
        };
        var series = school.Add(form);
        Assert.Equal(said, SayBack.Of(series.Pattern.Time));
        Assert.Equal(
            ["22:00 to 2:00 the next day", "all day for 3 days", "15:00 to 13:00 2 days later"],
            series.Pattern.Extra.Select(extra => SayBack.Of(extra.Time))
        );
        // The stored form says it again, and saved as it is changes nothing.
        var again = TestSchool.FormOf(series);
        TestSchool.Done(
            school.Compose.Save(school.Teacher, TestSchool.Slug, series.Id, again, MaterialInput.None).Waited()
        );
        Assert.Equal(PatternText.Of(series.Pattern).ToString(), PatternText.Of(school.Now(series).Pattern).ToString());
    }

    [Theory]
    [InlineData("", "22:00", "02:00", "", "End", "how many days later")]
    [InlineData("", "22:00", "02:00", "100", "Later", "0 to 99")]
    [InlineData("all day", "", "", "soon", "Later", "0 to 99")]
    public void An_end_on_a_later_day_is_told_where_it_is_wrong(
        string period,
        string start,
        string end,
        string later,
        string field,
        string told
    )
    {
        using var school = new TestSchool();
        var form = TestSchool.Good with { Period = period, Start = start, End = end, Later = later };
        Assert.Contains(
            TestSchool.Refused(
                school.Compose.Save(school.Teacher, TestSchool.Slug, null, form, MaterialInput.None).Waited()
            ),
            problem => problem.Field == field && problem.Message.Contains(told, StringComparison.Ordinal)
        );
        Assert.Contains(
            TestSchool.Refused(
                school
                    .Compose.Save(
                        school.Teacher,
                        TestSchool.Slug,
                        null,
                        TestSchool.Good with
                        {
                            Extra = "14 Nov 22:00 to 02:00 200 days later",
                        },
                        MaterialInput.None
                    )
                    .Waited()
            ),
            problem => problem.Field == "Extra"
        );
    }

    [Fact]
    public void Everything_wrong_is_said_at_once() =>
        Assert.Equal(
            ["Days", "End", "LinkTarget", "Title"],
            TestSchool
                .Refused(
                    school
                        .Compose.Save(
                            school.Teacher,
                            TestSchool.Slug,
                            null,
                            TestSchool.Good with
                            {
                                Title = "",
                                Days = [],
                                Period = "",
                                Start = "10:00",
                                End = "9:00",
                                LinkTarget = "x",
                            },
                            MaterialInput.None
                        )
                        .Waited()
                )
                .Select(problem => problem.Field)
                .Order()
        );

    [Fact]
    public void Titles_keep_letters_of_all_languages_and_lose_what_would_break_a_line()
    {
        var series = school.Add(TestSchool.Good with { Title = "  <b>مدّ</b> 🌊\u202E\r\nBiology\u0007  " });
        Assert.Equal("<b>مدّ</b> 🌊 Biology", series.Title);
    }

    [Fact]
    public void A_series_comes_back_as_it_was_entered()
    {
        foreach (
            var input in new[]
            {
                TestSchool.Good with
                {
                    Link = "",
                },
                TestSchool.Good with
                {
                    Link = "",
                    Period = "",
                    Start = "09:05",
                    End = "10:20",
                    EveryWeeks = "2",
                    Extent = "until",
                    Until = "2026-12-01",
                    Term = "",
                },
                TestSchool.Good with
                {
                    Link = "",
                    Extent = "held",
                    Held = "12",
                    Term = "",
                    Days = ["2"],
                },
                TestSchool.Good with
                {
                    Link = "",
                    Meets = "cycle",
                    CycleDays = ["2"],
                    Days = [],
                    NumberLabel = "Lab",
                    NoClass = "NextClassDay",
                },
                TestSchool.Good with
                {
                    Link = "",
                    Meets = "rule",
                    Rule = "FREQ=MONTHLY;BYDAY=1MO,3MO",
                    Days = [],
                    Zone = "America/St_Johns",
                    Extra = "2026-11-14 09:00-09:50",
                },
                TestSchool.Good with
                {
                    Link = "",
                    Meets = "dates",
                    Dates = "2026-11-05\n2026-11-12",
                    Days = [],
                    From = "2026-11-05",
                    Period = "all day",
                    Extent = "open",
                    Term = "",
                },
            }
        )
        {
            var series = school.Add(input);
            var form = TestSchool.Done(school.Compose.Open(school.Teacher, TestSchool.Slug, series.Id)).Input;
            Assert.Equal(input.Days, form.Days);
            Assert.Equal(input.CycleDays ?? [], form.CycleDays);
            Assert.Equal(
                input with
                {
                    // Dates have no end of their own; made into weeks, they would end with the term.
                    Extent = input.Meets == "dates" ? "term" : input.Extent,
                    Term = input.Meets == "dates" ? "1" : input.Term,
                    Days = null,
                    CycleDays = null,
                    LinkName = "",
                    LinkTarget = "",
                    Version = 1,
                    WeekStart = input.EveryWeeks == "2" ? "Monday" : "",
                    Zone = input.Zone is { Length: > 0 } zone ? zone : "America/Halifax",
                    NoClass = input.NoClass is { Length: > 0 } policy ? policy : "LeaveOut",
                },
                form with
                {
                    Days = null,
                    CycleDays = null,
                }
            );
        }
    }

    [Fact]
    public void The_second_of_two_who_save_is_told_and_loses_nothing()
    {
        var series = school.Add();
        var form = TestSchool.FormOf(series);
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    form with
                    {
                        Place = "Weather tower",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        var before = school.Rows();
        var stale = Assert.IsType<Outcome<Series>.Stale>(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    form with
                    {
                        Title = "Rock pools",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Equal("Orla Marchbanks", stale.By?.Who);
        Assert.Equal(before, school.Rows());
        var now = TestSchool.Done(school.Compose.Open(school.Teacher, TestSchool.Slug, series.Id)).Stored!;
        Assert.Equal(("Tidepool Biology 9A", "Weather tower", 2), (now.Title, now.Place, now.Version));
    }

    [Fact]
    public async Task Of_many_who_save_at_the_same_moment_one_wins()
    {
        var series = school.Add();
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(turn =>
                    Task.Run(() =>
                        school
                            .Compose.Save(
                                school.Teacher,
                                TestSchool.Slug,
                                series.Id,
                                TestSchool.FormOf(series) with
                                {
                                    Title = $"Turn {turn}",
                                },
                                MaterialInput.None
                            )
                            .Waited()
                    )
                )
        );
        Assert.Equal(1, outcomes.Count(outcome => outcome.IsDone));
        Assert.Equal(7, outcomes.Count(outcome => outcome is Outcome<Series>.Stale));
    }

    // Who, and what comes of adding and of changing somebody else's series.
    [Theory]
    [InlineData("visitor", "NotAllowed", "NotAllowed")]
    [InlineData("student", "NotAllowed", "NotAllowed")]
    [InlineData("contributor", "Done", "NotAllowed")]
    [InlineData("editor", "Done", "Done")]
    public void Who_may_not_does_not(string who, string adding, string changing)
    {
        var series = school.Add();
        var viewer = who switch
        {
            "visitor" => Viewer.Visitor,
            "student" => school.Student,
            _ => school.Helper,
        };
        if (who is "contributor" or "editor")
            TestSchool.Done(
                school.Share.Give(
                    school.Teacher,
                    TestSchool.Slug,
                    new Grantee.OnePerson(school.Helper.Person!.Value),
                    Enum.Parse<AccessLevel>(who, ignoreCase: true)
                )
            );
        Assert.Equal(
            adding,
            Name(
                school
                    .Compose.Save(viewer, TestSchool.Slug, null, TestSchool.Good with { Link = "" }, MaterialInput.None)
                    .Waited()
            )
        );
        Assert.Equal(
            changing,
            Name(
                school
                    .Compose.Save(viewer, TestSchool.Slug, series.Id, TestSchool.FormOf(series), MaterialInput.None)
                    .Waited()
            )
        );
        Assert.Equal(changing, Name(school.TakeOff.Do(viewer, TestSchool.Slug, series.Id, changing == "Done" ? 2 : 1)));
    }

    [Fact]
    public void A_contributor_changes_what_is_their_own()
    {
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Contributor
            )
        );
        var own = TestSchool.Done(
            school
                .Compose.Save(
                    school.Helper,
                    TestSchool.Slug,
                    null,
                    TestSchool.Good with
                    {
                        Link = "",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Equal(
            "Done",
            Name(
                school
                    .Compose.Save(school.Helper, TestSchool.Slug, own.Id, TestSchool.FormOf(own), MaterialInput.None)
                    .Waited()
            )
        );
    }

    [Fact]
    public void A_series_is_not_reached_through_another_calendar()
    {
        var series = school.Add();
        var other = TestSchool.Done(
            school.Calendars.Create(
                school.Helper,
                new("Weather", Core.Calendars.CalendarKind.Class, "", "", default, default, Calendars.OpenTo.Named)
            )
        );
        Assert.Equal(
            "NotFound",
            Name(
                school
                    .Compose.Save(school.Helper, other.Slug, series.Id, TestSchool.FormOf(series), MaterialInput.None)
                    .Waited()
            )
        );
        Assert.Equal("NotFound", Name(school.TakeOff.Do(school.Helper, other.Slug, series.Id, 1)));
        var link = series.JoinLink!.Value.Value.ToString(System.Globalization.CultureInfo.InvariantCulture);
        Assert.Contains(
            TestSchool.Refused(
                school
                    .Compose.Save(
                        school.Helper,
                        other.Slug,
                        null,
                        TestSchool.Good with
                        {
                            Link = link,
                        },
                        MaterialInput.None
                    )
                    .Waited()
            ),
            problem => problem.Field == "Link"
        );
        Assert.Equal(
            "NotFound",
            Name(school.Compose.Save(school.Teacher, other.Slug, null, TestSchool.Good, MaterialInput.None).Waited())
        );
    }

    [Fact]
    public void What_is_taken_off_is_gone_and_comes_back_whole()
    {
        var series = school.Add(materials: new MaterialInput(Address: "https://tides.skerry.example", Title: "Tides"));
        TestSchool.Done(school.TakeOff.Do(school.Teacher, TestSchool.Slug, series.Id, series.Version));
        Assert.Empty(school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Series);
        var takenOff = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.TakenOff!;
        Assert.IsType<Outcome<Series>.Stale>(
            school.TakeOff.Undo(school.Teacher, TestSchool.Slug, series.Id, takenOff.Version - 1)
        );
        TestSchool.Done(school.TakeOff.Undo(school.Teacher, TestSchool.Slug, series.Id, takenOff.Version));
        var sheet = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!;
        Assert.Equal("Tidepool room", sheet.Links.Single().Name);
        Assert.True(sheet.Series.Single().HasLink);
        Assert.Equal("Tides", sheet.Sheet!.Weeks[1].Days[0].Sessions[0].Materials.Single().Title);
        Assert.Null(sheet.TakenOff);
    }

    [Theory]
    [InlineData("field sheet.pdf", "%PDF-1.7 x", true)]
    [InlineData("C:\\Users\\orla\\field sheet.pdf", "%PDF-1.7 x", true)]
    [InlineData("../../field sheet.pdf", "%PDF-1.7 x", true)]
    [InlineData("page.html", "<script>", false)]
    [InlineData("field sheet.pdf", "<script>alert(1)</script>", false)]
    [InlineData("empty.pdf", "", false)]
    [InlineData("large.txt", "large", false)]
    public void Files_are_taken_by_what_they_are(string name, string content, bool isTaken)
    {
        var bytes = content == "large" ? new byte[2000] : Encoding.ASCII.GetBytes(content);
        var outcome = school
            .Compose.Save(
                school.Teacher,
                TestSchool.Slug,
                null,
                TestSchool.Good,
                new MaterialInput([new Upload(name, bytes.Length, () => new MemoryStream(bytes))])
            )
            .Waited();
        Assert.Equal(isTaken, outcome.IsDone);
        if (!isTaken)
        {
            Assert.Equal("MaterialFiles", TestSchool.Refused(outcome).Single().Field);
            return;
        }

        var file = Assert.IsType<MaterialContent.StoredFile>(
            TestSchool
                .Done(school.Compose.Open(school.Teacher, TestSchool.Slug, TestSchool.Done(outcome).Id))
                .Materials.Single()
                .Content
        );
        Assert.Equal(("field sheet.pdf", "application/pdf"), (file.Name, file.MediaType));
        Assert.Equal(bytes, File.ReadAllBytes(new Storage.Files.FileVault(school.Directory).PathOf(file.Hash)));
    }

    [Fact]
    public void A_stranger_uploads_nothing()
    {
        var opened = false;
        var upload = new Upload("a.pdf", 5, () =>
        {
            opened = true;
            return new MemoryStream("%PDF-"u8.ToArray());
        });
        Assert.Equal(
            "NotAllowed",
            Name(
                school
                    .Compose.Save(school.Student, TestSchool.Slug, null, TestSchool.Good, new MaterialInput([upload]))
                    .Waited()
            )
        );
        Assert.False(opened);
    }

    public void Dispose() => school.Dispose();

    private static string Name<T>(Outcome<T> outcome) => outcome.GetType().Name;
}
