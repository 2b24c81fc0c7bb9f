using System.Globalization;
using System.Text;
using System.Text.Json;
using FsCheck.Fluent;
using JollyAlmanac.Application.Explaining;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>iCalendar files of others: which sessions they mean, what is forgiven, and which breaches are told.</summary>
public sealed class ICalendarFileTests
{
    // The rules of New York from 2007 on under a name of the file's own, as RFC 5545 §3.6.5 has them in its example.
    internal const string OwnZone = """
        BEGIN:VTIMEZONE
        TZID:Own
        BEGIN:DAYLIGHT
        DTSTART:20070311T020000
        RRULE:FREQ=YEARLY;BYDAY=2SU;BYMONTH=3
        TZOFFSETFROM:-0500
        TZOFFSETTO:-0400
        TZNAME:EDT
        END:DAYLIGHT
        BEGIN:STANDARD
        DTSTART:20071104T020000
        RRULE:FREQ=YEARLY;BYDAY=1SU;BYMONTH=11
        TZOFFSETFROM:-0400
        TZOFFSETTO:-0500
        TZNAME:EST
        END:STANDARD
        END:VTIMEZONE

        """;

    internal static byte[] File(string events, string head = "") =>
        Encoding.UTF8.GetBytes(
            (
                "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:-//A//B//EN\n" + head + events.Trim() + "\nEND:VCALENDAR\n"
            ).ReplaceLineEndings("\r\n")
        );

    internal static string Event(string lines, string uid = "1") =>
        $"BEGIN:VEVENT\nUID:{uid}\nDTSTAMP:20260101T000000Z\n{lines.ReplaceLineEndings("\n").Trim()}\nEND:VEVENT\n";

    internal static List<string> Told(byte[] file, string? zone = null, LocalDate? from = null, LocalDate? to = null) =>
        [
            .. ICalendarSessions
                .Of(ICalendarReader.Read(file), zone is null ? null : DateTimeZoneProviders.Tzdb[zone], from, to)
                .Sessions.Select(session => FileCommands.LineOf(session))
                .Select(line =>
                {
                    using var json = JsonDocument.Parse(line);
                    string Of(string name) => json.RootElement.GetProperty(name).GetString()!;
                    return $"{Of("start")} {Of("end")}"
                        + (Of("summary") is { Length: > 0 } title ? $" {title}" : "")
                        + (Of("status") == "CONFIRMED" ? "" : $" {Of("status")}");
                }),
        ];

