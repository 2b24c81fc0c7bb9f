using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core.Tests;

/// <summary>When a door is open. "10 minutes before, nobody from 20 minutes after" is common practice, no source.</summary>
public sealed class DoorTests
{
    private static readonly JoinLink Link = new(
        new JoinLinkId(7),
        new CalendarId(1),
        "Tidepool room",
        new JoinCode("tidepool-7k"),
        1
    )
    {
        Target = new TargetFacts(
            "rooms.example",
            "",
            "",
            Instant.FromUtc(2026, 9, 3, 12, 0),
            1,
            false,
            false,
            false,
            false,
            null,
            ""
        ),
    };

    // Mon, Wed, Fri 9:50–10:40 and, on Wednesdays, 12:35–13:25.
    [Theory]
    [InlineData("2026-10-14T00:00", "OpensLater", "9:40")]
    [InlineData("2026-10-14T09:39:59", "OpensLater", "9:40")]
    [InlineData("2026-10-14T09:40", "Open", "10:10")]
    [InlineData("2026-10-14T09:50", "Open", "10:10")]
    [InlineData("2026-10-14T10:09:59", "Open", "10:10")]
    [InlineData("2026-10-14T10:10", "ShutToLateComers", "10:40")]
    [InlineData("2026-10-14T10:39:59", "ShutToLateComers", "10:40")]
    [InlineData("2026-10-14T10:40", "OpensLater", "12:25")]
    [InlineData("2026-10-14T12:25", "Open", "12:55")]
    [InlineData("2026-10-14T13:25", "Over", "24:00")]
    [InlineData("2026-10-14T23:59:59", "Over", "24:00")]
    [InlineData("2026-10-15T00:00", "NothingScheduled", "2026-10-16T00:00")] // Friday's door is told of from its midnight
    [InlineData("2026-10-15T12:00", "NothingScheduled", "2026-10-16T00:00")]
    [InlineData("2026-10-12T09:45", "NothingScheduled", "2026-10-14T00:00")] // Thanksgiving
    [InlineData("2026-12-19T09:45", "NothingScheduled", null)]
    [InlineData("2026-09-01T09:45", "NothingScheduled", "2026-09-14T00:00")]
    public void A_door_keeps_its_rule_through_the_day(string at, string state, string? changes)
    {
        var schedule = Schedule(EntryRule.Usual);
        var door = schedule.At(Moment(at));
        Assert.Equal(state, door.State.ToString());
        Assert.Equal(
            changes is null ? null
                : changes.Contains('T') ? Moment(changes)
                : changes == "24:00" ? Moment(at[..10] + "T00:00") + Duration.FromDays(1)
                : Moment($"{at[..10]}T{changes.PadLeft(5, '0')}"),
            door.Changes
        );
        // Just before the change all is as it was; what changes then is the state or its session.
        if (door.Changes is not { } change)
            return;
        Assert.Equal(
            (door.State, door.Session),
            (schedule.At(change - Duration.Epsilon).State, schedule.At(change - Duration.Epsilon).Session)
        );
        Assert.NotEqual((door.State, door.Session), (schedule.At(change).State, schedule.At(change).Session));
    }

    // A door that is held for its host, of Wed 14 Oct, 9:50 to 10:40, when a host came then, or none did. A class that waited is not
    // late: its twenty minutes count from when the host came.
    [Theory]
    [InlineData(null, "09:39", "OpensLater", "9:40")]
    [InlineData(null, "09:40", "WaitsForHost", "10:40")]
    [InlineData(null, "10:39", "WaitsForHost", "10:40")]
    [InlineData(null, "10:40", "OpensLater", "12:25")]
    [InlineData("09:42", "09:42", "Open", "10:10")]
    [InlineData("09:42", "10:10", "ShutToLateComers", "10:40")]
    [InlineData("10:15", "10:15", "Open", "10:35")]
    [InlineData("10:15", "10:35", "ShutToLateComers", "10:40")]
    [InlineData("10:30", "10:35", "Open", "10:40")]
    [InlineData("09:42", "12:30", "WaitsForHost", "13:25")] // the next session has a host of its own to wait for
    public void A_door_that_is_held_opens_once_a_host_is_in(string? came, string at, string state, string changes)
    {
        var day = "2026-10-14T";
        var held = Link with { WaitsForHost = true };
        var sessions = Schedule(EntryRule.Usual).Held.ToList();
        var schedule = new DoorSchedule(held, sessions, sessions[0].Of.Pattern.Zone, null, session =>
            came is not null && session.StartsAt == Moment(day + "09:50") ? Moment(day + came) : null
        );
        var door = schedule.At(Moment(day + at));
        Assert.Equal((state, Moment(day + changes.PadLeft(5, '0'))), (door.State.ToString(), door.Changes));
        // What somebody does by hand goes before; a link that is not held takes no notice of hosts.
        Assert.Equal(
            DoorState.Open,
            new DoorSchedule(
                held with
                {
                    Hand = new ManualOverride(true, Moment(day + "09:00"), Moment(day + "14:00"), null),
                },
                sessions,
                sessions[0].Of.Pattern.Zone
            )
                .At(Moment(day + at))
                .State
        );
    }

