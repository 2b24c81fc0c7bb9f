using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Timetables;

/// <summary>What is in two places at once.</summary>
public enum DoubleBookingKind
{
    /// <summary>A teacher.</summary>
    Teacher,

    /// <summary>A room.</summary>
    Room,

    /// <summary>Somebody on two class lists.</summary>
    Student,
}

/// <summary>What of a class can be in one place only.</summary>
/// <param name="Class">What it is called.</param>
/// <param name="Sessions">When it meets.</param>
/// <param name="Room">Its room; empty for none.</param>
/// <param name="Teachers">Its teachers, by whatever tells them apart.</param>
/// <param name="Students">Who is on its list, by whatever tells them apart.</param>
public sealed record PlacedClass(
    string Class,
    IReadOnlyList<Session> Sessions,
    string Room,
    IReadOnlyList<string> Teachers,
    IReadOnlySet<int> Students
);

/// <summary>Two classes that need the same at the same time.</summary>
/// <param name="Kind">What of them.</param>
/// <param name="What">Which room or teacher; how many students, in words.</param>
/// <param name="One">One class.</param>
/// <param name="Other">The other.</param>
/// <param name="First">The first time.</param>
/// <param name="Times">How often, on the days that were looked at.</param>
public sealed record DoubleBooking(
    DoubleBookingKind Kind,
    string What,
    string One,
    string Other,
    LocalDateTime First,
    int Times
)
{
    /// <summary>The days from the first session on that are looked at: four weeks hold every week A and B and most cycles twice.</summary>
    public const int Days = 28;

    /// <summary>What is in two places at once, by the first time.</summary>
    /// <param name="classes">The classes; each of its rooms is one of its own.</param>
    public static ImmutableArray<DoubleBooking> Among(IReadOnlyList<PlacedClass> classes)
    {
        var held = classes
            .SelectMany(one => one.Sessions.Where(session => !session.IsAllDay).Select(session => (one, session)))
            .OrderBy(pair => pair.session.StartsAt)
            .ToList();
        if (held.Count == 0)
            return [];
        var until = held[0].session.StartsAt + Duration.FromDays(Days);
        var found = new Dictionary<(DoubleBookingKind, string, string, string), (LocalDateTime First, int Times)>();
        var open = new List<(PlacedClass one, Session session)>();
        foreach (var (one, session) in held.TakeWhile(pair => pair.session.StartsAt < until))
        {
            open.RemoveAll(other => other.session.EndsAt <= session.StartsAt);
            foreach (var (other, _) in open)
            {
                if (other.Class == one.Class)
                    continue;
                if (one.Room.Length > 0 && one.Room.Equals(other.Room, StringComparison.OrdinalIgnoreCase))
                    Note(DoubleBookingKind.Room, one.Room);
                foreach (var teacher in one.Teachers.Intersect(other.Teachers))
                    Note(DoubleBookingKind.Teacher, teacher);
                if (one.Students.Count(other.Students.Contains) is > 0 and var both)
                    Note(DoubleBookingKind.Student, Wording.Count(both, "student", "students"));

                void Note(DoubleBookingKind kind, string what)
                {
                    var (first, second) =
                        string.CompareOrdinal(other.Class, one.Class) < 0
                            ? (other.Class, one.Class)
                            : (one.Class, other.Class);
                    var key = (kind, what, first, second);
                    found[key] = found.TryGetValue(key, out var before)
                        ? (before.First, before.Times + 1)
                        : (session.StartAtSchool, 1);
                }
            }

            open.Add((one, session));
        }

        return
        [
            .. found
                .Select(pair => new DoubleBooking(
                    pair.Key.Item1,
                    pair.Key.Item2,
                    pair.Key.Item3,
                    pair.Key.Item4,
                    pair.Value.First,
                    pair.Value.Times
                ))
                .OrderBy(clash => clash.Kind)
                .ThenBy(clash => clash.First)
                .ThenBy(clash => clash.One, StringComparer.Ordinal),
        ];
    }
}
