using System.Collections.Immutable;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>
/// All sessions of a series, held and not, in order.
/// </summary>
/// <param name="Of">The series.</param>
/// <param name="Sessions">In order of their start.</param>
/// <param name="Loose">Changes whose session the pattern does not give (any more).</param>
public sealed record Plan(Series Of, ImmutableArray<Session> Sessions, ImmutableArray<Change> Loose)
{
    /// <summary>The sessions that are held.</summary>
    public IEnumerable<Session> Held => Sessions.Where(session => session.IsHeld);

    /// <summary>The sessions that a no-class day takes out.</summary>
    public IEnumerable<Session> LeftOut => Sessions.Where(session => session.LeftOut is not null && !session.IsCancelled);

    /// <summary>The sessions that a person cancelled.</summary>
    public IEnumerable<Session> Cancelled => Sessions.Where(session => session.IsCancelled);

    /// <summary>How many sessions are held.</summary>
    public int HeldCount { get; } = Sessions.Count(session => session.IsHeld);

    /// <summary>Minutes with the class, over all held sessions.</summary>
    public int Minutes { get; } = Sessions.Where(session => session.IsHeld).Sum(session => session.Minutes);

    /// <summary>The first date of the pattern, or null where it gives none.</summary>
    public LocalDate? First { get; init; }

    /// <summary>The first date of the pattern differs from the day that was stated ("from Wed", but it meets on Mondays).</summary>
    public bool StartsLaterThanStated => First is { } first && first != Of.Pattern.From;

    /// <summary>The session known by that original start, or null.</summary>
    public Session? Find(LocalDateTime original) =>
        Sessions.FirstOrDefault(session => session.Original == original) ?? Sessions.FirstOrDefault(session => session.IsKnownBy(original));
}

/// <summary>
/// The one planner: what a series and the school's time make of each other. Term sheet, class page, feed and embed all
/// show what comes out here.
/// </summary>
public static class Planner
{
    private const int FarthestMove = 7;

    /// <summary>
    /// The whole plan of a series. A series whose term or period is not known (any more) has no sessions.
    /// </summary>
    public static Plan PlanOf(Series series, SchoolTime school)
    {
        var pattern = series.Pattern;
        var sessions = new List<Session>();
        LocalDate? first = null;
        if (pattern.Time.On(school.Bells) is var (regular, minutes))
        {
            var dates = DatesOf(pattern, school);
            if (dates.Count > 0) first = dates[0];
            sessions.Capacity = dates.Count + pattern.Extra.Length;
            var most = pattern.Extent is Extent.Held held && pattern.Repeat is not Repeat.OnDates ? held.Sessions : int.MaxValue;
            var planned = 0;
            // The days it meets on; what a no-class day moves must find another.
            var taken = pattern.NoClass == NoClassPolicy.NextClassDay ? dates.ToHashSet() : [];
            foreach (var day in dates)
            {
                if (planned == most) break;
                var session = On(series, school, day, regular, minutes, taken);
                if (session.LeftOut is null) planned++;
                sessions.Add(session);
            }
        }

        // One that the pattern gives anyhow counts once, as an RDATE does.
        foreach (var extra in pattern.Extra)
            if (extra.Time.On(school.BellsOn(extra.Day)) is var (start, length) && !sessions.Exists(session => session.Original == extra.Day + start))
                sessions.Add(new Session(series, extra.Day + start, extra.Day + start, End(extra.Day, start, length), null, null) { IsExtra = true, IsAllDay = extra.Time is SessionTime.AllDay });
        var loose = series.Changes.IsEmpty ? [] : Apply(series, school, sessions);
        Sort(sessions);
        var number = series.FirstNumber;
        for (var at = 0; at < sessions.Count; at++)
            if (sessions[at].IsHeld) sessions[at] = sessions[at] with { Number = number++ };
        if (!pattern.Zone.Equals(school.Zone))
            for (var at = 0; at < sessions.Count; at++) sessions[at] = sessions[at] with { School = school.Zone };
        return new Plan(series, [.. sessions], loose) { First = first };
    }

    /// <summary>The dates of the pattern in order, before no-class days; for a number of held sessions, as many as can be needed.</summary>
    public static IReadOnlyList<LocalDate> DatesOf(MeetingPattern pattern, SchoolTime school)
    {
        var last = LastDay(pattern, school);
        switch (pattern.Repeat)
        {
            case Repeat.OnDates listed:
                return listed.Dates;
            case Repeat.OnCycleDays cycle:
                return [.. school.CycleDays(pattern.From, last).Where(day => cycle.Names.Contains(day.Name)).Select(day => day.Date)];
            case Repeat.ByRule { Rule: var rule }:
                // Where the stated day does not match, the rule starts on the first that does, and its intervals count from there.
                var stated = RecurrenceStart.OnDay(pattern.From);
                var first = pattern.From;
                if (rule.Interval > 1)
                {
                    using var plain = new RecurrenceSet(rule with { Interval = 1 }, stated).All().GetEnumerator();
                    if (!plain.MoveNext()) return [];
                    first = plain.Current.Date;
                }

                var most = pattern.Extent is Extent.Held held ? held.Sessions : int.MaxValue;
                var dates = new List<LocalDate>();
                foreach (var one in new RecurrenceSet(rule, RecurrenceStart.OnDay(first)).Between(null, last.PlusDays(1).AtMidnight()))
                {
                    dates.Add(one.Date);
                    // Enough once so many of them can be held; no-class days past the last are of no matter.
                    if (most != int.MaxValue && (pattern.NoClass != NoClassPolicy.LeaveOut || school.NoClassOn(one.Date) is null) && --most < 0) break;
                }

                return dates;
            default:
                throw new InvalidOperationException("A repeat that nobody planned for.");
        }
    }

