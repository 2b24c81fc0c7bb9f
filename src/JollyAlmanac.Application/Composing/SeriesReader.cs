using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;
using Series = JollyAlmanac.Core.Series.Series;

namespace JollyAlmanac.Application.Composing;

/// <summary>How far a new series reaches where nobody says so.</summary>
/// <param name="From">Its first day.</param>
/// <param name="Extent">Its end.</param>
internal sealed record UsualSpan(LocalDate From, Extent Extent)
{
    /// <summary>
    /// With the term that is on or comes next; from its first day, or today where that is past. Without a term it has no end, which a
    /// form leaves to be chosen.
    /// </summary>
    public static UsualSpan Of(SchoolTime school, LocalDate today) =>
        school.TermToShow(today) is { } term
            ? new UsualSpan(LocalDate.Max(term.First, today), new Extent.WithTerm(term.Id))
            : new UsualSpan(today, new Extent.Open());
}

/// <summary>What was read of a form or a line: a series without its id, and a link to be made with it.</summary>
internal sealed record SeriesDraft(
    string Title,
    string Description,
    string Place,
    MeetingPattern Pattern,
    string NumberLabel,
    JoinLinkId? Link,
    (string Name, JoinTarget? Target)? NewLink
)
{
    /// <summary>The days on which its sessions are left out.</summary>
    public ImmutableArray<DaySpan> Except { get; init; } = [];

    /// <summary>For others, only its times.</summary>
    public bool IsPrivate { get; init; }

    /// <summary>It is not certain yet that it takes place.</summary>
    public bool IsTentative { get; init; }

    /// <summary>The only ones it is for; null for all.</summary>
    public Audience? OnlyFor { get; init; }
}

/// <summary>
/// Makes a draft of a form (<see cref="SeriesInput"/>) or of a line (<see cref="QuickReading"/>). Texts end here; what must be so of
/// the values is asked of both in the same place.
/// </summary>
internal static partial class SeriesReader
{
    /// <summary>The draft of a line that has no gaps, where the entry stays without problems; else null.</summary>
    /// <param name="entry">Takes what is wrong.</param>
    /// <param name="reading">What was read of the line.</param>
    /// <param name="usual">What is taken for what the line does not say.</param>
    /// <param name="school">The school's time.</param>
    /// <param name="zone">The calendar's zone.</param>
    public static SeriesDraft? Of(
        FormReader entry,
        QuickReading reading,
        UsualSpan usual,
        SchoolTime school,
        DateTimeZone zone
    )
    {
        var title = entry.Line("Title", reading.Title, "The title", SeriesInput.LongestTitle, needed: true);
        var place = entry.Line("Place", reading.Place, "The place", 200, needed: false);
        var label = entry.Line(
            "NumberLabel",
            reading.CountedAs(title),
            "What sessions are counted as",
            60,
            needed: false
        );
        JoinTarget? target = null;
        if (reading.Link.Length > 0)
        {
            (target, var reason) = JoinTarget.Read(reading.Link);
            if (target is null)
                entry.Wrong("LinkTarget", reason!);
        }

        if (reading.Repeat is not { } repeat || reading.Time is not { } time)
            return null;
        var from = repeat is Repeat.OnDates listed ? listed.Dates[0] : reading.From ?? usual.From;
        Extent extent = repeat is Repeat.OnDates ? new Extent.Open() : reading.Extent ?? usual.Extent;
        CheckRepeat(entry, repeat);
        CheckTime(entry, time);
        CheckExtent(entry, extent, from, school);
        if (!entry.IsGood)
            return null;
        return new SeriesDraft(
            title,
            "",
            place,
            new MeetingPattern(repeat, time, zone, from, extent),
            label,
            null,
            target is null ? null : (title, target)
        )
        {
            Except = reading.Except,
        };
    }

