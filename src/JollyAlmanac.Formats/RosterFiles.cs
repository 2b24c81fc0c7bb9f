using System.IO.Compression;
using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Formats;

/// <summary>Finds the files of a roster: a zip or a folder of OneRoster's files, or one table.</summary>
public static class RosterFiles
{
    internal const long MostBytes = 100 * 1024 * 1024;

    /// <summary>Reads a file that came in: a zip of OneRoster's files, or a table of people.</summary>
    /// <param name="name">What it is called.</param>
    /// <param name="bytes">Its bytes.</param>
    /// <returns>OneRoster's tables by their names, or one table under "".</returns>
    /// <exception cref="FormatException">It is neither; the message is for people.</exception>
    public static IReadOnlyDictionary<string, Table> Read(string name, byte[] bytes)
    {
        if (bytes is not [0x50, 0x4B, ..])
            return new Dictionary<string, Table> { [""] = CsvTable.Read(name, bytes) };
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes), ZipArchiveMode.Read);
            var tables = new Dictionary<string, Table>();
            var left = MostBytes;
            foreach (var entry in zip.Entries)
            {
                var table = Path.GetFileNameWithoutExtension(entry.Name).ToLowerInvariant();
                if (
                    !entry.Name.EndsWith(".csv", StringComparison.OrdinalIgnoreCase)
                    || !OneRoster.Files.Contains(table)
                    || tables.ContainsKey(table)
                )
                    continue;
                using var copy = new MemoryStream();
                Unpack(name, entry, copy, ref left);
                tables[table] = CsvTable.Read(entry.Name, copy.ToArray());
            }

            return tables.Count > 0
                ? tables
                : throw new FormatException(
                    $"{name} holds none of the files of a OneRoster export: users.csv, classes.csv, enrollments.csv, orgs.csv."
                );
        }
        catch (InvalidDataException)
        {
            throw new FormatException(
                $"{name} cannot be unpacked. Save it anew as a zip, or take the CSV file itself."
            );
        }
    }

    /// <summary>Unpacks one entry of a zip. What it says of its length is not believed.</summary>
    /// <param name="name">What the zip is called.</param>
    /// <param name="entry">The entry.</param>
    /// <param name="into">Where to.</param>
    /// <param name="left">How many bytes may come yet; goes down by those that came.</param>
    /// <exception cref="FormatException">It is longer; the message is for people.</exception>
    /// <exception cref="InvalidDataException">It is broken.</exception>
    internal static void Unpack(string name, ZipArchiveEntry entry, Stream into, ref long left)
    {
        using var stream = entry.Open();
        var buffer = new byte[64 * 1024];
        for (int read; (read = stream.Read(buffer)) > 0; into.Write(buffer, 0, read))
            if ((left -= read) < 0)
                throw new FormatException($"{name} is far too large when it is unpacked.");
    }

    /// <summary>Reads a folder of OneRoster's files, a zip of them, or a table of people.</summary>
    /// <exception cref="FormatException">There is none; the message is for people.</exception>
    public static IReadOnlyDictionary<string, Table> ReadPath(string path)
    {
        if (File.Exists(path))
        {
            if (new FileInfo(path).Length > MostBytes)
                throw new FormatException($"{path} is far too large.");
            return Read(Path.GetFileName(path), File.ReadAllBytes(path));
        }

        if (!Directory.Exists(path))
            throw new FormatException($"There is no file and no folder {path}.");
        var found = OneRoster
            .Files.Select(name => (name, File: Path.Combine(path, name + ".csv")))
            .Where(one => File.Exists(one.File))
            .ToList();
        if (found.Sum(one => new FileInfo(one.File).Length) > MostBytes)
            throw new FormatException($"The files in {path} are far too large.");
        return found.Count > 0
            ? found.ToDictionary(one => one.name, one => CsvTable.Read(one.name + ".csv", File.ReadAllBytes(one.File)))
            : throw new FormatException(
                $"There is no file of a OneRoster export in {path}: users.csv, classes.csv, enrollments.csv, orgs.csv."
            );
    }
}
