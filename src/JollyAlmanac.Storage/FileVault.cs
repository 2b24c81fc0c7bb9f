using System.Security.Cryptography;

namespace JollyAlmanac.Storage;

/// <summary>
/// The bytes of uploaded files, stored once by their SHA-256 beside the database, never under the web root. A name that
/// somebody typed never becomes a path.
/// </summary>
public sealed class FileVault(string directory)
{
    private readonly string files = Path.Combine(directory, "files");

    /// <summary>Stores bytes and gives their hash, lower-case hex.</summary>
    public string Add(ReadOnlySpan<byte> bytes)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(bytes));
        var path = PathOf(hash);
        if (File.Exists(path)) return hash;
        PrivateFiles.MakeDirectory(Path.GetDirectoryName(path)!);
        // Written aside and moved into place, so that a crash leaves no half file under a whole name.
        PrivateFiles.Write(path, bytes);
        return hash;
    }

    /// <summary>The path of a stored file.</summary>
    public string PathOf(string hash) => Path.Combine(files, hash[..2], hash);
}