    /// <summary>Worked out by hand from RFC 5545; the section that decides stands beside.</summary>
    public static TheoryData<string, string, string[]> Meanings =>
        new()
        {
            {
                "3.3.5, UTC",
                "DTSTART:20261102T120000Z\nDTEND:20261102T125000Z",
                ["2026-11-02T12:00:00+00:00 2026-11-02T12:50:00+00:00"]
            },
            {
                "3.3.5, by any clock",
                "DTSTART:20261102T080000\nDURATION:PT50M",
                ["2026-11-02T08:00:00 2026-11-02T08:50:00"]
            },
            { "3.6.1, a date without an end is one day", "DTSTART;VALUE=DATE:20261102", ["2026-11-02 2026-11-03"] },
            {
                "3.6.1, a time without an end takes none",
                "DTSTART:20261102T080000",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00"]
            },
            {
                "3.6.1, the end of dates is exclusive",
                "DTSTART;VALUE=DATE:20261102\nDTEND;VALUE=DATE:20261105",
                ["2026-11-02 2026-11-05"]
            },
            { "3.3.6, weeks", "DTSTART;VALUE=DATE:20261102\nDURATION:P1W", ["2026-11-02 2026-11-09"] },
            {
                "3.8.5.3, the offset follows the zone over a change of the clocks",
                "DTSTART;TZID=America/Halifax:20261030T080000\nDTEND;TZID=America/Halifax:20261030T085000\nRRULE:FREQ=WEEKLY;COUNT=2",
                [
                    "2026-10-30T08:00:00-03:00 2026-10-30T08:50:00-03:00",
                    "2026-11-06T08:00:00-04:00 2026-11-06T08:50:00-04:00",
                ]
            },
            // 31 Oct 23:00 to 1 Nov 3:00, when the clocks go back at 2:00: DTEND means five hours, the DURATION four.
            {
                "3.8.5.3, DTEND is an exact length",
                "DTSTART;TZID=America/Halifax:20261030T230000\nDTEND;TZID=America/Halifax:20261031T030000\nRRULE:FREQ=DAILY;COUNT=2",
                [
                    "2026-10-30T23:00:00-03:00 2026-10-31T03:00:00-03:00",
                    "2026-10-31T23:00:00-03:00 2026-11-01T02:00:00-04:00",
                ]
            },
            {
                "3.3.6, a day of a DURATION is nominal",
                "DTSTART;TZID=America/Halifax:20261031T120000\nDURATION:P1D\nRRULE:FREQ=DAILY;COUNT=1",
                ["2026-10-31T12:00:00-03:00 2026-11-01T12:00:00-04:00"]
            },
            {
                "3.3.6, its hours are exact",
                "DTSTART;TZID=America/Halifax:20261031T120000\nDURATION:PT24H",
                ["2026-10-31T12:00:00-03:00 2026-11-01T11:00:00-04:00"]
            },
            {
                "3.8.2.2, an end in another zone",
                "DTSTART;TZID=America/Halifax:20261102T080000\nDTEND;TZID=Europe/Berlin:20261102T140000",
                ["2026-11-02T08:00:00-04:00 2026-11-02T09:00:00-04:00"]
            },
            {
                "3.8.5.1 and 3.8.5.2",
                "DTSTART:20261102T080000\nDURATION:PT1H\nRRULE:FREQ=DAILY;COUNT=3\nEXDATE:20261103T080000\nRDATE:20261109T080000,20261110T090000",
                [
                    "2026-11-02T08:00:00 2026-11-02T09:00:00",
                    "2026-11-04T08:00:00 2026-11-04T09:00:00",
                    "2026-11-09T08:00:00 2026-11-09T09:00:00",
                    "2026-11-10T09:00:00 2026-11-10T10:00:00",
                ]
            },
            {
                "3.8.5.2, periods",
                "DTSTART:20261102T080000Z\nDTEND:20261102T090000Z\nRDATE;VALUE=PERIOD:20261103T100000Z/20261103T113000Z,20261104T100000Z/PT30M",
                [
                    "2026-11-02T08:00:00+00:00 2026-11-02T09:00:00+00:00",
                    "2026-11-03T10:00:00+00:00 2026-11-03T11:30:00+00:00",
                    "2026-11-04T10:00:00+00:00 2026-11-04T10:30:00+00:00",
                ]
            },
            {
                "a date in EXDATE takes out what is on it",
                "DTSTART:20261102T080000\nRRULE:FREQ=DAILY;COUNT=2\nEXDATE;VALUE=DATE:20261103",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00"]
            },
            {
                "an EXDATE in UTC",
                "DTSTART;TZID=America/Halifax:20261102T080000\nRRULE:FREQ=DAILY;COUNT=2\nEXDATE:20261103T120000Z",
                ["2026-11-02T08:00:00-04:00 2026-11-02T08:00:00-04:00"]
            },
            {
                "3.8.5.3, the start is the first, though its rule does not give it",
                "DTSTART:20261103T080000\nRRULE:FREQ=WEEKLY;BYDAY=MO;UNTIL=20261110T000000",
                ["2026-11-03T08:00:00 2026-11-03T08:00:00", "2026-11-09T08:00:00 2026-11-09T08:00:00"]
            },
            {
                "RFC 2445's EXRULE",
                "DTSTART:20261102T080000\nRRULE:FREQ=DAILY;COUNT=4\nEXRULE:FREQ=DAILY;INTERVAL=2",
                ["2026-11-03T08:00:00 2026-11-03T08:00:00", "2026-11-05T08:00:00 2026-11-05T08:00:00"]
            },
            {
                "3.3.11, escapes",
                "DTSTART;VALUE=DATE:20261102\nSUMMARY:Tide\\, own\\; \\\\ n\\no",
                ["2026-11-02 2026-11-03 Tide, own; \\ n\no"]
            },
            { "3.8.1.11", "DTSTART;VALUE=DATE:20261102\nSTATUS:tentative", ["2026-11-02 2026-11-03 TENTATIVE"] },
            // What practice forgives.
            { "small letters", "dtstart;value=date:20261102\nsummary:x", ["2026-11-02 2026-11-03 x"] },
            { "a date without VALUE", "DTSTART:20261102", ["2026-11-02 2026-11-03"] },
            { "no seconds", "DTSTART:20261102T0800", ["2026-11-02T08:00:00 2026-11-02T08:00:00"] },
            {
                "a name of another system (CLDR windowsZones)",
                "DTSTART;TZID=W. Europe Standard Time:20261102T080000",
                ["2026-11-02T08:00:00+01:00 2026-11-02T08:00:00+01:00"]
            },
            {
                "a name that somebody owns",
                "DTSTART;TZID=/example.org/2006_1/Europe/Berlin:20261102T080000",
                ["2026-11-02T08:00:00+01:00 2026-11-02T08:00:00+01:00"]
            },
            {
                "a zone that nothing defines is any clock",
                "DTSTART;TZID=Nowhere:20261102T080000",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00"]
            },
            {
                "an end before the start",
                "DTSTART:20261102T080000\nDTEND:20261102T070000",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00"]
            },
            {
                "a rule that cannot be",
                "DTSTART:20261102T080000\nRRULE:FREQ=SOMETIMES",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00"]
            },
            {
                "a rule with blanks and a last semicolon",
                "DTSTART:20261102T080000\nRRULE: FREQ=DAILY; COUNT=2;",
                ["2026-11-02T08:00:00 2026-11-02T08:00:00", "2026-11-03T08:00:00 2026-11-03T08:00:00"]
            },
            { "no start", "SUMMARY:x", [] },
        };

