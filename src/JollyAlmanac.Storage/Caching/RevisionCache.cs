using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Storage.Caching;

/// <summary>
/// What was read, planned or laid out once, in memory under the version of its rows: a number that the database raises with each
/// change. Bounded; the least recently used entries go first. Only readings use it: a writing may still be rolled back.
/// </summary>
public sealed class RevisionCache : IDisposable
{
    // About a session, a row or a hundred bytes each; some hundred megabytes at the very most.
    private const long MostSize = 300_000;

    private readonly MemoryCache cache = new(
        new MemoryCacheOptions { SizeLimit = MostSize, CompactionPercentage = 0.2 }
    );

    /// <summary>The value of that version; null where there is none.</summary>
    /// <param name="key">What it is derived from; the type of the value is a part of the key.</param>
    /// <param name="version">The version of the rows.</param>
    public T? Find<T>(object key, object version)
        where T : class =>
        cache.TryGetValue((typeof(T), key), out var found) && found is (object known, T value) && known.Equals(version)
            ? value
            : null;

    /// <summary>The value that was set last, outdated or not; null where there is none.</summary>
    /// <param name="key">What it is derived from; the type of the value is a part of the key.</param>
    public T? FindAnyVersion<T>(object key)
        where T : class =>
        cache.TryGetValue((typeof(T), key), out var found) && found is (object, T value) ? value : null;

    /// <summary>Sets a value in place of the one before it.</summary>
    /// <param name="key">What it is derived from.</param>
    /// <param name="version">The version of the rows it was made of.</param>
    /// <param name="value">Immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public void Set<T>(object key, object version, T value, int size)
        where T : class =>
        cache.Set((typeof(T), key), (version, value), new MemoryCacheEntryOptions { Size = size + 4 });

    /// <inheritdoc />
    public void Dispose() => cache.Dispose();
}
