using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Reading;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;
using Series = JollyAlmanac.Core.Series.Series;

namespace JollyAlmanac.Application.Composing;

/// <summary>What the composer's form says of a series, as typed.</summary>
/// <param name="Title">What people read everywhere.</param>
/// <param name="Description">Plain text.</param>
/// <param name="Place">A room or place.</param>
/// <param name="Days">Weekdays by their ISO number: "1" is Monday.</param>
/// <param name="EveryWeeks">"1" is every week.</param>
/// <param name="Period">A period's name, "all day", or empty for clock times.</param>
/// <param name="Start">The start, "9:50"; read only without a period.</param>
/// <param name="End">The end.</param>
/// <param name="From">The first day, ISO.</param>
/// <param name="Extent">"term", "until", "held" or "open".</param>
/// <param name="Term">The id of the term.</param>
/// <param name="Until">The last day, ISO.</param>
/// <param name="Held">How many sessions are held.</param>
/// <param name="Link">The id of a join link, "new" (to be pasted), "room" (the provider makes one), or empty for none.</param>
/// <param name="LinkName">For a new link: its name.</param>
/// <param name="LinkTarget">For a new link: the address behind it.</param>
/// <param name="Meets">"weekly", "cycle", "dates" or "rule".</param>
/// <param name="CycleDays">Names of cycle days.</param>
/// <param name="Dates">Listed dates, a line or a comma apart.</param>
/// <param name="Rule">A recurrence rule of RFC 5545, without COUNT and UNTIL.</param>
/// <param name="NoClass">A <see cref="NoClassPolicy"/> by its name.</param>
/// <param name="Zone">An IANA zone; empty for the calendar's.</param>
/// <param name="Extra">Extra sessions, one a line: "Sat 14 Nov 9:00-9:50".</param>
/// <param name="NumberLabel">What sessions are counted as.</param>
/// <param name="Version">The version the form was made from; 0 for a new series.</param>
/// <param name="Except">Days on which its sessions are left out, a line or a comma apart; each becomes a change of its session.</param>
/// <param name="WeekStart">Where a week begins for "every other week", by its English name; empty for the school's.</param>
public sealed record SeriesInput(
    string? Title = "", string? Description = "", string? Place = "", IReadOnlyList<string>? Days = null, string? EveryWeeks = "1",
    string? Period = "", string? Start = "", string? End = "", string? From = "", string? Extent = "term", string? Term = "",
    string? Until = "", string? Held = "", string? Link = "", string? LinkName = "", string? LinkTarget = "", string? Meets = "weekly", IReadOnlyList<string>? CycleDays = null,
    string? Dates = "", string? Rule = "", string? NoClass = "", string? Zone = "", string? Extra = "", string? NumberLabel = "", int Version = 0, string? WeekStart = "", string? Except = "")
{
    /// <summary>The choice of <see cref="Period"/> for an entry without a time.</summary>
    public const string AllDay = "all day";

    /// <summary>The most characters in a title.</summary>
    public const int LongestTitle = 200;

    /// <summary>The form of a stored series.</summary>
    public static SeriesInput Of(Series series)
    {
        var pattern = series.Pattern;
        var clock = pattern.Time as SessionTime.Clock;
        var weekly = pattern.Repeat.WeeklyDays;
        return new SeriesInput(
            series.Title,
            series.Description,
            series.Place,
            [.. weekly.Select(day => ((int)day).ToString(CultureInfo.InvariantCulture))],
            weekly.IsEmpty ? "1" : ((Repeat.ByRule)pattern.Repeat).Rule.Interval.ToString(CultureInfo.InvariantCulture),
            pattern.Time switch { SessionTime.InPeriod named => named.Period, SessionTime.AllDay => AllDay, _ => "" },
            clock is null ? "" : clock.Start.ToString("HH:mm", CultureInfo.InvariantCulture),
            clock is null ? "" : clock.End.ToString("HH:mm", CultureInfo.InvariantCulture),
            LocalDatePattern.Iso.Format(pattern.From),
            pattern.Extent switch { Core.Series.Extent.WithTerm => "term", Core.Series.Extent.Until => "until", Core.Series.Extent.Held => "held", _ => "open" },
            (pattern.Extent as Core.Series.Extent.WithTerm)?.Term.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            pattern.Extent is Core.Series.Extent.Until until ? LocalDatePattern.Iso.Format(until.Day) : "",
            (pattern.Extent as Core.Series.Extent.Held)?.Sessions.ToString(CultureInfo.InvariantCulture) ?? "",
            series.JoinLink?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            Meets: pattern.Repeat switch { Repeat.OnCycleDays => "cycle", Repeat.OnDates => "dates", _ => weekly.IsEmpty ? "rule" : "weekly" },
            CycleDays: pattern.Repeat is Repeat.OnCycleDays cycle ? cycle.Names : [],
            Dates: pattern.Repeat is Repeat.OnDates dates ? string.Join('\n', dates.Dates.Select(LocalDatePattern.Iso.Format)) : "",
            Rule: weekly.IsEmpty && pattern.Repeat is Repeat.ByRule rule ? rule.Rule.ToString() : "",
            NoClass: pattern.NoClass.ToString(),
            Zone: pattern.Zone.Id,
            Extra: string.Join('\n', pattern.Extra.Select(extra => $"{LocalDatePattern.Iso.Format(extra.Day)} {SayBack.Of(extra.Time)}")),
            NumberLabel: series.NumberLabel,
            Version: series.Version,
            WeekStart: pattern.Repeat is Repeat.ByRule { Rule: { Interval: > 1, WeekStart: var weekStart } } ? weekStart.ToString() : "");
    }

    /// <summary>The form as a quick entry fills it; what the line does not say stays as it was.</summary>
    public SeriesInput With(QuickReading reading)
    {
        var form = this;
        if (reading.Title.Length > 0) form = form with { Title = reading.Title };
        if (reading.Place.Length > 0) form = form with { Place = reading.Place };
        if (reading.Link.Length > 0) form = form with { Link = "new", LinkTarget = reading.Link };
        if (!reading.Except.IsEmpty) form = form with { Except = string.Join('\n', reading.Except.Select(span => span.Length == 1 ? Day(span.First) : $"{Day(span.First)} to {Day(span.Last)}")) };
        if (reading.From is { } from) form = form with { From = LocalDatePattern.Iso.Format(from) };
        form = reading.Repeat switch
        {
            Repeat.OnCycleDays cycle => form with { Meets = "cycle", CycleDays = cycle.Names },
            Repeat.OnDates dates => form with { Meets = "dates", Dates = string.Join('\n', dates.Dates.Select(LocalDatePattern.Iso.Format)) },
            Repeat.ByRule { WeeklyDays: { IsEmpty: false } days, Rule.Interval: var weeks } =>
                form with { Meets = "weekly", Days = [.. days.Select(day => ((int)day).ToString(CultureInfo.InvariantCulture))], EveryWeeks = weeks.ToString(CultureInfo.InvariantCulture) },
            Repeat.ByRule rule => form with { Meets = "rule", Rule = rule.Rule.ToString() },
            _ => form,
        };
        form = reading.Time switch
        {
            SessionTime.Clock clock => form with { Period = "", Start = clock.Start.ToString("HH:mm", CultureInfo.InvariantCulture), End = clock.End.ToString("HH:mm", CultureInfo.InvariantCulture) },
            SessionTime.InPeriod named => form with { Period = named.Period },
            SessionTime.AllDay => form with { Period = AllDay },
            _ when reading.Start is { } start => form with { Period = "", Start = start.ToString("HH:mm", CultureInfo.InvariantCulture) },
            _ => form,
        };
        form = reading.Extent switch
        {
            Core.Series.Extent.Until until => form with { Extent = "until", Until = LocalDatePattern.Iso.Format(until.Day) },
            Core.Series.Extent.Held held => form with { Extent = "held", Held = held.Sessions.ToString(CultureInfo.InvariantCulture) },
            Core.Series.Extent.WithTerm with => form with { Extent = "term", Term = with.Term.Value.ToString(CultureInfo.InvariantCulture) },
            _ => form,
        };
        static string Day(LocalDate day) => LocalDatePattern.Iso.Format(day);

        // "numbered" alone counts sessions by the title, which the form may have.
        return reading.Parts.Any(part => part.Field == QuickField.Numbering) ? form with { NumberLabel = reading.NumberLabel.Length > 0 ? reading.NumberLabel : form.Title } : form;
    }
}