    [Theory]
    [MemberData(nameof(Meanings))]
    public void Each_shape_means_what_the_standard_says(string why, string lines, string[] sessions)
    {
        Assert.NotEmpty(why);
        Assert.Equal(sessions, Told(File(Event(lines))));
    }

    /// <summary>§3.8.4.4: one session changed, one cancelled, all from one on moved, and one of those changed again.</summary>
    [Fact]
    public void Changed_sessions_take_the_place_of_theirs()
    {
        var file = File(
            Event(
                "DTSTART;TZID=Own:20261102T080000\nDTEND;TZID=Own:20261102T085000\nRRULE:FREQ=WEEKLY;COUNT=5\nSUMMARY:A"
            )
                + Event(
                    "RECURRENCE-ID;TZID=Own:20261109T080000\nDTSTART;TZID=Own:20261110T080000\nDTEND;TZID=Own:20261110T083000\nSUMMARY:B\nSEQUENCE:1"
                )
                + Event("RECURRENCE-ID:20261109T130000Z\nDTSTART;TZID=Own:20261111T080000\nSUMMARY:Older")
                + Event(
                    "RECURRENCE-ID;TZID=Own;RANGE=THISANDFUTURE:20261116T080000\nDTSTART;TZID=Own:20261117T090000\nDURATION:PT2H\nSUMMARY:C"
                )
                + Event(
                    "RECURRENCE-ID;TZID=Own:20261123T080000\nDTSTART;TZID=Own:20261123T080000\nSTATUS:CANCELLED\nSUMMARY:A"
                )
                + Event("RECURRENCE-ID;TZID=Own:20270301T080000\nDTSTART;TZID=Own:20270301T100000\nSUMMARY:D"),
            OwnZone
        );
        Assert.Equal(
            [
                "2026-11-02T08:00:00-05:00 2026-11-02T08:50:00-05:00 A",
                "2026-11-10T08:00:00-05:00 2026-11-10T08:30:00-05:00 B",
                "2026-11-17T09:00:00-05:00 2026-11-17T11:00:00-05:00 C",
                "2026-11-23T08:00:00-05:00 2026-11-23T08:00:00-05:00 A CANCELLED",
                "2026-12-01T09:00:00-05:00 2026-12-01T11:00:00-05:00 C",
                "2027-03-01T10:00:00-05:00 2027-03-01T10:00:00-05:00 D",
            ],
            Told(file)
        );
    }

    [Fact]
    public void Of_doubled_events_the_highest_sequence_counts_and_one_without_a_uid_is_its_own()
    {
        Assert.Equal(
            ["2026-11-03 2026-11-04"],
            Told(
                File(
                    Event("DTSTART;VALUE=DATE:20261102\nSEQUENCE:2")
                        + Event("DTSTART;VALUE=DATE:20261103\nSEQUENCE:10")
                        + Event("DTSTART;VALUE=DATE:20261104\nSEQUENCE:9")
                )
            )
        );
        Assert.Equal(
            2,
            Told(
                File(
                    "BEGIN:VEVENT\nDTSTART;VALUE=DATE:20261102\nEND:VEVENT\nBEGIN:VEVENT\nDTSTART;VALUE=DATE:20261103\nEND:VEVENT\n"
                )
            ).Count
        );
    }