    private static void CheckRepeat(FormReader entry, Repeat repeat)
    {
        if (repeat is not Repeat.OnDates { Dates: var dates })
            return;
        if (dates.Length > MeetingPattern.MostHeldSessions)
            entry.Wrong("Dates", $"These are {dates.Length} dates; there may be {MeetingPattern.MostHeldSessions}.");
        else if (Period.DaysBetween(dates[0], dates[^1]) > MeetingPattern.LongestDays)
            entry.Wrong("Dates", "A series reaches ten years at most.");
    }

    private static void CheckTime(FormReader entry, SessionTime time)
    {
        if (time is SessionTime.Clock { Nights: 0, Start: var start, End: var end } && start >= end)
            entry.Wrong(
                "End",
                $"It ends at {Wording.Of(end)}, which is not after its start at {Wording.Of(start)}. Give an end later on the same day, or say how many days later it ends."
            );
    }

    private static void CheckExtent(FormReader entry, Extent extent, LocalDate? from, SchoolTime school)
    {
        switch (extent)
        {
            case Extent.Until { Day: var until } when until < from:
                entry.Wrong(
                    "Until",
                    $"It ends on {Wording.WithYear(until)}, before it starts on {Wording.WithYear(from.Value)}. Give a later last day."
                );
                break;
            case Extent.Until { Day: var until }
                when from is { } first && Period.DaysBetween(first, until) > MeetingPattern.LongestDays:
                entry.Wrong("Until", "A series reaches ten years at most. Give an earlier last day.");
                break;
            case Extent.Held { Sessions: < 1 or > MeetingPattern.MostHeldSessions }:
                entry.Wrong(
                    "Held",
                    $"The number of sessions must be a whole number from 1 to {MeetingPattern.MostHeldSessions}."
                );
                break;
            case Extent.WithTerm { Term: var id } when school.Find(id) is { } term && from > term.Last:
                entry.Wrong(
                    "From",
                    $"It starts on {Wording.WithYear(from.Value)}, after the {term.Name} has ended on {Wording.WithYear(term.Last)}. Start earlier, or choose another end."
                );
                break;
        }
    }

    /// <summary>
    /// The draft, where the entry stays without problems; else null. Days without a year lie near its first day, the school's terms, or
    /// else today.
    /// </summary>
    public static SeriesDraft? Read(
        FormReader entry,
        SeriesInput input,
        SchoolTime school,
        DateTimeZone zone,
        IReadOnlyList<JoinLink> links,
        LocalDate today,
        Series? stored,
        Func<AudienceInput, Audience?> readOnlyFor
    )
    {
        var title = entry.Line("Title", input.Title, "The title", SeriesInput.LongestTitle, needed: true);
        var description = entry.Lines("Description", input.Description, "The description", 5000);
        var place = entry.Line("Place", input.Place, "The place", 200, needed: false);
        var pattern = ReadPattern(entry, input, school, zone, today, stored);
        var label = entry.Line("NumberLabel", input.NumberLabel, "What sessions are counted as", 60, needed: false);
        var link = ReadLink(entry, input, links, title);
        var only = readOnlyFor(new AudienceInput(input.Only, input.OnlyOthers));
        var except = ReadSpans(entry, "Except", input.Except, school, pattern?.From ?? today);
        return entry.IsGood
            ? new SeriesDraft(title, description, place, pattern!, label, link.Existing, link.New)
            {
                Except = except,
                IsPrivate = input.IsPrivate,
                IsTentative = input.IsTentative,
                OnlyFor = only,
            }
            : null;
    }

