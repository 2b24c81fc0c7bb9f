using System.Text;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Timetables;

namespace JollyAlmanac.Application.Tests;

/// <summary>A whole school from its files: reviewed, taken in, again, newer, by hand, taken back.</summary>
public sealed class SchoolImportTests : IDisposable
{
    private const string Timetable = """
        Department,Class,Teacher,Day,Period,Room
        Sea Crafts,Knots 7,Orla Marchbanks,Mon,1,Loft
        Sea Crafts,Knots 7,Orla Marchbanks,Wed,1,Loft
        Sea Crafts,Knots 7,Orla Marchbanks,Fri,4,Deck
        Music,Shore Choir,Eilidh Torrance,Tue,3,Hall
        """;

    private static readonly SchoolImportChoices Choices = new();

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    // With the groups that a sign-in has: the school's office manages what is made.
    private Viewer Coordinator =>
        school.Database.Read(stores => stores.People.ViewerOf(school.Coordinator.Person!.Value));

    private long Begin(params (string Name, string Text)[] files) =>
        TestSchool.Done(
            school.SchoolImport.Begin(
                Coordinator,
                [.. files.Select(file => (file.Name, Encoding.UTF8.GetBytes(file.Text)))],
                null
            )
        );

    private SchoolImportReview Review(params (string Name, string Text)[] files) =>
        TestSchool.Done(school.SchoolImport.Review(Coordinator, Begin(files), Choices));