    // A provider lets people in by itself; a door without sessions has no host to wait for.
    [Fact]
    public void What_is_held_for_a_host_is_a_pasted_room_with_sessions()
    {
        var waits = Link with { WaitsForHost = true };
        Assert.Equal(
            [true, false, false, false, false, true],
            new[]
            {
                waits,
                Link,
                waits with
                {
                    Target = waits.Target with { Provider = "School rooms" },
                },
                waits with
                {
                    RenewsAfterEach = true,
                },
                waits with
                {
                    Entry = new EntryRule.Always(),
                },
                waits with
                {
                    Entry = new EntryRule.AllDay(),
                },
            }.Select(one => one.IsHeldForHost)
        );
    }

    [Theory]
    [InlineData("10 20", "9:40", "10:10")]
    [InlineData("15 20", "9:35", "10:10")]
    [InlineData("10 end", "9:40", "10:40")]
    [InlineData("0 0", "9:50", "9:50")]
    [InlineData("10 90", "9:40", "10:40")] // never past the end
    [InlineData("240 20", "5:50", "10:10")]
    [InlineData("all day", "0:00", "24:00")]
    [InlineData("always", "0:00", "24:00")]
    public void A_window_is_as_its_rule_says(string rule, string opens, string shuts)
    {
        var session = Plan("Wed", 9, 50, 10, 40).Held.First(one => one.Start.Date == new LocalDate(2026, 10, 14));
        var window = EntryWindow.Of(Rule(rule), session);
        Assert.Equal((At(opens), At(shuts)), (window.Opens, window.Shuts));
        static Instant At(string time) =>
            time == "24:00" ? Moment("2026-10-15T00:00") : Moment($"2026-10-14T{time.PadLeft(5, '0')}");
    }

    // IANA tzdb: Halifax falls back on 1 Nov 2026 at 2:00 and springs forward on 14 Mar 2027 at 2:00; St John's likewise.
    [Theory]
    [InlineData("America/Halifax", "2026-11-01", "1:30", "10 20", "2026-11-01T04:20Z", "2026-11-01T04:50Z")] // the first of the two 1:30s, −3
    [InlineData("America/Halifax", "2026-11-01", "2:05", "10 20", "2026-11-01T05:55Z", "2026-11-01T06:25Z")] // ten real minutes before 2:05, which are the second 1:55
    [InlineData("America/Halifax", "2027-03-14", "2:30", "10 20", "2027-03-14T06:20Z", "2027-03-14T06:50Z")] // skipped: 3:30, −3
    [InlineData("America/Halifax", "2026-11-01", "9:50", "all day", "2026-11-01T03:00Z", "2026-11-02T04:00Z")] // a day of 25 hours
    [InlineData("America/Halifax", "2027-03-14", "9:50", "all day", "2027-03-14T04:00Z", "2027-03-15T03:00Z")] // a day of 23 hours
    [InlineData("America/St_Johns", "2026-10-14", "9:50", "10 20", "2026-10-14T12:10Z", "2026-10-14T12:40Z")] // −2:30
    public void Windows_go_by_real_minutes_through_daylight_saving(
        string zone,
        string day,
        string start,
        string rule,
        string opens,
        string shuts
    )
    {
        var (date, time) = (
            LocalDatePattern.Iso.Parse(day).Value,
            LocalTimePattern.CreateWithInvariantCulture("H:mm").Parse(start).Value
        );
        var pattern = new MeetingPattern(
            new Repeat.OnDates([date]),
            new SessionTime.Clock(time, time.PlusMinutes(50)),
            DateTimeZoneProviders.Tzdb[zone],
            date,
            new Extent.Open()
        )
        {
            NoClass = NoClassPolicy.MeetAnyway,
        };
        var window = EntryWindow.Of(Rule(rule), Skerry.Plan(pattern).Held.Single());
        Assert.Equal((Utc(opens), Utc(shuts)), (window.Opens, window.Shuts));
        static Instant Utc(string text) =>
            InstantPattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm'Z'").Parse(text).Value;
    }

