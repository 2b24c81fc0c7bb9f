using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Where materials go, when they are given, and what is looked for. Values without a source are common practice.</summary>
public sealed class MaterialTests
{
    // Mon, Wed and Fri from 14 Sep: no. 13 is Wed 14 Oct, after Thanksgiving on the 12th.
    private static readonly Plan Plan = Skerry.Plan(
        Skerry.Pattern(
            "Mon Wed Fri",
            Skerry.Clock(9, 50, 10, 40),
            new LocalDate(2026, 9, 14),
            new Extent.WithTerm(Skerry.Autumn.Id)
        )
    );

    private static readonly Session Thirteenth = Plan.Held.Single(session => session.Number == 13);

    private static Instant At(int month, int day, int hour, int minute) =>
        new LocalDateTime(2026, month, day, hour, minute).InZoneStrictly(Skerry.Halifax).ToInstant();

    private static Material Sheet(string title = "Sheet") =>
        new(
            new MaterialId(1),
            new CalendarId(1),
            new SeriesId(1),
            null,
            new MaterialKey("key"),
            title,
            new MaterialContent.Link(new Uri("https://tides.skerry.example/")),
            MaterialAudience.Anyone
        );

    [Theory]
    [InlineData("03 tides.pdf", "Number 3")]
    [InlineData("Session 12 - limpets.pptx", "Number 12")]
    [InlineData("lesson_7.docx", "Number 7")]
    [InlineData("No. 20 kelp.pdf", "Number 20")]
    [InlineData("#5.md", "Number 5")]
    [InlineData("tides 8.pdf", "Number 8")]
    [InlineData("2026-11-02.pdf", "Day 20")]
    [InlineData("20261104 winds.pdf", "Day 21")]
    [InlineData("Sheet 2 Nov.pdf", "Day 20")]
    [InlineData("Nov 2nd.pdf", "Day 20")]
    [InlineData("4 November, rocks.pdf", "Day 21")]
    // A day counts before a number.
    [InlineData("12 limpets 2026-11-02.pdf", "Day 20")]
    // What no session has is told, and not put anywhere.
    [InlineData("99 end.pdf", "Nothing")]
    [InlineData("2026-10-12.pdf", "Nothing")]
    [InlineData("2026-13-45 x.pdf", "Order 13")]
    // Neither a version nor a class is a number.
    [InlineData("notes v2.pdf", "Order 13")]
    [InlineData("9A reading.pdf", "Order 13")]
    [InlineData("extra.pdf", "Order 13")]
    public void A_file_finds_its_session_by_its_name(string name, string expected) =>
        Assert.Equal(
            expected,
            Told(MaterialMatching.Of([name], [.. Plan.Held], At(10, 14, 9, 41), _ => false).Single())
        );

    [Fact]
    public void Files_without_a_number_follow_in_order_past_sessions_that_have_some()
    {
        var matchedFile = MaterialMatching.Of(
            ["b.pdf", "14 x.pdf", "a.pdf", "c.pdf"],
            [.. Plan.Held],
            At(10, 14, 9, 41),
            session => session.Number == 15
        );
        Assert.Equal(["Order 13", "Number 14", "Order 16", "Order 17"], matchedFile.Select(Told));
        // The last two go nowhere, as no session is left; one that is over gets none.
        var late = MaterialMatching.Of(["a.pdf", "b.pdf", "c.pdf"], [.. Plan.Held], At(12, 18, 9, 0), _ => false);
        Assert.Equal(
            ["Order 37", "Nothing", "Nothing"],
            late.Select(Told).Select(told => told.Replace("Order 38", "Order 37", StringComparison.Ordinal))
        );
    }

    [Fact]
    public void Two_sessions_of_one_day_get_a_file_each()
    {
        var twice = Planner
            .PlanOf(
                Skerry.Series(
                    Skerry.Rule(
                        "FREQ=DAILY;BYHOUR=9,14;BYMINUTE=0",
                        Skerry.Clock(9, 0, 9, 50),
                        new LocalDate(2026, 9, 14),
                        new Extent.Held(6)
                    )
                ),
                Skerry.WithoutHolidays
            )
            .Held.ToList();
        if (twice.Count < 2 || twice[0].Day != twice[1].Day)
            twice =
            [
                .. Skerry
                    .Plan(
                        Skerry.Pattern("Mon", Skerry.Clock(9, 0, 9, 50), new LocalDate(2026, 9, 14), new Extent.Held(1))
                    )
                    .Held.Concat(
                        Planner
                            .PlanOf(
                                Skerry.Series(
                                    Skerry.Pattern(
                                        "Mon",
                                        Skerry.Clock(14, 0, 14, 50),
                                        new LocalDate(2026, 9, 14),
                                        new Extent.Held(1)
                                    )
                                ) with
                                {
                                    Id = new SeriesId(2),
                                },
                                Skerry.Time
                            )
                            .Held
                    ),
            ];
        var matchedFile = MaterialMatching.Of(["14 Sep a.pdf", "14 Sep b.pdf", "14 Sep c.pdf"], twice, default, _ =>
            false
        );
        Assert.Equal([twice[0].Key, twice[1].Key, twice[0].Key], matchedFile.Select(one => one.To!.Key));
    }