/// <summary>What was read of a form: a series without its id, and a link to be made with it.</summary>
internal sealed record SeriesDraft(string Title, string Description, string Place, MeetingPattern Pattern, string NumberLabel, JoinLinkId? Link, (string Name, JoinTarget? Target)? NewLink)
{
    /// <summary>The days on which its sessions are left out.</summary>
    public ImmutableArray<DaySpan> Except { get; init; } = [];
}

/// <summary>Reads a <see cref="SeriesInput"/>.</summary>
internal static class SeriesReader
{
    /// <summary>The draft, where the entry stays without problems; else null. Days without a year lie near its first day, the school's terms, or else today.</summary>
    public static SeriesDraft? Read(Entry entry, SeriesInput input, SchoolTime school, DateTimeZone zone, IReadOnlyList<JoinLink> links, LocalDate today, Series? stored = null)
    {
        var title = entry.Line("Title", input.Title, "The title", SeriesInput.LongestTitle, needed: true);
        var description = entry.Lines("Description", input.Description, "The description", 5000);
        var place = entry.Line("Place", input.Place, "The place", 200, needed: false);
        var pattern = ReadPattern(entry, input, school, zone, today, stored);
        var label = entry.Line("NumberLabel", input.NumberLabel, "What sessions are counted as", 60, needed: false);
        var link = ReadLink(entry, input, links, title);
        var except = ReadSpans(entry, "Except", input.Except, school, pattern?.From ?? today);
        return entry.IsGood ? new SeriesDraft(title, description, place, pattern!, label, link.Existing, link.New) { Except = except } : null;
    }