    [Fact]
    public void An_all_day_session_is_open_all_day_and_a_room_without_times_always()
    {
        var day = new LocalDate(2026, 10, 14);
        var whole = Planner.PlanOf(
            Skerry.Series(
                new MeetingPattern(
                    new Repeat.OnDates([day]),
                    new SessionTime.AllDay(),
                    Skerry.Halifax,
                    day,
                    new Extent.Open()
                )
            ) with
            {
                JoinLink = Link.Id,
            },
            Skerry.Time
        );
        var schedule = new DoorSchedule(Link, whole.Sessions, Skerry.Halifax);
        Assert.Equal(
            (DoorState.Open, Moment("2026-10-15T00:00")),
            (schedule.At(Moment("2026-10-14T03:00")).State, schedule.At(Moment("2026-10-14T03:00")).Changes)
        );
        var always = new DoorSchedule(Link with { Entry = new EntryRule.Always() }, [], Skerry.Halifax);
        Assert.Equal(
            (DoorState.Open, null),
            (always.At(Moment("2026-10-18T03:00")).State, always.At(Moment("2026-10-18T03:00")).Changes)
        );
    }

    [Theory]
    [InlineData("2026-10-14T09:20", true, "Open", "10:10")] // early: until its window would shut
    [InlineData("2026-10-14T10:15", true, "Open", "10:40")] // late-comers: until the end
    [InlineData("2026-10-14T09:45", true, "Open", "10:40")] // keep open: until the end
    [InlineData("2026-10-14T09:45", false, "ShutByHand", "10:40")]
    [InlineData("2026-10-14T09:20", false, "ShutByHand", "10:40")]
    [InlineData("2026-10-14T12:30", false, "ShutByHand", "13:25")]
    [InlineData("2026-10-17T11:00", true, "Open", "12:00")] // nothing on: an hour
    public void A_door_is_opened_and_shut_by_hand_and_goes_back_to_its_rule(
        string at,
        bool opens,
        string state,
        string until
    )
    {
        var now = Moment(at);
        var rule = Schedule(EntryRule.Usual);
        var hand = opens ? rule.OpenedAt(now) : rule.ShutAt(now);
        var schedule = Schedule(EntryRule.Usual, hand);
        var end = Moment($"{at[..10]}T{until}");
        Assert.Equal((state, true), (schedule.At(now).State.ToString(), schedule.At(now).IsByHand));
        Assert.Equal(end, hand.Until);
        Assert.Equal(state, schedule.At(end - Duration.FromSeconds(1)).State.ToString());
        Assert.Equal(rule.At(end).State, schedule.At(end).State);
    }

    [Fact]
    public void Shutting_one_session_never_holds_the_next_one_shut()
    {
        // 9:50–10:40 and 10:45–11:35 on one link: shut at 10:20, the door opens for the second at 10:35.
        var sessions = Plan("Wed", 9, 50, 10, 40).Sessions.Concat(Plan("Wed", 10, 45, 11, 35, id: 2).Sessions).ToList();
        var now = Moment("2026-10-14T10:20");
        var hand = new DoorSchedule(Link, sessions, Skerry.Halifax).ShutAt(now);
        Assert.Equal(Moment("2026-10-14T10:35"), hand.Until);
        Assert.Equal(
            DoorState.Open,
            new DoorSchedule(Link with { Hand = hand }, sessions, Skerry.Halifax).At(Moment("2026-10-14T10:36")).State
        );
        var always = new DoorSchedule(Link with { Entry = new EntryRule.Always() }, [], Skerry.Halifax);
        Assert.Equal(Instant.MaxValue, always.ShutAt(now).Until);
    }

