using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>What becomes of a series' sessions between two plans of it.</summary>
/// <param name="Gone">Sessions that were held and are not any more.</param>
/// <param name="New">Sessions that are held and were not.</param>
/// <param name="Moved">Sessions that are held in both, at another time.</param>
/// <param name="Loose">Changes that lose their session.</param>
public sealed record Consequences(
    ImmutableArray<Session> Gone,
    ImmutableArray<Session> New,
    ImmutableArray<(Session Before, Session After)> Moved,
    int Loose
)
{
    /// <summary>Compares the plans before and after. A session is the same where its original date is.</summary>
    /// <param name="before">The plans as they were; empty for something new.</param>
    /// <param name="after">The plans as they would be, those that are split off with them.</param>
    /// <returns>Only held sessions count: one that was left out and is cancelled now is no consequence.</returns>
    public static Consequences Between(IReadOnlyList<Plan> before, IReadOnlyList<Plan> after)
    {
        var (old, fresh) = (Keyed(before), Keyed(after));
        return new Consequences(
            [.. old.Where(one => !fresh.ContainsKey(one.Key)).Select(one => one.Value)],
            [.. fresh.Where(one => !old.ContainsKey(one.Key)).Select(one => one.Value)],
            [
                .. old.Where(one =>
                        fresh.TryGetValue(one.Key, out var other)
                        && (other.Start, other.End) != (one.Value.Start, one.Value.End)
                    )
                    .Select(one => (one.Value, fresh[one.Key])),
            ],
            Math.Max(0, after.Sum(plan => plan.Loose.Length) - before.Sum(plan => plan.Loose.Length))
        );
    }

    /// <summary>Whether anything happens to a session at all.</summary>
    public bool IsNothing => Gone.IsEmpty && New.IsEmpty && Moved.IsEmpty && Loose == 0;

    /// <summary>"1 session goes (Wed 14 Oct), 2 move; 1 change loses its session". Empty for nothing.</summary>
    public string InWords
    {
        get
        {
            var parts = new List<string>();
            if (!Gone.IsEmpty)
                parts.Add(
                    $"{Wording.Count(Gone.Length, "session goes", "sessions go")}{Which([.. Gone.Select(one => one.StartAtSchool)])}"
                );
            if (!New.IsEmpty)
                parts.Add(
                    $"{Wording.Count(New.Length, "session comes in", "sessions come in")}{Which([.. New.Select(one => one.StartAtSchool)])}"
                );
            if (!Moved.IsEmpty)
                parts.Add(
                    $"{Wording.Count(Moved.Length, "session moves", "sessions move")}{(Moved is [var only] ? $" ({Moment(only.Before)} to {Moment(only.After)})" : "")}"
                );
            if (Loose > 0)
                parts.Add(
                    $"{Wording.Count(Loose, "change loses its session", "changes lose their sessions")} and will be listed as loose"
                );
            return Wording.List(parts);
        }
    }

    private static string Which(ImmutableArray<LocalDateTime> starts) =>
        starts.Length > 3 ? "" : $" ({Wording.List([.. starts.Select(start => Wording.WithWeekday(start.Date))])})";

    private static string Moment(Session session) => $"{Wording.WithWeekday(session.Day)}, {SayBack.Span(session)}";

    private static Dictionary<LocalDateTime, Session> Keyed(IReadOnlyList<Plan> plans)
    {
        var keyed = new Dictionary<LocalDateTime, Session>();
        foreach (var session in plans.SelectMany(plan => plan.Held))
            keyed.TryAdd(session.IsExtra ? session.Original : session.Original.Date.AtMidnight(), session);
        return keyed;
    }
}
