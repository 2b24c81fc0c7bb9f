using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Storage;

/// <summary>
/// What was read, planned or laid out once, kept in memory under how the thing stood then: a number that the database raises with
/// each change. Bounded; what was not used for longest goes first. Only readings use it: within a writing a number may still be
/// taken back.
/// </summary>
public sealed class RevisionCache : IDisposable
{
    // About a session, a row or a hundred bytes each; some hundred megabytes at the very most.
    private const long MostSize = 300_000;

    private readonly MemoryCache cache = new(
        new MemoryCacheOptions { SizeLimit = MostSize, CompactionPercentage = 0.2 }
    );

    /// <summary>The value that was kept under that standing; null where there is none, or the thing stands otherwise by now.</summary>
    /// <param name="key">What it is of; the type of the value is a part of it.</param>
    /// <param name="standing">How it stands.</param>
    public T? Find<T>(object key, object standing)
        where T : class =>
        cache.TryGetValue((typeof(T), key), out var found) && found is (object known, T value) && known.Equals(standing)
            ? value
            : null;

    /// <summary>The value that was kept last, however the thing stands by now; null where there is none.</summary>
    /// <param name="key">What it is of; the type of the value is a part of it.</param>
    public T? Last<T>(object key)
        where T : class =>
        cache.TryGetValue((typeof(T), key), out var found) && found is (object, T value) ? value : null;

    /// <summary>Keeps a value in the place of the one before it.</summary>
    /// <param name="key">What it is of.</param>
    /// <param name="standing">How it stood when it was read.</param>
    /// <param name="value">Immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public void Keep<T>(object key, object standing, T value, int size)
        where T : class =>
        cache.Set((typeof(T), key), (standing, value), new MemoryCacheEntryOptions { Size = size + 4 });

    /// <inheritdoc />
    public void Dispose() => cache.Dispose();
}
