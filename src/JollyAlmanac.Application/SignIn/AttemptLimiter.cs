namespace JollyAlmanac.Application.SignIn;

/// <summary>
/// Counts tries by where they come from, and says when there were too many. A try is counted before it is looked at, so that
/// many at once are no way around; one that turns out right is given back, so that a class that comes in through one network
/// address at nine is not held up. The framework's limiters cannot give back, hence this.
/// </summary>
/// <param name="most">How many wrong tries one has in a window.</param>
/// <param name="window">How long it takes until they count anew.</param>
/// <param name="time">The clock.</param>
public sealed class AttemptLimiter(int most, TimeSpan window, TimeProvider? time = null)
{
    /// <summary>The most keys that are counted apart; where there are more, further ones share one count.</summary>
    public const int MostKeys = 20_000;

    /// <summary>The longest key; what is longer is cut.</summary>
    public const int LongestKey = 300;

    private readonly TimeProvider time = time ?? TimeProvider.System;
    private readonly Lock gate = new();
    private readonly Dictionary<string, (int Count, long Since)> tries = new(StringComparer.Ordinal);

    /// <summary>Counts a try, where there is one left.</summary>
    /// <returns>False where there were too many.</returns>
    public bool Take(string key)
    {
        lock (gate)
        {
            key = Place(key);
            var (count, since) = Of(key);
            if (count >= most)
                return false;
            tries[key] = (count + 1, count == 0 ? time.GetTimestamp() : since);
            return true;
        }
    }

    /// <summary>Gives a try back that turned out right.</summary>
    public void GiveBack(string key)
    {
        lock (gate)
        {
            key = Place(key);
            var (count, since) = Of(key);
            if (count <= 1)
                tries.Remove(key);
            else
                tries[key] = (count - 1, since);
        }
    }

    /// <summary>Whether there were too many from there.</summary>
    public bool AreTooMany(string key)
    {
        lock (gate)
            return Of(Place(key)).Count >= most;
    }

    /// <summary>Counts one that was wrong.</summary>
    public void Count(string key) => Take(key);

    private (int Count, long Since) Of(string key) =>
        tries.TryGetValue(key, out var found) && time.GetElapsedTime(found.Since) < window ? found : (0, 0);

    private string Place(string key)
    {
        if (key.Length > LongestKey)
            key = key[..LongestKey];
        if (tries.ContainsKey(key) || tries.Count < MostKeys)
            return key;
        foreach (var (old, _) in tries.Where(one => time.GetElapsedTime(one.Value.Since) >= window).ToList())
            tries.Remove(old);
        return tries.Count < MostKeys ? key : "";
    }
}