    private static string Told(MatchedFile matchedFile) =>
        matchedFile.To is null ? $"{matchedFile.By}" : $"{matchedFile.By} {matchedFile.To.Number}";

    // 9:50–10:40 in Halifax; a minute before and the minute itself.
    [Theory]
    [InlineData("start -30", "10-14T09:19", false)]
    [InlineData("start -30", "10-14T09:20", true)]
    [InlineData("start 0", "10-14T09:49", false)]
    [InlineData("start 0", "10-14T09:50", true)]
    [InlineData("end 0", "10-14T10:39", false)]
    [InlineData("end 0", "10-14T10:40", true)]
    [InlineData("end 1440", "10-15T10:39", false)]
    [InlineData("end 1440", "10-15T10:40", true)]
    [InlineData("from", "10-16T07:59", false)]
    [InlineData("from", "10-16T08:00", true)]
    [InlineData("hand", "12-18T08:00", false)]
    [InlineData("now", "09-01T00:00", true)]
    public void A_material_is_given_when_its_release_says(string release, string at, bool isGiven)
    {
        var parts = release.Split(' ');
        Release when = parts[0] switch
        {
            "hand" => new Release.ByHand(),
            "from" => new Release.From(new LocalDateTime(2026, 10, 16, 8, 0)),
            "now" => Release.Now,
            var edge => new Release.WithSession(
                edge == "end",
                int.Parse(parts[1], System.Globalization.CultureInfo.InvariantCulture)
            ),
        };
        var moment = NodaTime
            .Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm")
            .Parse("2026-" + at)
            .Value.InZoneStrictly(Skerry.Halifax)
            .ToInstant();
        var material = Sheet() with { ForSession = Thirteenth.Original, Release = when };
        Assert.Equal(isGiven, material.IsReleased(Thirteenth, moment, Skerry.Halifax));
        // With its session gone, what hangs on it is given to nobody.
        if (when is Release.WithSession)
            Assert.False(material.IsReleased(null, Instant.MaxValue, Skerry.Halifax));
    }

    [Fact]
    public void The_last_day_is_a_whole_day_of_the_school()
    {
        var material = Sheet() with { LastDay = new LocalDate(2026, 11, 1) };
        // The clocks go back on 1 Nov 2026 in Halifax (tzdb: Canada rules): the day has 25 hours.
        Assert.True(material.IsReleased(null, At(11, 1, 23, 59), Skerry.Halifax));
        Assert.False(material.IsReleased(null, At(11, 2, 0, 0), Skerry.Halifax));
        Assert.Equal(Duration.FromHours(25), material.Ends(Skerry.Halifax) - At(11, 1, 0, 0));
    }

    [Theory]
    [InlineData(AccessLevel.Editor, null, true)]
    [InlineData(AccessLevel.Manager, null, true)]
    [InlineData(AccessLevel.Contributor, 1, true)]
    [InlineData(AccessLevel.Contributor, 2, false)]
    [InlineData(AccessLevel.Full, 1, false)]
    [InlineData(AccessLevel.Outline, null, false)]
    public void Before_its_release_only_those_who_may_change_it_see_it_and_only_where_they_work(
        AccessLevel level,
        int? person,
        bool sees
    )
    {
        var reader = person is { } id ? new Viewer(new PersonId(id), SchoolRole.Teacher, new HashSet<GroupId>()) : null;
        var materials = new MaterialsAt(
            new MaterialsOf([Sheet() with { ForSession = Thirteenth.Original, Release = new Release.ByHand() }]),
            At(10, 14, 9, 41),
            Skerry.Halifax
        );
        var shown = Redaction.Show(Thirteenth, level, ShowChoices.Working, materials, null, reader)!.Materials;
        Assert.Equal(sees, shown.Length == 1);
        Assert.All(shown, material => Assert.True(material.IsHeldBack));
        foreach (var choices in new[] { ShowChoices.SignedIn, ShowChoices.Anyone })
            Assert.Empty(Redaction.Show(Thirteenth, level, choices, materials, null, reader)!.Materials);
        // What is for the whole class is not a contributor's, whoever made the series.
        var whole = new MaterialsAt(
            new MaterialsOf([Sheet() with { Series = null, Release = new Release.ByHand() }]),
            At(10, 14, 9, 41),
            Skerry.Halifax
        );
        Assert.Equal(
            level >= AccessLevel.Editor,
            Redaction.Show(Thirteenth, level, ShowChoices.Working, whole, null, reader)!.Materials.Length == 1
        );
    }

