using System.Globalization;
using JollyAlmanac.Core.Recurrence;
using NodaTime;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>One session of an iCalendar file.</summary>
/// <param name="Summary">What it is called; may be empty.</param>
/// <param name="Start">When it starts.</param>
/// <param name="End">When it ends, in the start's zone; for a date the day after the last.</param>
/// <param name="Status">CONFIRMED, TENTATIVE or CANCELLED.</param>
public sealed record FileSession(string Summary, FileTime Start, FileTime End, string Status)
{
    /// <summary>What it is known by in its series (RECURRENCE-ID, §3.8.4.4): its start before it was changed.</summary>
    public FileTime Id { get; init; }

    /// <summary>What tells of it: the series itself, or the one change.</summary>
    public required Component Part { get; init; }
}

/// <summary>One event of a file with all its sessions: those components that have one UID.</summary>
/// <param name="Uid">Its UID; empty where it has none.</param>
/// <param name="Parts">Its components, in the file's order.</param>
/// <param name="Master">What tells of the whole series; of changes alone, the first.</param>
/// <param name="Sessions">Its sessions.</param>
/// <param name="Remarks">What was wrong with it, and what was made of it; for people.</param>
/// <param name="IsFull">It has more sessions than were asked for.</param>
public sealed record FileEvent(
    string Uid,
    IReadOnlyList<Component> Parts,
    Component Master,
    IReadOnlyList<FileSession> Sessions,
    IReadOnlyList<string> Remarks,
    bool IsFull
);

/// <summary>All sessions of a file that were asked for.</summary>
/// <param name="Sessions">By their start.</param>
/// <param name="Remarks">What was wrong with the file, and what was made of it; for people.</param>
public sealed record FileSessions(IReadOnlyList<FileSession> Sessions, IReadOnlyList<string> Remarks);

/// <summary>
/// Which sessions an iCalendar file means (RFC 5545 §3.8.5): rules, further dates and periods, exceptions, sessions that were changed, and
/// those from one on (RANGE=THISANDFUTURE).
/// </summary>
public static class ICalendarSessions
{
    /// <summary>The most sessions that are told of one file.</summary>
    public const int Most = 200_000;

    // How long a series without an end is told where nothing says until when.
    private const int EndlessYears = 10;

    /// <summary>The sessions of a file's events that touch the days asked for, in order.</summary>
    /// <param name="file">The file.</param>
    /// <param name="zone">The zone to tell times in; null for the one each is written in. Times by any clock stay what they are.</param>
    /// <param name="from">The first day; null for the first there is.</param>
    /// <param name="to">The day after the last; null for the last there is, ten years of a series without an end.</param>
    public static FileSessions Of(ICalendarFile file, DateTimeZone? zone, LocalDate? from, LocalDate? to)
    {
        var reading = new Reading(zone, from, to);
        foreach (var calendar in file.Calendars)
            reading.Take(calendar);
        return reading.End();
    }

    /// <summary>The events of a file one by one, each with its sessions in the zone it is written in.</summary>
    /// <param name="file">The file.</param>
    /// <param name="until">How far a series without an end is laid out, a year at least.</param>
    /// <param name="most">The most sessions of one event.</param>
    /// <param name="mostEvents">The most events.</param>
    /// <param name="late">Ends it, after the event that is looked at.</param>
    /// <returns>Null where there are more, or it took too long.</returns>
    public static IReadOnlyList<FileEvent>? EventsOf(
        ICalendarFile file,
        LocalDate until,
        int most,
        int mostEvents = int.MaxValue,
        CancellationToken late = default
    )
    {
        var reading = new Reading(null, null, null)
        {
            EndlessUntil = until,
            MostOfOne = most,
            MostEvents = mostEvents,
            Late = late,
        };
        foreach (var calendar in file.Calendars)
            if (!reading.Take(calendar))
                return null;
        return reading.Events;
    }

    private sealed class Reading(DateTimeZone? zone, LocalDate? from, LocalDate? to)
    {
        public List<FileEvent> Events { get; } = [];

        public LocalDate? EndlessUntil { get; init; }

        public int MostOfOne { get; init; } = int.MaxValue;

        public int MostEvents { get; init; } = int.MaxValue;

