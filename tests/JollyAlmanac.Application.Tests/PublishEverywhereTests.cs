using System.Text;
using System.Xml.Linq;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What a feed may be told to show, of which calendars; what else goes out of the same source.</summary>
public sealed class PublishEverywhereTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private static readonly PublicationInput Full = new("All", AccessLevel.Full, true, true, true);

    private static readonly string[] InEntry = ["id", "title", "updated", "content"];

    private readonly TestSchool school = new();
    private readonly Series series;

    public PublishEverywhereTests() => series = school.Add();

    public void Dispose() => school.Dispose();

    private PublicationWithToken Make(
        PublicationInput input,
        Viewer? who = null,
        Slug? slug = null,
        PublicationKind kind = PublicationKind.Feed
    ) => TestSchool.Done(school.Outlets.Make(who ?? school.Teacher, slug ?? Slug, kind, input));

    // As it goes out.
    private string Folded(FeedToken token) => school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Text!;

    private string Text(FeedToken token) => Folded(token).Replace("\r\n ", "", StringComparison.Ordinal);

    private static int Count(string text, string line) => text.Split("\r\n").Count(one => one == line);

    private Slug Calendar(
        string title,
        CalendarKind kind = CalendarKind.Class,
        OpenTo open = OpenTo.Named,
        Viewer? who = null,
        string department = ""
    )
    {
        var made = TestSchool.Done(
            school.Calendars.Create(
                who ?? school.Teacher,
                new CalendarInput(title, kind, department, "", MarkColour.Beet, MarkShape.Ring, open)
            )
        );
        TestSchool.Done(
            school
                .Compose.Save(
                    who ?? school.Teacher,
                    made.Slug,
                    null,
                    TestSchool.Good with
                    {
                        Title = title,
                        Link = "",
                        Period = "4",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        return made.Slug;
    }

    // RFC 5545 §3.6.6: a trigger before the start; what does not meet reminds nobody.
    [Fact]
    public void A_coordinator_sees_all_that_is_published_and_by_whom()
    {
        Publication Make(PublicationKind kind, string name) =>
            TestSchool
                .Done(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        kind,
                        new PublicationInput(name, AccessLevel.Full, true, true, true, "https://www.skerry.example")
                    )
                )
                .Outlet;
        var (feed, embed, idle) = (
            Make(PublicationKind.Feed, "Families"),
            Make(PublicationKind.Embed, "Site"),
            Make(PublicationKind.Feed, "Old")
        );
        var gone = Make(PublicationKind.Feed, "Gone");
        TestSchool.Done(school.Outlets.Revoke(school.Teacher, TestSchool.Slug, gone.Id, gone.Version));
        TestSchool.Done(
            school.Notices.Put(school.Teacher, TestSchool.Slug, null, new NoticeInput("Boots.", "", "2026-10-20"))
        );
        SchoolPublishing At(PublicationFilter show = PublicationFilter.All, int page = 1) =>
            TestSchool.Done(school.SchoolPublishingQuery.Read(school.Coordinator, show, page));
        IEnumerable<string> Names(PublicationFilter show) => At(show).Outlets.Select(one => one.Outlet.Name);
        Assert.Equal(["Families", "Site", "Old"], Names(PublicationFilter.All));
        Assert.All(At().Outlets, one => Assert.Equal(("Orla Marchbanks", false), (one.MadeBy, one.MayChange)));
        Assert.Empty(Names(PublicationFilter.Idle));
        // Sixty days on, what nobody read since it was made is told apart from what was read.
        school.Clock.AdvanceDays(59);
        school.Execute(
            $"update outlets set last_fetched_at = {school.Clock.GetCurrentInstant().ToUnixTimeMilliseconds()} where id = {feed.Id.Value}"
        );
        Assert.Empty(Names(PublicationFilter.Idle));
        school.Clock.AdvanceDays(2);
        Assert.Equal(["Old"], Names(PublicationFilter.Idle));
        TestSchool.Done(school.Outlets.Pause(school.Teacher, TestSchool.Slug, idle.Id, true, idle.Version));
        Assert.Equal(["Families", "Old"], Names(PublicationFilter.Feeds));
        Assert.Equal(["Site"], Names(PublicationFilter.Embeds));
        Assert.Equal(["Old"], Names(PublicationFilter.Paused));
        Assert.Equal(new PublishedCounts(2, 1, 0, 1, 1, 0, 0, 0), At().Counts);
        Assert.Empty(At(page: 2).Outlets);
        // A calendar that is put away publishes nothing.
        school.Execute("update calendars set put_away_at = 1");
        Assert.Equal(new PublishedCounts(0, 0, 0, 0, 0, 0, 0, 0), At().Counts);
        Assert.Empty(At().Outlets);
        Assert.Equal("Site", embed.Name);
    }

    [Fact]
    public void A_feed_reminds_and_drops_what_is_cancelled_where_that_was_chosen()
    {
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        var plain = Text(Make(Full).Token);
        Assert.Equal((0, 1), (Count(plain, "BEGIN:VALARM"), Count(plain, "STATUS:CANCELLED")));
        var made = Make(Full with { Reminder = "15", Title = "Our biology", Colour = "Rust" });
        var text = Text(made.Token);
        Assert.Equal(1, Count(text, "TRIGGER:-PT15M"));
        Assert.Equal(1, Count(text, "NAME:Our biology"));
        Assert.Contains("COLOR:orangered", text);
        Assert.Equal(1, Count(text, "STATUS:CANCELLED"));
        // The cancelled one's own component reminds nobody.
        Assert.DoesNotContain("BEGIN:VALARM", text.Split("STATUS:CANCELLED")[1].Split("END:VEVENT")[0]);
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Encoding.UTF8.GetBytes(Folded(made.Token)))));
        var dropped = Text(Make(Full with { DropsCancelled = true }).Token);
        Assert.Equal(0, Count(dropped, "STATUS:CANCELLED"));
        Assert.Contains("EXDATE", dropped);
        Assert.Contains("20261016T095000", dropped.Split("EXDATE")[1].Split("\r\n")[0]);
    }

    // 14 Oct is today. Mon, Wed and Fri: back to 7 Oct are 7 and 9 (12 is Thanksgiving), ahead to 21 Oct are 14, 16, 19 and 21.
    [Fact]
    public void A_feed_of_some_days_goes_with_the_day()
    {
        var token = Make(Full with { DaysBack = "7", DaysAhead = "7" }).Token;
        string[] Days() => [.. ICalendarFileTests.Told(Encoding.UTF8.GetBytes(Text(token))).Select(line => line[..10])];
        Assert.Equal(["2026-10-07", "2026-10-09", "2026-10-14", "2026-10-16", "2026-10-19", "2026-10-21"], Days());
        var uid = Text(token).Split("UID:")[1].Split("\r\n")[0];
        school.Clock.Advance(Duration.FromDays(1));
        Assert.Equal(["2026-10-09", "2026-10-14", "2026-10-16", "2026-10-19", "2026-10-21"], Days());
        Assert.Equal(uid, Text(token).Split("UID:")[1].Split("\r\n")[0]);
        foreach (
            var wrong in new[]
            {
                Full with
                {
                    DaysBack = "-1",
                },
                Full with
                {
                    DaysAhead = "many",
                },
                Full with
                {
                    Reminder = "99999999",
                },
                Full with
                {
                    Colour = "Tartan",
                },
                Full with
                {
                    Scope = PublicationScope.School,
                },
                Full with
                {
                    Others = ["not-mine"],
                },
            }
        )
            Assert.Single(TestSchool.Refused(school.Outlets.Make(school.Teacher, Slug, PublicationKind.Feed, wrong)));
    }

    /// <summary>Of further calendars a feed tells what its maker may publish, and else what anyone may see: when it is read, too.</summary>
    [Fact]
    public void A_feed_of_several_calendars_tells_no_more_than_its_maker_may_publish()
    {
        var french = Calendar("French 8");
        var both = Make(Full with { Others = [french.Value] }).Token;
        Assert.Contains("SUMMARY:French 8", Text(both));
        Assert.Contains("SUMMARY:Tidepool Biology 9A", Text(both));
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Encoding.UTF8.GetBytes(Folded(both)))));
        // A change of the other is in it at the next request.
        var other = school.TermSheetQuery.Read(school.Teacher, french, null)!.Series.Single().Series;
        school.Clock.Advance(Duration.FromMinutes(5));
        TestSchool.Done(
            school.Sessions.Do(
                school.Teacher,
                french,
                TestSchool.Key(other, "2026-10-16T10:55"),
                new SessionInput("tell", Title: "Poems") with
                {
                    Version = other.Version,
                }
            )
        );
        Assert.Contains("SUMMARY:Poems", Text(both));
        // The whole of it was changed when the last of its calendars was.
        Assert.Equal(
            school.Clock.GetCurrentInstant().ToString("uuuuMMdd'T'HHmmss'Z'", null),
            ICalendarReader.Read(Encoding.UTF8.GetBytes(Folded(both))).Calendars[0].Find("LAST-MODIFIED")!.Value
        );
        // Its maker loses the other: then it is gone from the feed, and the feed's own calendar stays.
        TestSchool.Done(school.Share.HandOver(school.Teacher, french, "eilidh@skerry.example"));
        school.Execute(
            $"delete from grants where person_id = {school.Teacher.Person!.Value.Value} and calendar_id = (select id from calendars where slug = '{french}')"
        );
        Assert.DoesNotContain("French 8", Text(both));
        Assert.DoesNotContain("Poems", Text(both));
        Assert.Contains("SUMMARY:Tidepool Biology 9A", Text(both));
    }

    [Fact]
    public void A_feed_of_a_department_or_the_school_has_its_calendars_and_those_closed_to_its_maker_only_as_anyone_sees_them()
    {
        var science = Calendar("Field Science", CalendarKind.Department, OpenTo.Everyone, school.Coordinator);
        Calendar("Seaweed 7", open: OpenTo.Anyone, department: science.Value);
        Calendar("Secret club");
        Calendar("Open evenings", open: OpenTo.Anyone);
        var whole = Calendar("Whole school", CalendarKind.School, who: school.Coordinator);
        // The coordinator keeps neither the classes of the teacher nor the club.
        var department = Text(
            Make(Full with { Scope = PublicationScope.Department }, school.Coordinator, science).Token
        );
        Assert.Contains("SUMMARY:Field Science", department);
        Assert.Contains("SUMMARY:Seaweed 7", department);
        Assert.DoesNotContain("Whole school", department);
        var all = Text(Make(Full with { Scope = PublicationScope.School }, school.Coordinator, whole).Token);
        Assert.DoesNotContain("Secret club", all);
        Assert.Contains("SUMMARY:Open evenings", all);
        // Nobody widens what another's rights carry: who changes what a feed tells answers for it from then on.
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                new Slug("secret-club"),
                new Grantee.OnePerson(school.Coordinator.Person!.Value),
                AccessLevel.Manager
            )
        );
        var kept = Make(Full with { Level = AccessLevel.Outline }, school.Coordinator, whole);
        TestSchool.Done(
            school.Share.Give(
                school.Coordinator,
                whole,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Manager
            )
        );
        TestSchool.Done(
            school.Outlets.Change(
                school.Helper,
                whole,
                kept.Outlet.Id,
                Full with
                {
                    Scope = PublicationScope.School,
                },
                1
            )
        );
        Assert.DoesNotContain("Secret club", Text(kept.Token));
        TestSchool.Done(
            school.Outlets.Change(
                school.Coordinator,
                whole,
                kept.Outlet.Id,
                Full with
                {
                    Level = AccessLevel.Outline,
                    Scope = PublicationScope.School,
                },
                2
            )
        );
        Assert.Contains("SUMMARY:Secret club", Text(kept.Token));
    }

    [Fact]
    public void An_outlet_is_renamed_paused_and_goes_on_at_the_same_address()
    {
        var made = Make(Full);
        var changed = TestSchool.Done(
            school.Outlets.Change(
                school.Teacher,
                Slug,
                made.Outlet.Id,
                Full with
                {
                    Name = "For families",
                    Level = AccessLevel.Busy,
                },
                1
            )
        );
        Assert.Equal((made.Token, "For families"), (changed.Token, changed.Outlet.Name));
        Assert.DoesNotContain(
            "Tidepool Biology 9A\r\nCLASS",
            Text(made.Token).Replace("NAME:", "", StringComparison.Ordinal)
        );
        Assert.Contains("SUMMARY:Busy", Text(made.Token));
        TestSchool.Done(school.Outlets.Pause(school.Teacher, Slug, made.Outlet.Id, true, 2));
        Assert.DoesNotContain("BEGIN:VEVENT", Text(made.Token));
        Assert.Contains("paused", Text(made.Token));
        Assert.IsType<Outcome<PublicationWithToken>.Stale>(
            school.Outlets.Pause(school.Teacher, Slug, made.Outlet.Id, false, 2)
        );
        TestSchool.Done(school.Outlets.Pause(school.Teacher, Slug, made.Outlet.Id, false, 3));
        Assert.Contains("SUMMARY:Busy", Text(made.Token));
        var embed = Make(Full with { Sites = "https://www.skerry.example" }, kind: PublicationKind.Embed);
        TestSchool.Done(school.Outlets.Pause(school.Teacher, Slug, embed.Outlet.Id, true, 1));
        Assert.Empty(school.ReadEmbed.Do(embed.Token)!.Coming);
    }

    /// <summary>Somebody's own feed has what is theirs, as they may see it, whatever becomes of their access.</summary>
    [Fact]
    public void A_feed_of_one_s_own_follows_one_s_access()
    {
        Calendar("French 8");
        TestSchool.Done(school.OwnFeeds.Set(school.Student, "15", 0));
        var token = TestSchool.Done(school.OwnFeeds.View(school.Student)).Token!.Value;
        Assert.DoesNotContain("BEGIN:VEVENT", Text(token));
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Full
            )
        );
        Assert.Contains("SUMMARY:Tidepool Biology 9A", Text(token));
        Assert.Contains("TRIGGER:-PT15M", Text(token));
        Assert.DoesNotContain("French", Text(token));
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                new Slug("french-8"),
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Busy
            )
        );
        Assert.Contains("SUMMARY:Busy", Text(token));
        Assert.DoesNotContain("SUMMARY:French", Text(token));
        Assert.NotNull(school.Changes.Do(token, TestSchool.Root));
        // Somebody who looks as them is not shown the address.
        Assert.IsType<Outcome<OwnFeedView>.NotAllowed>(
            school.OwnFeeds.View(school.Student with { LookedAtBy = school.Coordinator })
        );
        TestSchool.Done(school.OwnFeeds.Renew(school.Student, 1));
        Assert.Null(school.ReadFeed.Do(token, TestSchool.Root, _ => false));
        var renewed = TestSchool.Done(school.OwnFeeds.View(school.Student)).Token!.Value;
        Assert.NotNull(school.ReadFeed.Do(renewed, TestSchool.Root, _ => false));
        TestSchool.Done(school.People.End(school.Coordinator, school.Student.Person!.Value, 1, null));
        Assert.Null(school.ReadFeed.Do(renewed, TestSchool.Root, _ => false));
        Assert.Null(school.Changes.Do(renewed, TestSchool.Root));
    }

    // RFC 5545 §3.6.4 and §3.8.2.6: UTC, in order, and nothing but times. 14 Oct 9:50 in Halifax is 12:50 UTC.
    [Fact]
    public void Busy_times_and_a_table_say_what_the_feed_says()
    {
        var body = school.ReadFeed.Do(Make(Full).Token, TestSchool.Root, _ => false)!.Body!;
        var busy = Encoding.UTF8.GetString(body.As(FeedForm.Ifb).Plain).Split("\r\n");
        Assert.Contains("FREEBUSY;FBTYPE=BUSY:20261014T125000Z/20261014T134000Z", busy);
        Assert.DoesNotContain(busy, line =>
            line.Contains("Tidepool", StringComparison.Ordinal)
            || line.StartsWith("DESCRIPTION", StringComparison.Ordinal)
        );
        var periods = busy.Where(line => line.StartsWith("FREEBUSY", StringComparison.Ordinal)).ToList();
        Assert.Equal(periods.Order(StringComparer.Ordinal), periods);
        Assert.Equal(
            Planner.PlanOf(series, TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).School.Time).HeldCount,
            periods.Count
        );
        var read = Ical.Net.Calendar.Load(string.Join("\r\n", busy))!;
        Assert.Equal(periods.Count, Assert.Single(read.FreeBusy).Entries.Count);
        var table = Encoding.UTF8.GetString(body.As(FeedForm.Csv).Plain).Split("\r\n");
        Assert.Contains(table, line =>
            line.StartsWith(
                "2026-10-14T09:50:00-03:00,2026-10-14T10:40:00-03:00,Tidepool Biology 9A,Tide Room,confirmed,",
                StringComparison.Ordinal
            )
        );
        Assert.Equal(periods.Count + 2, table.Length);
    }

    /// <summary>RFC 4287 §4.1: what a feed and an entry must have, each id once; and nothing that the feed itself would not tell.</summary>
    [Fact]
    public void Changes_and_notices_are_told_as_Atom()
    {
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        school.Change(series, "2026-10-21T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20", "4")));
        TestSchool.Done(
            school.Notices.Put(school.Teacher, Slug, null, new NoticeInput("Bring boots & <gloves>.", "", "2026-10-20"))
        );
        var full = Make(Full).Token;
        XNamespace atom = "http://www.w3.org/2005/Atom";
        var feed = XDocument.Parse(Encoding.UTF8.GetString(school.Changes.Do(full, TestSchool.Root)!)).Root!;
        foreach (var name in new[] { "id", "title", "updated", "author" })
            Assert.Single(feed.Elements(atom + name));
        var entries = feed.Elements(atom + "entry").ToList();
        Assert.All(entries, entry => Assert.All(InEntry, name => Assert.Single(entry.Elements(atom + name))));
        Assert.Equal(entries.Count, entries.Select(entry => entry.Element(atom + "id")!.Value).Distinct().Count());
        Assert.All(entries, entry => Assert.StartsWith("urn:uuid:", entry.Element(atom + "id")!.Value));
        Assert.Equal(
            [
                "Tidepool Biology 9A: Bring boots & <gloves>.",
                "Tidepool Biology 9A: cancelled, Fri 16 Oct, 9:50–10:40",
                "Tidepool Biology 9A: moved from Wed 21 Oct, Tue 20 Oct, 10:55–11:45",
            ],
            entries.Select(entry => entry.Element(atom + "title")!.Value).Order()
        );
        // The same again is the same bytes.
        Assert.Equal(school.Changes.Do(full, TestSchool.Root), school.Changes.Do(full, TestSchool.Root));
        var outline = Encoding.UTF8.GetString(
            school.Changes.Do(Make(Full with { Level = AccessLevel.Outline }).Token, TestSchool.Root)!
        );
        Assert.DoesNotContain("boots", outline);
        Assert.Contains("cancelled", outline);
        Assert.DoesNotContain(
            "<entry",
            Encoding.UTF8.GetString(
                school.Changes.Do(Make(Full with { Level = AccessLevel.Busy }).Token, TestSchool.Root)!
            )
        );
        Assert.Null(school.Changes.Do(new FeedToken(new string('0', TokenText.Length)), TestSchool.Root));
    }

    [Fact]
    public void Who_fetched_when_is_told_and_what_changed_since()
    {
        var made = Make(Full);
        PublicationWithToken Now() => TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Feeds.Single();
        Assert.Empty(Now().Fetches);
        var etag = school.ReadFeed.Do(made.Token, TestSchool.Root, _ => false, "a phone or tablet")!.ETag;
        school.Clock.Advance(Duration.FromMinutes(5));
        school.ReadFeed.Do(made.Token, TestSchool.Root, tag => tag == etag, "a computer");
        Assert.Equal(
            [("a computer", 304), ("a phone or tablet", 200)],
            Now().Fetches.Select(fetch => (fetch.Program, fetch.Status))
        );
        Assert.Empty(Now().NewsSince);
        school.Clock.Advance(Duration.FromMinutes(5));
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        Assert.Contains("Fri 16 Oct", Assert.Single(Now().NewsSince));
        var tells = TestSchool.Done(
            school.Outlets.Tells(school.Teacher, Slug, made.Outlet.Id, school.ReadFeed, TestSchool.Root)
        );
        Assert.Equal(0, tells.Breaches);
        Assert.Contains(tells.Coming, session => session.IsCancelled);
        // Looking is no fetching.
        Assert.Equal(2, Now().Fetches.Count);
        for (var minute = 0; minute < 30; minute++)
        {
            school.Clock.Advance(Duration.FromMinutes(2));
            school.ReadFeed.Do(made.Token, TestSchool.Root, _ => false);
        }

        Assert.Equal(20L, school.Execute("select count(*) from fetches"));
    }

    /// <summary>Each shape of an embed shows what its level allows, and nothing more.</summary>
    [Theory]
    [InlineData(EmbedShape.Agenda)]
    [InlineData(EmbedShape.Next)]
    [InlineData(EmbedShape.Week)]
    [InlineData(EmbedShape.Term)]
    [InlineData(EmbedShape.Button)]
    [InlineData(EmbedShape.Notices)]
    [InlineData(EmbedShape.Materials)]
    public void An_embed_shows_no_more_than_its_level(EmbedShape shape)
    {
        TestSchool.Done(
            school.Notices.Put(school.Teacher, Slug, null, new NoticeInput("Bring boots.", "", "2026-10-20"))
        );
        IEnumerable<ShownSession> Shown(AccessLevel level)
        {
            var panel = school.ReadEmbed.Do(
                Make(
                    Full with
                    {
                        Level = level,
                        Shape = shape,
                        Sites = "https://www.skerry.example",
                    },
                    kind: PublicationKind.Embed
                ).Token
            )!;
            Assert.Equal(
                level == AccessLevel.Full
                && shape is EmbedShape.Agenda or EmbedShape.Notices
                && level == AccessLevel.Full
                    ? 1
                    : 0,
                panel.Notices.Count
            );
            Assert.Equal(
                level == AccessLevel.Full && shape is EmbedShape.Next or EmbedShape.Button && level == AccessLevel.Full,
                panel.Door is not null
            );
            return panel
                .Coming.Concat(panel.Term?.Weeks.SelectMany(week => week.Days).SelectMany(day => day.Sessions) ?? [])
                .Concat(
                    panel.Week?.Rows.SelectMany(row => row.Days).SelectMany(day => day).Select(one => one.Shown) ?? []
                );
        }

        Assert.All(Shown(AccessLevel.Busy), shown =>
            Assert.Equal(("Busy", "", null), (shown.Title, shown.Place, shown.Join))
        );
        Assert.All(Shown(AccessLevel.Outline), shown =>
            Assert.Equal(("Tidepool Biology 9A", "Tide Room", null), (shown.Title, shown.Place, shown.Join))
        );
        var full = Shown(AccessLevel.Full).ToList();
        Assert.Equal(
            shape is not (EmbedShape.Notices or EmbedShape.Materials),
            full.Exists(shown => shown.Join is not null)
        );
        Assert.Single(
            TestSchool.Refused(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Embed,
                    Full with
                    {
                        Sites = "https://www.skerry.example",
                        Zone = "Atlantis",
                    }
                )
            )
        );
    }

    /// <summary>Paper is passed on: a keeper prints what is for all, a reader what is theirs, nobody what is private.</summary>
    [Fact]
    public void A_printed_sheet_has_what_is_for_all_or_for_who_prints_it()
    {
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Full
            )
        );
        school.Add(
            TestSchool.Good with
            {
                Title = "For Teodor",
                Days = ["4"],
                Link = "",
                OnlyOthers = "teodor@skerry.example",
            }
        );
        school.Add(TestSchool.Good with { Title = "Lunch", Days = ["2"], Link = "", IsPrivate = true });
        string Titles(Viewer who) =>
            string.Join(
                ", ",
                school.PrintSheetQuery.Read(who, Slug)!.List.Select(shown => shown.Title).Distinct().Order()
            );
        Assert.Equal("Busy, Tidepool Biology 9A", Titles(school.Teacher));
        Assert.Equal("Busy, For Teodor, Tidepool Biology 9A", Titles(school.Student));
        Assert.Equal("Busy, Tidepool Biology 9A", Titles(Viewer.Visitor));
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.Anyone(), AccessLevel.Busy));
        Assert.Equal("Busy", Titles(Viewer.Visitor));
    }

    /// <summary>A group's calendars, at no more than the group has of each; the feed's maker must be able to publish them all the
    /// same.</summary>
    [Fact]
    public void A_feed_of_a_group_s_calendars_tells_no_more_than_the_group_has()
    {
        var whole = Calendar("Whole school", CalendarKind.School);
        var (full, busy) = (Calendar("French 8"), Calendar("Signals 8"));
        Calendar("Secret club");
        var group = TestSchool.Done(
            school.AddPeople.AddGroup(school.Coordinator, "Section B", Core.People.GroupKind.Section, [])
        );
        TestSchool.Done(school.Share.Give(school.Teacher, full, new Grantee.OneGroup(group), AccessLevel.Full));
        TestSchool.Done(school.Share.Give(school.Teacher, busy, new Grantee.OneGroup(group), AccessLevel.Busy));
        var input = Full with
        {
            Scope = PublicationScope.Group,
            Group = group.Value.ToString(System.Globalization.CultureInfo.InvariantCulture),
        };
        var token = Make(input, slug: whole).Token;
        var text = Text(token);
        Assert.Contains("SUMMARY:French 8", text);
        Assert.DoesNotContain("SUMMARY:Signals 8", text);
        Assert.Contains("SUMMARY:Busy", text);
        Assert.DoesNotContain("Secret club", text);
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Encoding.UTF8.GetBytes(Folded(token)))));
        TestSchool.Done(school.Share.End(school.Teacher, full, $"group {group.Value}"));
        Assert.DoesNotContain("French 8", Text(token));
        Assert.Equal(
            "Group",
            Assert
                .Single(
                    TestSchool.Refused(
                        school.Outlets.Make(school.Teacher, whole, PublicationKind.Feed, input with { Group = "999" })
                    )
                )
                .Field
        );
        Assert.Equal(
            "Group",
            Assert
                .Single(TestSchool.Refused(school.Outlets.Make(school.Teacher, Slug, PublicationKind.Feed, input)))
                .Field
        );
    }
}
