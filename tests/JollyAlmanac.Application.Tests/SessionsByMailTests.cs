using System.Text;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Sessions by e-mail: what goes out when (RFC 5546, RFC 6047), and what comes back.</summary>
public sealed class SessionsByMailTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly Series series;

    public SessionsByMailTests() => series = school.Add();

    public void Dispose() => school.Dispose();

    private async Task<List<Letter>> Go(Duration? wait = null)
    {
        school.Letters.Look(TestContext.Current.CancellationToken);
        school.Clock.Advance(wait ?? Duration.FromMinutes(3));
        await school.Post.Send(TestContext.Current.CancellationToken);
        List<Letter> letters = [.. school.Carrier.Letters];
        school.Carrier.Letters.Clear();
        return letters;
    }

    private async Task<string> Begin(Viewer? who = null)
    {
        TestSchool.Done(school.ByMail.Begin(who ?? school.Student, Slug));
        return Document(Assert.Single(await Go()));
    }

    private static string Document(Letter letter) => letter.Sessions!.Calendar;

    private static string Line(string document, string name) =>
        document
            .Replace("\r\n ", "", StringComparison.Ordinal)
            .Split("\r\n")
            .First(line => Regex.IsMatch(line, $"^{name}[;:]"));

    private static int Sequence(string document) =>
        int.Parse(Line(document, "SEQUENCE")["SEQUENCE:".Length..], System.Globalization.CultureInfo.InvariantCulture);

    private async Task<bool> Reply(string calendar, string from = "teodor@skerry.example")
    {
        school.Carrier.Incoming.Add(new IncomingLetter("1.eml", from, [Encoding.UTF8.GetBytes(calendar)]));
        return await school.Answers.Take(TestContext.Current.CancellationToken) == 1;
    }

    // After the example of RFC 5546 §4.2.2 (from memory): what a calendar program sends back.
    private string Answer(
        string partstat,
        int sequence,
        string attendee = "teodor@skerry.example",
        string more = "",
        string uid = "",
        string stamp = "20261014T130000Z",
        string method = "REPLY"
    ) =>
        string.Join(
            "\r\n",
            "BEGIN:VCALENDAR",
            "PRODID:-//A reader//EN",
            $"METHOD:{method}",
            "VERSION:2.0",
            "BEGIN:VEVENT",
            $"ATTENDEE;PARTSTAT={partstat}:mailto:{attendee}",
            "ORGANIZER:mailto:almanac@skerry.example",
            $"UID:{(uid.Length > 0 ? uid : series.Uid)}",
            $"SEQUENCE:{sequence}",
            $"DTSTAMP:{stamp}{more}",
            "END:VEVENT",
            "END:VCALENDAR",
            ""
        );

    private SeriesAnswers Answers() =>
        Assert.Single(Assert.Single(TestSchool.Done(school.ByMail.View(school.Teacher, Slug)).Readers!).Series);

    /// <summary>RFC 5546 §3.2.2 and §3.2.5: what a REQUEST and a CANCEL of a VEVENT must have, and must not.</summary>
    [Fact]
    public async Task Letters_have_what_the_methods_ask_for()
    {
        school.Change(series, "2026-11-04T09:50", new SessionInput("move", new SessionTimeInput("2026-11-05", "4")));
        school.Change(series, "2026-11-06T09:50", new SessionInput("leave-out"));
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        var letter = Assert.Single(await Go());
        Assert.Equal("teodor@skerry.example", letter.ToAddress);
        Assert.Equal("REQUEST", letter.Sessions!.Method);
        var read = Assert.Single(ICalendarReader.Read(Encoding.UTF8.GetBytes(Document(letter))).Calendars);
        Assert.Equal("REQUEST", read.Find("METHOD")!.Value);
        var events = read.Parts.Where(part => part.Name == "VEVENT").ToList();
        Assert.Equal(2, events.Count);
        foreach (var part in events)
        {
            foreach (var needed in new[] { "UID", "DTSTAMP", "DTSTART", "ORGANIZER", "SUMMARY", "SEQUENCE" })
                Assert.Single(part.Lines, line => line.Name == needed);
            var attendee = Assert.Single(part.Lines, line => line.Name == "ATTENDEE");
            Assert.Equal("mailto:teodor@skerry.example", attendee.Value);
            Assert.Equal(("NEEDS-ACTION", "TRUE"), (attendee.Parameter("PARTSTAT"), attendee.Parameter("RSVP")));
            Assert.Equal("mailto:almanac@skerry.example", part.Find("ORGANIZER")!.Value);
            Assert.Null(part.Find("STATUS"));
            Assert.Equal(series.Uid, part.Find("UID")!.Value);
        }

        Assert.Single(read.Parts, part => part.Name == "VTIMEZONE");
        // Another library finds exactly the sessions that are held; the cancelled one is not among them.
        var held = school
            .TermSheetQuery.Read(school.Teacher, Slug, null)!
            .Sheet!.Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions)
            .Where(shown => shown.Session.IsHeld)
            .Select(shown => shown.Session.StartsAt)
            .Order();
        var theirs = Ical
            .Net.Calendar.Load(Document(letter))!
            .GetOccurrences<Ical.Net.CalendarComponents.CalendarEvent>()
            .Take(2000)
            .Select(one => Instant.FromDateTimeUtc(one.Period.StartTime.AsUtc))
            .Order();
        Assert.Equal(held, theirs);

        TestSchool.Done(school.ByMail.End(school.Student, Slug));
        var cancel = Assert.Single(await Go());
        Assert.Equal("CANCEL", cancel.Sessions!.Method);
        var gone = Assert.Single(
            Assert.Single(ICalendarReader.Read(Encoding.UTF8.GetBytes(Document(cancel))).Calendars).Parts
        );
        foreach (var needed in new[] { "UID", "DTSTAMP", "ORGANIZER", "SEQUENCE", "ATTENDEE" })
            Assert.NotNull(gone.Find(needed));
        Assert.Equal(("CANCELLED", "1"), (gone.Find("STATUS")!.Value, gone.Find("SEQUENCE")!.Value));
        Assert.Null(gone.Find("RRULE"));
    }

    /// <summary>§2.1.4: SEQUENCE rises when sessions move; of other changes only a newer DTSTAMP tells.</summary>
    [Fact]
    public async Task Each_change_goes_once_and_only_moves_raise_the_sequence()
    {
        var first = await Begin();
        Assert.Equal(0, Sequence(first));
        Assert.Empty(await Go(Duration.FromDays(1)));
        school.Change(series, "2026-10-21T09:50", new SessionInput("tell", Note: "Bring boots"));
        var noted = Document(Assert.Single(await Go()));
        Assert.Equal(0, Sequence(noted));
        Assert.Contains("Bring boots", noted, StringComparison.Ordinal);
        Assert.True(string.CompareOrdinal(Line(noted, "DTSTAMP"), Line(first, "DTSTAMP")) > 0);
        // Three in a row are one letter.
        foreach (var day in new[] { "2026-10-26", "2026-10-28", "2026-10-30" })
        {
            school.Change(series, $"{day}T09:50", new SessionInput("leave-out"));
            school.Letters.Look(TestContext.Current.CancellationToken);
        }

        var letter = Assert.Single(await Go());
        Assert.StartsWith("Changed: ", letter.Subject, StringComparison.Ordinal);
        Assert.Contains("20261028T095000", Line(Document(letter), "EXDATE"), StringComparison.Ordinal);
        Assert.True(Sequence(Document(letter)) >= 1);
        // So does what a coordinator changes for the whole school.
        TestSchool.Done(
            school.SchoolTime.Do(school.Coordinator, time => new SchoolTime(
                time.Zone,
                time.FirstDayOfWeek,
                time.Terms,
                [new(new LocalDate(2026, 11, 11), new LocalDate(2026, 11, 11), "Remembrance Day", NoClassKind.Holiday)],
                time.Bells,
                time.Cycle
            ))
        );
        var holiday = Document(Assert.Single(await Go()));
        Assert.Contains("20261111T095000", Line(holiday, "EXDATE"), StringComparison.Ordinal);
        Assert.True(Sequence(holiday) > Sequence(Document(letter)));
    }

    [Fact]
    public async Task What_is_no_longer_theirs_to_see_is_taken_back_and_comes_again()
    {
        await Begin();
        TestSchool.Done(school.Share.End(school.Teacher, Slug, "anyone"));
        Assert.Equal("CANCEL", Assert.Single(await Go()).Sessions!.Method);
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Busy
            )
        );
        Assert.Empty(await Go());
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Outline
            )
        );
        var back = Assert.Single(await Go());
        Assert.Equal(("REQUEST", 2), (back.Sessions!.Method, Sequence(Document(back))));
        // The outline has neither the description nor the way in.
        Assert.DoesNotContain("Bring boots", Document(back), StringComparison.Ordinal);
        Assert.DoesNotContain("/in/", Document(back), StringComparison.Ordinal);
        TestSchool.Done(school.TakeOff.Do(school.Teacher, Slug, series.Id, school.Now(series).Version));
        Assert.Equal(
            ("CANCEL", 3),
            (await Go()).Select(one => (one.Sessions!.Method, Sequence(Document(one)))).Single()
        );
    }

    [Fact]
    public async Task Who_joins_a_group_gets_what_it_sees_and_a_private_entry_stays_out()
    {
        school.Add(TestSchool.Good with { Title = "Lunch with the bank", IsPrivate = true, Days = ["2"], Link = "" });
        var document = await Begin();
        Assert.DoesNotContain("Lunch", document, StringComparison.Ordinal);
        var section = school.Database.Write(stores => stores.Groups.Add("Reef crew", GroupKind.Section), _ => true);
        school.Database.Write(
            stores =>
            {
                stores.Calendars.Set(
                    new Grant(stores.Calendars.Find(Slug)!.Id, new Grantee.OneGroup(section), AccessLevel.Full)
                );
                return true;
            },
            _ => true
        );
        school.Add(
            TestSchool.Good with
            {
                Title = "Reef count",
                Days = ["4"],
                Link = "",
                Only = [AudienceInput.KeyOf(section)],
            }
        );
        Assert.Empty(await Go());
        school.Database.Write(
            stores =>
            {
                stores.Groups.AddMembers(section, [school.Student.Person!.Value]);
                return true;
            },
            _ => true
        );
        Assert.Equal("Reef count", Assert.Single(await Go()).Subject);
    }

    [Fact]
    public async Task What_was_never_sent_and_what_is_over_is_not_taken_back()
    {
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        TestSchool.Done(school.ByMail.End(school.Student, Slug));
        Assert.Empty(await Go());
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        Assert.Single(await Go());
        school.Clock.Reset(Instant.FromUtc(2026, 12, 30, 12, 0));
        TestSchool.Done(school.ByMail.End(school.Student, Slug));
        Assert.Empty(await Go());
        // Nor is what is over sent to who comes late.
        TestSchool.Done(school.ByMail.Begin(school.Helper, Slug));
        Assert.Empty(await Go());
    }

    [Fact]
    public async Task A_server_that_is_down_loses_nothing_and_sends_nothing_twice()
    {
        school.Carrier.Down = new MailCarrierException("down");
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        Assert.Empty(await Go());
        school.Change(series, "2026-10-26T09:50", new SessionInput("leave-out"));
        Assert.Empty(await Go());
        school.Carrier.Down = null;
        var letters = await Go(Duration.FromHours(1));
        // Both say how it is now; the later one carries the higher number.
        Assert.All(letters, letter =>
            Assert.Contains("20261026T095000", Line(Document(letter), "EXDATE"), StringComparison.Ordinal)
        );
        Assert.InRange(letters.Count, 1, 2);
        Assert.Empty(await Go(Duration.FromHours(1)));
    }

    [Fact]
    public async Task Answers_are_read_and_shown()
    {
        await Begin();
        Assert.True(await Reply(Answer("ACCEPTED", 0)));
        Assert.True(await Reply(Answer("DECLINED", 0, more: "\r\nRECURRENCE-ID;TZID=America/Halifax:20261026T095000")));
        var answers = Answers();
        Assert.Equal(
            [("", MailAnswer.Accepted), ("20261026T095000", MailAnswer.Declined)],
            answers.Answers.Select(answer => (answer.Session, answer.Answer))
        );
        Assert.Contains(
            "answered Tidepool Biology 9A by e-mail: accepted",
            school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!.Lines.Select(line => line.Summary)
        );
        // A note keeps the answer; a move asks anew.
        school.Change(series, "2026-10-28T09:50", new SessionInput("tell", Note: "Hammers"));
        Assert.Contains(
            "PARTSTAT=ACCEPTED",
            Document(Assert.Single(await Go())).Replace("\r\n ", "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        school.Change(series, "2026-10-28T09:50", new SessionInput("leave-out"));
        Assert.Contains(
            "PARTSTAT=NEEDS-ACTION",
            Document(Assert.Single(await Go())).Replace("\r\n ", "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
        Assert.True(Answers().Answers[0].Sequence < Answers().Sent.Sequence);
    }

    public static TheoryData<string, string, string> NoAnswers =>
        new()
        {
            { "from somebody else", "ACCEPTED|0|teodor@skerry.example||", "wendeline@skerry.example" },
            { "for somebody else", "ACCEPTED|0|wendeline@skerry.example||", "teodor@skerry.example" },
            { "who was never asked", "ACCEPTED|0|wendeline@skerry.example||", "wendeline@skerry.example" },
            { "no such series", "ACCEPTED|0|teodor@skerry.example|nothing@skerry.example|", "teodor@skerry.example" },
            { "no answer at all", "NEEDS-ACTION|0|teodor@skerry.example||", "teodor@skerry.example" },
            { "a number for one", "1|0|teodor@skerry.example||", "teodor@skerry.example" },
            { "to a version that was never sent", "ACCEPTED|7|teodor@skerry.example||", "teodor@skerry.example" },
            { "another method", "ACCEPTED|0|teodor@skerry.example||COUNTER", "teodor@skerry.example" },
            { "nobody the school knows", "ACCEPTED|0|x@elsewhere.example||", "x@elsewhere.example" },
        };

    [Theory]
    [MemberData(nameof(NoAnswers))]
    public async Task What_is_no_answer_changes_nothing(string what, string reply, string from)
    {
        Assert.NotEmpty(what);
        await Begin();
        var parts = reply.Split('|');
        Assert.False(
            await Reply(
                Answer(
                    parts[0],
                    int.Parse(parts[1], System.Globalization.CultureInfo.InvariantCulture),
                    parts[2],
                    uid: parts[3],
                    method: parts[4].Length > 0 ? parts[4] : "REPLY"
                ),
                from
            )
        );
        Assert.Empty(Answers().Answers);
        Assert.Equal([("1.eml", false)], school.Carrier.PutAwayLetters);
    }

    /// <summary>§2.1.5: the later of two counts, in whatever order they come.</summary>
    [Fact]
    public async Task An_older_answer_does_not_take_the_place_of_a_newer_one()
    {
        await Begin();
        Assert.True(await Reply(Answer("DECLINED", 0, stamp: "20261014T130500Z")));
        Assert.False(await Reply(Answer("ACCEPTED", 0, stamp: "20261014T130400Z")));
        Assert.Equal(MailAnswer.Declined, Assert.Single(Answers().Answers).Answer);
        Assert.True(await Reply(Answer("TENTATIVE", 0, stamp: "20261014T130600Z")));
        Assert.Equal(MailAnswer.Tentative, Assert.Single(Answers().Answers).Answer);
    }

    [Fact]
    public void Who_keeps_the_calendar_sees_answers_and_others_only_their_own()
    {
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        Assert.Null(TestSchool.Done(school.ByMail.View(school.Helper, Slug)).Readers);
        Assert.Equal(
            "Teodor Quill",
            Assert.Single(TestSchool.Done(school.ByMail.View(school.Teacher, Slug)).Readers!).Name
        );
        Assert.Empty(TestSchool.Done(school.ByMail.View(school.Helper, Slug)).Own);
    }

    /// <summary>A quarter of an hour before, once, of what one may see; anew where it moves, not at all where it is off or begun.</summary>
    [Fact]
    public async Task Who_asks_for_it_is_reminded_before_each_session()
    {
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Full
            )
        );
        Assert.Single(TestSchool.Refused(school.ByMail.Remind(school.Student, TestSchool.Slug, "0")));
        TestSchool.Done(school.ByMail.Remind(school.Student, TestSchool.Slug, "15"));
        async Task<List<string>> At(string local, Action? meanwhile = null)
        {
            school.Clock.Reset(
                NodaTime
                    .Text.LocalDateTimePattern.GeneralIso.Parse(local)
                    .Value.InZoneLeniently(DateTimeZoneProviders.Tzdb["America/Halifax"])
                    .ToInstant()
            );
            school.Carrier.Letters.Clear();
            school.Reminders.Look();
            meanwhile?.Invoke();
            await school.Post.Send();
            return [.. school.Carrier.Letters.Select(letter => letter.Subject)];
        }

        // 9:50 on Fri 16 Oct.
        Assert.Empty(await At("2026-10-16T09:34:00"));
        Assert.Equal(["Tidepool Biology 9A, 9:50"], await At("2026-10-16T09:35:00"));
        Assert.Contains("starts in 15 minutes", school.Carrier.Letters[0].Text, StringComparison.Ordinal);
        Assert.DoesNotContain("rooms.skerry", school.Carrier.Letters[0].Text, StringComparison.Ordinal);
        Assert.Empty(await At("2026-10-16T09:40:00"));
        // Moved to later on the same day: it is another time to be reminded of.
        school.Change(series, "2026-10-16T09:50", new SessionInput("move", new SessionTimeInput("2026-10-16", "4")));
        Assert.Equal(["Tidepool Biology 9A, 10:55"], await At("2026-10-16T10:45:00"));
        school.Change(series, "2026-10-19T09:50", new SessionInput("leave-out"));
        Assert.Empty(await At("2026-10-19T09:40:00"));
        Assert.Empty(await At("2026-10-21T09:50:00"));
        // Nor where it moves, or begins, while the letter waits.
        Assert.Empty(
            await At("2026-10-26T09:40:00", () =>
                school.Change(
                    series,
                    "2026-10-26T09:50",
                    new SessionInput("move", new SessionTimeInput("2026-10-26", "4"))
                )
            )
        );
        Assert.Empty(await At("2026-10-28T09:40:00", () => school.Clock.Advance(Duration.FromMinutes(10))));
        // Without all that it would have come.
        Assert.Equal(["Tidepool Biology 9A, 9:50"], await At("2026-10-30T09:40:00"));
        // Whoever is cut to busy times is told nothing any more.
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Busy
            )
        );
        TestSchool.Done(school.Share.Give(school.Teacher, TestSchool.Slug, new Grantee.Anyone(), AccessLevel.Busy));
        Assert.Empty(await At("2026-11-02T09:40:00"));
        Assert.Empty(await At("2026-11-04T09:40:00"));
    }
}
