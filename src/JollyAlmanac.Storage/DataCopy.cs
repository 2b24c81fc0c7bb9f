using System.IO.Compression;
using System.Security.Cryptography;
using System.Text.Json;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Storage.Files;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>What a backup holds.</summary>
/// <param name="Form">The form of the backup; rises when it changes.</param>
/// <param name="MadeAt">When it was made, ISO 8601 in UTC.</param>
/// <param name="Entries">The SHA-256 of each entry, lower-case hex, by its path.</param>
public sealed record BackupManifest(int Form, string MadeAt, IReadOnlyDictionary<string, string> Entries);

/// <summary>
/// Copies a data directory into one file, also while the almanac serves, and back. The file is a ZIP archive with the database, the
/// uploaded files, the keys, and a manifest of what each must be. It holds everything: keep it as the directory itself.
/// </summary>
public static class DataCopy
{
    private const int Form = 1;
    private const string ManifestName = "manifest.json";

    // The newest form of writing is the only one that is read, as of now.
    private static readonly JsonSerializerOptions Json = new() { WriteIndented = true };

    /// <summary>
    /// Makes a backup of a data directory. The database is one consistent state; files are added to it only, so they are all there.
    /// </summary>
    /// <param name="directory">The data directory; the almanac may be serving it.</param>
    /// <param name="file">Where to; must not be there yet.</param>
    /// <param name="madeAt">The moment, ISO 8601.</param>
    /// <returns>How many entries it has.</returns>
    /// <exception cref="DataCopyException">There is no such data, or the file is there or cannot be written. Nothing is left
    /// behind.</exception>
    public static int BackUp(string directory, string file, string madeAt)
    {
        var database = Path.Combine(directory, AlmanacDatabase.FileName);
        if (!File.Exists(database))
            throw new DataCopyException($"There is no almanac's data in {directory}.");
        if (File.Exists(file))
            throw new DataCopyException($"{file} is there already. Choose another name.");
        Sweep(Path.GetDirectoryName(Path.GetFullPath(file))!, Path.GetFileName(file));
        Sweep(directory, ".backup-");
        var (part, copy) = ($"{file}.{Guid.NewGuid():N}", Path.Combine(directory, $".backup-{Guid.NewGuid():N}.db"));
        try
        {
            PrivateFiles.Touch(copy);
            using (
                var from = new SqliteConnection(
                    new SqliteConnectionStringBuilder
                    {
                        DataSource = database,
                        Mode = SqliteOpenMode.ReadWrite,
                        Pooling = false,
                        DefaultTimeout = 30,
                    }.ToString()
                )
            )
            using (
                var to = new SqliteConnection(
                    new SqliteConnectionStringBuilder { DataSource = copy, Pooling = false }.ToString()
                )
            )
            {
                from.Open();
                to.Open();
                from.BackupDatabase(to);
            }

            PrivateFiles.Touch(part);
            var entries = new SortedDictionary<string, string>(StringComparer.Ordinal);
            using (var stream = new FileStream(part, FileMode.Open, FileAccess.Write))
            using (var archive = new ZipArchive(stream, ZipArchiveMode.Create))
            {
                Add(archive, entries, AlmanacDatabase.FileName, copy);
                foreach (var path in Kept(directory))
                    Add(archive, entries, Path.GetRelativePath(directory, path).Replace('\\', '/'), path);
                using var manifest = archive.CreateEntry(ManifestName).Open();
                JsonSerializer.Serialize(manifest, new BackupManifest(Form, madeAt, entries), Json);
            }

            File.Move(part, file);
            return entries.Count;
        }
        catch (Exception failure) when (failure is IOException or UnauthorizedAccessException or SqliteException)
        {
            throw new DataCopyException(
                $"The backup could not be written ({failure.Message.ReplaceLineEndings(" ")}). Nothing is left of it."
            );
        }
        finally
        {
            File.Delete(part);
            File.Delete(copy);
        }
    }

    /// <summary>Makes a data directory of a backup, once all of it is found right.</summary>
    /// <param name="file">The backup.</param>
    /// <param name="directory">The new data directory; must not be there, or be empty.</param>
    /// <param name="check">Says what is wrong with the data in a directory, before it gets its name; none where all is well.</param>
    /// <returns>What was restored.</returns>
    /// <exception cref="DataCopyException">The backup is not whole, or the directory is in use. Nothing is left behind.</exception>
    public static BackupManifest Restore(string file, string directory, Func<string, IReadOnlyList<string>> check)
    {
        if (!File.Exists(file))
            throw new DataCopyException($"There is no backup {file}.");
        directory = Path.TrimEndingDirectorySeparator(Path.GetFullPath(directory));
        if (Directory.Exists(directory) && Directory.EnumerateFileSystemEntries(directory).Any())
            throw new DataCopyException($"{directory} is not empty. Choose a new directory.");
        Sweep(Path.GetDirectoryName(directory)!, Path.GetFileName(directory));
        var part = $"{directory}.{Guid.NewGuid():N}";
        try
        {
            PrivateFiles.MakeDirectory(part);
            using var archive = ZipFile.OpenRead(file);
            var manifest = ManifestOf(archive);
            foreach (var (name, hash) in manifest.Entries)
                Extract(archive, name, hash, part);
            if (
                archive.Entries.Any(entry =>
                    entry.FullName != ManifestName && !manifest.Entries.ContainsKey(entry.FullName)
                )
            )
                throw new DataCopyException("The backup holds more than its manifest says. Nothing was restored.");
            if (check(part) is [var wrong, ..])
                throw new DataCopyException($"The backup is not right: {wrong} Nothing was restored.");
            SqliteConnection.ClearAllPools();
            if (Directory.Exists(directory))
                Directory.Delete(directory);
            Directory.Move(part, directory);
            return manifest;
        }
        catch (Exception failure)
            when (failure
                    is IOException
                        or UnauthorizedAccessException
                        or InvalidDataException
                        or JsonException
                        or NotSupportedException
            )
        {
            throw new DataCopyException(
                $"The backup cannot be read ({failure.Message.ReplaceLineEndings(" ")}). Nothing was restored."
            );
        }
        finally
        {
            if (Directory.Exists(part))
                Directory.Delete(part, recursive: true);
        }
    }

