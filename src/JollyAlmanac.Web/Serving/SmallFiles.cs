using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// The small files that were asked for last, in memory: the sheet that a whole class opens in the same minute is read once. What is
/// under a hash never changes; whether somebody may have it is asked before, on each request.
/// </summary>
public sealed class SmallFiles : IDisposable
{
    /// <summary>The largest that is kept, in bytes.</summary>
    public const int Largest = 256 * 1024;

    private readonly MemoryCache kept = new(new MemoryCacheOptions { SizeLimit = 8 * 1024 * 1024 });

    /// <summary>The bytes of a file; null where there is none, or it is not small.</summary>
    /// <param name="hash">The hash of what is in it.</param>
    /// <param name="path">Where it lies.</param>
    public byte[]? Find(string hash, string path)
    {
        if (kept.TryGetValue(hash, out byte[]? known))
            return known;
        using var file = Open(path);
        if (file is null || file.Length > Largest)
            return null;
        var bytes = new byte[file.Length];
        file.ReadExactly(bytes);
        // What is not asked for any more, or is taken off meanwhile, does not stay.
        return kept.Set(
            hash,
            bytes,
            new MemoryCacheEntryOptions { Size = bytes.Length, SlidingExpiration = TimeSpan.FromMinutes(5) }
        );
    }

    /// <summary>A file of any size, to be read once from its start; null where there is none.</summary>
    public static FileStream? Open(string path)
    {
        try
        {
            // Without a buffer of its own, which would only be one more copy.
            return new FileStream(
                path,
                FileMode.Open,
                FileAccess.Read,
                FileShare.Read | FileShare.Delete,
                bufferSize: 0,
                useAsync: true
            );
        }
        catch (Exception gone) when (gone is FileNotFoundException or DirectoryNotFoundException)
        {
            return null;
        }
    }

    /// <inheritdoc />
    public void Dispose() => kept.Dispose();
}