    [Fact]
    public void A_session_that_is_moved_away_or_cancelled_takes_its_open_door_along()
    {
        var now = Moment("2026-10-14T09:45");
        var series = Of("Wed", 9, 50, 10, 40);
        var hand = new DoorSchedule(Link, Planner.PlanOf(series, Skerry.Time).Sessions, Skerry.Halifax).OpenedAt(now);
        DoorState After(Change change) =>
            new DoorSchedule(
                Link with
                {
                    Hand = hand,
                },
                Planner.PlanOf(series with { Changes = [change] }, Skerry.Time).Sessions,
                Skerry.Halifax
            )
                .At(now)
                .State;
        var original = new LocalDateTime(2026, 10, 14, 9, 50);
        Assert.Equal(DoorState.Open, After(new Change(original, Note: "Bring boots.")));
        Assert.Equal(DoorState.NothingScheduled, After(new Change(original, Day: new LocalDate(2026, 10, 13)))); // into the past
        Assert.Equal(DoorState.Cancelled, After(new Change(original, SessionStatus.Cancelled)));
        Assert.Equal(
            DoorState.NothingScheduled,
            After(new Change(original) { Link = new JoinLinkId(8) } with { Day = new LocalDate(2026, 10, 13) })
        );
    }

    [Fact]
    public void A_cancelled_session_is_told_with_the_next_and_a_withdrawn_link_tells_nothing()
    {
        var series = Of("Wed", 9, 50, 10, 40) with
        {
            Changes = [new Change(new LocalDateTime(2026, 10, 14, 9, 50), SessionStatus.Cancelled)],
        };
        var sessions = Planner.PlanOf(series, Skerry.Time).Sessions;
        var door = new DoorSchedule(Link, sessions, Skerry.Halifax).At(Moment("2026-10-14T09:45"));
        Assert.Equal((DoorState.Cancelled, new LocalDate(2026, 10, 21)), (door.State, door.Next!.Start.Date));
        var withdrawn = new DoorSchedule(
            Link with
            {
                WithdrawnAt = Moment("2026-10-01T00:00"),
            },
            sessions,
            Skerry.Halifax
        ).At(Moment("2026-10-21T09:45"));
        Assert.Equal((DoorState.Withdrawn, null, null), (withdrawn.State, withdrawn.Session, withdrawn.Next));
    }