    private static MeetingPattern? ReadPattern(Entry entry, SeriesInput input, SchoolTime school, DateTimeZone zone, LocalDate today, Series? stored)
    {
        var ownZone = string.IsNullOrWhiteSpace(input.Zone) ? zone : ZoneText.Find(input.Zone);
        if (ownZone is null) entry.Wrong("Zone", $"{Entry.Quote(input.Zone!)} is no zone of the IANA database. Choose one from the list, like America/Halifax.");
        var time = ReadTime(entry, input, school);
        var isListed = input.Meets == "dates";
        var from = isListed ? null : entry.Day("From", input.From, "The first day");
        var repeat = ReadRepeat(entry, input, school, from, today);
        if (repeat is Repeat.OnDates listed) from = listed.Dates[0];
        var extent = isListed ? new Extent.Open() : ReadExtent(entry, input, school, from);
        var extra = ReadExtra(entry, input, school, time, from ?? today, stored?.Pattern.Extra ?? []);
        var policy = NoClassPolicy.LeaveOut;
        if (!string.IsNullOrEmpty(input.NoClass) && (!Enum.TryParse(input.NoClass, ignoreCase: true, out policy) || !Enum.IsDefined(policy))) entry.Wrong("NoClass", "Choose what becomes of sessions on no-class days.");
        return ownZone is null || repeat is null || time is null || from is null || extent is null || extra is null
            ? null
            : new MeetingPattern(repeat, time, ownZone, from.Value, extent) { NoClass = policy, Extra = extra.Value };
    }