    /// <summary>A zone of the file's own agrees with the one it copies, at every hour of years in which both have the same rules.</summary>
    [Fact]
    public void A_defined_zone_goes_by_its_definition()
    {
        var zone = new FileZones(ICalendarReader.Read(File("", OwnZone)).Calendars[0]).Find("Own")!;
        var same = DateTimeZoneProviders.Tzdb["America/New_York"];
        for (
            var at = Instant.FromUtc(2008, 1, 1, 0, 30);
            at < Instant.FromUtc(2030, 1, 1, 0, 0);
            at += Duration.FromHours(1)
        )
            Assert.Equal(same.GetUtcOffset(at), zone.GetUtcOffset(at));
    }

    [Fact]
    public void Days_asked_for_are_half_open_and_by_the_zone_that_is_asked()
    {
        var file = File(Event("DTSTART:20261102T230000Z\nDURATION:PT1H\nRRULE:FREQ=DAILY"));
        Assert.Equal(
            ["2026-11-04T00:00:00+01:00 2026-11-04T01:00:00+01:00"],
            Told(file, "Europe/Berlin", new LocalDate(2026, 11, 4), new LocalDate(2026, 11, 5))
        );
        // A series without an end comes to one.
        Assert.Equal(3653, Told(file).Count);
        // What began before, and goes on, is there.
        Assert.Single(
            Told(
                File(Event("DTSTART;VALUE=DATE:20261102\nDTEND;VALUE=DATE:20261106")),
                null,
                new LocalDate(2026, 11, 5)
            )
        );
        Assert.Empty(
            Told(
                File(Event("DTSTART;VALUE=DATE:20261102\nDTEND;VALUE=DATE:20261106")),
                null,
                new LocalDate(2026, 11, 6)
            )
        );
    }

