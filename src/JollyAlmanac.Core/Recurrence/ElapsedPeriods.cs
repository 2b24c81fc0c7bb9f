namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// The occurrences of a rule of FREQ=HOURLY and below. They go by elapsed time: where clocks go back the repeated hour is
/// passed through in its order, where they go forward the skipped one is not there. What a BY part rules out is leapt over.
/// </summary>
internal sealed class ElapsedPeriods
{
    private readonly RecurrenceRule rule;
    private readonly ZoneClock? clock;
    private readonly RulePeriods days;
    private readonly int unit;
    private readonly long step;
    private readonly long startInstant;
    private readonly long firstPeriod;
    private readonly long hours;
    private readonly long minutes;
    private readonly long seconds;
    private readonly int[] within;

    public ElapsedPeriods(RecurrenceRule rule, long startSeconds, ZoneClock? clock)
    {
        this.rule = rule;
        this.clock = clock;
        unit = rule.Frequency switch
        {
            Frequency.Hourly => 3600,
            Frequency.Minutely => 60,
            _ => 1,
        };
        step = (long)unit * rule.Interval;
        var (local, offset) = clock?.Resolve(startSeconds) ?? (startSeconds, 0);
        startInstant = local - offset;
        var rest = (int)(((local % unit) + unit) % unit);
        firstPeriod = startInstant - rest;
        days = new RulePeriods(rule, LocalSeconds.DayOf(local));
        hours = Mask(rule.Hours);
        minutes = Mask(rule.Minutes);
        seconds = Mask(rule.Seconds);
        // What is expanded within an hour or a minute, from its begin; without BY parts the start's own place.
        IReadOnlyList<int> inMinutes =
            rule.Frequency != Frequency.Hourly ? [0]
            : rule.Minutes.IsEmpty ? [rest / 60]
            : rule.Minutes;
        IReadOnlyList<int> inSeconds =
            rule.Frequency == Frequency.Secondly ? [0]
            : rule.Seconds.IsEmpty ? [rest % 60]
            : rule.Seconds;
        within = [.. from minute in inMinutes from second in inSeconds select minute * 60 + second];
    }

    /// <summary>The occurrences on days from about <paramref name="seekDay"/> to <paramref name="lastDay"/>.</summary>
    public IEnumerable<Occurrence> From(int seekDay, int lastDay)
    {
        if (!CanMatch())
            yield break;
        // Where a BY part names hours or minutes, minutes come from BYMINUTE, else from the start (§3.3.10): counted from the local hour,
        // so that a zone that shifts by half an hour keeps them. Without one, hours are elapsed hours.
        var aligns = rule.Frequency == Frequency.Hourly && (hours != 0 || minutes != 0 || !rule.Positions.IsEmpty);
        var seek = seekDay == int.MinValue ? firstPeriod : (seekDay - 1) * (long)LocalSeconds.Day;
        for (var period = seek <= firstPeriod ? firstPeriod : firstPeriod + (seek - firstPeriod) / step * step; ; )
        {
            var offset = clock?.OffsetAt(period) ?? 0;
            var local = period + offset;
            var day = LocalSeconds.DayOf(local);
            if (day > lastDay)
                yield break;
            var second = (int)(local - day * (long)LocalSeconds.Day);
            if (Leap(day, second) is > 0 and var leap)
            {
                // No farther than to the next change of the clocks, behind which the local time is another.
                var target = clock is null
                    ? period + leap
                    : Math.Min(period + leap, Math.Max(clock.StretchEnds, period + 1));
                period += Math.Max(1, (target - period + step - 1) / step) * step;
                continue;
            }

            var from = aligns ? period - second % unit : period;
            for (var at = 0; at < within.Length; at++)
            {
                if (
                    !rule.Positions.IsEmpty
                    && !rule.Positions.Contains(at + 1)
                    && !rule.Positions.Contains(at - within.Length)
                )
                    continue;
                var instant = from + within[at];
                if (instant < startInstant)
                    continue;
                var own = clock?.OffsetAt(instant) ?? 0;
                yield return new Occurrence(instant + own, own);
            }

            period += step;
        }
    }

    private static long Mask(IEnumerable<int> values) => values.Aggregate(0L, (mask, value) => mask | 1L << value);

    // How many seconds on it may pass at the earliest; 0 where it passes now.
    private int Leap(int day, int second)
    {
        if (!days.Passes(day))
            return LocalSeconds.Day - second;
        if (hours != 0 && (hours & 1L << second / 3600) == 0)
            return 3600 - second % 3600;
        if (unit < 3600 && minutes != 0 && (minutes & 1L << second / 60 % 60) == 0)
            return 60 - second % 60;
        return unit == 1 && seconds != 0 && (seconds & 1L << second % 60) == 0 ? 1 : 0;
    }

    // The periods meet only certain seconds of a day, a step apart. Where BY parts allow none of them the search is hopeless:
    // exact without a zone; with one, as far as changes of the clock by quarters of an hour leave it certain.
    private bool CanMatch()
    {
        var apart = Divisor(step, LocalSeconds.Day);
        if (clock is not null)
            apart = Divisor(apart, 900);
        var first = (firstPeriod + (clock?.OffsetAt(firstPeriod) ?? 0)) % apart;
        if (first < 0)
            first += apart;
        for (var second = (int)first; second < LocalSeconds.Day; second += (int)apart)
            if (
                (hours == 0 || (hours & 1L << second / 3600) != 0)
                && (unit == 3600 || minutes == 0 || (minutes & 1L << second / 60 % 60) != 0)
                && (unit > 1 || seconds == 0 || (seconds & 1L << second % 60) != 0)
            )
                return true;
        return false;
    }

    private static long Divisor(long one, long other) => other == 0 ? one : Divisor(other, one % other);
}
