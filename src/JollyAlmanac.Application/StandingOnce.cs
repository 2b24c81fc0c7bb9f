using System.Collections.Concurrent;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application;

/// <summary>How things stand, read once for as long as nothing at all is written: then asking touches no file.</summary>
internal sealed class StandingOnce(AlmanacDatabase database)
{
    private const int MostKnown = 4_000;

    private readonly ConcurrentDictionary<string, (long Epoch, string Standing)> known = new(StringComparer.Ordinal);

    /// <summary>How a thing stands; null where there is none.</summary>
    /// <param name="key">What it is known by.</param>
    /// <param name="read">Reads it.</param>
    public string? Of(string key, Func<Stores, string?> read)
    {
        var epoch = database.Epoch();
        if (known.TryGetValue(key, out var found) && found.Epoch == epoch) return found.Standing;
        if (database.Read(read) is not { } standing) return null;
        if (known.Count >= MostKnown) known.Clear();
        known[key] = (epoch, standing);
        return standing;
    }
}
