using System.Text;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>People brought in, invited, ended and erased; letters; accounts and second factors.</summary>
public sealed class PeopleTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private PersonId Id(string email) => new((long)school.Execute($"select id from people where email = '{email}'")!);

    private async Task<string> WayIn()
    {
        await school.Post.Send();
        return System
            .Text.RegularExpressions.Regex.Match(school.Carrier.Letters[^1].Text, "welcome/([0-9a-z]{26})")
            .Groups[1]
            .Value;
    }

    [Fact]
    public async Task An_invitation_works_once_for_its_person_and_for_two_weeks()
    {
        Assert.Equal(
            1,
            TestSchool.Done(
                school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example"), Id("orla@skerry.example")])
            )
        );
        var token = await WayIn();
        // No token stands in the database; a thief of it gets in nowhere.
        Assert.DoesNotContain(
            token,
            string.Join(
                '|',
                school.Execute("select group_concat(hex(token_hash) || summary) from invitations, history")
            ),
            StringComparison.Ordinal
        );
        Assert.Equal(
            ("Teodor Quill", false),
            (school.Invitations.At(token)!.Name, school.Invitations.At(token)!.IsReset)
        );
        Assert.Null(school.Invitations.At(token[..25] + (token[25] == '0' ? '1' : '0')));
        foreach (
            var (password, field) in new[]
            {
                ("short", "Password"),
                ("q1w2e3r4t5y6", "Password"),
                ("teodor@skerry.example", "Password"),
            }
        )
            Assert.Equal(
                field,
                TestSchool.Refused(school.Invitations.Use(token, "Teo Quill", password, "")).Single().Field
            );
        Assert.Equal(
            "Name",
            TestSchool.Refused(school.Invitations.Use(token, " ", "five boats at low tide", "")).Single().Field
        );
        var welcome = Assert.IsType<SignInAnswer.Welcome>(
            TestSchool.Done(school.Invitations.Use(token, "Teo Quill", "five boats at low tide", "Firefox"))
        );
        Assert.Equal("Teo Quill", school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token)?.Person.Name);
        Assert.IsType<Outcome<SignInAnswer>.NotFound>(
            school.Invitations.Use(token, null, "five boats at low tide", "")
        );
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("teodor@skerry.example", "five boats at low tide", new("a")).Waited()
        );
    }

    [Fact]
    public async Task An_invitation_ends_by_time_by_being_sent_again_and_by_being_taken_back()
    {
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        var first = await WayIn();
        school.Clock.Advance(Invitations.Lasts - Duration.FromSeconds(1));
        Assert.NotNull(school.Invitations.At(first));
        school.Clock.Advance(Duration.FromSeconds(1));
        Assert.Null(school.Invitations.At(first));
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        var second = await WayIn();
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        var third = await WayIn();
        Assert.Null(school.Invitations.At(second));
        Assert.NotNull(school.Invitations.At(third));
        TestSchool.Done(school.Invitations.Withdraw(school.Coordinator, Id("teodor@skerry.example")));
        Assert.Null(school.Invitations.At(third));
        // One that is taken back before its letter went never goes.
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        TestSchool.Done(school.Invitations.Withdraw(school.Coordinator, Id("teodor@skerry.example")));
        Assert.Equal(0, await school.Post.Send());
    }

    [Fact]
    public async Task A_new_password_comes_by_mail_and_tells_nobody_who_is_here()
    {
        var before = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited()
        );
        school.Invitations.AskReset("nobody@skerry.example");
        school.Invitations.AskReset(" ORLA@skerry.example ");
        school.Invitations.AskReset("orla@skerry.example");
        Assert.Equal(1, await school.Post.Send());
        var token = await WayIn();
        Assert.True(school.Invitations.At(token)!.IsReset);
        TestSchool.Done(school.Invitations.Use(token, null, "eleven old herring", ""));
        // Whoever was signed in with the old one is out.
        Assert.Null(school.SignIn.Find(before.Person.Id, before.Stamp, before.Token));
        Assert.IsType<SignInAnswer.Wrong>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "eleven old herring", new("a")).Waited()
        );
        school.Clock.Advance(Duration.FromMinutes(6));
        school.Invitations.AskReset("orla@skerry.example");
        token = await WayIn();
        school.Clock.Advance(Invitations.ResetLasts);
        Assert.Null(school.Invitations.At(token));
    }

    [Fact]
    public async Task Letters_wait_for_a_server_that_is_down_and_go_once()
    {
        school.Carrier.Down = new MailCarrierException("The mail server could not be reached.");
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        for (var minute = 0; minute < 60; minute++)
        {
            Assert.Equal(0, await school.Post.Send());
            school.Clock.Advance(Duration.FromMinutes(1));
        }

        var (letter, to) = Assert.Single(TestSchool.Done(school.Outbox.View(school.Coordinator)).Troubled);
        Assert.Equal(("Teodor Quill", 4), (to, letter.Tries));
        school.Carrier.Down = null;
        school.Clock.Advance(Duration.FromHours(1));
        Assert.Equal(1, await school.Post.Send());
        Assert.Equal(0, await school.Post.Send());
        Assert.Empty(TestSchool.Done(school.Outbox.View(school.Coordinator)).Troubled);
        // Given up where the address is refused for good, and tried again by hand.
        school.Carrier.Down = new MailCarrierException("The mail server refused it (550).", isFinal: true);
        TestSchool.Done(school.Invitations.Invite(school.Coordinator, [Id("teodor@skerry.example")]));
        Assert.Equal(0, await school.Post.Send());
        letter = TestSchool.Done(school.Outbox.View(school.Coordinator)).Troubled.Single().Letter;
        Assert.NotNull(letter.GivenUpAt);
        school.Carrier.Down = null;
        Assert.Equal(0, await school.Post.Send());
        TestSchool.Done(school.Outbox.SendAgain(school.Coordinator, letter.Id));
        Assert.Equal(1, await school.Post.Send());
    }

    // RFC 6238 appendix B, SHA-1: the last six digits of its eight, for the key "12345678901234567890".
    [Theory]
    [InlineData(59, "287082")]
    [InlineData(1111111109, "081804")]
    [InlineData(1111111111, "050471")]
    [InlineData(1234567890, "005924")]
    [InlineData(2000000000, "279037")]
    [InlineData(20000000000, "353130")]
    public void Codes_by_time_are_those_of_the_standard(long seconds, string code)
    {
        var (key, now) = (Encoding.ASCII.GetBytes("12345678901234567890"), Instant.FromUnixTimeSeconds(seconds));
        Assert.Equal(code, SecondFactor.CodeOf(key, now));
        Assert.Equal(seconds / 30, SecondFactor.StepOf(key, $" {code[..3]} {code[3..]} ", now));
        Assert.Equal(seconds / 30, SecondFactor.StepOf(key, code, now + Duration.FromSeconds(30)));
        Assert.Null(SecondFactor.StepOf(key, code, now + Duration.FromSeconds(90)));
    }

    [Fact]
    public void A_second_factor_is_asked_for_once_confirmed_and_each_code_lets_in_once()
    {
        var orla = school.Teacher.Person!.Value;
        TestSchool.Done(school.Accounts.BeginFactor(school.Teacher));
        Assert.NotNull(school.Accounts.Open(school.Teacher, "")!.BeingSetUp);
        Assert.IsType<SignInAnswer.Welcome>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());
        var key = school.Secrets.KeyOfFactor(orla, 1);
        TestSchool.Refused(school.Accounts.ConfirmFactor(school.Teacher, "000000"));
        var codes = TestSchool.Done(
            school.Accounts.ConfirmFactor(school.Teacher, SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant()))
        );
        Assert.Equal(SecondFactor.RecoveryCodes, codes.Distinct().Count());
        var asked = Assert.IsType<SignInAnswer.AskCode>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited()
        );
        // The code it was confirmed with is used up; the next one works, once.
        Assert.IsType<SignInAnswer.Wrong>(Code(asked, SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant())));
        school.Clock.Advance(Duration.FromSeconds(30));
        Assert.IsType<SignInAnswer.Welcome>(Code(asked, SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant())));
        Assert.IsType<SignInAnswer.Wrong>(Code(asked, SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant())));
        Assert.IsType<SignInAnswer.Welcome>(Code(asked, codes[0].ToUpperInvariant()));
        Assert.IsType<SignInAnswer.Wrong>(Code(asked, codes[0]));
        Assert.Equal(SecondFactor.RecoveryCodes - 1, school.Accounts.Open(school.Teacher, "")!.CodesLeft);
        for (var turn = 0; turn < SignIn.SignIn.Tries; turn++)
            Code(asked, "123456");
        // Guessed codes shut nobody out but who guesses: a recovery code holds, and so does a code from elsewhere; the owner is told, once.
        Assert.IsType<SignInAnswer.TooMany>(Code(asked, "123456"));
        Assert.IsType<SignInAnswer.TooMany>(Code(asked, SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant())));
        Assert.Equal(1L, school.Execute("select count(*) from letters where kind = 'wrongcodes'"));
        Assert.IsType<SignInAnswer.Welcome>(Code(asked, codes[1]));
        school.Clock.AdvanceMinutes(2);
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.TryCode(
                asked.Person,
                asked.Stamp,
                SecondFactor.CodeOf(key, school.Clock.GetCurrentInstant()),
                new("home")
            )
        );
        TestSchool.Refused(school.Accounts.EndFactor(school.Teacher, "wrong"));
        TestSchool.Done(school.Accounts.EndFactor(school.Teacher, "ten letters"));
        Assert.IsType<SignInAnswer.Welcome>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());

        SignInAnswer Code(SignInAnswer.AskCode who, string code) =>
            school.SignIn.TryCode(who.Person, who.Stamp, code, new("a"));
    }

    [Fact]
    public void Ten_thousand_guesses_from_many_networks_do_not_shut_the_account_s_owner_out()
    {
        var browser = Assert
            .IsType<SignInAnswer.Welcome>(school.SignIn.Try("orla@skerry.example", "ten letters", new("home")).Waited())
            .Browser;
        var answers = Enumerable
            .Range(0, 10_000)
            .Select(at => school.SignIn.Try("orla@skerry.example", "guess", new($"network {at}")).Waited())
            .ToList();
        Assert.Equal(
            SignIn.SignIn.TriesFromAnywhere + SignIn.SignIn.FirstTriesFromAnywhere,
            answers.Count(answer => answer is SignInAnswer.Wrong)
        );
        Assert.IsType<SignInAnswer.TooMany>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("elsewhere")).Waited()
        );
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("elsewhere", browser)).Waited()
        );
        // What another person's browser keeps opens no other account's way.
        var other = Assert
            .IsType<SignInAnswer.Welcome>(
                school.SignIn.Try("wendeline@skerry.example", "ten letters", new("home")).Waited()
            )
            .Browser;
        Assert.IsType<SignInAnswer.TooMany>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("elsewhere", other)).Waited()
        );
        for (var turn = 0; turn < SignIn.SignIn.Tries; turn++)
            school.SignIn.Try("orla@skerry.example", "guess", new("x", browser)).Waited();
        Assert.IsType<SignInAnswer.TooMany>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("elsewhere", browser)).Waited()
        );
    }

    [Fact]
    public void A_new_password_ends_other_sign_ins_and_each_place_can_be_ended()
    {
        var (here, there) = (In(), In());
        Assert.Equal(
            ["here Firefox", "there Firefox"],
            school
                .Accounts.Open(school.Teacher, here.Token)!
                .Places.Select(place => $"{(place.IsHere ? "here" : "there")} {place.Browser}")
                .Order()
        );
        Assert.IsType<Outcome<int>.NotFound>(
            school.Accounts.EndPlace(school.Helper, school.Accounts.Open(school.Teacher, here.Token)!.Places[0].Key)
        );
        Assert.Equal(
            "Old",
            TestSchool
                .Refused(school.Accounts.ChangePassword(school.Teacher, here.Token, "wrong", "three grey seals swim"))
                .Single()
                .Field
        );
        Assert.Equal(
            "Password",
            TestSchool
                .Refused(school.Accounts.ChangePassword(school.Teacher, here.Token, "ten letters", "orla marchbanks"))
                .Single()
                .Field
        );
        var stamp = TestSchool.Done(
            school.Accounts.ChangePassword(school.Teacher, here.Token, "ten letters", "three grey seals swim")
        );
        Assert.Null(school.SignIn.Find(here.Person.Id, there.Stamp, there.Token));
        Assert.NotNull(school.SignIn.Find(here.Person.Id, stamp, here.Token));

        SignInAnswer.Welcome In() =>
            Assert.IsType<SignInAnswer.Welcome>(
                school.SignIn.Try("orla@skerry.example", "ten letters", new("a", null, "Firefox")).Waited()
            );
    }

    [Fact]
    public void Who_leaves_hands_everything_on_and_reaches_nothing()
    {
        school.Add();
        var welcome = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited()
        );
        var (orla, eilidh) = (Id("orla@skerry.example"), Id("eilidh@skerry.example"));
        var page = TestSchool.Done(school.People.Open(school.Coordinator, orla));
        Assert.True(page.LeavesSomething);
        Assert.Equal("Heir", TestSchool.Refused(school.People.End(school.Coordinator, orla, 1, null)).Single().Field);
        Assert.Equal(
            "Heir",
            TestSchool
                .Refused(school.People.End(school.Coordinator, orla, 1, Id("teodor@skerry.example")))
                .Single()
                .Field
        );
        Assert.IsType<Outcome<Person>.Stale>(school.People.End(school.Coordinator, orla, 7, eilidh));
        TestSchool.Done(school.People.End(school.Coordinator, orla, 1, eilidh));
        Assert.Null(school.SignIn.Find(orla, welcome.Stamp, welcome.Token));
        Assert.IsType<SignInAnswer.Wrong>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());
        Assert.Equal(AccessLevel.Manager, school.CalendarListQuery.Find(school.Helper, TestSchool.Slug)!.Value.Level);
        Assert.Equal(eilidh, school.CalendarListQuery.Find(school.Helper, TestSchool.Slug)!.Value.Calendar.Owner);
        Assert.Contains(school.CalendarHistoryQuery.Read(school.Helper, TestSchool.Slug, null)!.Lines, line =>
            line.Summary.Contains("handed", StringComparison.Ordinal)
        );
        TestSchool.Done(school.People.BringBack(school.Coordinator, orla, 2));
        Assert.IsType<SignInAnswer.Welcome>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());
    }

    [Fact]
    public void The_last_coordinator_stays()
    {
        var wendeline = Id("wendeline@skerry.example");
        TestSchool.Refused(school.People.End(school.Coordinator, wendeline, 1, Id("orla@skerry.example")));
        Assert.Equal(
            "Role",
            TestSchool
                .Refused(
                    school.People.Change(
                        school.Coordinator,
                        wendeline,
                        new PersonInput("Wendeline Okafor", "wendeline@skerry.example", SchoolRole.Teacher, 1)
                    )
                )
                .Single()
                .Field
        );
        var orla = Id("orla@skerry.example");
        TestSchool.Done(
            school.People.Change(
                school.Coordinator,
                orla,
                new PersonInput("Orla Marchbanks", "orla@skerry.example", SchoolRole.Coordinator, 1)
            )
        );
        TestSchool.Done(
            school.People.Change(
                school.Coordinator,
                wendeline,
                new PersonInput("Wendeline Okafor", "wendeline@skerry.example", SchoolRole.Teacher, 1)
            )
        );
    }

    [Fact]
    public void Who_is_erased_stands_nowhere_any_more()
    {
        school.Add();
        var teodor = Id("teodor@skerry.example");
        TestSchool.Done(
            school.Share.Give(school.Teacher, TestSchool.Slug, new Grantee.OnePerson(teodor), AccessLevel.Full)
        );
        // Named on the form of the calendar, whose state before and after stands in the history.
        var form = school.Calendars.Form(school.Teacher, TestSchool.Slug)!;
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                TestSchool.Slug,
                form with
                {
                    Named = "teodor@skerry.example",
                    Description = "x",
                }
            )
        );
        // What they chose for themselves, and what was noted of them.
        var viewer = school.Student;
        TestSchool.Done(school.OwnFeeds.Set(viewer, "15", 0));
        TestSchool.Done(school.ByMail.Begin(viewer, TestSchool.Slug));
        TestSchool.Done(school.ByMail.Remind(viewer, TestSchool.Slug, "30"));
        var notice = TestSchool.Done(
            school.Notices.Put(school.Teacher, TestSchool.Slug, null, new NoticeInput("Bring boots.", "", "2026-10-20"))
        );
        school.Execute(
            $"insert into notices_seen (notice_id, person_id, at, by_mail) values ({notice.Id.Value}, {teodor.Value}, 1, 0)"
        );
        school.Execute(
            $"insert into reminded (series_id, person_id, session, starts_at) select id, {teodor.Value}, 'x', 1 from series"
        );
        var export = TestSchool.Done(school.People.Export(school.Coordinator, teodor));
        foreach (
            var kept in new[]
            {
                "Teodor Quill",
                "Bring boots.",
                "\"ownFeedLastReadAt\": \"not yet\"",
                "\"Tidepool Biology 9A\"",
            }
        )
            Assert.Contains(kept, export, StringComparison.Ordinal);
        Assert.IsType<Outcome<string>.NotFound>(school.People.Erase(school.Coordinator, teodor, "Teodor Quill"));
        TestSchool.Done(school.People.End(school.Coordinator, teodor, 1, null));
        Assert.Equal(
            "EraseName",
            TestSchool.Refused(school.People.Erase(school.Coordinator, teodor, "Teodor")).Single().Field
        );
        TestSchool.Done(school.People.Erase(school.Coordinator, teodor, "teodor quill"));
        Assert.IsType<Outcome<PersonPage>.NotFound>(school.People.Open(school.Coordinator, teodor));
        var all = string.Join(
            '|',
            Enumerable
                .Range(0, 1)
                .Select(_ =>
                    school.Execute("select group_concat(name || ifnull(email, '')) from people")
                    + "|"
                    + school.Execute(
                        "select group_concat(summary || ifnull(before, '') || ifnull(after, '')) from history"
                    )
                )
        );
        Assert.DoesNotContain("teodor", all, StringComparison.OrdinalIgnoreCase);
        // Wherever a row can be somebody's, none is theirs; but what they did stays, by nobody's name.
        var tables = (
            (string)
                school.Execute(
                    """
                    select group_concat(m.name) from sqlite_master m join pragma_table_info(m.name) c where m.type = 'table' and c.name = 'person_id'
                    """
                )!
        ).Split(',');
        Assert.Contains("notices_seen", tables);
        Assert.All(tables.Except(["history"]), table =>
            Assert.Equal(
                (table, 0L),
                (table, school.Execute($"select count(*) from {table} where person_id = {teodor.Value}"))
            )
        );
    }

    [Fact]
    public void A_pasted_list_of_four_hundred_is_reviewed_taken_in_and_a_second_time_changes_nothing()
    {
        string Line(int at) =>
            at % 3 == 0 ? $"Person{at}, Some <p{at}@skerry.example>"
            : at % 3 == 1 ? $"p{at}@skerry.example;"
            : $"\"Some Person{at}\" p{at}@skerry.example";
        var lines = Enumerable
            .Range(0, 343)
            .Select(Line)
            .Concat(Enumerable.Range(0, 20).Select(at => $"bad{at}@nowhere"))
            .Concat(Enumerable.Range(0, 30).Select(at => $"p{at}@skerry.example"))
            .Concat(Enumerable.Range(0, 5).Select(at => $"g{at}@tidewater.example"))
            .Append("orla@skerry.example")
            .Append("teodor@skerry.example");
        var text = string.Join('\n', lines);
        var choices = new RosterImportChoices(SchoolRole.Student, "9A, class list");
        var id = TestSchool.Done(school.RosterImport.Begin(school.Coordinator, text, null, null));
        var review = TestSchool.Done(school.RosterImport.Review(school.Coordinator, id, choices));
        Assert.Equal(
            (348, 2, 0, 20, 30),
            (
                review.Plan.Count(RosterNews.New),
                review.Plan.Count(RosterNews.Changed),
                review.Plan.Count(RosterNews.Same),
                review.Plan.Refused.Length,
                review.Doubles
            )
        );
        Assert.Equal(5, review.Plan.Lines.Count(line => line.Role == SchoolRole.Guest));
        var people = (long)school.Execute("select count(*) from people")!;
        // Another coordinator's review is their own.
        Assert.IsType<Outcome<RosterImportReview>.NotFound>(
            school.RosterImport.Review(school.Coordinator with { Person = school.Helper.Person }, id, choices)
        );
        TestSchool.Done(school.RosterImport.SaveChoices(school.Coordinator, id, choices));
        Assert.Equal(people + 348, school.Execute("select count(*) from people"));
        Assert.Equal(
            350L,
            school.Execute(
                "select count(*) from group_members where group_id not in (select group_id from role_groups)"
            )
        );
        Assert.IsType<Outcome<RosterImportResult>.NotFound>(
            school.RosterImport.SaveChoices(school.Coordinator, id, choices)
        );
        var lines2 = (long)school.Execute("select count(*) from history")!;
        var again = TestSchool.Done(
            school.RosterImport.SaveChoices(
                school.Coordinator,
                TestSchool.Done(school.RosterImport.Begin(school.Coordinator, text, null, null)),
                choices
            )
        );
        Assert.Equal((0, 0, 350, 0), (again.New, again.Changed, again.Same, again.Gone));
        Assert.Equal(lines2, school.Execute("select count(*) from history"));
        // Who is not on the next list is told of, and stays until somebody says so.
        var shorter = TestSchool.Done(
            school.RosterImport.Begin(school.Coordinator, string.Join('\n', lines.Skip(1)), null, null)
        );
        Assert.Equal(0, TestSchool.Done(school.RosterImport.SaveChoices(school.Coordinator, shorter, choices)).Gone);
        shorter = TestSchool.Done(school.RosterImport.Begin(school.Coordinator, "p1@skerry.example", null, null));
        Assert.Equal(349, TestSchool.Done(school.RosterImport.SaveChoices(school.Coordinator, shorter, choices)).Gone);
        Assert.Equal(
            350L,
            school.Execute(
                "select count(*) from group_members where group_id not in (select group_id from role_groups)"
            )
        );
        shorter = TestSchool.Done(school.RosterImport.Begin(school.Coordinator, "p1@skerry.example", null, null));
        TestSchool.Done(school.RosterImport.SaveChoices(school.Coordinator, shorter, choices with { EndGone = true }));
        Assert.Equal(
            1L,
            school.Execute(
                "select count(*) from group_members where group_id not in (select group_id from role_groups)"
            )
        );
    }

    [Fact]
    public void A_table_s_columns_can_be_set_by_hand_and_its_encoding_is_told()
    {
        var latin = Encoding.Latin1.GetBytes(
            "Prénom;Nom;Courriel\r\nAïda;Lévêque;aida@skerry.example\r\n=cmd;Formule;f@skerry.example\r\n"
        );
        var id = TestSchool.Done(school.RosterImport.Begin(school.Coordinator, null, "liste.csv", latin));
        var review = TestSchool.Done(school.RosterImport.Review(school.Coordinator, id, new RosterImportChoices()));
        Assert.Equal((0, 2), (review.Plan.Lines.Length, review.Plan.Refused.Length));
        Assert.Contains("Western European", Assert.Single(review.Remarks), StringComparison.Ordinal);
        review = TestSchool.Done(
            school.RosterImport.Review(
                school.Coordinator,
                id,
                new RosterImportChoices(
                    Columns: new Dictionary<PeopleColumn, int>
                    {
                        [PeopleColumn.GivenName] = 0,
                        [PeopleColumn.FamilyName] = 1,
                        [PeopleColumn.Email] = 2,
                    }
                )
            )
        );
        Assert.Equal(["Aïda Lévêque", "=cmd Formule"], review.Plan.Lines.Select(line => line.Name));
        foreach (var bad in new[] { "name,email\n\"open,a@skerry.example", "\0\0\0" })
            Assert.Equal(
                "File",
                TestSchool
                    .Refused(
                        school.RosterImport.Begin(school.Coordinator, null, "bad.csv", Encoding.UTF8.GetBytes(bad))
                    )
                    .Single()
                    .Field
            );
        Assert.Equal(
            "File",
            TestSchool
                .Refused(school.RosterImport.Begin(school.Coordinator, null, "bad.zip", [0x50, 0x4B, 3, 4, 9, 9]))
                .Single()
                .Field
        );
    }

    [Fact]
    public void A_roster_from_a_shell_is_taken_in_beside_a_server_and_can_be_looked_at_first()
    {
        var folder = System.IO.Directory.CreateTempSubdirectory("almanac-roster-").FullName;
        try
        {
            Write(
                "users.csv",
                "sourcedId,status,enabledUser,orgSourcedIds,role,givenName,familyName,email",
                "u1,active,true,o,student,Teodor,Quill,teodor@skerry.example",
                "u2,active,true,o,student,Amara,Okonjo,amara@skerry.example"
            );
            Write("classes.csv", "sourcedId,title", "c1,Tidepool Biology 9A");
            Write(
                "enrollments.csv",
                "classSourcedId,userSourcedId,role",
                "c1,u1,student",
                "c1,u2,student",
                "c1,u9,student"
            );
            string Run(bool dry, bool end = false) =>
                ServiceRegistration
                    .ImportRosterFromShell(
                        school.Directory,
                        school.Clock,
                        folder,
                        new RosterImportChoices(EndGone: end),
                        dry
                    )
                    .ToJson();
            const string First =
                """{"new":1,"changed":1,"same":0,"gone":0,"refused":[{"line":4,"file":"enrollments.csv","reason":"Nobody with the sourcedId “u9” is among the users."}]}""";
            Assert.Equal(First, Run(dry: true));
            var told = new List<(int At, int Of)>();
            ServiceRegistration.ImportRosterFromShell(
                school.Directory,
                school.Clock,
                folder,
                new RosterImportChoices(),
                true,
                (at, of) => told.Add((at, of))
            );
            Assert.Equal([(0, 2)], told);
            Assert.Equal(First, Run(dry: false));
            Assert.StartsWith("""{"new":0,"changed":0,"same":2,"gone":0,""", Run(dry: false), StringComparison.Ordinal);
            Assert.Equal(
                2L,
                school.Execute(
                    "select count(*) from group_members where group_id not in (select group_id from role_groups)"
                )
            );
            Write(
                "users.csv",
                "sourcedId,status,enabledUser,orgSourcedIds,role,givenName,familyName,email",
                "u1,active,true,o,student,Teodor,Quill,teodor@skerry.example"
            );
            Write("enrollments.csv", "classSourcedId,userSourcedId,role", "c1,u1,student");
            Assert.StartsWith("""{"new":0,"changed":0,"same":1,"gone":2,""", Run(dry: false), StringComparison.Ordinal);
            Assert.NotNull(
                school.Execute("select id from people where email = 'amara@skerry.example' and ended_at is null")
            );
            // Who hosts a link, or made a feed, stays until that was given on.
            var amara = (long)school.Execute("select id from people where email = 'amara@skerry.example'")!;
            school.Add();
            school.Execute($"insert into join_hosts (link_id, person_id) select id, {amara} from join_links");
            Run(dry: false, end: true);
            Assert.NotNull(
                school.Execute("select id from people where email = 'amara@skerry.example' and ended_at is null")
            );
            school.Execute("delete from join_hosts");
            TestSchool.Done(school.Invitations.Invite(school.Coordinator, [new PersonId(amara)]));
            Run(dry: false, end: true);
            Assert.Equal(0L, school.Execute("select count(*) from invitations where withdrawn_at is null"));
            Assert.Null(
                school.Execute("select id from people where email = 'amara@skerry.example' and ended_at is null")
            );
            Assert.Throws<FormatException>(() =>
                ServiceRegistration.ImportRosterFromShell(
                    school.Directory,
                    school.Clock,
                    folder + "-none",
                    new RosterImportChoices(),
                    false
                )
            );
        }
        finally
        {
            System.IO.Directory.Delete(folder, recursive: true);
        }

        void Write(string name, params string[] lines) =>
            File.WriteAllLines(Path.Combine(folder, name), lines, new UTF8Encoding(true));
    }

    [Fact]
    public void Two_people_never_share_an_address_and_the_first_letters_find_them()
    {
        var taken = new PersonInput("Orla Two", "ORLA@skerry.example", SchoolRole.Teacher);
        Assert.Contains(
            "Orla Marchbanks",
            TestSchool.Refused(school.People.Add(school.Coordinator, taken)).Single().Message,
            StringComparison.Ordinal
        );
        var marit = TestSchool.Done(
            school.People.Add(school.Coordinator, new PersonInput("Marit Sørb", "", SchoolRole.Teacher))
        );
        Assert.Equal(
            ["Marit Sørb"],
            TestSchool.Done(school.People.Find(school.Teacher, "sor mar", 5)).People.Select(one => one.Name)
        );
        TestSchool.Done(
            school.People.Change(
                school.Coordinator,
                marit,
                new PersonInput("Marit Haug", "m@skerry.example", SchoolRole.Teacher, 1)
            )
        );
        Assert.Empty(TestSchool.Done(school.People.Find(school.Teacher, "sor", 5)).People);
        Assert.Equal(
            ["Marit Haug"],
            TestSchool.Done(school.People.Find(school.Teacher, "m@skerry", 5)).People.Select(one => one.Name)
        );
        Assert.IsType<Outcome<(IReadOnlyList<Person>, IReadOnlyList<Group>)>.NotAllowed>(
            school.People.Find(school.Student, "orla", 5)
        );
    }

    [Fact]
    public void A_group_holds_groups_and_whoever_is_in_one_of_them_has_what_it_has()
    {
        var (list, section) = (Group("9A"), Group("9A, lab"));
        TestSchool.Done(school.Groups.AddGroup(school.Coordinator, list, section));
        Assert.Equal(
            "Group",
            TestSchool.Refused(school.Groups.AddGroup(school.Coordinator, section, list)).Single().Field
        );
        Assert.Equal(
            "Group",
            TestSchool.Refused(school.Groups.AddGroup(school.Coordinator, list, list)).Single().Field
        );
        Assert.Equal(
            "People",
            TestSchool
                .Refused(school.Groups.AddMembers(school.Coordinator, section, "nobody@skerry.example"))
                .Single()
                .Field
        );
        Assert.Equal(
            1,
            TestSchool.Done(
                school.Groups.AddMembers(school.Coordinator, section, "Quill, Teodor <teodor@skerry.example>")
            )
        );
        TestSchool.Done(
            school.Share.Give(school.Teacher, TestSchool.Slug, new Grantee.OneGroup(list), AccessLevel.Contributor)
        );
        var teodor = school.SchoolQuery.FindPerson(new EmailAddress("teodor@skerry.example"))!;
        Assert.Equal(AccessLevel.Contributor, school.CalendarListQuery.Find(teodor, TestSchool.Slug)!.Value.Level);
        var why = TestSchool.Done(school.Share.View(school.Teacher, TestSchool.Slug, "teodor@skerry.example")).Why!;
        Assert.Equal("through 9A, lab, which is in 9A", why.Reasons[0].Reason);
        TestSchool.Done(school.Groups.RemoveGroup(school.Coordinator, list, section));
        Assert.NotEqual(
            AccessLevel.Contributor,
            school
                .CalendarListQuery.Find(
                    school.SchoolQuery.FindPerson(new EmailAddress("teodor@skerry.example"))!,
                    TestSchool.Slug
                )
                ?.Level
        );

        GroupId Group(string name) =>
            TestSchool.Done(school.AddPeople.AddGroup(school.Coordinator, name, GroupKind.ClassList, []));
    }
}