        public CancellationToken Late { get; init; }

        private readonly List<FileSession> sessions = [];
        private readonly List<string> remarks = [];
        private readonly HashSet<string> told = [];

        private FileZones zones = null!;
        private bool isFull;

        // Sessions of the events before.
        private int laidOut;

        public FileSessions End() =>
            new(
                [
                    .. sessions
                        .OrderBy(session =>
                            session.Start.Zone is null && zone is not null && !session.Start.IsDate
                                ? Core.Terms.WallClock.InstantOf(session.Start.Time, zone)
                                : session.Start.At
                        )
                        .ThenBy(session => session.End.At)
                        .ThenBy(session => session.Summary, StringComparer.Ordinal),
                ],
                remarks
            );

        private void Tell(string remark)
        {
            if (told.Add(remark) && remarks.Count < 100)
                remarks.Add(remark);
        }

        // False where it is too much.
        public bool Take(Component calendar)
        {
            zones = new FileZones(calendar);
            var isCancelled =
                calendar.Find("METHOD")?.Value.Trim().Equals("CANCEL", StringComparison.OrdinalIgnoreCase) == true;
            var alone = 0;
            foreach (
                var group in EventParts(calendar)
                    .Select(part => (part, id: part.Find("UID")?.Value.Trim()))
                    // One without a UID belongs to nobody but itself.
                    .GroupBy(one => string.IsNullOrEmpty(one.id) ? $"\0{alone++}" : one.id, one => one.part)
            )
            {
                List<Component> parts = [.. group];
                if (EndlessUntil is null)
                {
                    Series(parts, isCancelled);
                    continue;
                }

                if (Events.Count >= MostEvents || Late.IsCancellationRequested)
                    return false;
                isFull = false;
                Series(parts, isCancelled);
                Events.Add(
                    new FileEvent(
                        group.Key.StartsWith('\0') ? "" : group.Key,
                        parts,
                        Newest(MastersOf(parts) is { Count: > 0 } masters ? masters : parts),
                        [.. sessions],
                        [.. remarks],
                        isFull
                    )
                );
                laidOut += sessions.Count;
                sessions.Clear();
                remarks.Clear();
                told.Clear();
            }

            return true;
        }

        private static List<Component> MastersOf(List<Component> parts) =>
            [.. parts.Where(part => part.Find("RECURRENCE-ID") is null)];

        // Some files hold events within what is no calendar part; none is lost for that.
        private static IEnumerable<Component> EventParts(Component part) =>
            part.Parts.SelectMany(one => one.Name == "VEVENT" ? [one] : EventParts(one));

        private FileTime? TimeOf(ContentLine line, string value)
        {
            DateTimeZone? own = null;
            if (line.Parameter("TZID") is { } id && (own = zones.Find(id)) is null && !value.EndsWith('Z'))
                Tell(
                    $"Line {line.Number}: nothing says what the zone “{ICalendarReader.Short(id)}” is. Its times are told as those of any clock."
                );
            var time = ICalendarValues.Time(value, own);
            if (time is null)
                Tell($"Line {line.Number}: “{ICalendarReader.Short(value)}” is no date and no time; it is left out.");
            return time;
        }

        private FileTime? TimeOf(Component part, string name) =>
            part.Find(name) is { } line ? TimeOf(line, line.Value) : null;

        // Of several that claim to be the same, the highest SEQUENCE counts, then the latest stamp (RFC 5546 §2.1.5).
        private static Component Newest(IReadOnlyList<Component> parts) =>
            parts is [var only]
                ? only
                : parts
                    .OrderBy(part =>
                        int.TryParse(part.Find("SEQUENCE")?.Value, CultureInfo.InvariantCulture, out var number)
                            ? number
                            : 0
                    )
                    .ThenBy(
                        part => (part.Find("DTSTAMP") ?? part.Find("LAST-MODIFIED"))?.Value ?? "",
                        StringComparer.Ordinal
                    )
                    .Last();