    /// <summary>Removes the copies that a backup left in a data directory as it was killed; one that goes on is younger.</summary>
    public static void SweepLeftOvers(string directory) => Sweep(directory, ".backup-");

    // What one that was killed left behind: its name and 32 hexadecimal digits, untouched for an hour.
    private static void Sweep(string directory, string name)
    {
        if (!Directory.Exists(directory))
            return;
        foreach (var path in Directory.EnumerateFileSystemEntries(directory, name + "*"))
        {
            var rest = Path.GetFileName(path)[name.Length..].TrimStart('.');
            var digits = rest.Split('.')[0];
            if (
                digits.Length != 32
                || !digits.All(char.IsAsciiHexDigitLower)
                || Directory.GetLastWriteTimeUtc(path) > DateTime.UtcNow - TimeSpan.FromHours(1)
            )
                continue;
            if (Directory.Exists(path))
                Directory.Delete(path, recursive: true);
            else
                File.Delete(path);
        }
    }

    /// <summary>The file that tells when the last backup was made; it lies beside the data and is no part of it.</summary>
    public const string LastBackup = "last-backup";

    // All but the database, which is copied by itself, its own companions, and copies from before an upgrade.
    private static IEnumerable<string> Kept(string directory) =>
        Directory
            .EnumerateFiles(directory, "*", SearchOption.AllDirectories)
            .Where(path =>
                Path.GetRelativePath(directory, path).Replace('\\', '/') is var name
                && !name.StartsWith(AlmanacDatabase.FileName, StringComparison.Ordinal)
                && !name.StartsWith("before-upgrade/", StringComparison.Ordinal)
                && !FileVault.Passing.Any(passing => name.StartsWith(passing + "/", StringComparison.Ordinal))
                && name != LastBackup
                && !name.StartsWith(".probe-", StringComparison.Ordinal)
                && !name.StartsWith(".backup-", StringComparison.Ordinal)
            )
            .Order(StringComparer.Ordinal);

    private static void Add(ZipArchive archive, SortedDictionary<string, string> entries, string name, string path)
    {
        using var source = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
        using var entry = archive.CreateEntry(name, CompressionLevel.Fastest).Open();
        using var hash = SHA256.Create();
        using (var through = new CryptoStream(entry, hash, CryptoStreamMode.Write, leaveOpen: true))
            source.CopyTo(through);
        entries[name] = Convert.ToHexStringLower(hash.Hash!);
    }

    private static BackupManifest ManifestOf(ZipArchive archive)
    {
        if (archive.GetEntry(ManifestName) is not { } entry)
            throw new DataCopyException("The file is no backup of an almanac: it has no manifest.");
        using var stream = entry.Open();
        var manifest = JsonSerializer.Deserialize<BackupManifest>(stream, Json);
        if (manifest?.Entries is null || !manifest.Entries.ContainsKey(AlmanacDatabase.FileName))
            throw new DataCopyException("The file is no backup of an almanac: its manifest names no database.");
        return manifest.Form == Form
            ? manifest
            : throw new DataCopyException(
                "The backup was made by a newer Jolly Almanac. Restore it with that version."
            );
    }

    private static void Extract(ZipArchive archive, string name, string hash, string directory)
    {
        var path = Path.GetFullPath(Path.Combine(directory, name));
        // No name leads out of the directory.
        if (!path.StartsWith(directory + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            throw new DataCopyException("The backup names a place outside of its directory. Nothing was restored.");
        if (archive.GetEntry(name) is not { } entry)
            throw new DataCopyException($"The backup is not whole: {name} is missing. Nothing was restored.");
        PrivateFiles.MakeDirectory(Path.GetDirectoryName(path)!);
        PrivateFiles.Touch(path);
        using var source = entry.Open();
        using var target = new FileStream(path, FileMode.Truncate, FileAccess.Write);
        using var sum = SHA256.Create();
        using (var through = new CryptoStream(target, sum, CryptoStreamMode.Write, leaveOpen: true))
            source.CopyTo(through);
        if (Convert.ToHexStringLower(sum.Hash!) != hash)
            throw new DataCopyException($"The backup is not whole: {name} is not what it was. Nothing was restored.");
    }
}