    private static MeetingPattern? ReadPattern(
        FormReader entry,
        SeriesInput input,
        SchoolTime school,
        DateTimeZone zone,
        LocalDate today,
        Series? stored
    )
    {
        var ownZone = string.IsNullOrWhiteSpace(input.Zone) ? zone : ZoneText.Find(input.Zone);
        if (ownZone is null)
            entry.Wrong(
                "Zone",
                $"{Wording.Quote(input.Zone!)} is no zone of the IANA database. Choose one from the list, like America/Halifax."
            );
        var time = ReadTime(entry, input, school, stored?.Pattern.Time);
        var isListed = input.Meets == "dates";
        var from = isListed ? null : entry.Day("From", input.From, "The first day");
        var repeat = ReadRepeat(entry, input, school, from, today);
        if (repeat is Repeat.OnDates listed)
            from = listed.Dates[0];
        var extent = isListed ? new Extent.Open() : ReadExtent(entry, input, school, from);
        var extra = ReadExtra(entry, input, school, time, from ?? today, stored?.Pattern.Extra ?? []);
        var policy = NoClassPolicy.LeaveOut;
        if (
            !string.IsNullOrEmpty(input.NoClass)
            && (!Enum.TryParse(input.NoClass, ignoreCase: true, out policy) || !Enum.IsDefined(policy))
        )
            entry.Wrong("NoClass", "Choose what becomes of sessions on no-class days.");
        return ownZone is null || repeat is null || time is null || from is null || extent is null || extra is null
            ? null
            : new MeetingPattern(repeat, time, ownZone, from.Value, extent)
            {
                NoClass = policy,
                Extra = extra.Value,
                Without = isListed ? [] : stored?.Pattern.Without ?? [],
            };
    }