        private void Series(List<Component> parts, bool isCancelled)
        {
            var masters = MastersOf(parts);
            var changed = new List<(FileTime Id, bool AndLater, Component Part)>();
            foreach (var part in parts.Except(masters))
            {
                if (TimeOf(part, "RECURRENCE-ID") is { } id)
                    changed.Add(
                        (
                            id,
                            part.Find("RECURRENCE-ID")!
                                .Parameter("RANGE")
                                ?.Equals("THISANDFUTURE", StringComparison.OrdinalIgnoreCase) == true,
                            part
                        )
                    );
            }

            if (masters.Count == 0)
            {
                foreach (var same in changed.GroupBy(one => KeyOf(one.Id, one.Id), one => one.Part))
                    Single(Newest([.. same]), isCancelled);
                return;
            }

            var master = Newest(masters);
            if (masters.Count > 1)
                Tell(
                    $"Line {master.Number}: {masters.Count} events have one UID; the one with the highest SEQUENCE, then the latest stamp, counts."
                );
            var isRecurring =
                changed.Count > 0 || master.Lines.Any(line => line.Name is "RRULE" or "RDATE" or "EXDATE" or "EXRULE");
            if (isRecurring && TimeOf(master, "DTSTART") is { } start)
                Expand(master, start, changed, isCancelled);
            else
                Single(master, isCancelled);
        }

        private void Single(Component part, bool isCancelled, FileTime? id = null)
        {
            if (TimeOf(part, "DTSTART") is { } start)
                Add(part, start, EndOf(part, start), isCancelled, id);
            else
                Tell($"Line {part.Number}: an event has no start; it is left out.");
        }

        private void Expand(
            Component master,
            FileTime start,
            List<(FileTime Id, bool AndLater, Component Part)> changed,
            bool isCancelled
        )
        {
            var periods = new Dictionary<Instant, FileTime>();
            var extra = new List<RuleMoment> { start.For(start.Zone) };
            foreach (var line in master.Lines.Where(line => line.Name == "RDATE"))
            {
                foreach (var value in ICalendarValues.List(line))
                {
                    var period = value.Split('/');
                    if (TimeOf(line, period[0]) is not { } time)
                        continue;
                    extra.Add(time.For(start.Zone));
                    if (period.Length != 2)
                        continue;
                    if (ICalendarValues.Duration(period[1]) is { } lasts)
                        periods[time.At] = ICalendarValues.Plus(time, lasts);
                    else if (TimeOf(line, period[1]) is { } ends)
                        periods[time.At] = ends;
                }
            }

            List<RuleMoment> except =
            [
                .. master
                    .Lines.Where(line => line.Name == "EXDATE")
                    .SelectMany(line => ICalendarValues.List(line).Select(value => TimeOf(line, value)))
                    .OfType<FileTime>()
                    .Select(time => time.For(start.Zone)),
            ];
            var begins = new RecurrenceStart(start.Time, start.IsDate, start.Zone);
            var end = to is { } last ? last.PlusDays(2).AtMidnight() : (LocalDateTime?)null;
            // A change may bring a session in from before, or from after; they are few.
            var reach = changed.Count == 0 ? LongestOf(master, start) : null;
            LocalDateTime? since =
                from is { } first && reach is { } days ? first.PlusDays(-2 - days).AtMidnight() : null;
            var rules = new List<RecurrenceRule?>();
            foreach (var line in master.Lines.Where(line => line.Name == "RRULE"))
                if (RuleOf(line, start) is { } rule)
                    rules.Add(rule);
            if (rules.Count == 0)
                rules.Add(null);
            var without = master
                .Lines.Where(line => line.Name == "EXRULE")
                .Select(line => RuleOf(line, start))
                .OfType<RecurrenceRule>()
                .Select(rule => new RecurrenceSet(rule, begins))
                .ToList();
            var bound = end
                ?? (
                    EndlessUntil is { } far
                        ? LocalDateTime.Max(far.AtMidnight(), start.Time.PlusYears(1))
                        : start.Time.PlusYears(EndlessYears)
                );
            var left = without.SelectMany(set => set.Between(null, bound).Take(Most)).Select(one => one.At).ToHashSet();

            var found = new SortedDictionary<Instant, LocalDateTime>();
            foreach (var rule in rules)
            {
                var isEndless = rule is { Count: null, Until: null };
                if (isEndless && end is null && EndlessUntil is null)
                    Tell(
                        $"Line {master.Number}: a series never ends; it is told for {EndlessYears} years. --to says until when."
                    );
                foreach (
                    var one in new RecurrenceSet(rule, begins, extra, except).Between(since, isEndless ? bound : end)
                )
                {
                    if (found.Count + sessions.Count + laidOut >= Most || found.Count >= MostOfOne)
                    {
                        isFull = true;
                        break;
                    }

                    if (!left.Contains(one.At))
                        found.TryAdd(one.At, one.Local);
                }
            }

            if (isFull && EndlessUntil is null)
                Tell($"Only the first {Most} sessions are told. --from and --to choose others.");
            Place(master, start, found, periods, changed, isCancelled);
        }