    private SchoolImportReview Keep(string text, SchoolImportChoices? choices = null) =>
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, Begin(("t.csv", text)), choices ?? Choices)).Review;

    private Calendar Titled(string title) =>
        school.Database.Read(stores => stores.Calendars.All().Single(one => one.Title == title));

    private List<Series> SeriesOf(string title) =>
        school.Database.Read(stores => stores.Series.Of(Titled(title).Id).OrderBy(one => one.Id.Value).ToList());

    private string Says(string title) =>
        string.Join(
            "; ",
            SeriesOf(title)
                .Select(one =>
                    $"{string.Join(' ', one.Pattern.Repeat.WeeklyDays.Select(Wording.Brief))} {SayBack.Typed(one.Pattern.Time)} @{one.Place}"
                )
        );

    private void MoveChoirByHand()
    {
        var choir = SeriesOf("Shore Choir")[0];
        TestSchool.Done(
            school
                .Compose.Save(
                    Coordinator,
                    Titled("Shore Choir").Slug,
                    choir.Id,
                    SeriesInput.Of(choir) with
                    {
                        Place = "Boat house",
                    },
                    Materials.MaterialInput.None
                )
                .Waited()
        );
    }

    private static string News(SchoolImportReview review) =>
        string.Join(
            ' ',
            new[] { ImportNews.New, ImportNews.Changed, ImportNews.Same, ImportNews.Stays, ImportNews.Gone }.Select(
                news => review.Count(news).ToString(System.Globalization.CultureInfo.InvariantCulture)
            )
        );

    [Fact]
    public void A_timetable_becomes_departments_calendars_and_series_and_again_nothing()
    {
        var review = Review(("t.csv", Timetable));
        Assert.Equal(["Music", "Sea Crafts"], review.Departments);
        Assert.Equal("3 0 0 0 0", News(review));
        Assert.Empty(review.Refused);
        Assert.Empty(review.Clashes);
        // Nothing was kept by looking at it.
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), calendar =>
            calendar.Title == "Knots 7"
        );
        Keep(Timetable);
        Assert.Equal("Mon Wed period 1 @Loft; Fri period 4 @Deck", Says("Knots 7"));
        var knots = Titled("Knots 7");
        Assert.Equal(school.Teacher.Person, knots.Owner);
        Assert.Equal("Sea Crafts", school.Database.Read(stores => stores.Calendars.Get(knots.Department!.Value).Title));
        Assert.Equal(
            AccessLevel.Manager,
            school.Database.Read(stores => AccessRules.LevelOf(school.Teacher, stores.Calendars.GrantsOf(knots.Id)))
        );
        var again = Review(("t.csv", Timetable));
        Assert.Equal("0 0 3 0 0", News(again));
        Assert.True(again.IsNothing);
        var history = school.Database.Read(stores => stores.History.OfSchool(null, null, "", long.MaxValue, 500).Count);
        Keep(Timetable);
        Assert.Equal(
            history,
            school.Database.Read(stores => stores.History.OfSchool(null, null, "", long.MaxValue, 500).Count)
        );
    }

    [Fact]
    public void A_newer_file_changes_what_it_says_otherwise_and_what_was_done_by_hand_stays()
    {
        Keep(Timetable);
        // By hand: the choir moves to another room.
        MoveChoirByHand();
        var newer = Timetable
            .Replace("Fri,4,Deck", "Fri,3,Deck", StringComparison.Ordinal)
            .Replace("Tue,3,Hall", "Tue,4,Hall", StringComparison.Ordinal);
        // The same files: what was done by hand is told, and stays.
        var same = Review(("t.csv", Timetable));
        Assert.Equal("0 0 3 0 0", News(same));
        Assert.Single(same.Classes.SelectMany(one => one.Series), series => series.IsByHand);
        var review = Review(("t.csv", newer));
        Assert.Equal("0 1 1 1 0", News(review));
        Keep(newer);
        Assert.Equal("Mon Wed period 1 @Loft; Fri period 3 @Deck", Says("Knots 7"));
        Assert.Equal("Tue period 3 @Boat house", Says("Shore Choir"));
        // And what is changed is known from then on.
        Assert.Equal("0 0 2 1 0", News(Review(("t.csv", newer))));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void What_is_gone_is_told_and_ends_only_where_that_is_asked(bool endGone)
    {
        Keep(Timetable);
        var shorter = Timetable.Replace(
            "Sea Crafts,Knots 7,Orla Marchbanks,Fri,4,Deck\n",
            "",
            StringComparison.Ordinal
        );
        Assert.Equal("0 0 2 0 1", News(Review(("t.csv", shorter))));
        Keep(shorter, Choices with { EndGone = endGone });
        var friday = SeriesOf("Knots 7")[1];
        Assert.Equal(
            endGone ? new Extent.Until(new NodaTime.LocalDate(2026, 10, 13)) : SeriesOf("Knots 7")[0].Pattern.Extent,
            friday.Pattern.Extent
        );
        Assert.Equal("Mon Wed period 1 @Loft; Fri period 4 @Deck", Says("Knots 7"));
    }

    [Fact]
    public void It_goes_back_in_one_press_but_for_what_was_changed_since()
    {
        Assert.Null(school.SchoolImport.LastTakenIn(Coordinator));
        Keep(Timetable);
        Assert.Contains("2 new calendars", school.SchoolImport.LastTakenIn(Coordinator), StringComparison.Ordinal);
        MoveChoirByHand();
        var said = TestSchool.Done(school.SchoolImport.Undo(Coordinator));
        Assert.Contains("2 calendars, 2 series; 3 were changed since", said, StringComparison.Ordinal);
        Assert.Equal("Tue period 3 @Boat house", Says("Shore Choir"));
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), calendar =>
            calendar.Title == "Knots 7"
        );
        // Once.
        Assert.Null(school.SchoolImport.LastTakenIn(Coordinator));
        Assert.False(school.SchoolImport.Undo(Coordinator).IsDone);
    }

    [Fact]
    public void A_name_that_fits_several_is_asked_for_once()
    {
        school.Execute(
            "insert into people (name, email, role, stamp, made_at) select 'Odo Marchbanks', 'odo@skerry.example', 'teacher', stamp, made_at from people limit 1"
        );
        var text = Timetable.Replace("Orla Marchbanks", "Marchbanks", StringComparison.Ordinal);
        var id = Begin(("t.csv", text));
        var review = TestSchool.Done(school.SchoolImport.Review(Coordinator, id, Choices));
        var question = Assert.Single(review.Questions);
        Assert.Equal("“Marchbanks” fits 2 people: which?", question.Text);
        Assert.False(school.SchoolImport.Keep(Coordinator, id, Choices).IsDone);
        var answers = Choices with
        {
            Answers = new Dictionary<string, string> { ["Marchbanks"] = "odo@skerry.example" },
        };
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, id, answers));
        Assert.Equal(
            "Odo Marchbanks",
            school.Database.Read(stores => stores.People.Get(Titled("Knots 7").Owner)!.Name)
        );
    }

    [Theory]
    [InlineData("teacher", "Music,Drums,Orla Marchbanks,Mon,1,Deck", DoubleBookingKind.Teacher)]
    [InlineData("room", "Music,Drums,Eilidh Torrance,Mon,1,loft", DoubleBookingKind.Room)]
    public void What_is_in_two_places_at_once_is_told(string what, string line, DoubleBookingKind kind)
    {
        var clash = Assert.Single(Review(("t.csv", $"{Timetable}\n{line}")).Clashes);
        Assert.Equal((kind, "Drums", "Knots 7"), (clash.Kind, clash.One, clash.Other));
        Assert.NotEmpty(what);
    }

    [Fact]
    public void What_is_not_understood_is_told_with_its_line_and_the_rest_is_kept()
    {
        var review = Keep(
            $"{Timetable}\nMusic,Drums,,Mon,11,Deck\nMusic,Flute,Nobody Known,Mon,4,Deck\nMusic,,,Mon,1,"
        );
        Assert.Equal(
            [
                "8: No class stands in this row.",
                "7: Nobody who teaches here is called “Nobody Known”, so nobody is made manager for it.",
                "6: Drums: No bell is called “11”",
            ],
            review.Refused.Select(line => $"{line.Line}: {line.Reason.Split(';')[0]}").OrderDescending()
        );
        Assert.Equal(Coordinator.Person, Titled("Drums").Owner);
        Assert.Empty(SeriesOf("Drums"));
    }

    [Fact]
    public void Rooms_days_and_bells_come_from_files_of_their_own()
    {
        var id = Begin(
            ("t.csv", Timetable),
            (
                "rooms.csv",
                "Class,Link\nknots 7,https://rooms.skerry.example/kn7\nNobody,https://rooms.skerry.example/x"
            ),
            ("days.txt", "19 Oct 2026 Harbour day\n2-3 Nov 2026 Storm drill"),
            ("odd.txt", "neither fish\nnor fowl")
        );
        var review = TestSchool.Done(school.SchoolImport.Review(Coordinator, id, Choices));
        Assert.Equal(
            [SchoolFileKind.Timetable, SchoolFileKind.Rooms, SchoolFileKind.Unknown, SchoolFileKind.Unknown],
            review.Files.Select(file => file.Kind)
        );
        Assert.Equal(["2 days or ranges without class"], review.Time);
        Assert.Equal(2, review.Refused.Count);
        Assert.DoesNotContain(review.Refused, line => line.Reason.Contains("rooms.skerry", StringComparison.Ordinal));
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, id, Choices));
        var knots = SeriesOf("Knots 7");
        Assert.NotNull(knots[0].JoinLink);
        Assert.Equal(knots[0].JoinLink, knots[1].JoinLink);
        Assert.Contains(school.SchoolQuery.Find()!.Time.NoClassDays, day => day.Name == "Harbour day");
    }

    [Fact]
    public void An_export_brings_people_lists_and_teachers()
    {
        var id = Begin(
            (
                "users.csv",
                "sourcedId,enabledUser,role,givenName,familyName,email\nu1,true,teacher,Odo,Lund,odo.lund@skerry.example\nu2,true,student,Pia,Rask,pia@students.skerry.example"
            ),
            ("classes.csv", "sourcedId,title,classCode,subjects\nc1,Knots 7,KN7,Sea Crafts\nc2,Nets 8,NE8,Sea Crafts"),
            ("enrollments.csv", "sourcedId,classSourcedId,userSourcedId,role\ne1,c1,u1,teacher\ne2,c1,u2,student"),
            ("t.csv", "Class,Day,Period\nKN7,Mon,1")
        );
        var review = TestSchool.Done(school.SchoolImport.Review(Coordinator, id, Choices));
        Assert.Equal(["Knots 7", "Nets 8"], review.Classes.Select(one => one.Title));
        Assert.Equal("Odo Lund", Assert.Single(review.Classes[0].Managers).Name);
        Assert.Equal(1, review.Classes[0].Listed);
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, id, Choices with { WithoutMeetings = false }));
        var pia = school.Database.Read(stores =>
            stores.People.ViewerOf(stores.People.Known().Single(one => one.Source == "u2").Id)
        );
        var knots = Titled("Knots 7");
        Assert.True(
            school.Database.Read(stores => AccessRules.LevelOf(pia, stores.Calendars.GrantsOf(knots.Id)))
                >= AccessLevel.Full
        );
        Assert.Equal("Mon period 1 @", Says("Knots 7"));
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), one => one.Title == "Nets 8");
    }

    [Fact]
    public void A_calendar_that_is_not_the_coordinators_is_left_alone()
    {
        school.Execute(
            $"delete from grants where calendar_id = (select id from calendars where slug = '{TestSchool.Slug}') and grantee = 'group'"
        );
        var title = school.Database.Read(stores => stores.Calendars.Find(TestSchool.Slug)!.Title);
        var review = Review(("t.csv", $"Class,Day,Period\n{title},Mon,1"));
        Assert.Contains("not yours to change", Assert.Single(review.Classes).Refusal, StringComparison.Ordinal);
        Assert.Equal(0, review.Count(ImportNews.New));
    }

    [Fact]
    public void Only_coordinators_are_let_in_and_reviews_are_their_own()
    {
        var id = Begin(("t.csv", Timetable));
        Assert.IsType<Outcome<SchoolImportReview>.NotAllowed>(school.SchoolImport.Review(school.Teacher, id, Choices));
        Assert.IsType<Outcome<SchoolImportReview>.NotFound>(school.SchoolImport.Review(Coordinator, id + 1, Choices));
        // More files come to it; one of the same name takes the place of the one before.
        var more = TestSchool.Done(
            school.SchoolImport.Begin(
                Coordinator,
                [("t.csv", Encoding.UTF8.GetBytes("Class,Day,Period\nNets,Mon,1"))],
                null,
                id
            )
        );
        Assert.Equal(
            ["Nets"],
            TestSchool.Done(school.SchoolImport.Review(Coordinator, more, Choices)).Classes.Select(one => one.Title)
        );
    }

    [Fact]
    public void What_somebody_took_off_or_put_away_stays_so()
    {
        Keep(Timetable);
        var (knots, choir) = (Titled("Knots 7"), Titled("Shore Choir"));
        TestSchool.Done(school.TakeOff.Do(Coordinator, knots.Slug, SeriesOf("Knots 7")[1].Id, 1));
        TestSchool.Done(school.Calendars.Archive(Coordinator, choir.Slug, choir.Version));
        var review = Review(("t.csv", Timetable));
        Assert.Equal("0 0 1 1 0", News(review));
        Assert.Contains("archived or deleted here", review.Classes[0].Refusal, StringComparison.Ordinal);
        Assert.True(review.IsNothing);
        Keep(Timetable);
        Assert.Single(SeriesOf("Knots 7"));
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), one =>
            one.Title == "Shore Choir"
        );
    }

    // Where the school's coordinators do not manage what is made, whoever takes it in does not, either, and still several series join by one room.
    [Fact]
    public void Who_takes_it_in_gets_no_more_than_the_defaults_give()
    {
        TestSchool.Done(
            school.SchoolDefaults.Do(
                Coordinator,
                new Schools.SchoolDefaultsInput(Calendars.OpenTo.Named, CoordinatorsManage: false)
            )
        );
        var id = Begin(("t.csv", Timetable), ("rooms.csv", "Class,Link\nKnots 7,https://rooms.skerry.example/kn7"));
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, id, Choices));
        var knots = Titled("Knots 7");
        Assert.Equal(
            AccessLevel.None,
            school.Database.Read(stores => AccessRules.LevelOf(Coordinator, stores.Calendars.GrantsOf(knots.Id)))
        );
        Assert.Single(SeriesOf("Knots 7").Select(one => one.JoinLink).Distinct());
        // And cannot be brought in again by them: it is not theirs to change.
        Assert.All(Review(("t.csv", Timetable)).Classes, one => Assert.NotEmpty(one.Refusal));
    }

    [Fact]
    public void Two_who_take_in_the_same_at_once_make_it_once()
    {
        var (one, other) = (Begin(("t.csv", Timetable)), Begin(("t.csv", Timetable)));
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, one, Choices));
        var second = TestSchool.Done(school.SchoolImport.Keep(Coordinator, other, Choices)).Review;
        Assert.Equal("0 0 3 0 0", News(second));
        Assert.IsType<Outcome<SchoolImportResult>.NotFound>(school.SchoolImport.Keep(Coordinator, one, Choices));
    }

    [Fact]
    public void The_next_term_leaves_what_the_files_said_of_this_one()
    {
        Keep(Timetable);
        var spring = Choices with { Term = "Spring term" };
        var id = Begin(("t.csv", Timetable.Replace("Fri,4,Deck", "Fri,3,Deck", StringComparison.Ordinal)));
        Assert.Equal("3 0 0 0 0", News(TestSchool.Done(school.SchoolImport.Review(Coordinator, id, spring))));
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, id, spring));
        Assert.Equal(
            ["2026-09-08 4", "2027-01-04 3"],
            SeriesOf("Knots 7")
                .Where(one => one.Place == "Deck")
                .Select(one => $"{one.Pattern.From:uuuu-MM-dd} {((SessionTime.InPeriod)one.Pattern.Time).Period}")
        );
        // And each term's files again change nothing.
        Assert.Equal("0 0 3 0 0", News(Review(("t.csv", Timetable))));
    }

    [Fact]
    public void A_further_series_takes_the_link_that_its_calendar_has()
    {
        var rooms = ("rooms.csv", "Class,Link\nKnots 7,https://rooms.skerry.example/kn7");
        TestSchool.Done(school.SchoolImport.Keep(Coordinator, Begin(("t.csv", Timetable), rooms), Choices));
        TestSchool.Done(
            school.SchoolImport.Keep(
                Coordinator,
                Begin(("t.csv", $"{Timetable}\nSea Crafts,Knots 7,Orla Marchbanks,Thu,3,Loft"), rooms),
                Choices
            )
        );
        Assert.Equal(3, SeriesOf("Knots 7").Count);
        Assert.Single(SeriesOf("Knots 7").Select(one => one.JoinLink).Distinct());
        Assert.Single(school.Database.Read(stores => stores.JoinLinks.Of(Titled("Knots 7").Id)));
    }

    [Theory]
    [InlineData("Bells", "Period,Start,End\n1,8:00,9:00\n2,8:30,9:30")]
    [InlineData("Term", "sourcedId,title,type,startDate,endDate\na1,Long,term,2027-07-01,2029-01-01")]
    public void What_no_form_lets_pass_no_file_brings_in(string what, string file)
    {
        var before = school.SchoolQuery.Find()!;
        if (what == "Bells")
            TestSchool.Done(
                school.SchoolTime.Do(Coordinator, time => new Core.Terms.SchoolTime(
                    time.Zone,
                    time.FirstDayOfWeek,
                    time.Terms,
                    time.NoClassDays
                ))
            );
        before = school.SchoolQuery.Find()!;
        var id = Begin(
            (what == "Bells" ? "bells.csv" : "academicSessions.csv", file),
            ("users.csv", "sourcedId,enabledUser,role,givenName,familyName\nu9,true,teacher,Odo,Lund"),
            ("t.csv", "Class,Day,Start,End\nNets,Mon,8:00,8:50")
        );
        Assert.IsType<Outcome<SchoolImportResult>.Refused>(school.SchoolImport.Keep(Coordinator, id, Choices));
        Assert.Equal(before.Time.Terms, school.SchoolQuery.Find()!.Time.Terms);
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), one => one.Title == "Nets");
        Assert.DoesNotContain(school.Database.Read(stores => stores.People.Known()), one => one.Source == "u9");
    }

    [Fact]
    public void Names_at_their_longest_and_with_markup_are_names_or_told()
    {
        var review = Keep(
            $"Class,Department,Day,Period\n<b>Nets</b>,<i>Sea</i>,Mon,1\n{new string('k', 121)},Sea,Mon,1\n\u202Eknots,{new string('d', 200)},Tue,1"
        );
        Assert.Contains(review.Refused, line =>
            line.Line == 3 && line.Reason.Contains("too long", StringComparison.Ordinal)
        );
        Assert.Equal(2, review.Classes.Count);
        Assert.Equal(1, school.Database.Read(stores => stores.Calendars.All()).Count(one => one.Title == "<i>Sea</i>"));
        Assert.DoesNotContain(school.Database.Read(stores => stores.Calendars.All()), one => one.Title.Length > 120);
    }
}
