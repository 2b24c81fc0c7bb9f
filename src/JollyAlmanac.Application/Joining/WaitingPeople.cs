using System.Collections.Concurrent;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>
/// Who waits at doors that are held for a host, counted by what their pages call themselves, in memory alone. It is a number for the
/// host and decides nothing; it is bounded, so that whoever makes names up gains no more than a wrong number.
/// </summary>
internal sealed class WaitingPeople
{
    // A page asks every few seconds while it waits; one that has not for this long is gone.
    private static readonly Duration Gone = Duration.FromSeconds(30);

    private const int MostAtDoor = 300,
        MostDoors = 1_000,
        LongestToken = 40;

    private readonly ConcurrentDictionary<JoinCode, Dictionary<string, Instant>> doors = new();

    /// <summary>Notes that somebody waits.</summary>
    public void Note(JoinCode code, string token, Instant now)
    {
        if (token.Length is 0 or > LongestToken || (doors.Count >= MostDoors && !doors.ContainsKey(code)))
        {
            foreach (var (other, _) in doors)
                if (Count(other, now) == 0)
                    doors.TryRemove(other, out _);
            return;
        }

        var people = doors.GetOrAdd(code, _ => new Dictionary<string, Instant>(StringComparer.Ordinal));
        lock (people)
        {
            Forget(people, now);
            if (people.Count < MostAtDoor || people.ContainsKey(token))
                people[token] = now;
        }
    }

    /// <summary>How many wait.</summary>
    public int Count(JoinCode code, Instant now)
    {
        if (!doors.TryGetValue(code, out var people))
            return 0;
        lock (people)
        {
            Forget(people, now);
            return people.Count;
        }
    }

    private static void Forget(Dictionary<string, Instant> people, Instant now)
    {
        foreach (var (token, seen) in people)
            if (now - seen > Gone || now < seen)
                people.Remove(token);
    }
}