        private void Place(
            Component master,
            FileTime start,
            SortedDictionary<Instant, LocalDateTime> found,
            Dictionary<Instant, FileTime> periods,
            List<(FileTime Id, bool AndLater, Component Part)> changed,
            bool isCancelled
        )
        {
            var end = EndOf(master, start);
            var length = LengthOf(master, start, end);
            // By its instant, in whatever zone that is written; a date stands for whatever is on it.
            var single = changed
                .Where(one => !one.AndLater)
                .GroupBy(one => KeyOf(one.Id, start), one => one.Part)
                .ToDictionary(same => same.Key, same => Newest([.. same]));
            var later = changed.Where(one => one.AndLater).OrderBy(one => one.Id.At).ToList();
            var at = 0;
            (FileTime Id, FileTime Start, Func<FileTime, FileTime> Length, Component Part)? range = null;
            foreach (var (instant, local) in found)
            {
                var own = new FileTime(local, start.IsDate, start.Zone);
                while (
                    at < later.Count
                    && (later[at].Id.IsDate ? later[at].Id.Time.Date <= local.Date : later[at].Id.At <= instant)
                )
                {
                    var (id, _, part) = later[at++];
                    var moved = TimeOf(part, "DTSTART") ?? id;
                    range = (
                        id.IsDate && !own.IsDate ? own : id,
                        moved,
                        LengthOf(part, moved, EndOf(part, moved)),
                        part
                    );
                }

                if (
                    single.Remove((instant, false), out var only)
                    || single.Remove((local.Date.AtMidnight().InUtc().ToInstant(), true), out only)
                )
                {
                    Single(only, isCancelled, own);
                }
                else if (range is { } from)
                {
                    var shift = Period.Between(from.Id.Time, from.Start.Time, PeriodUnits.Days | PeriodUnits.Seconds);
                    var begins = from.Start with
                    {
                        Time =
                            (
                                from.Id.Zone is { } zone && own.Zone is { } mine && !zone.Equals(mine)
                                    ? own.At.InZone(zone).LocalDateTime
                                    : local
                            ) + shift,
                    };
                    Add(from.Part, begins, from.Length(begins), isCancelled, own);
                }
                else
                {
                    Add(master, own, periods.TryGetValue(instant, out var until) ? until : length(own), isCancelled);
                }
            }

            // Changed sessions that the series does not give (any more) are told all the same, as most readers do.
            foreach (var part in single.Values)
                Single(part, isCancelled, TimeOf(part, "RECURRENCE-ID"));
        }

        private static (Instant, bool) KeyOf(FileTime id, FileTime start) =>
            id.IsDate && !start.IsDate ? (id.Time.InUtc().ToInstant(), true)
            : start.IsDate ? (id.Time.Date.AtMidnight().InUtc().ToInstant(), false)
            : id.Zone is null && start.Zone is not null ? ((id with { Zone = start.Zone }).At, false)
            : (id.At, false);

        private RecurrenceRule? RuleOf(ContentLine line, FileTime start)
        {
            var text = string.Concat(line.Value.Where(letter => !char.IsWhiteSpace(letter))).Trim(';');
            var (rule, reason) = RuleText.Parse(text);
            if (rule is not null && !(start.IsDate && rule.Frequency < Frequency.Daily))
                return rule;
            Tell(
                $"Line {line.Number}: {reason ?? "a rule below a day needs a time to start at, not a date."} Only its first session and those that are listed are told."
            );
            return null;
        }