    [Fact]
    public void A_session_may_have_a_door_and_a_link_of_its_own()
    {
        var (usual, other) = (new LocalDateTime(2026, 10, 14, 9, 50), new LocalDateTime(2026, 10, 21, 9, 50));
        var series = Of("Wed", 9, 50, 10, 40) with
        {
            Changes =
            [
                new Change(usual) { Entry = new EntryRule.Around(30, null) },
                new Change(other) { Link = new JoinLinkId(8) },
            ],
        };
        var schedule = new DoorSchedule(
            Link,
            Planner.PlanOf(series, Skerry.Time).Sessions.Where(session => session.JoinLink == Link.Id),
            Skerry.Halifax
        );
        Assert.Equal(DoorState.Open, schedule.At(Moment("2026-10-14T09:21")).State);
        Assert.Equal(DoorState.Open, schedule.At(Moment("2026-10-14T10:39")).State);
        Assert.Equal(DoorState.NothingScheduled, schedule.At(Moment("2026-10-21T09:45")).State);
        Assert.Contains(
            "with a door of its own (opens 30 min before, closes at the end)",
            series.Changes[0].InWords,
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData(5, "10 20", true)]
    [InlineData(5, "5 20", false)] // it opens as the other ends: half open
    [InlineData(5, "6 20", true)]
    [InlineData(10, "10 20", false)]
    [InlineData(0, "0 20", false)]
    [InlineData(-10, "0 0", true)] // the sessions themselves overlap
    [InlineData(5, "all day", true)]
    public void Two_groups_meet_where_a_door_opens_before_the_other_has_ended(int gap, string rule, bool meet)
    {
        var link = Link with { Entry = Rule(rule) };
        Assert.Equal(meet, LinkFindings.Overlaps(link, Windows(link, gap)).Any());
        Assert.Empty(LinkFindings.Overlaps(link with { RenewsAfterEach = true }, Windows(link, gap)));
    }

    [Fact]
    public void After_the_remedy_no_window_overlaps_whatever_the_gaps()
    {
        var random = new Random(20261014);
        for (var turn = 0; turn < 300; turn++)
        {
            var (gap, lead) = (random.Next(0, 30), random.Next(0, 60));
            var link = Link with { Entry = new EntryRule.Around(lead, random.Next(0, 50)) };
            var finding = Found(link, gap).FirstOrDefault(one => one.Kind == FindingKind.WindowsOverlap);
            Assert.Equal(lead > gap, finding is not null);
            if (finding is null)
                continue;
            var remedy = finding.Remedies.Single(one => one.Kind == RemedyKind.OpenLater);
            var mended = link with { Entry = new EntryRule.Around(remedy.Minutes, 20) };
            Assert.Empty(LinkFindings.Overlaps(mended, Windows(mended, gap)));
        }
    }

    [Theory]
    [InlineData("", null, null)]
    [InlineData("until 2026-10-20", "ShouldFix", "Tidepool room runs out on Tue 20 Oct")]
    [InlineData("until 2026-10-10", "MustFix", "Tidepool room ran out on Sat 10 Oct")]
    [InlineData("until 2026-11-20", "WorthKnowing", "Tidepool room runs out on Fri 20 Nov")]
    [InlineData("until 2026-12-18", null, null)]
    [InlineData("days 60", "WorthKnowing", "Tidepool room runs out on Mon 2 Nov")]
    [InlineData("sessions 5", "ShouldFix", "Tidepool room runs out on Wed 14 Oct")] // 16, 23, 30 Sep, 7, 14 Oct
    [InlineData("sessions 60", null, null)]
    public void A_room_that_ends_before_its_sessions_is_noticed(string reach, string? severity, string? title)
    {
        var link = Link with
        {
            Reach = Reach(reach),
            Target = Link.Target with { TestedAt = Moment("2026-09-04T00:00") },
        };
        var found = LinkFindings.Of(
            Use(link, Plan("Wed", 9, 50, 10, 40).Sessions),
            [],
            Moment("2026-10-14T09:41"),
            Skerry.Halifax
        );
        Assert.Equal((severity, title), (found.SingleOrDefault()?.Severity.ToString(), found.SingleOrDefault()?.Title));
        static LinkReach Reach(string text) =>
            text.Split(' ') switch
            {
                ["until", var day] => new LinkReach.Until(LocalDatePattern.Iso.Parse(day).Value),
                ["days", var count] => new LinkReach.Days(
                    int.Parse(count, System.Globalization.CultureInfo.InvariantCulture)
                ),
                ["sessions", var count] => new LinkReach.Sessions(
                    int.Parse(count, System.Globalization.CultureInfo.InvariantCulture)
                ),
                _ => new LinkReach.Unlimited(),
            };
    }

    [Fact]
    public void What_else_there_is_to_notice()
    {
        var tested = Link with { Target = Link.Target with { TestedAt = Moment("2026-09-04T00:00") } };
        var sessions = Plan("Wed", 9, 50, 10, 40).Sessions;
        Calendar other = Class(2) with { Owner = new PersonId(2) };
        IReadOnlyList<Finding> Found(
            JoinLink link,
            IReadOnlyList<Calendar>? users = null,
            string text = "",
            params string[] secrets
        ) =>
            LinkFindings.Of(
                new LinkInUse(
                    link,
                    new DoorSchedule(link, sessions, Skerry.Halifax),
                    users ?? [Class(1)],
                    [new ReadText(new SeriesId(1), "the text", text)],
                    true
                ),
                secrets,
                Moment("2026-10-14T09:41"),
                Skerry.Halifax
            );
        FindingKind[] Kinds(
            JoinLink link,
            IReadOnlyList<Calendar>? users = null,
            string text = "",
            params string[] secrets
        ) => [.. Found(link, users, text, secrets).Select(one => one.Kind)];
        Assert.Empty(Kinds(tested));
        Assert.Equal([FindingKind.Untested], Kinds(Link));
        Assert.Equal(
            [FindingKind.Untested],
            Kinds(tested with { Target = tested.Target with { TestSaid = "It is gone." } })
        );
        Assert.Equal(Severity.WorthKnowing, Found(Link).Single().Severity);
        Assert.Equal(
            (Severity.MustFix, "It is gone."),
            Found(tested with { Target = tested.Target with { TestSaid = "It is gone." } })
                .Select(one => (one.Severity, one.Why))
                .Single()
        );
        Assert.Equal([FindingKind.PersonalRoom], Kinds(tested with { IsPersonal = true }));
        Assert.Equal([FindingKind.ClassesApart], Kinds(tested, [Class(1), other]));
        Assert.Empty(Kinds(tested with { IsSharedOnPurpose = true }, [Class(1), other]));
        Assert.Equal([FindingKind.ClassesTogether], Kinds(tested, [Class(1), Class(2)])); // one teacher
        Assert.Empty(Kinds(tested with { IsSharedOnPurpose = true }, [Class(1), Class(2)]));
        Assert.Equal([FindingKind.AlwaysOpen], Kinds(tested with { Entry = new EntryRule.Always() }));
        Assert.Empty(Kinds(tested with { Entry = new EntryRule.AllDay() }));
        Assert.Equal(
            [FindingKind.ClassesTogether],
            Kinds(
                tested,
                [Class(1) with { Department = new CalendarId(9) }, other with { Department = new CalendarId(9) }]
            )
        );
        Assert.Empty(Kinds(tested, [Class(1), other with { Kind = CalendarKind.Department }]));
        Assert.Equal(
            [FindingKind.SecretInPublic],
            Kinds(tested, null, "Come to https://rooms.example/9a?pwd=kelp now", "https://rooms.example/9a?pwd=kelp")
        );
        Assert.Equal(
            [FindingKind.SecretInPublic],
            Kinds(tested, null, "The passcode is Kelp22.", "https://rooms.example/9a", "kelp22")
        );
        Assert.Empty(Kinds(tested, null, "Bring boots and a 9a.", "https://rooms.example/9a", "9a")); // too short to mean anything
        Assert.Empty(Kinds(tested with { WithdrawnAt = Moment("2026-10-01T00:00"), IsPersonal = true }));
    }

    [Theory]
    [InlineData(CalendarKind.Class, true, true)]
    [InlineData(CalendarKind.Department, true, false)] // office hours go on
    [InlineData(CalendarKind.Class, false, false)]
    public void A_series_without_an_end_is_noticed(CalendarKind kind, bool isOpen, bool isNoticed)
    {
        var link = Link with { Target = Link.Target with { TestedAt = Moment("2026-09-04T00:00") } };
        var series = Skerry.Series(
            Skerry.Pattern(
                "Wed",
                Skerry.Clock(9, 50, 10, 40),
                new LocalDate(2026, 9, 14),
                isOpen ? new Extent.Open() : new Extent.WithTerm(Skerry.Autumn.Id)
            )
        ) with
        {
            JoinLink = link.Id,
            Calendar = new CalendarId(1),
        };
        var use = Use(link, Planner.PlanOf(series, Skerry.Time).Sessions) with
        {
            Users = [Class(1) with { Kind = kind }],
            Term = Skerry.Autumn,
        };
        var found = LinkFindings.Of(use, [], Moment("2026-10-14T09:41"), Skerry.Halifax);
        Assert.Equal(isNoticed ? [FindingKind.WithoutEnd] : [], found.Select(one => one.Kind));
        Assert.Equal(
            isNoticed ? [RemedyKind.EndWithTerm] : [],
            found.SelectMany(one => one.Remedies).Select(one => one.Kind)
        );
        // It has begun after the term's end: that would end it before it begins.
        Assert.Empty(
            LinkFindings
                .Of(
                    use with
                    {
                        Term = Skerry.Autumn with { Last = new LocalDate(2026, 9, 13) },
                    },
                    [],
                    Moment("2026-10-14T09:41"),
                    Skerry.Halifax
                )
                .SelectMany(one => one.Remedies)
        );
    }

    private static DoorSchedule Schedule(EntryRule rule, ManualOverride? hand = null) =>
        new(
            Link with
            {
                Entry = rule,
                Hand = hand,
            },
            Plan("Mon Wed Fri", 9, 50, 10, 40).Sessions.Concat(Plan("Wed", 12, 35, 13, 25, id: 2).Sessions),
            Skerry.Halifax
        );

    private static Series.Series Of(string days, int hour, int minute, int endHour, int endMinute, int id = 1) =>
        Skerry.Series(
            Skerry.Pattern(
                days,
                Skerry.Clock(hour, minute, endHour, endMinute),
                new LocalDate(2026, 9, 14),
                new Extent.WithTerm(Skerry.Autumn.Id)
            )
        ) with
        {
            Id = new SeriesId(id),
            JoinLink = Link.Id,
        };

    private static Plan Plan(string days, int hour, int minute, int endHour, int endMinute, int id = 1) =>
        Planner.PlanOf(Of(days, hour, minute, endHour, endMinute, id), Skerry.Time);

    private static IReadOnlyList<EntryWindow> Windows(JoinLink link, int gap) =>
        new DoorSchedule(link, BackToBack(gap), Skerry.Halifax).Windows;

    private static IEnumerable<Session> BackToBack(int gap)
    {
        var second = new LocalTime(10, 40).PlusMinutes(gap);
        var end = second.PlusMinutes(50);
        return Plan("Wed", 9, 50, 10, 40)
            .Sessions.Concat(Plan("Wed", second.Hour, second.Minute, end.Hour, end.Minute, id: 2).Sessions);
    }

    private static IReadOnlyList<Finding> Found(JoinLink link, int gap) =>
        LinkFindings.Of(Use(link, BackToBack(gap)), [], Moment("2026-10-14T00:00"), Skerry.Halifax);

    private static LinkInUse Use(JoinLink link, IEnumerable<Session> sessions) =>
        new(link, new DoorSchedule(link, sessions, Skerry.Halifax), [Class(1)], [], true);

    private static Calendar Class(long id) =>
        new(
            new CalendarId(id),
            CalendarKind.Class,
            null,
            "Tidepool Biology 9A",
            new Slug("tidepool"),
            "",
            new Mark(default, default),
            Skerry.Halifax,
            new PersonId(1),
            1,
            1,
            default
        );

    private static EntryRule Rule(string text) =>
        text.Split(' ') switch
        {
            ["all", _] => new EntryRule.AllDay(),
            [var lead, var late] => new EntryRule.Around(
                int.Parse(lead, System.Globalization.CultureInfo.InvariantCulture),
                late == "end" ? null : int.Parse(late, System.Globalization.CultureInfo.InvariantCulture)
            ),
            _ => new EntryRule.Always(),
        };

    private static Instant Moment(string local) =>
        WallClock.InstantOf(
            LocalDateTimePattern.GeneralIso.Parse(local.Length == 16 ? local + ":00" : local).Value,
            Skerry.Halifax
        );

    // A door that is open all day goes by days of the school, whatever clock the series goes by.
    [Fact]
    public void A_day_at_a_door_is_the_schools()
    {
        var plan = Planner.PlanOf(
            Skerry.Series(
                new MeetingPattern(
                    new Repeat.OnDates([new LocalDate(2026, 10, 14)]),
                    Skerry.Clock(9, 50, 10, 40),
                    DateTimeZoneProviders.Tzdb["Europe/Dublin"],
                    new LocalDate(2026, 10, 14),
                    new Extent.Open()
                )
            ),
            Skerry.Time
        );
        var window = EntryWindow.Of(new EntryRule.AllDay(), plan.Held.Single());
        Assert.Equal((Moment("2026-10-14T00:00"), Moment("2026-10-15T00:00")), (window.Opens, window.Shuts));
    }

    // Half open: at its end a session is over, and a room that was put there at that moment did not serve it.
    [Fact]
    public void At_its_start_a_session_is_on_and_at_its_end_it_is_over()
    {
        var session = Schedule(EntryRule.Usual).Held.First();
        Assert.Equal(SessionPhase.Ahead, session.PhaseAt(session.StartsAt - Duration.Epsilon));
        Assert.Equal(SessionPhase.On, session.PhaseAt(session.StartsAt));
        Assert.Equal(SessionPhase.On, session.PhaseAt(session.EndsAt - Duration.Epsilon));
        Assert.Equal(SessionPhase.Over, session.PhaseAt(session.EndsAt));
    }

    // One that was let stand open is shut for as long as it was to stand open; never into the next opening (12:25).
    [Theory]
    [InlineData("12:00", "12:00")]
    [InlineData("10:20", "10:40")]
    [InlineData("13:00", "12:25")]
    public void Shutting_what_was_held_open_outlasts_it(string heldUntil, string shutUntil)
    {
        var now = Moment("2026-10-14T10:15");
        var held = new ManualOverride(true, now, Moment($"2026-10-14T{heldUntil}"), null);
        Assert.Equal(Moment($"2026-10-14T{shutUntil}"), Schedule(EntryRule.Usual, held).ShutAt(now).Until);
    }

    // Two on one link at the same hour, one of them cancelled: that is told, and the other comes next.
    [Fact]
    public void A_cancelled_session_is_told_beside_one_at_the_same_hour()
    {
        var off = Plan("Wed", 9, 50, 10, 40).Of;
        var cancelled = Planner.PlanOf(
            off with
            {
                Changes =
                [
                    new Change(
                        new LocalDateTime(2026, 10, 14, 9, 50, 0),
                        SessionStatus.Cancelled,
                        null,
                        null,
                        null,
                        null,
                        ""
                    ),
                ],
            },
            Skerry.Time
        );
        var door = new DoorSchedule(
            Link,
            cancelled.Sessions.Concat(Plan("Wed", 9, 50, 10, 40, id: 2).Sessions),
            Skerry.Halifax
        ).At(Moment("2026-10-14T09:00"));
        Assert.Equal((DoorState.Cancelled, 1L, 2L), (door.State, door.Session!.Of.Id.Value, door.Next!.Of.Id.Value));
    }

    // Half open again: what ends at this moment comes no more; and a session on the very last day is in time.
    [Fact]
    public void A_room_that_reaches_to_the_last_session_reaches_far_enough()
    {
        var sessions = Plan("Wed", 9, 50, 10, 40).Sessions;
        var last = sessions.Last(session => session.IsHeld);
        IReadOnlyList<Finding> Of(LocalDate until, Instant now) =>
            LinkFindings.Of(
                Use(
                    Link with
                    {
                        Reach = new LinkReach.Until(until),
                        Target = Link.Target with { TestedAt = Moment("2026-09-04T00:00") },
                    },
                    sessions
                ),
                [],
                now,
                Skerry.Halifax
            );
        Assert.Empty(Of(last.Day, last.EndsAt - Duration.FromDays(7)));
        Assert.NotEmpty(Of(last.Day.PlusDays(-1), last.EndsAt - Duration.Epsilon));
        Assert.Empty(Of(last.Day.PlusDays(-1), last.EndsAt));
    }

    [Fact]
    public void A_room_for_a_number_of_sessions_counts_from_those_that_end_after_it_was_put_there()
    {
        var held = Schedule(EntryRule.Usual).Held.ToList();
        LocalDate? Last(Instant setAt) =>
            new DoorSchedule(
                Link with
                {
                    Reach = new LinkReach.Sessions(1),
                    Target = Link.Target with { SetAt = setAt },
                },
                held,
                Skerry.Halifax
            ).LastDay;
        Assert.Equal(held[0].Day, Last(held[0].EndsAt - Duration.Epsilon));
        Assert.Equal(held[1].Day, Last(held[0].EndsAt));
    }

    /// <summary>
    /// A room with hours and without sessions: Mon 12 Oct 2026 is Thanksgiving, Sat 17 Oct no school day, 19 Dec after the term.
    /// </summary>
    [Theory]
    [InlineData("2026-10-13T07:59:59", false, "2026-10-13T08:00:00")]
    [InlineData("2026-10-13T08:00:00", true, "2026-10-13T18:00:00")]
    [InlineData("2026-10-13T17:59:59", true, "2026-10-13T18:00:00")]
    [InlineData("2026-10-13T18:00:00", false, "2026-10-14T00:00:00")]
    [InlineData("2026-10-12T10:00:00", false, "2026-10-13T00:00:00")]
    [InlineData("2026-10-17T10:00:00", false, "2026-10-18T00:00:00")]
    [InlineData("2026-12-19T10:00:00", false, "2026-12-20T00:00:00")]
    public void A_room_with_hours_is_open_on_class_days(string at, bool isOpen, string changes)
    {
        var schedule = new DoorSchedule(
            Link with
            {
                Entry = new EntryRule.Hours(new LocalTime(8, 0), new LocalTime(18, 0)),
            },
            [],
            Skerry.Halifax,
            Skerry.Time.IsClassDay
        );
        var door = schedule.At(Moment(at));
        Assert.Equal((isOpen, Moment(changes)), (door.IsOpen, door.Changes));
        Assert.Equal(isOpen ? Moment(changes) : null, door.OpenUntil);
    }

    // A session outside of the hours is entered all the same, from its start to its end.
    [Theory]
    [InlineData("2026-10-13T17:59:59", true)]
    [InlineData("2026-10-13T18:59:59", false)]
    [InlineData("2026-10-13T19:00:00", true)]
    [InlineData("2026-10-13T19:59:59", true)]
    [InlineData("2026-10-13T20:00:00", false)]
    public void A_session_in_the_evening_is_entered_in_a_room_with_hours(string at, bool isOpen)
    {
        var rule = new EntryRule.Hours(new LocalTime(8, 0), new LocalTime(18, 0));
        var evening = Skerry.Series(
            new MeetingPattern(
                new Repeat.OnDates([new LocalDate(2026, 10, 13)]),
                new SessionTime.Clock(new LocalTime(19, 0), new LocalTime(20, 0)),
                Skerry.Halifax,
                new LocalDate(2026, 10, 13),
                new Extent.Open()
            )
        ) with
        {
            JoinLink = Link.Id,
        };
        var schedule = new DoorSchedule(
            Link with
            {
                Entry = rule,
            },
            Planner.PlanOf(evening, Skerry.Time).Sessions,
            Skerry.Halifax,
            Skerry.Time.IsClassDay
        );
        Assert.Equal(isOpen, schedule.At(Moment(at)).IsOpen);
    }
}