    [Fact]
    public void Materials_of_a_session_come_before_its_series_and_the_class_each_in_its_order()
    {
        var all = new MaterialsOf([
            Sheet("class") with
            {
                Id = new(1),
                Series = null,
            },
            Sheet("series b") with
            {
                Id = new(2),
                Position = 1,
            },
            Sheet("series a") with
            {
                Id = new(3),
            },
            Sheet("own b") with
            {
                Id = new(4),
                ForSession = Thirteenth.Original,
                Position = 2,
            },
            Sheet("own a") with
            {
                Id = new(5),
                ForSession = Thirteenth.Original,
                Position = 1,
            },
            Sheet("another's") with
            {
                Id = new(6),
                ForSession = Plan.Held.First().Original,
            },
            Sheet("other series") with
            {
                Id = new(7),
                Series = new(9),
            },
        ]);
        Assert.Equal(["own a", "own b", "series a", "series b", "class"], all.For(Thirteenth).Select(one => one.Title));
        Assert.Equal(["series a", "series b", "class"], all.For(Thirteenth, own: false).Select(one => one.Title));
        Assert.Equal(["series a", "series b"], all.Beside(all.All[1]).Select(one => one.Title));
        Assert.True(all.HasOwn(Thirteenth));
        Assert.False(all.HasOwn(Plan.Held.Last()));
    }

    [Theory]
    // Of the last four and the next two weeks: who has material of their own.
    [InlineData("12 13 15", "")]
    [InlineData("9 10 11 12 13 15", "14 16 17")]
    [InlineData("12", "")]
    [InlineData("", "")]
    [InlineData("9 10 11 12 13 14 15 16 17", "")]
    [InlineData("9 10 11 12", "")]
    [InlineData("9 10 11 12 13", "14 15 16 17")]
    public void A_session_to_come_misses_its_material_where_the_others_have_some(string have, string missing)
    {
        var numbers = have.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(int.Parse).ToList();
        var materials = new MaterialsOf([
            .. Plan
                .Held.Where(session => numbers.Contains(session.Number!.Value))
                .Select(session => Sheet() with { ForSession = session.Original }),
        ]);
        // From Wed 14 Oct, 9:41, fourteen days on: 13 to 17, as 22 and 23 Oct are no class, and 28 Oct at 9:50 is a minute late.
        Assert.Equal(
            missing,
            string.Join(' ', MissingMaterials.Of(Plan, materials, At(10, 14, 9, 41)).Select(session => session.Number))
        );
        // A recording is not what a session is prepared with.
        var recorded = new MaterialsOf([.. materials.All.Select(one => one with { IsRecording = true })]);
        Assert.Empty(MissingMaterials.Of(Plan, recorded, At(10, 14, 9, 41)));
    }

    [Theory]
    // Of the last six that are over on Wed 14 Oct at 9:41, 7 to 12: who has a recording. Two weeks reach back to no. 8, Wed 30 Sep at 9:50.
    [InlineData("7 8 9 10 11", "12")]
    [InlineData("10 11 12", "8 9")]
    [InlineData("11 12", "")]
    [InlineData("7", "")]
    [InlineData("1 2 3 4 5 6", "")]
    [InlineData("7 8 9 10 11 12", "")]
    public void A_session_that_was_held_misses_its_recording_where_the_others_have_one(string have, string missing)
    {
        var numbers = have.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(int.Parse).ToList();
        var recordings = new MaterialsOf([
            .. Plan
                .Held.Where(session => numbers.Contains(session.Number!.Value))
                .Select(session => Sheet() with { ForSession = session.Original, IsRecording = true }),
        ]);
        string Missing(MaterialsOf materials, Instant now) =>
            string.Join(' ', MissingRecordings.Of(Plan, materials, now).Select(session => session.Number));
        Assert.Equal(missing, Missing(recordings, At(10, 14, 9, 41)));
        // A hand-out is no recording.
        Assert.Equal(
            "",
            Missing(
                new MaterialsOf([.. recordings.All.Select(one => one with { IsRecording = false })]),
                At(10, 14, 9, 41)
            )
        );
    }