        private FileTime EndOf(Component part, FileTime start)
        {
            if (TimeOf(part, "DTEND") is { } end)
            {
                if (end.IsDate == start.IsDate && end.At < start.At)
                {
                    Tell($"Line {part.Number}: an event ends before it starts; it is told as of no length.");
                    return start.IsDate ? start with { Time = start.Time.PlusDays(1) } : start;
                }

                // In the start's zone; a date to a time's start is that day's beginning.
                if (end.IsDate == start.IsDate)
                    return start.IsDate && end.Time == start.Time ? end with { Time = end.Time.PlusDays(1) }
                        : start.Zone is null || end.Zone is null || start.Zone.Equals(end.Zone)
                            ? end with
                            {
                                Zone = start.Zone,
                            }
                        : start with { Time = end.At.InZone(start.Zone).LocalDateTime };
                return start.IsDate
                    ? start with
                    {
                        Time = end.Time.Date.PlusDays(end.Time.TimeOfDay == LocalTime.Midnight ? 0 : 1).AtMidnight(),
                    }
                    : start with
                    {
                        Time = end.Time,
                    };
            }

            if (part.Find("DURATION") is { } line)
            {
                if (ICalendarValues.Duration(line.Value) is { } length && length is { Days: >= 0, Seconds: >= 0 })
                    return ICalendarValues.Plus(
                        start,
                        start.IsDate
                            ? new FileDuration(Math.Max(1, length.Days + (int)((length.Seconds + 86_399) / 86_400)), 0)
                            : length
                    );
                Tell(
                    $"Line {line.Number}: “{ICalendarReader.Short(line.Value)}” is no length; the event is told as of none."
                );
            }

            return start.IsDate ? start with { Time = start.Time.PlusDays(1) } : start;
        }

        // Where DTEND says how long it is, each session takes the same time; a DURATION has the same days and hours (§3.8.5.3).
        private static Func<FileTime, FileTime> LengthOf(Component part, FileTime start, FileTime end)
        {
            if (
                part.Find("DTEND") is null
                && part.Find("DURATION") is { } line
                && ICalendarValues.Duration(line.Value) is { } length
                && !start.IsDate
                && length is { Days: >= 0, Seconds: >= 0 }
            )
                return begins => ICalendarValues.Plus(begins, length);
            if (start.IsDate)
            {
                var days = Period.DaysBetween(start.Time.Date, end.Time.Date);
                return begins => begins with { Time = begins.Time.PlusDays(days) };
            }

            var exact = end.At - start.At;
            return begins =>
                begins with
                {
                    Time = begins.Zone is null
                        ? begins.Time.PlusTicks(exact.BclCompatibleTicks)
                        : (begins.At + exact).InZone(begins.Zone).LocalDateTime,
                };
        }

        private int? LongestOf(Component part, FileTime start)
        {
            var end = EndOf(part, start);
            return (int)Math.Min(36_500, (end.At - start.At).TotalDays + 1);
        }

        private void Add(Component part, FileTime start, FileTime end, bool isCancelled, FileTime? id = null)
        {
            var known = id ?? start;
            if (zone is not null && !start.IsDate && start.Zone is not null)
            {
                start = new FileTime(start.At.InZone(zone).LocalDateTime, false, zone);
                end = new FileTime(end.At.InZone(zone).LocalDateTime, false, zone);
            }

            if (end.Zone is null && start.Zone is not null)
                end = end with { Zone = start.Zone };
            // Half open: what ends as the first day begins is before it; what has no length is when it starts.
            if (
                from is { } first
                && (end.Time > start.Time ? end.Time <= first.AtMidnight() : end.Time < first.AtMidnight())
            )
                return;
            if (to is { } last && start.Time >= last.AtMidnight())
                return;
            if (sessions.Count >= Most)
                return;
            var status = part.Find("STATUS")?.Value.Trim().ToUpperInvariant();
            sessions.Add(
                new FileSession(
                    part.Find("SUMMARY") is { } title ? ContentLine.FromText(title.Value) : "",
                    start,
                    end,
                    isCancelled ? "CANCELLED"
                        : status is "TENTATIVE" or "CANCELLED" ? status
                        : "CONFIRMED"
                )
                {
                    Part = part,
                    Id = known,
                }
            );
        }
    }
}
