using JollyAlmanac.Core.Recurrence;
using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// The zones that a file names: by their IANA name, by their definition in the file (VTIMEZONE, RFC 5545 §3.6.5), or by the names of
/// another system that Unicode CLDR's table <c>windowsZones</c> gives IANA names for.
/// </summary>
public sealed class FileZones
{
    private static readonly Dictionary<string, string> OtherNames = new Dictionary<string, string>(
        TzdbDateTimeZoneSource.Default.WindowsMapping.PrimaryMapping,
        StringComparer.OrdinalIgnoreCase
    );

    private static readonly Dictionary<string, string> AnyCase = DateTimeZoneProviders.Tzdb.Ids.ToDictionary(
        id => id,
        id => id,
        StringComparer.OrdinalIgnoreCase
    );

    private readonly Dictionary<string, DateTimeZone?> found = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Component> defined = new(StringComparer.Ordinal);

    /// <summary>The zones of a calendar.</summary>
    public FileZones(Component calendar)
    {
        foreach (var part in calendar.Parts)
            if (part.Name == "VTIMEZONE" && part.Find("TZID") is { } id)
                defined.TryAdd(id.Value.Trim(), part);
    }

    /// <summary>The zone of that TZID; null where nothing says what it is.</summary>
    public DateTimeZone? Find(string id)
    {
        id = id.Trim();
        if (found.TryGetValue(id, out var known))
            return known;
        return found[id] = ByName(id)
            ?? (defined.TryGetValue(id, out var part) ? DefinedZone.Of(part, id) : null)
            ?? (OtherNames.TryGetValue(id, out var other) ? DateTimeZoneProviders.Tzdb.GetZoneOrNull(other) : null)
            ?? Within(id);
    }

    private static DateTimeZone? ByName(string id) =>
        AnyCase.TryGetValue(id, out var name) ? DateTimeZoneProviders.Tzdb[name] : null;

    // "/example.org/20060130_1/Europe/Berlin": a name that some program owns, with the usual one at its end (§3.8.3.1).
    private static DateTimeZone? Within(string id)
    {
        for (var at = id.IndexOf('/', StringComparison.Ordinal); at >= 0; at = id.IndexOf('/', at + 1))
            if (ByName(id[(at + 1)..]) is { } zone)
                return zone;
        return null;
    }
}

/// <summary>A zone as a VTIMEZONE defines it, laid out once over the years that sessions are asked for.</summary>
internal sealed class DefinedZone : DateTimeZone
{
    // Transitions of rules are laid out that far; past it the last offset stays.
    private static readonly LocalDateTime Until = new(2150, 1, 1, 0, 0);
    private const int MostTransitions = 4000;

    // No zone has changed its offset in so many ways; a definition with more is made to take time.
    private const int MostObservances = 400;

    private readonly ZoneInterval[] intervals;

    private DefinedZone(string id, ZoneInterval[] intervals, Offset least, Offset most)
        : base(id, intervals.Length == 1, least, most) => this.intervals = intervals;

    /// <summary>The zone; null where its definition cannot be read.</summary>
    public static DateTimeZone? Of(Component definition, string id)
    {
        var transitions = new List<(Instant At, Offset To, bool IsDaylight, string Name)>();
        Offset? first = null;
        Instant? earliest = null;
        var observances = definition
            .Parts.Where(part => part.Name is "STANDARD" or "DAYLIGHT")
            .Take(MostObservances + 1)
            .ToList();
        if (observances.Count > MostObservances)
            return null;
        foreach (var part in observances)
        {
            if (
                part.Find("DTSTART") is not { } start
                || ICalendarValues.Time(start.Value, null) is not { IsDate: false } begins
                || part.Find("TZOFFSETFROM") is not { } from
                || ICalendarValues.OffsetOf(from.Value) is not { } before
                || part.Find("TZOFFSETTO") is not { } to
                || ICalendarValues.OffsetOf(to.Value) is not { } after
            )
                return null;
            var name = part.Find("TZNAME") is { } called ? ContentLine.FromText(called.Value) : id;
            foreach (var onset in Onsets(part, begins, before))
            {
                if (transitions.Count == MostTransitions)
                    return null;
                transitions.Add((onset, after, part.Name == "DAYLIGHT", name));
                if (earliest is null || onset < earliest)
                    (earliest, first) = (onset, before);
            }
        }

        if (first is null)
            return null;
        // Before the first onset that offset holds that it comes from.
        var intervals = new List<ZoneInterval>();
        var (since, offset, savings, called2) = ((Instant?)null, first.Value, Offset.Zero, id);
        foreach (var (at, to, isDaylight, name) in transitions.OrderBy(one => one.At).DistinctBy(one => one.At))
        {
            intervals.Add(new ZoneInterval(called2, since, at, offset, savings));
            (since, offset, called2) = (at, to, name);
            savings = isDaylight ? Offset.FromHours(1) : Offset.Zero;
        }

        intervals.Add(new ZoneInterval(called2, since, null, offset, savings));
        return new DefinedZone(
            id,
            [.. intervals],
            intervals.Min(one => one.WallOffset),
            intervals.Max(one => one.WallOffset)
        );
    }

    // Onsets are local times by the offset before them (§3.6.5).
    private static IEnumerable<Instant> Onsets(Component part, FileTime begins, Offset before)
    {
        Instant At(LocalDateTime local) => local.WithOffset(before).ToInstant();
        yield return At(begins.Time);
        foreach (var line in part.Lines.Where(line => line.Name == "RDATE"))
        foreach (var value in ICalendarValues.List(line))
            if (ICalendarValues.Time(value.Split('/')[0], null) is { } date)
                yield return date.Zone is null ? At(date.Time) : date.At;
        foreach (var line in part.Lines.Where(line => line.Name == "RRULE"))
        {
            // Clocks are changed once or twice a year, or a month; by any other rule they are not.
            if (
                RuleText.Parse(line.Value.Trim()).Rule
                is not { Frequency: Core.Recurrence.Frequency.Yearly or Core.Recurrence.Frequency.Monthly } rule
            )
                continue;
            // UNTIL is in UTC there; a fixed offset makes it so.
            var set = new RecurrenceSet(rule, RecurrenceStart.At(begins.Time, ForOffset(before)));
            foreach (var one in set.Between(null, Until).Take(MostTransitions))
                yield return one.At;
        }
    }

    /// <inheritdoc />
    public override ZoneInterval GetZoneInterval(Instant instant)
    {
        var (low, high) = (0, intervals.Length - 1);
        while (low < high)
        {
            var middle = (low + high + 1) / 2;
            if (intervals[middle].Start <= instant)
                low = middle;
            else
                high = middle - 1;
        }

        return intervals[low];
    }
}