    private static LocalDate LastDay(MeetingPattern pattern, SchoolTime school) => pattern.Extent switch
    {
        Extent.Until until => until.Day,
        Extent.WithTerm with => school.Find(with.Term)?.Last ?? pattern.From.PlusDays(-1),
        Extent.Held => pattern.From.PlusDays(MeetingPattern.LongestDays),
        Extent.Open => school.Terms.IsEmpty ? pattern.From.PlusYears(1) : LocalDate.Max(pattern.From.PlusYears(1), school.Terms[^1].Last),
        _ => throw new InvalidOperationException("An extent that nobody planned for."),
    };

    private static Session On(Series series, SchoolTime school, LocalDate day, LocalTime regular, int minutes, HashSet<LocalDate> taken)
    {
        var pattern = series.Pattern;
        var original = day + regular;
        var meets = day;
        NoClassDay? leftOut = null;
        if (pattern.NoClass != NoClassPolicy.MeetAnyway && school.NoClassOn(day) is { } noClass)
        {
            if (pattern.NoClass == NoClassPolicy.NextClassDay && NextFreeDay(school, day, taken) is { } next) meets = next;
            else leftOut = noClass;
        }

        var (start, length) = (regular, minutes);
        if (pattern.Time is SessionTime.InPeriod named && school.ShortenedOn(meets) is { } shortened)
        {
            if (named.On(shortened) is var (own, ownLength)) (start, length) = (own, ownLength);
            else leftOut ??= new NoClassDay(day, day, $"no period {named.Period} on {shortened.Name}", NoClassKind.Holiday);
        }

        return new Session(series, original, meets + start, End(meets, start, length), null, leftOut) { IsAllDay = pattern.Time is SessionTime.AllDay };
    }

    private static LocalDate? NextFreeDay(SchoolTime school, LocalDate day, HashSet<LocalDate> taken)
    {
        for (var next = day.PlusDays(1); next <= day.PlusDays(FarthestMove); next = next.PlusDays(1))
            if (school.IsClassDay(next) && taken.Add(next)) return next;
        return null;
    }

    // Puts the changes on their sessions; gives back those that have none.
    private static ImmutableArray<Change> Apply(Series series, SchoolTime school, List<Session> sessions)
    {
        var loose = ImmutableArray.CreateBuilder<Change>();
        foreach (var change in series.Changes)
        {
            var at = sessions.FindIndex(session => session.Original == change.Original);
            if (at < 0) at = sessions.FindIndex(session => session.IsKnownBy(change.Original));
            if (at < 0 || sessions[at].Change is not null) loose.Add(change);
            else sessions[at] = Changed(sessions[at], change, school);
        }

        return loose.ToImmutable();
    }

    private static Session Changed(Session session, Change change, SchoolTime school)
    {
        // Who moves a session to a day means it to meet there, whatever the day is.
        var leftOut = change.Standing == Standing.Held || change.Day is not null ? null : session.LeftOut;
        if (change.Day is null && change.Time is null) return session with { Change = change, LeftOut = leftOut };
        var day = change.Day ?? session.Start.Date;
        var time = change.Time ?? (session.IsExtra ? session.Of.Pattern.Extra.First(extra => extra.Day == session.Original.Date).Time : session.Of.Pattern.Time);
        var (start, minutes) = time.On(school.BellsOn(day)) ?? time.On(school.Bells) ?? (session.Start.TimeOfDay, session.Minutes);
        return session with { Change = change, LeftOut = leftOut, Start = day + start, End = End(day, start, minutes), IsAllDay = time is SessionTime.AllDay };
    }

    private static LocalDateTime End(LocalDate day, LocalTime start, int minutes) =>
        minutes == 24 * 60 ? day.PlusDays(1) + start : day + start.PlusMinutes(minutes);

    // Nearly always in order already; then it costs one pass.
    private static void Sort(List<Session> sessions)
    {
        for (var at = 1; at < sessions.Count; at++)
        {
            if (sessions[at - 1].Start <= sessions[at].Start) continue;
            var sorted = sessions.OrderBy(session => session.Start).ThenBy(session => session.Original).ToList();
            sessions.Clear();
            sessions.AddRange(sorted);
            return;
        }
    }
}