    private static Repeat? ReadRepeat(
        FormReader entry,
        SeriesInput input,
        SchoolTime school,
        LocalDate? from,
        LocalDate today
    )
    {
        switch (input.Meets)
        {
            case "cycle":
                if (school.Cycle is null)
                {
                    entry.Wrong(
                        "CycleDays",
                        "The school has no day cycle. Choose weekdays, or have the cycle set under School time."
                    );
                    return null;
                }

                var names = school
                    .Cycle.Names.Where(name => input.CycleDays?.Contains(name) == true)
                    .ToImmutableArray();
                if (names.IsEmpty)
                    entry.Wrong(
                        "CycleDays",
                        "No cycle day is chosen. Choose the days of the cycle the class meets on."
                    );
                return names.IsEmpty ? null : new Repeat.OnCycleDays(names);
            case "dates":
                return ReadDates(entry, input, school, from, today);
            case "monthly":
                if (input.Monthly.ToRule() is { } monthly)
                    return new Repeat.ByRule(monthly);
                entry.Wrong(
                    "Monthly",
                    "Choose which day of the month, as a number from 1 to 31, and every how many months."
                );
                return null;
            case "rule":
                var (rule, reason) = RuleText.Parse(input.Rule?.Trim() ?? "");
                if (rule is null)
                    entry.Wrong(
                        "Rule",
                        string.IsNullOrWhiteSpace(input.Rule)
                            ? "The rule is missing. Write one like FREQ=MONTHLY;BYDAY=1MO."
                            : reason!
                    );
                else if (
                    rule.Frequency < Frequency.Daily
                    || !rule.Hours.IsEmpty
                    || !rule.Minutes.IsEmpty
                    || !rule.Seconds.IsEmpty
                )
                    entry.Wrong(
                        "Rule",
                        "The rule names times of day. It may name days only: the time stands beside it."
                    );
                else if (rule.Count is not null || rule.Until is not null)
                    entry.Wrong(
                        "Rule",
                        "The rule names its own end. Take COUNT or UNTIL out of it and choose the end beside it."
                    );
                else
                    return new Repeat.ByRule(rule);
                return null;
            default:
                var days = (input.Days ?? [])
                    .Select(day =>
                        int.TryParse(day, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0
                    )
                    .Where(day => day is >= 1 and <= 7)
                    .Select(day => (IsoDayOfWeek)day)
                    .ToList();
                if (days.Count == 0)
                    entry.Wrong("Days", "No weekday is chosen. Choose the days the class meets on.");
                var everyWeeks = entry.Number("EveryWeeks", input.EveryWeeks, "The number of weeks", 1, 52);
                return days.Count == 0 || everyWeeks is null
                    ? null
                    : Repeat.Weekly(
                        days,
                        everyWeeks.Value,
                        Enum.GetValues<IsoDayOfWeek>()
                            .FirstOrDefault(
                                day => day != IsoDayOfWeek.None && day.ToString() == input.WeekStart,
                                school.FirstDayOfWeek
                            )
                    );
        }
    }

    private static Repeat.OnDates? ReadDates(
        FormReader entry,
        SeriesInput input,
        SchoolTime school,
        LocalDate? from,
        LocalDate today
    )
    {
        var near = from ?? school.Terms.Select(term => (LocalDate?)term.First).LastOrDefault() ?? today;
        var dates = new SortedSet<LocalDate>();
        foreach (var span in ReadSpans(entry, "Dates", input.Dates, school, near))
            dates.UnionWith(span.Days.Take(MeetingPattern.MostHeldSessions + 1));

        if (dates.Count == 0 && !entry.Has("Dates"))
            entry.Wrong("Dates", "No date is listed. Write one, or several, a line each.");
        if (dates.Count == 0)
            return null;
        var listed = new Repeat.OnDates([.. dates]);
        CheckRepeat(entry, listed);
        return entry.Has("Dates") ? null : listed;
    }

    private static readonly ImmutableArray<LocalTimePattern> ClockTimes =
    [
        LocalTimePattern.CreateWithInvariantCulture("H:mm"),
        LocalTimePattern.CreateWithInvariantCulture("h:mm tt"),
        LocalTimePattern.CreateWithInvariantCulture("h tt"),
    ];

    // "14 Nov 22:00 to 02:00 the next day", "14 Nov all day for 3 days": as the form writes them. Null for all else.
    private static (LocalDate Day, SessionTime Time)? OverDays(string line, SchoolTime school, LocalDate near)
    {
        if (
            ManyDays().Match(line) is not { Success: true } match
            || QuickEntry.Days(match.Groups["day"].Value, school, near) is not ([{ Length: 1, First: var day }], null)
        )
            return null;
        int Count(string group, int otherwise) =>
            match.Groups[group] is { Success: true, Value: var text }
                ? int.Parse(text, CultureInfo.InvariantCulture)
                : otherwise;
        if (match.Groups["whole"].Success)
            return Count("whole", 1) is >= 1 and <= SessionTime.MostDays and var days
                ? (day, new SessionTime.AllDay(days))
                : null;
        // By whichever clock the school writes times.
        LocalTime? At(string group) =>
            ClockTimes
                .Select(form => form.Parse(match.Groups[group].Value.Trim().ToUpperInvariant()))
                .Where(read => read.Success)
                .Select(read => (LocalTime?)read.Value)
                .FirstOrDefault();
        return
            At("start") is { } start
            && At("end") is { } end
            && Count("later", 1) is >= 1 and < SessionTime.MostDays and var nights
            ? (day, new SessionTime.Clock(start, end, nights))
            : null;
    }

    [GeneratedRegex(
        // "14 Oct, all day for 3 days"
        @"^(?<day>.+?),? (all day for (?<whole>\d{1,3}) days"
            // "14 Oct 18:00 to 9:00 the next day"
            + @"|(?<start>\d{1,2}(:\d\d)?( [ap]m)?)( to |-|–)(?<end>\d{1,2}(:\d\d)?( [ap]m)?)"
            + @" (the next day|(?<later>\d{1,3}) days later))$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex ManyDays();

    private static ImmutableArray<ExtraSession>? ReadExtra(
        FormReader entry,
        SeriesInput input,
        SchoolTime school,
        SessionTime? time,
        LocalDate from,
        ImmutableArray<ExtraSession> stored
    )
    {
        var extra = new List<(LocalDate Day, SessionTime Time)>();
        foreach (
            var line in entry
                .Bounded("Extra", input.Extra, "The list of extra sessions", LongestList)
                .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                .Take(101)
        )
        {
            if (OverDays(line, school, from) is { } over)
            {
                extra.Add(over);
                continue;
            }

            var reading = QuickEntry.Read(line, school, from);
            var hasTime = reading.Parts.Any(part => part.Field == QuickField.Time);
            if (reading.Problems is [var doubt, ..])
                entry.Wrong("Extra", $"{Wording.Quote(line)}: {doubt}");
            else if (
                reading.Repeat is not Repeat.OnDates { Dates: [var day] }
                || (hasTime && reading.Time is null)
                || reading.Title.Length > 0
            )
                entry.Wrong(
                    "Extra",
                    $"{Wording.Quote(line)} is no day with a time. Write it like Sat 14 Nov 9:00-9:50."
                );
            else if ((reading.Time ?? time) is { } meets)
                extra.Add((day, meets));
        }

        if (extra.Count > MeetingPattern.MostExtra)
            entry.Wrong("Extra", $"There may be {MeetingPattern.MostExtra} extra sessions.");
        if (extra.GroupBy(one => one).FirstOrDefault(one => one.Count() > 1) is { } twice)
            entry.Wrong(
                "Extra",
                $"{Wording.WithWeekday(twice.Key.Day)} at {SayBack.Of(twice.Key.Time)} stands twice. Keep one."
            );
        return entry.Has("Extra") ? null : ExtraSession.Named(extra, stored, school.Bells);
    }

    private const int LongestList = 20_000;

    // Listed days, a line each: "14 Sep", "5, 12 and 19 Nov", "26-30 Oct".
    private static ImmutableArray<DaySpan> ReadSpans(
        FormReader entry,
        string field,
        string? text,
        SchoolTime school,
        LocalDate near
    )
    {
        var spans = ImmutableArray.CreateBuilder<DaySpan>();
        foreach (
            var line in entry
                .Bounded(field, text, "The list of days", LongestList)
                .Split(['\n', ';'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
        )
        {
            var (days, problem) = QuickEntry.Days(line, school, near);
            if (problem is not null)
                entry.Wrong(
                    field,
                    $"{Wording.Quote(line)}: {problem.TrimEnd('.')}. Write it like 14 Sep 2026, or 26-30 Oct."
                );
            if (entry.Problems.Count(one => one.Field == field) > FormReader.MostOfOne)
                break;
            spans.AddRange(days);
        }

        return spans.ToImmutable();
    }

    private static SessionTime? ReadTime(FormReader entry, SeriesInput input, SchoolTime school, SessionTime? stored)
    {
        // A form without a field for an end on a later day keeps it while its times are left as they are.
        var later = string.IsNullOrWhiteSpace(input.Later)
            ? 0
            : entry.Number("Later", input.Later.Trim(), "The number of days", 0, SessionTime.MostDays - 1) ?? 0;
        if (input.Period == SeriesInput.AllDay)
            return input.Later is null
                ? stored as SessionTime.AllDay ?? new SessionTime.AllDay()
                : new SessionTime.AllDay(later + 1);
        if (!string.IsNullOrEmpty(input.Period))
        {
            if (school.Bells.Find(input.Period) is { } period)
                return new SessionTime.InPeriod(period.Name);
            entry.Wrong("Period", "The bells have no such period. Choose one from the list, or another time.");
            return null;
        }

        var start = entry.Time("Start", input.Start, "The start");
        var end = entry.Time("End", input.End, "The end");
        if (start is null || end is null)
            return null;
        var clock = new SessionTime.Clock(start.Value, end.Value, later);
        if (
            input.Later is null
            && stored is SessionTime.Clock { Nights: > 0 } kept
            && kept with { Nights = 0 } == clock
        )
            return kept;
        CheckTime(entry, clock);
        return entry.Has("End") ? null : clock;
    }

    private static Extent? ReadExtent(FormReader entry, SeriesInput input, SchoolTime school, LocalDate? from)
    {
        switch (input.Extent)
        {
            case "until":
                return entry.Day("Until", input.Until, "The last day") is { } until
                    ? Checked(new Extent.Until(until))
                    : null;
            case "held":
                return
                    entry.Number("Held", input.Held, "The number of sessions", 1, MeetingPattern.MostHeldSessions)
                        is { } held
                    ? new Extent.Held(held)
                    : null;
            case "term":
                if (
                    !long.TryParse(input.Term, NumberStyles.None, CultureInfo.InvariantCulture, out var id)
                    || school.Find(new TermId(id)) is not { } term
                )
                {
                    entry.Wrong("Term", "Choose the term it runs with.");
                    return null;
                }

                return Checked(new Extent.WithTerm(term.Id));
            case "open":
                return new Extent.Open();
            default:
                entry.Wrong("Extent", "Choose how far the series reaches.");
                return null;
        }

        Extent Checked(Extent extent)
        {
            CheckExtent(entry, extent, from, school);
            return extent;
        }
    }

    /// <summary>
    /// The links that a series of a calendar may use: those of calendars whose links the viewer keeps, those of its own calendar
    /// whose door the viewer works, and the one it has. A session opens its link's door, so whose link it is decides.
    /// </summary>
    public static IReadOnlyList<JoinLink> LinksFor(Stores stores, Viewer viewer, CalendarId calendar, Series? stored)
    {
        if (viewer.Person is not { } keeper)
            return [];
        var ids = stores.JoinLinks.Worked(keeper, [.. stores.Calendars.WorkedBy(viewer), calendar]).ToHashSet();
        if (stored?.JoinLink is { } has)
            ids.Add(has);
        var links = stores.JoinLinks.Of(ids);
        var grants = stores.Calendars.GrantsOf([.. links.Select(link => link.Calendar).Distinct()]);
        bool Works(JoinLink link) =>
            AccessRules.May(
                Permission.WorkDoor,
                AccessRules.LevelOf(viewer, grants[link.Calendar]),
                own: link.Hosts.Contains(keeper)
            );
        bool Keeps(CalendarId id) => AccessRules.May(Permission.KeepJoinLinks, AccessRules.LevelOf(viewer, grants[id]));
        return
        [
            .. links
                .Where(link =>
                    link.Id == stored?.JoinLink
                    || (!link.LeadsNowhere && (link.Calendar == calendar ? Works(link) : Keeps(link.Calendar)))
                )
                .OrderBy(link => link.Calendar != calendar),
        ];
    }

    private static (JoinLinkId? Existing, (string, JoinTarget?)? New) ReadLink(
        FormReader entry,
        SeriesInput input,
        IReadOnlyList<JoinLink> links,
        string title
    )
    {
        if (string.IsNullOrEmpty(input.Link))
            return (null, null);
        if (input.Link is "new" or "room")
        {
            var called = entry.Line("LinkName", input.LinkName, "The link's name", 80, needed: false);
            if (input.Link == "room")
                return (null, (called.Length > 0 ? called : title, null));
            var (target, reason) = JoinTarget.Read(input.LinkTarget ?? "");
            if (target is null)
                entry.Wrong(
                    "LinkTarget",
                    string.IsNullOrWhiteSpace(input.LinkTarget)
                        ? "The address of the online room is missing. Paste it, or choose no join link."
                        : reason!
                );
            return (null, target is null ? null : (called.Length > 0 ? called : title, target));
        }

        // Only links that the viewer may use are among these: another class's link is as good as none.
        var chosen = links.FirstOrDefault(link => link.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Link);
        if (chosen is null)
            entry.Wrong("Link", "That join link is not yours to use. Choose one from the list.");
        return (chosen?.Id, null);
    }
}