    private static Repeat? ReadRepeat(Entry entry, SeriesInput input, SchoolTime school, LocalDate? from, LocalDate today)
    {
        switch (input.Meets)
        {
            case "cycle":
                if (school.Cycle is null)
                {
                    entry.Wrong("CycleDays", "The school has no day cycle. Choose weekdays, or have the cycle set under School time.");
                    return null;
                }

                var names = school.Cycle.Names.Where(name => input.CycleDays?.Contains(name) == true).ToImmutableArray();
                if (names.IsEmpty) entry.Wrong("CycleDays", "No cycle day is chosen. Choose the days of the cycle the class meets on.");
                return names.IsEmpty ? null : new Repeat.OnCycleDays(names);
            case "dates":
                return ReadDates(entry, input, school, from, today);
            case "rule":
                var (rule, reason) = RuleText.Parse(input.Rule?.Trim() ?? "");
                if (rule is null) entry.Wrong("Rule", string.IsNullOrWhiteSpace(input.Rule) ? "The rule is missing. Write one like FREQ=MONTHLY;BYDAY=1MO." : reason!);
                else if (rule.Frequency < Frequency.Daily || !rule.Hours.IsEmpty || !rule.Minutes.IsEmpty || !rule.Seconds.IsEmpty) entry.Wrong("Rule", "The rule names times of day. It may name days only: the time stands beside it.");
                else if (rule.Count is not null || rule.Until is not null) entry.Wrong("Rule", "The rule names its own end. Take COUNT or UNTIL out of it and choose the end beside it.");
                else return new Repeat.ByRule(rule);
                return null;
            default:
                var days = (input.Days ?? []).Select(day => int.TryParse(day, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0)
                    .Where(day => day is >= 1 and <= 7).Select(day => (IsoDayOfWeek)day).ToList();
                if (days.Count == 0) entry.Wrong("Days", "No weekday is chosen. Choose the days the class meets on.");
                var everyWeeks = entry.Number("EveryWeeks", input.EveryWeeks, "The number of weeks", 1, 52);
                return days.Count == 0 || everyWeeks is null ? null : Repeat.Weekly(days, everyWeeks.Value, Enum.GetValues<IsoDayOfWeek>().FirstOrDefault(day => day != IsoDayOfWeek.None && day.ToString() == input.WeekStart, school.FirstDayOfWeek));
        }
    }

    private static Repeat.OnDates? ReadDates(Entry entry, SeriesInput input, SchoolTime school, LocalDate? from, LocalDate today)
    {
        var near = from ?? school.Terms.Select(term => (LocalDate?)term.First).LastOrDefault() ?? today;
        var dates = new SortedSet<LocalDate>();
        foreach (var span in ReadSpans(entry, "Dates", input.Dates, school, near)) dates.UnionWith(span.Days.Take(MeetingPattern.MostHeldSessions + 1));

        if (dates.Count == 0 && !entry.Has("Dates")) entry.Wrong("Dates", "No date is listed. Write one, or several, a line each.");
        if (dates.Count > MeetingPattern.MostHeldSessions) entry.Wrong("Dates", $"These are {dates.Count} dates; there may be {MeetingPattern.MostHeldSessions}.");
        else if (dates.Count > 0 && Period.DaysBetween(dates.Min, dates.Max) > MeetingPattern.LongestDays) entry.Wrong("Dates", "A series reaches ten years at most.");
        return dates.Count == 0 || entry.Has("Dates") ? null : new Repeat.OnDates([.. dates]);
    }

    private static ImmutableArray<ExtraSession>? ReadExtra(Entry entry, SeriesInput input, SchoolTime school, SessionTime? time, LocalDate from, ImmutableArray<ExtraSession> stored)
    {
        var extra = new List<(LocalDate Day, SessionTime Time)>();
        foreach (var line in entry.Bounded("Extra", input.Extra, "The list of extra sessions", LongestList).Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Take(101))
        {
            var reading = QuickEntry.Read(line, school, from);
            var hasTime = reading.Parts.Any(part => part.Field == QuickField.Time);
            if (reading.Problems is [var doubt, ..]) entry.Wrong("Extra", $"{Entry.Quote(line)}: {doubt}");
            else if (reading.Repeat is not Repeat.OnDates { Dates: [var day] } || (hasTime && reading.Time is null) || reading.Title.Length > 0) entry.Wrong("Extra", $"{Entry.Quote(line)} is no day with a time. Write it like Sat 14 Nov 9:00-9:50.");
            else if ((reading.Time ?? time) is { } meets) extra.Add((day, meets));
        }

        if (extra.Count > MeetingPattern.MostExtra) entry.Wrong("Extra", $"There may be {MeetingPattern.MostExtra} extra sessions.");
        if (extra.GroupBy(one => one).FirstOrDefault(one => one.Count() > 1) is { } twice) entry.Wrong("Extra", $"{Wording.WithWeekday(twice.Key.Day)} at {SayBack.Of(twice.Key.Time)} stands twice. Keep one.");
        return entry.Has("Extra") ? null : ExtraSession.Named(extra, stored, school.Bells);
    }

    private const int LongestList = 20_000;

    // Listed days, a line each: "14 Sep", "5, 12 and 19 Nov", "26-30 Oct".
    private static ImmutableArray<DaySpan> ReadSpans(Entry entry, string field, string? text, SchoolTime school, LocalDate near)
    {
        var spans = ImmutableArray.CreateBuilder<DaySpan>();
        foreach (var line in entry.Bounded(field, text, "The list of days", LongestList).Split(['\n', ';'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var (days, problem) = QuickEntry.Days(line, school, near);
            if (problem is not null) entry.Wrong(field, $"{Entry.Quote(line)}: {problem.TrimEnd('.')}. Write it like 14 Sep 2026, or 26-30 Oct.");
            if (entry.Problems.Count(one => one.Field == field) > Entry.MostOfOne) break;
            spans.AddRange(days);
        }

        return spans.ToImmutable();
    }

    private static SessionTime? ReadTime(Entry entry, SeriesInput input, SchoolTime school)
    {
        if (input.Period == SeriesInput.AllDay) return new SessionTime.AllDay();
        if (!string.IsNullOrEmpty(input.Period))
        {
            if (school.Bells.Find(input.Period) is { } period) return new SessionTime.InPeriod(period.Name);
            entry.Wrong("Period", "The bells have no such period. Choose one from the list, or another time.");
            return null;
        }

        var start = entry.Time("Start", input.Start, "The start");
        var end = entry.Time("End", input.End, "The end");
        if (start is null || end is null) return null;
        if (start < end) return new SessionTime.Clock(start.Value, end.Value);
        entry.Wrong("End", $"It ends at {Wording.Of(end.Value)}, which is not after its start at {Wording.Of(start.Value)}. Give an end later on the same day.");
        return null;
    }

    private static Extent? ReadExtent(Entry entry, SeriesInput input, SchoolTime school, LocalDate? from)
    {
        switch (input.Extent)
        {
            case "until":
                if (entry.Day("Until", input.Until, "The last day") is not { } until) return null;
                if (until < from) entry.Wrong("Until", $"It ends on {Wording.WithYear(until)}, before it starts on {Wording.WithYear(from.Value)}. Give a later last day.");
                else if (from is { } first && Period.DaysBetween(first, until) > MeetingPattern.LongestDays) entry.Wrong("Until", "A series reaches ten years at most. Give an earlier last day.");
                return new Extent.Until(until);
            case "held":
                return entry.Number("Held", input.Held, "The number of sessions", 1, MeetingPattern.MostHeldSessions) is { } held ? new Extent.Held(held) : null;
            case "term":
                if (!long.TryParse(input.Term, NumberStyles.None, CultureInfo.InvariantCulture, out var id) || school.Find(new TermId(id)) is not { } term)
                {
                    entry.Wrong("Term", "Choose the term it runs with.");
                    return null;
                }

                if (from > term.Last) entry.Wrong("From", $"It starts on {Wording.WithYear(from.Value)}, after the {term.Name} has ended on {Wording.WithYear(term.Last)}. Start earlier, or choose another end.");
                return new Extent.WithTerm(term.Id);
            case "open":
                return new Extent.Open();
            default:
                entry.Wrong("Extent", "Choose how far the series reaches.");
                return null;
        }
    }

    /// <summary>
    /// The links that a series of a calendar may use: those of calendars whose links the viewer keeps, those of its own calendar
    /// whose door the viewer works, and the one it has. A session opens its link's door, so whose link it is decides.
    /// </summary>
    public static IReadOnlyList<JoinLink> LinksFor(Stores stores, Viewer viewer, CalendarId calendar, Series? stored)
    {
        if (viewer.Person is not { } keeper) return [];
        var ids = stores.JoinLinks.Worked(keeper, [.. stores.Calendars.WorkedBy(viewer), calendar]).ToHashSet();
        if (stored?.JoinLink is { } has) ids.Add(has);
        var links = stores.JoinLinks.Of(ids);
        var grants = stores.Calendars.GrantsOf([.. links.Select(link => link.Calendar).Distinct()]);
        bool Works(JoinLink link) => AccessRules.May(Deed.WorkDoor, AccessRules.LevelOf(viewer, grants[link.Calendar]), own: link.Hosts.Contains(keeper));
        bool Keeps(CalendarId id) => AccessRules.May(Deed.KeepJoinLinks, AccessRules.LevelOf(viewer, grants[id]));
        return [.. links.Where(link => link.Id == stored?.JoinLink || (!link.LeadsNowhere && (link.Calendar == calendar ? Works(link) : Keeps(link.Calendar))))
            .OrderBy(link => link.Calendar != calendar)];
    }

    private static (JoinLinkId? Existing, (string, JoinTarget?)? New) ReadLink(Entry entry, SeriesInput input, IReadOnlyList<JoinLink> links, string title)
    {
        if (string.IsNullOrEmpty(input.Link)) return (null, null);
        if (input.Link is "new" or "room")
        {
            var called = entry.Line("LinkName", input.LinkName, "The link's name", 80, needed: false);
            if (input.Link == "room") return (null, (called.Length > 0 ? called : title, null));
            var (target, reason) = JoinTarget.Read(input.LinkTarget ?? "");
            if (target is null) entry.Wrong("LinkTarget", string.IsNullOrWhiteSpace(input.LinkTarget) ? "The address of the online room is missing. Paste it, or choose no join link." : reason!);
            return (null, target is null ? null : (called.Length > 0 ? called : title, target));
        }

        // Only links that the viewer may use are among these: another class's link is as good as none.
        var chosen = links.FirstOrDefault(link => link.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Link);
        if (chosen is null) entry.Wrong("Link", "That join link is not yours to use. Choose one from the list.");
        return (chosen?.Id, null);
    }
}
