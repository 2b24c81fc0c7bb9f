using System.Collections.Concurrent;
using System.Security.Cryptography;
using JollyAlmanac.Core.Materials;

namespace JollyAlmanac.Storage.Files;

/// <summary>
/// The bytes of uploaded files, stored once by their SHA-256 beside the database, never under the web root. A name that
/// somebody typed never becomes a path. Beside them, what is on its way in, and small pictures that were made of files.
/// </summary>
public sealed class FileVault(string directory)
{
    /// <summary>The directories, within that of the data, whose files can be had again: no backup needs them.</summary>
    public static IReadOnlyList<string> Passing { get; } = ["uploads", "pictures"];

    /// <summary>The directory of the data that it is part of.</summary>
    public string DataDirectory => directory;

    private readonly string files = Path.Combine(directory, "files");

    // The keys that somebody writes to, or takes from. The lock of the file itself comes a moment after it is opened: who opened it before
    // it was claimed would get the lock after, and write into what was looked at.
    private readonly ConcurrentDictionary<string, bool> held = new();

    /// <summary>Stores bytes and gives their hash, lower-case hex.</summary>
    public string Add(ReadOnlySpan<byte> bytes)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(bytes));
        var path = PathOf(hash);
        if (File.Exists(path))
            return hash;
        PrivateFiles.MakeDirectory(Path.GetDirectoryName(path)!);
        // Written aside and moved into place, so that a crash leaves no half file under a whole name.
        PrivateFiles.Write(path, bytes);
        return hash;
    }

    /// <summary>
    /// Takes what came in under a key away from it, under a name that nobody else knows: what is looked at, hashed and stored after that
    /// are the same bytes, whatever is sent under the key meanwhile.
    /// </summary>
    /// <returns>The key it has from now on; null where somebody else writes to it, or took it already.</returns>
    public string? Claim(UploadKey key)
    {
        if (!held.TryAdd(key.Value, true))
            return null;
        try
        {
            // Not while another process writes to it.
            using var alone = new FileStream(PartOf(key.Value), FileMode.Open, FileAccess.ReadWrite, FileShare.None);
            var claimed = $"{key}.{Guid.NewGuid():N}";
            File.Move(PartOf(key.Value), PartOf(claimed));
            return claimed;
        }
        catch (IOException)
        {
            return null;
        }
        finally
        {
            held.TryRemove(key.Value, out _);
        }
    }

    /// <summary>The hash of what came in; read piece by piece, however large it is.</summary>
    /// <param name="claimed">As <see cref="Claim"/> gave it.</param>
    public string HashOfPart(string claimed)
    {
        using var stream = File.OpenRead(PartOf(claimed));
        return Convert.ToHexStringLower(SHA256.HashData(stream));
    }

    /// <summary>Stores what came in under its hash. Where that is stored already it stays as it is: a stored file is never written
    /// to.</summary>
    /// <param name="claimed">As <see cref="Claim"/> gave it.</param>
    /// <param name="hash">Its hash.</param>
    public void Store(string claimed, string hash)
    {
        var path = PathOf(hash);
        PrivateFiles.MakeDirectory(Path.GetDirectoryName(path)!);
        if (File.Exists(path))
            File.Delete(PartOf(claimed));
        else
            File.Move(PartOf(claimed), path, overwrite: false);
    }

    /// <summary>Removes claimed parts that were left behind by a process that was stopped.</summary>
    /// <param name="before">Last written to before then, in UTC.</param>
    public void DropClaimed(DateTime before)
    {
        var uploads = Path.Combine(directory, "uploads");
        if (!Directory.Exists(uploads))
            return;
        foreach (
            var path in Directory.EnumerateFiles(uploads, "*.*").Where(path => File.GetLastWriteTimeUtc(path) < before)
        )
            File.Delete(path);
    }

    /// <summary>Adds to what came in under that key, from a place on.</summary>
    /// <param name="key">The key.</param>
    /// <param name="at">Where in the file it goes, in bytes; what was there behind it is lost.</param>
    /// <param name="bytes">What comes.</param>
    /// <param name="most">The most that is taken.</param>
    /// <param name="cancellation">Ends it; what came before then stays.</param>
    /// <returns>How long it is now, and whether there was more than is taken.</returns>
    /// <exception cref="IOException">
    /// The disk is full, and what fitted stays; or somebody else sends to that key right now.
    /// </exception>
    public async Task<(long Length, bool IsTooMuch)> AddToPart(
        UploadKey key,
        long at,
        Stream bytes,
        long most,
        CancellationToken cancellation
    )
    {
        if (!held.TryAdd(key.Value, true))
            throw new IOException("Another request writes to the same file.");
        try
        {
            return await AddAlone(key, at, bytes, most, cancellation);
        }
        finally
        {
            held.TryRemove(key.Value, out _);
        }
    }

    private async Task<(long Length, bool IsTooMuch)> AddAlone(
        UploadKey key,
        long at,
        Stream bytes,
        long most,
        CancellationToken cancellation
    )
    {
        PrivateFiles.MakeDirectory(Path.Combine(directory, "uploads"));
        PrivateFiles.Touch(PartOf(key.Value));
        await using var file = new FileStream(
            PartOf(key.Value),
            FileMode.Open,
            FileAccess.Write,
            FileShare.None,
            1,
            useAsync: true
        );
        file.SetLength(at);
        file.Position = at;
        var buffer = new byte[64 * 1024];
        var taken = 0L;
        while (true)
        {
            int read;
            try
            {
                read = await bytes.ReadAsync(buffer, cancellation);
            }
            // The line was lost: what came is there to be carried on from.
            catch (Exception lost) when (lost is IOException or OperationCanceledException)
            {
                break;
            }

            if (read == 0)
                break;
            if (taken + read > most)
                return (at + taken, true);
            await file.WriteAsync(buffer.AsMemory(0, read), CancellationToken.None);
            taken += read;
        }

        return (at + taken, false);
    }

    /// <summary>How much came in under that key, in bytes.</summary>
    public long LengthOfPart(UploadKey key) =>
        new FileInfo(PartOf(key.Value)) is { Exists: true } part ? part.Length : 0;

    /// <summary>Opens what came in.</summary>
    /// <param name="name">From <see cref="Claim"/>.</param>
    public Stream OpenPart(string name) => File.OpenRead(PartOf(name));

    /// <summary>Drops what came in.</summary>
    /// <param name="name">A key, or what <see cref="Claim"/> gave.</param>
    public void DropPart(string name)
    {
        if (File.Exists(PartOf(name)))
            File.Delete(PartOf(name));
    }

    /// <summary>Whether a file is stored.</summary>
    public bool Has(string hash) => File.Exists(PathOf(hash));

    /// <summary>Removes a file and what was made of it.</summary>
    public void Remove(string hash)
    {
        if (Has(hash))
            File.Delete(PathOf(hash));
        if (File.Exists(PictureOf(hash)))
            File.Delete(PictureOf(hash));
    }

    /// <summary>The hashes of all stored files.</summary>
    public IEnumerable<string> All() =>
        Directory.Exists(files)
            ? Directory
                .EnumerateFiles(files, "*", SearchOption.AllDirectories)
                .Select(path => Path.GetFileName(path)!)
                .Where(name => name.Length == 64 && name.All(char.IsAsciiHexDigitLower))
            : [];

    /// <summary>The path of a stored file.</summary>
    public string PathOf(string hash) => Path.Combine(files, hash[..2], hash);

    /// <summary>Where the small picture of a stored file is, once it was made.</summary>
    public string PictureOf(string hash) => Path.Combine(directory, "pictures", hash);

    /// <summary>Keeps the small picture of a stored file.</summary>
    public void KeepPicture(string hash, ReadOnlySpan<byte> picture)
    {
        PrivateFiles.MakeDirectory(Path.Combine(directory, "pictures"));
        PrivateFiles.Write(PictureOf(hash), picture);
    }

    private string PartOf(string name) => Path.Combine(directory, "uploads", name);
}
