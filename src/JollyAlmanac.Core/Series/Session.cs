using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>
/// One meeting of a series: computed, not stored. Half open.
/// </summary>
/// <param name="Of">The series.</param>
/// <param name="Original">Where the pattern puts it, by the regular bells, or the name of an extra one: what it is known by (see
/// <see cref="SessionKey"/>).</param>
/// <param name="Start">Local start in the series' zone.</param>
/// <param name="End">Local end in the series' zone; where it comes to be again, the next may start.</param>
/// <param name="Number">Its number among the sessions that are held; null for one that is not.</param>
/// <param name="LeftOut">The no-class day that takes it out, or null.</param>
public sealed record Session(
    Series Of,
    LocalDateTime Original,
    LocalDateTime Start,
    LocalDateTime End,
    int? Number,
    NoClassDay? LeftOut
)
{
    /// <summary>What it is known by everywhere.</summary>
    public SessionKey Key => new(Of.Id, Original);

    /// <summary>What a person did to it, or null.</summary>
    public Change? Change { get; init; }

    /// <summary>When it is, and nothing else: not what it is called, nor where it comes from, nor what was done to it.</summary>
    public Session OnlyItsTime() =>
        this with
        {
            Of = Of with
            {
                Title = "",
                Description = "",
                Place = "",
                NumberLabel = "",
                Changes = [],
                JoinLink = null,
                IsTentative = false,
            },
            Original = Start,
            Number = null,
            Change = null,
        };

    /// <summary>It stands beside the pattern.</summary>
    public bool IsExtra => SessionKey.IsExtra(Original);

    /// <summary>A date rather than a time.</summary>
    public bool IsAllDay { get; init; }

    /// <summary>A person decided that it does not meet.</summary>
    public bool IsCancelled => Change?.Status == SessionStatus.Cancelled;

    /// <summary>Whether the class meets.</summary>
    public bool IsHeld => LeftOut is null && !IsCancelled;

    /// <summary>It is held, so far, but that is not certain yet.</summary>
    public bool IsTentative => IsHeld && (Change?.IsTentative ?? Of.IsTentative);

    /// <summary>Readers are told of it: it is held, or a person cancelled it. One that a no-class day takes out is not told.</summary>
    public bool IsVisible => IsHeld || IsCancelled;

    /// <summary>
    /// It was moved by hand, or by a no-class day, away from where the pattern puts it; a shortened day's bells do not count.
    /// </summary>
    public bool IsMoved => Start.Date != Planned || Change?.Time is not null;

    /// <summary>The date that the pattern, or the list of extra sessions, has it on, by the clock of its zone.</summary>
    public LocalDate Planned =>
        IsExtra && Of.Pattern.Extra.FirstOrDefault(extra => extra.Original == Original) is { } extra
            ? extra.Day
            : Original.Date;

    /// <summary>The time that the pattern, or the list of extra sessions, gives it.</summary>
    public SessionTime OwnTime =>
        IsExtra && Of.Pattern.Extra.FirstOrDefault(extra => extra.Original == Original) is { } extra
            ? extra.Time
            : Of.Pattern.Time;

    /// <summary>The same by the school's clock.</summary>
    public LocalDate PlannedAtSchool => Planned.PlusDays(Period.DaysBetween(Start.Date, Day));

    /// <summary>The day it stands on wherever the school's time is shown.</summary>
    public LocalDate Day => StartAtSchool.Date;

    /// <summary>
    /// The last day it stands on: one that takes longer than a day stands on each day until it ends, an evening that ends after midnight
    /// on the day it begins.
    /// </summary>
    public LocalDate LastDay =>
        IsAllDay ? LocalDate.Max(Start.Date, End.Date.PlusDays(-1))
        : End.Date > Start.Date && End > Start.PlusDays(1) ? EndAtSchool.PlusTicks(-1).Date
        : Day;

    /// <summary>The days it stands on.</summary>
    public IEnumerable<LocalDate> Days
    {
        get
        {
            var last = LastDay;
            for (var day = Day; day <= last; day = day.PlusDays(1))
                yield return day;
        }
    }

    /// <summary>Which of its days that is, from 1; 1 for the day it begins on.</summary>
    public int NumberOf(LocalDate day) => Period.DaysBetween(Day, day) + 1;

    /// <summary>The school's zone, where the series goes by another clock; else null.</summary>
    public DateTimeZone? School { get; init; }

    /// <summary>The start by the school's clock.</summary>
    public LocalDateTime StartAtSchool => School is null || IsAllDay ? Start : StartsAt.InZone(School).LocalDateTime;

    /// <summary>The end by the school's clock.</summary>
    public LocalDateTime EndAtSchool => School is null || IsAllDay ? End : EndsAt.InZone(School).LocalDateTime;

    /// <summary>The title people read: its own, or the series' with its number where sessions are counted by name.</summary>
    public string Title =>
        Change?.Title
        ?? (
            Of.NumberLabel.Length == 0 || Number is null ? Of.Title
            : Of.NumberLabel == Of.Title ? $"{Of.Title} {Number}"
            : $"{Of.Title}: {Of.NumberLabel} {Number}"
        );

    /// <summary>The place.</summary>
    public string Place => Change?.Place ?? Of.Place;

    /// <summary>The link it is joined by, if any.</summary>
    public JoinLinkId? JoinLink => Change?.Link ?? Of.JoinLink;

    /// <summary>A note for it alone; may be empty.</summary>
    public string Note => Change?.Note ?? "";

    /// <summary>Minutes with the class by the wall clock; none for an all-day entry.</summary>
    public int Minutes =>
        IsAllDay
            ? 0
            : (int)(
                (
                    Period.DaysBetween(Start.Date, End.Date) * NodaConstants.NanosecondsPerDay
                    + End.TimeOfDay.NanosecondOfDay
                    - Start.TimeOfDay.NanosecondOfDay
                ) / NodaConstants.NanosecondsPerMinute
            );

    /// <summary>The start as an instant, after RFC 5545 §3.3.5 (see <see cref="WallClock"/>).</summary>
    public Instant StartsAt => WallClock.InstantOf(Start, Of.Pattern.Zone);

    /// <summary>
    /// The end as an instant. Where the clocks skip its start but not its end (2:30–3:20, begun at 3:30), the session keeps its minutes.
    /// </summary>
    public Instant EndsAt
    {
        get
        {
            var ends = WallClock.InstantOf(End, Of.Pattern.Zone);
            return ends > StartsAt ? ends : StartsAt + Duration.FromMinutes(Minutes);
        }
    }

    /// <summary>Where the session lies at an instant.</summary>
    public SessionPhase PhaseAt(Instant now) =>
        now < StartsAt ? SessionPhase.Ahead
        : now < EndsAt ? SessionPhase.On
        : SessionPhase.Over;

    /// <summary>
    /// Whether another is the same meeting, perhaps of another reading: of the same series, with the same original start.
    /// </summary>
    public bool IsSameAs(Session? other) => other is not null && Key == other.Key;

    /// <summary>Whether it is the one known by that original start: a session of the pattern by its date, an extra one exactly.</summary>
    public bool IsKnownBy(LocalDateTime original) =>
        original == Original || (!IsExtra && !SessionKey.IsExtra(original) && original.Date == Original.Date);

    /// <summary>Whether it is the one of that key.</summary>
    public bool IsKnownBy(SessionKey key) => key.Series == Of.Id && IsKnownBy(key.Original);
}

/// <summary>Where a session lies as seen from an instant.</summary>
public enum SessionPhase
{
    /// <summary>It has not begun.</summary>
    Ahead,

    /// <summary>It is going on.</summary>
    On,

    /// <summary>It has ended.</summary>
    Over,
}