    [Fact]
    public void A_recording_is_asked_for_from_the_end_of_its_session_and_for_two_weeks()
    {
        var recordings = new MaterialsOf([
            .. Plan
                .Held.Where(session => session.Number is 10 or 11 or 12)
                .Select(session => Sheet() with { ForSession = session.Original, IsRecording = true }),
        ]);
        string Missing(Instant now) =>
            string.Join(' ', MissingRecordings.Of(Plan, recordings, now).Select(session => session.Number));
        // No. 13 is Wed 14 Oct, 9:50–10:40; no. 8 was Wed 30 Sep.
        Assert.Equal("8 9", Missing(At(10, 14, 10, 39)));
        Assert.Equal("9 13", Missing(At(10, 14, 10, 40)));
    }

    [Fact]
    public void Half_of_those_around_are_enough()
    {
        // On Wed 16 Sep at eleven: two are over, and six come by the 30th.
        var materials = new MaterialsOf([
            .. Plan.Held.Take(4).Select(session => Sheet() with { ForSession = session.Original }),
        ]);
        Assert.Equal(
            [5, 6, 7, 8],
            MissingMaterials.Of(Plan, materials, At(9, 16, 11, 0)).Select(session => session.Number!.Value)
        );
        Assert.Empty(MissingMaterials.Of(Plan, new MaterialsOf([.. materials.All.Take(3)]), At(9, 16, 11, 0)));
    }

    [Theory]
    [InlineData("barnacle", "barnacle", null, null)]
    [InlineData("  Tidepool   12 ", "tidepool", 12, null)]
    [InlineData("no. 12", "", 12, null)]
    [InlineData("session #7 kelp", "kelp", 7, null)]
    [InlineData("14 Oct", "", null, "10-14")]
    [InlineData("tides oct 14", "tides", null, "10-14")]
    [InlineData("2026-11-02", "", null, "11-02")]
    [InlineData("9A", "9a", null, null)]
    [InlineData("4 or 5", "4 or 5", null, null)]
    [InlineData("\"a\" AND b* (c)", "a and b c", null, null)]
    [InlineData("", "", null, null)]
    public void What_is_typed_is_words_a_number_or_a_day(string typed, string words, int? number, string? day)
    {
        var looked = SearchText.Read(typed);
        Assert.Equal(words, string.Join(' ', looked.Words));
        Assert.Equal(number, looked.Number);
        Assert.Equal(day, looked.Day is var (_, month, on) ? $"{month:00}-{on:00}" : null);
        Assert.Equal(typed.Length == 0, looked.IsEmpty);
    }

    [Fact]
    public void Words_are_found_by_their_beginning_accents_apart_and_a_long_text_is_cut()
    {
        Assert.True(SearchText.Read("fran ete").IsIn("Été en FRANÇAIS"));
        Assert.False(SearchText.Read("ancais").IsIn("Français"));
        Assert.Equal(
            8,
            SearchText.Read(string.Join(' ', Enumerable.Range(0, 40).Select(at => $"w{at}x"))).Words.Length
        );
        Assert.True(SearchText.Read(new string('a', 5000)).Words[0].Length <= SearchText.Longest);
    }

    [Theory]
    [InlineData("notes.pdf.exe", "is not a kind")]
    [InlineData("notes.exe.pdf", "has two endings")]
    [InlineData("notes.html.pdf", "has two endings")]
    [InlineData("notes.js.txt", "has two endings")]
    [InlineData("drawing.svg", "is not a kind")]
    [InlineData("page.html", "is not a kind")]
    [InlineData("macro.docm", "is not a kind")]
    [InlineData("photo.png", "does not look inside")]
    [InlineData("notes", "is not a kind")]
    [InlineData("1.2 tides.pdf", null)]
    [InlineData("v1.0.final.pdf", null)]
    public void A_file_is_taken_by_its_ending_and_what_it_begins_with(string name, string? reason)
    {
        var (kind, why) = FileKind.Of(name, "%PDF-1.7"u8);
        Assert.Equal(reason is null, kind is not null);
        if (reason is not null)
            Assert.Contains(reason, why!, StringComparison.Ordinal);
    }
}
