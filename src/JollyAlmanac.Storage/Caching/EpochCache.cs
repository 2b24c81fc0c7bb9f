using Microsoft.Extensions.Caching.Memory;
using NodaTime;

namespace JollyAlmanac.Storage.Caching;

/// <summary>
/// Keeps what was read from the database for as long as nothing at all is written to it (the epoch of the database), so that
/// asking again touches no file. Bounded by the sum of the sizes; the entry that was not used for longest goes first. Thread-safe: two
/// who ask at once may both read.
/// </summary>
/// <typeparam name="TKey">What a value is known by; compared by value.</typeparam>
/// <typeparam name="TValue">Immutable.</typeparam>
/// <param name="epochNow">Tells whether anything was written: the epoch of the database.</param>
/// <param name="capacity">The largest sum of the sizes of what is kept.</param>
public sealed class EpochCache<TKey, TValue>(Func<long> epochNow, long capacity) : IDisposable
    where TKey : notnull
    where TValue : class
{
    private readonly MemoryCache cache = new(
        new MemoryCacheOptions { SizeLimit = capacity, CompactionPercentage = 0.2 }
    );

    /// <summary>The value that is kept, or else the one that is read now.</summary>
    /// <param name="key">What it is known by.</param>
    /// <param name="now">When; a value is also read again once its time is over, or where the clock was set back.</param>
    /// <param name="read">
    /// Reads the value, the moment until which it holds (exclusive) where nothing is written, and its size (1 where values are counted).
    /// It is given the value that was kept before, which it may return again where that still holds. Null where there is none: then
    /// nothing is kept.
    /// </param>
    /// <returns>The value, or null where there is none.</returns>
    public TValue? Get(TKey key, Instant now, Func<TValue?, (TValue Value, Instant Until, int Size)?> read)
    {
        // Asked for before anything is read: what is read then is not older.
        var epoch = epochNow();
        var entry = cache.TryGetValue(key, out var found) ? (Entry?)found : null;
        if (entry is not null && entry.Epoch == epoch && entry.From <= now && now < entry.Until)
            return entry.Value;
        if (read(entry?.Value) is not var (value, until, size))
        {
            cache.Remove(key);
            return null;
        }

        cache.Set(key, new Entry(epoch, now, until, value), new MemoryCacheEntryOptions { Size = size });
        return value;
    }

    /// <inheritdoc />
    public void Dispose() => cache.Dispose();

    private sealed record Entry(long Epoch, Instant From, Instant Until, TValue Value);
}
