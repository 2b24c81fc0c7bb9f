using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>
/// One period of a school day by the wall clock, half open: it starts at <paramref name="Start"/> and is over at <paramref name="End"/>.
/// </summary>
public sealed record BellPeriod(string Name, LocalTime Start, LocalTime End);

/// <summary>
/// The periods of a school day, in order and without overlap: "Regular bells: 1 8:00–8:50, 2 8:55–9:45, …".
/// A school may have none; then times are clock times only.
/// </summary>
public sealed record BellSchedule(string Name, ImmutableArray<BellPeriod> Periods)
{
    /// <summary>A school without bells.</summary>
    public static BellSchedule None { get; } = new("", []);

    /// <summary>The period of that name, or null.</summary>
    /// <example>
    /// <code>
    /// bells.Find("1")!.End // 08:50:00
    /// bells.Find("7") // null
    /// </code>
    /// </example>
    public BellPeriod? Find(string name) => Periods.FirstOrDefault(period => period.Name == name);

    /// <summary>The period that has exactly these times, or null: "9:50–10:40" is period 3.</summary>
    /// <example>
    /// <code>
    /// bells.Find(new LocalTime(8, 0), new LocalTime(8, 50))!.Name // 1
    /// </code>
    /// </example>
    public BellPeriod? Find(LocalTime start, LocalTime end) =>
        Periods.FirstOrDefault(period => period.Start == start && period.End == end);
}

/// <summary>A day with other bells: <paramref name="Bells"/> is the name of their schedule.</summary>
public sealed record ShortenedDay(LocalDate Day, string Bells);