    public static TheoryData<string, byte[]> Ugly =>
        new()
        {
            {
                "line feeds alone",
                Encoding.UTF8.GetBytes(
                    Encoding.UTF8.GetString(File(Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:Für"))).Replace("\r", "")
                )
            },
            {
                "carriage returns alone",
                Encoding.UTF8.GetBytes(
                    Encoding.UTF8.GetString(File(Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:Für"))).Replace("\n", "")
                )
            },
            { "a byte order mark", [0xEF, 0xBB, 0xBF, .. File(Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:Für"))] },
            {
                "Windows-1252",
                Encoding.Latin1.GetBytes(
                    Encoding.UTF8.GetString(File(Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:Für")))
                )
            },
            { "blank lines", File("\n\n" + Event("DTSTART;VALUE=DATE:20261102\n\nSUMMARY:Für\n \n")) },
            {
                "folded inside a character",
                [
                    .. File(Event("DTSTART;VALUE=DATE:20261102\nSUMMARY:F\u00fcr"))
                        .SelectMany(octet => octet == 0xC3 ? new byte[] { 0xC3, 13, 10, 32 } : [octet]),
                ]
            },
            { "folded by a tab", File(Event("DTSTART;VALUE=DATE:2026\n\t1102\nSUMMARY:F\n ür")) },
            { "nonsense lines", File("nonsense\n" + Event("DTSTART;VALUE=DATE:20261102\n=?\nSUMMARY:Für\n:x\n;\"")) },
            { "no DTSTAMP", File("BEGIN:VEVENT\nUID:1\nDTSTART;VALUE=DATE:20261102\nSUMMARY:Für\nEND:VEVENT") },
        };

    [Theory]
    [MemberData(nameof(Ugly), DisableDiscoveryEnumeration = true)]
    public void What_the_world_writes_is_read_and_the_breach_is_told(string what, byte[] file)
    {
        Assert.NotEmpty(what);
        Assert.Equal(["2026-11-02 2026-11-03 Für"], Told(file));
        if (what != "folded by a tab" && what != "folded inside a character")
            Assert.NotEmpty(ICalendarCheck.Of(ICalendarReader.Read(file)));
    }

    [Fact]
    public void Hostile_files_are_read_within_bounds()
    {
        var deep =
            string.Concat(Enumerable.Repeat("BEGIN:X\r\n", 400)) + string.Concat(Enumerable.Repeat("END:X\r\n", 400));
        Assert.Single(Told(File(deep.ReplaceLineEndings("\n") + Event("DTSTART;VALUE=DATE:20261102"))));
        Assert.Equal(ICalendarSessions.Most, Told(File(Event("DTSTART:20261102T080000\nRRULE:FREQ=SECONDLY"))).Count);
        Assert.Empty(ICalendarReader.Read([0, 1, 2, 255, 254, 13, 10, 0]).Calendars);
        Assert.True(
            ICalendarReader.Read(Encoding.ASCII.GetBytes("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:2026")).IsCutOff
        );
        Assert.Single(Told(File(string.Concat(Enumerable.Repeat(Event("DTSTART;VALUE=DATE:20261102"), 10_000)))));
        Assert.Single(
            Told(File(Event($"DTSTART;VALUE=DATE:20261102\nX-BIG:{new string('x', ICalendarReader.LongestLine + 10)}")))
        );
    }

    /// <summary>What our feeds say, read back: 500 random series give just the sessions that were planned.</summary>
    [Fact]
    public void Random_feeds_are_read_back_as_they_were_planned()
    {
        foreach (var series in FeedTests.AllSeries().Generator.Sample(500, 30))
        {
            var time = FeedTests.SchoolTimeOf(series.Pattern.Zone);
            var plan = Planner.PlanOf(series, time);
            if (plan.Sessions.Length == 0)
                continue;
            var text = FeedTests.TextOf(plan, time);
            string Of(LocalDateTime local, DateTimeZone zone) => Core.Terms.WallClock.InstantOf(local, zone).ToString();
            var planned = plan
                .Held.Select(session =>
                    session.IsAllDay
                        ? session.Start.Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)
                        : session.StartsAt.ToString()
                )
                .Order(StringComparer.Ordinal);
            var file = ICalendarReader.Read(Encoding.UTF8.GetBytes(text));
            Assert.Empty(ICalendarCheck.Of(file));
            var read = ICalendarSessions
                .Of(file, null, null, new LocalDate(2100, 1, 1))
                .Sessions.Where(session => session.Status != "CANCELLED")
                .Select(session =>
                    session.Start.IsDate
                        ? session.Start.Time.Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)
                        : Of(session.Start.Time, session.Start.Zone!)
                )
                .Order(StringComparer.Ordinal);
            Assert.True(planned.SequenceEqual(read), $"{series.Pattern} {string.Join(' ', series.Changes)}\n{text}");
        }
    }

    /// <summary>RFC 5545 §3.8.2.6: periods in order; those that touch or lie within one another are one.</summary>
    [Theory]
    [InlineData("0800-0900 0900-1000", "0800/1000")]
    [InlineData("0800-1200 0900-1000", "0800/1200")]
    [InlineData("0930-1030 0800-1000", "0800/1030")]
    [InlineData("0800-0900 0901-1000", "0800/0900 0901/1000")]
    public void Busy_times_that_touch_are_one(string taken, string told)
    {
        var file = File(
            string.Join(
                '\n',
                taken
                    .Split(' ')
                    .Select(
                        (span, at) => Event($"DTSTART:20261102T{span[..4]}00Z\nDTEND:20261102T{span[5..]}00Z", $"{at}")
                    )
            )
        );
        var busy = BusyDocument.Of(ICalendarReader.Read(file).Calendars[0], DateTimeZone.Utc);
        Assert.Equal(
            told,
            string.Join(
                ' ',
                busy.Split("\r\n")
                    .Where(line => line.StartsWith("FREEBUSY", StringComparison.Ordinal))
                    .Select(line => $"{line[30..34]}/{line[47..51]}")
            )
        );
    }

    /// <summary>Breaches made by hand: lines in place of a good event's or calendar's, and the section and line that are told.</summary>
    public static TheoryData<string, string, int> Breaches =>
        new()
        {
            { "3.6.1", "BEGIN:VEVENT\nDTSTAMP:20260101T000000Z\nDTSTART:20261102T080000\nEND:VEVENT", 4 },
            { "3.6.1", "BEGIN:VEVENT\nUID:1\nDTSTART:20261102T080000\nEND:VEVENT", 4 },
            { "3.6.1", Event("SUMMARY:x"), 4 },
            { "3.6.1", Event("DTSTART:20261102T080000\nSUMMARY:a\nSUMMARY:b"), 9 },
            { "3.6.1", Event("DTSTART:20261102T080000\nDTEND:20261102T090000\nDURATION:PT1H"), 9 },
            { "3.6.1", Event("DTSTART;VALUE=DATE:20261102\nDURATION:PT1H"), 8 },
            { "3.6.1", Event("DTSTART:20261102T080000\nRRULE:FREQ=DAILY;COUNT=2\nRRULE:FREQ=DAILY;COUNT=3"), 9 },
            { "3.8.2.2", Event("DTSTART:20261102T080000\nDTEND:20261102T070000"), 8 },
            { "3.8.2.2", Event("DTSTART:20261102T080000\nDTEND;VALUE=DATE:20261103"), 8 },
            { "3.8.2.2", Event("DTSTART:20261102T080000\nDTEND:20261102T130000Z"), 8 },
            { "3.3.5", Event("DTSTART:20260230T080000"), 7 },
            { "3.3.4", Event("DTSTART:20261102"), 7 },
            { "3.3.4", Event("DTSTART;VALUE=DATE:20261102T080000"), 7 },
            { "3.3.12", Event("DTSTART:20261102T0800"), 7 },
            { "3.2.19", Event("DTSTART;TZID=America/Halifax:20261102T080000"), 7 },
            { "3.2.19", Event("DTSTART;TZID=X:20261102T080000Z"), 7 },
            { "3.3.10", Event("DTSTART:20261102T080000\nRRULE:FREQ=SOMETIMES"), 8 },
            { "3.3.10", Event("DTSTART:20261102T080000\nRRULE:FREQ=DAILY;UNTIL=20261201"), 8 },
            { "3.3.10", Event("DTSTART:20261102T080000\nRRULE:FREQ=DAILY;UNTIL=20261201T000000Z"), 8 },
            { "3.3.10", Event("DTSTART;VALUE=DATE:20261102\nRRULE:FREQ=HOURLY"), 8 },
            { "3.8.5.1", Event("DTSTART:20261102T080000\nRRULE:FREQ=DAILY;COUNT=2\nEXDATE:20261103"), 9 },
            { "3.3.9", Event("DTSTART:20261102T080000Z\nRDATE;VALUE=PERIOD:20261103T080000Z"), 8 },
            { "3.3.6", Event("DTSTART:20261102T080000\nDURATION:1H"), 8 },
            { "3.8.2.5", Event("DTSTART:20261102T080000\nDURATION:-PT1H"), 8 },
            { "3.8.1.11", Event("DTSTART:20261102T080000\nSTATUS:DRAFT"), 8 },
            { "3.8.2.7", Event("DTSTART:20261102T080000\nTRANSP:BUSY"), 8 },
            { "3.3.8", Event("DTSTART:20261102T080000\nPRIORITY:10"), 8 },
            { "3.3.8", Event("DTSTART:20261102T080000\nSEQUENCE:one"), 8 },
            { "3.8.1.6", Event("DTSTART:20261102T080000\nGEO:91;0"), 8 },
            { "3.3.11", Event("DTSTART:20261102T080000\nSUMMARY:a;b"), 8 },
            { "3.3.11", Event("DTSTART:20261102T080000\nSUMMARY:a\\qb"), 8 },
            { "3.3.13", Event("DTSTART:20261102T080000\nURL:not an address"), 8 },
            { "3.8.7.2", "BEGIN:VEVENT\nUID:1\nDTSTAMP:20260101T000000\nDTSTART:20261102T080000\nEND:VEVENT", 6 },
            { "3.2.13", Event("RECURRENCE-ID;RANGE=THISANDPRIOR:20261102T080000\nDTSTART:20261102T080000"), 7 },
            { "3.8.4.7", Event("DTSTART:20261102T080000") + Event("DTSTART:20261103T080000"), 9 },
            { "3.8.1.8", Event("DTSTART:20261102T080000\nPERCENT-COMPLETE:10"), 8 },
            { "3.6.6", Event("DTSTART:20261102T080000\nBEGIN:VALARM\nACTION:DISPLAY\nTRIGGER:-PT15M\nEND:VALARM"), 8 },
            { "3.8.6.3", Event("DTSTART:20261102T080000\nBEGIN:VALARM\nACTION:AUDIO\nTRIGGER:soon\nEND:VALARM"), 10 },
            { "3.6.5", "BEGIN:VTIMEZONE\nTZID:X\nEND:VTIMEZONE", 4 },
            {
                "3.3.14",
                "BEGIN:VTIMEZONE\nTZID:X\nBEGIN:STANDARD\nDTSTART:19700101T000000\nTZOFFSETFROM:4\nTZOFFSETTO:+0000\nEND:STANDARD\nEND:VTIMEZONE",
                8
            },
            {
                "3.6",
                "BEGIN:VEVENT\nUID:1\nDTSTAMP:20260101T000000Z\nDTSTART:20261102T080000\nBEGIN:VEVENT\nUID:2\nDTSTAMP:20260101T000000Z\nDTSTART:20261102T080000\nEND:VEVENT\nEND:VEVENT",
                8
            },
            { "3.6", "METHOD:PUBLISH", 1 },
            { "3.7.1", "CALSCALE:JULIAN\n" + Event("DTSTART:20261102T080000"), 4 },
            { "3.6", "VERSION:2.0\n" + Event("DTSTART:20261102T080000"), 4 },
            { "3.1", Event($"DTSTART:20261102T080000\nSUMMARY:{new string('x', 80)}"), 8 },
            { "3.1", Event("DTSTART:20261102T080000\nno colon"), 8 },
            { "3.2", Event("DTSTART;VALUE:20261102T080000"), 7 },
        };

    [Theory]
    [MemberData(nameof(Breaches))]
    public void Each_breach_is_told_with_its_section_and_line(string section, string lines, int line)
    {
        var found = ICalendarCheck.Of(ICalendarReader.Read(File(lines)));
        Assert.Contains(found, breach => breach.Section == section && breach.Line == line);
        Assert.All(found, breach =>
            Assert.False(string.IsNullOrWhiteSpace(breach.Says) || string.IsNullOrWhiteSpace(breach.Remedy))
        );
    }

    [Fact]
    public void A_good_file_has_none() =>
        Assert.Empty(
            ICalendarCheck.Of(
                ICalendarReader.Read(
                    File(
                        Event(
                            "DTSTART;TZID=Own:20261102T080000\nDTEND;TZID=Own:20261102T085000\nRRULE:FREQ=WEEKLY;UNTIL=20261201T000000Z\nSUMMARY:A\\, b\nCATEGORIES:x,y\nGEO:44.6;-63.5\nATTENDEE;CN=\"A: B\":mailto:a@b.example\nBEGIN:VALARM\nACTION:DISPLAY\nDESCRIPTION:x\nTRIGGER:-PT15M\nEND:VALARM"
                        ),
                        OwnZone
                    )
                )
            )
        );

    /// <summary>The contract of the command line: what is printed, what is said beside, and the exit codes.</summary>
    [Theory]
    [InlineData(
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nDTSTART:20261102T120000Z\r\nDTEND:20261102T125000Z\r\nSUMMARY:Tide “A”\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
        "America/Halifax",
        0,
        "{\"summary\":\"Tide “A”\",\"start\":\"2026-11-02T08:00:00-04:00\",\"end\":\"2026-11-02T08:50:00-04:00\",\"allDay\":false,\"status\":\"CONFIRMED\"}",
        ""
    )]
    [InlineData("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20261102T", null, 1, "", "is cut off")]
    [InlineData("<!DOCTYPE html><title>Sign in</title>", null, 1, "", "is a web page")]
    [InlineData("Dear all,\r\nhere is the calendar", null, 1, "", "is no iCalendar file")]
    [InlineData("BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", "Nowhere/Land", 2, "", "is no zone")]
    public void The_command_says_what_it_found(string text, string? zone, int code, string printed, string said)
    {
        var path = Path.Combine(Directory.CreateTempSubdirectory("almanac-ics-").FullName, "a.ics");
        System.IO.File.WriteAllText(path, text);
        using var answers = new StringWriter();
        var words = new List<string>();
        Assert.Equal(code, FileCommands.Sessions(path, zone, null, null, answers, words.Add));
        Assert.Equal(printed, answers.ToString().Trim());
        Assert.Contains(said, string.Join(' ', words), StringComparison.Ordinal);
        Directory.Delete(Path.GetDirectoryName(path)!, recursive: true);
    }
}
