using JollyAlmanac.Core.Data;
using JollyAlmanac.Storage.Rows;

namespace JollyAlmanac.Storage.Caching;

/// <summary>What one reading derives from its rows, over the cache that all readings share.</summary>
public sealed class CachedReads
{
    private readonly RevisionCache? cache;
    private readonly RowReader rows;

    internal CachedReads(RevisionCache? cache, RowReader rows) => (this.cache, this.rows) = (cache, rows);

    /// <summary>The cached value where its version is still this one; else a new one, cached where this is a reading.</summary>
    /// <param name="key">What it is derived from; the type of the value is a part of the key.</param>
    /// <param name="version">Equal as long as the rows are the same; read in this same reading.</param>
    /// <param name="make">Makes it from the stores alone; immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public T GetOrCreate<T>(object key, object version, Func<T> make, Func<T, int> size)
        where T : class => GetOrCreate(key, version, _ => make(), size);

    /// <summary>The same, where a new value can be made of the outdated one.</summary>
    /// <param name="key">What it is derived from; the type of the value is a part of the key.</param>
    /// <param name="version">Equal as long as the rows are the same; read in this same reading.</param>
    /// <param name="make">Makes it from the stores and the outdated value, null for none; immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public T GetOrCreate<T>(object key, object version, Func<T?, T> make, Func<T, int> size)
        where T : class
    {
        if (cache is null)
            return make(null);
        if (cache.Find<Entry<T>>(key, version) is { } found)
        {
            rows.Tell(found.Unreadable);
            return found.Value;
        }

        var outdated = cache.FindAnyVersion<Entry<T>>(key)?.Value;
        var (value, unreadable) = rows.Gather(() => make(outdated));
        cache.Set(key, version, new Entry<T>(value, unreadable), size(value) + unreadable.Count);
        return value;
    }

    // Rows that cannot be read are reported as often as the value is used.
    private sealed record Entry<T>(T Value, IReadOnlyList<Unreadable> Unreadable);
}
