using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Data;

/// <summary>The directory that holds all of an installation: its database, files and keys.</summary>
public static class DataDirectory
{
    /// <summary>Whether an almanac's data is there.</summary>
    public static bool HoldsData(string directory) => File.Exists(Path.Combine(directory, AlmanacDatabase.FileName));

    /// <summary>Removes the data of an installation, and nothing else that may lie there.</summary>
    public static void RemoveData(string directory)
    {
        foreach (var file in Directory.EnumerateFiles(directory, AlmanacDatabase.FileName + "*"))
            File.Delete(file);
        foreach (var part in new[] { "files", "keys", "before-upgrade", "mail-drop" })
            if (Directory.Exists(Path.Combine(directory, part)))
                Directory.Delete(Path.Combine(directory, part), recursive: true);
        File.Delete(Path.Combine(directory, "rooms.json"));
        File.Delete(Path.Combine(directory, DataCopy.LastBackup));
        File.Delete(Path.Combine(directory, Secrets.FileName));
    }

    /// <summary>Makes a part of a data directory, for the almanac’s own user alone.</summary>
    public static void MakePrivate(string folder) => PrivateFiles.MakeDirectory(folder);

    /// <summary>Writes a file that only this user reads, in a folder that is made where it is missing.</summary>
    public static void WritePrivate(string folder, string name, ReadOnlySpan<byte> bytes)
    {
        PrivateFiles.MakeDirectory(folder);
        PrivateFiles.Write(Path.Combine(folder, name), bytes);
    }

    /// <summary>Removes what a backup left behind that was killed.</summary>
    public static void Sweep(string directory) => DataCopy.SweepLeftOvers(directory);

    /// <summary>Copies all data into one file, also while it is served.</summary>
    /// <returns>How many files there are besides the database.</returns>
    /// <exception cref="Core.Data.DataCopyException">There is no such data, or the file cannot be written.</exception>
    public static int BackUp(string directory, string file, Instant now)
    {
        var made = InstantPattern.General.Format(now);
        var files = DataCopy.BackUp(directory, file, made) - 1;
        WritePrivate(directory, DataCopy.LastBackup, System.Text.Encoding.UTF8.GetBytes(made));
        return files;
    }

    /// <summary>When the last backup of a directory was made; null where none is known of.</summary>
    public static Instant? LastBackupOf(string directory) =>
        Path.Combine(directory, DataCopy.LastBackup) is var path
        && File.Exists(path)
        && InstantPattern.General.Parse(File.ReadAllText(path)) is { Success: true, Value: var made }
            ? made
            : null;

    /// <summary>Makes a data directory of a backup, once all of it is found right.</summary>
    /// <returns>When the backup was made.</returns>
    /// <exception cref="Core.Data.DataCopyException">The backup is not whole, or the directory is in use.</exception>
    public static string Restore(string file, string directory) =>
        DataCopy.Restore(file, directory, DataCheck.Of).MadeAt;
}
