using System.Collections.Immutable;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using ExcelDataReader;
using ExcelDataReader.Exceptions;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Core.Timetables;

namespace JollyAlmanac.Formats;

/// <summary>
/// Reads the files that a school has, and says what each tells: exports of people and classes, workbooks, tables, lists and calendar files.
/// </summary>
public static class SchoolFiles
{
    /// <summary>The most cells of a workbook that are read.</summary>
    public const int MostCells = 2_000_000;

    private const long MostUnpacked = 200 * 1024 * 1024;

    private const int MostColumns = 300;

    static SchoolFiles() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>Reads a file, or what was pasted.</summary>
    /// <param name="name">What it is called; empty for what was pasted.</param>
    /// <param name="bytes">Its bytes.</param>
    /// <returns>What it holds, one for each sheet of a workbook and each file of a zip; hidden and empty sheets are passed over.</returns>
    /// <exception cref="FormatException">It cannot be read; the message is for people.</exception>
    public static IReadOnlyList<SchoolFile> Read(string name, byte[] bytes)
    {
        if (bytes is [0x50, 0x4B, ..])
            return IsWorkbook(name, bytes) ? Workbook(name, bytes) : Zip(name, bytes);
        // The compound file of older workbooks, and of those with a password.
        if (bytes is [0xD0, 0xCF, 0x11, 0xE0, ..])
            return Workbook(name, bytes);
        var start = Encoding.UTF8.GetString(bytes.AsSpan(0, Math.Min(bytes.Length, 200)));
        if (
            start.TrimStart('\uFEFF', ' ', '\r', '\n').StartsWith("BEGIN:VCALENDAR", StringComparison.OrdinalIgnoreCase)
        )
            return [new SchoolFile(name, SchoolFileKind.Calendar, Text: Encoding.UTF8.GetString(bytes))];
        var table = CsvTable.Read(name, bytes);
        var stem = Path.GetFileNameWithoutExtension(name).ToLowerInvariant();
        var known = stem == "manifest" ? "propertyName" : "sourcedId";
        if (OneRoster.Files.Contains(stem) && table.Columns.Contains(known, StringComparer.OrdinalIgnoreCase))
            return
            [
                new SchoolFile(name, SchoolFileKind.Roster, Tables: new Dictionary<string, Table> { [stem] = table }),
            ];
        var sheet = SheetOf(table);
        var kind = SchoolFile.KindOf(sheet);
        return kind switch
        {
            SchoolFileKind.People =>
            [
                new SchoolFile(name, kind, Tables: new Dictionary<string, Table> { [""] = table }),
            ],
            // Lines of days: what is no table at all may be a list.
            SchoolFileKind.Unknown => [new SchoolFile(name, kind, sheet, Text: CsvTable.TextOf(bytes))],
            _ => [new SchoolFile(name, kind, sheet)],
        };
    }

    /// <summary>Reads files and folders; the files of an export that lie together are one.</summary>
    /// <exception cref="FormatException">One cannot be read, or there is none; the message is for people.</exception>
    public static IReadOnlyList<SchoolFile> ReadPaths(IEnumerable<string> paths)
    {
        var found = new List<SchoolFile>();
        foreach (var path in paths)
        {
            if (!File.Exists(path) && !Directory.Exists(path))
                throw new FormatException($"There is no file and no folder {path}.");
            IEnumerable<string> within = Directory.Exists(path)
                ? Directory.EnumerateFiles(path).Order(StringComparer.Ordinal)
                : [path];
            foreach (var file in within)
            {
                if (new FileInfo(file).Length > RosterFiles.MostBytes)
                    throw new FormatException($"{file} is far too large.");
                found.AddRange(Read(Path.GetFileName(file), File.ReadAllBytes(file)));
            }
        }

        return Together(found);
    }

    /// <summary>The files of an export of people and classes as one, where they came one by one.</summary>
    public static IReadOnlyList<SchoolFile> Together(IReadOnlyList<SchoolFile> files)
    {
        var parts = files.Where(file => file.Kind == SchoolFileKind.Roster).ToList();
        if (parts.Count < 2)
            return files;
        var tables = new Dictionary<string, Table>();
        foreach (var (name, table) in parts.SelectMany(part => part.Tables!))
            tables.TryAdd(name, table);
        return
        [
            new SchoolFile($"OneRoster export, {parts.Count} files", SchoolFileKind.Roster, Tables: tables),
            .. files.Where(file => file.Kind != SchoolFileKind.Roster),
        ];
    }

    private static bool IsSheets(byte[] bytes)
    {
        try
        {
            return IsWorkbook("", bytes);
        }
        catch (FormatException)
        {
            return false;
        }
    }

    private static bool IsWorkbook(string name, byte[] bytes)
    {
        try
        {
            using var zip = new ZipArchive(new MemoryStream(bytes), ZipArchiveMode.Read);
            return zip.GetEntry("xl/workbook.xml") is not null || zip.GetEntry("xl/workbook.bin") is not null;
        }
        catch (InvalidDataException)
        {
            throw new FormatException($"{name} cannot be unpacked. Save it anew, or take the file itself.");
        }
    }

    private static IReadOnlyList<SchoolFile> Zip(string name, byte[] bytes)
    {
        using var zip = new ZipArchive(new MemoryStream(bytes), ZipArchiveMode.Read);
        var found = new List<SchoolFile>();
        var left = MostUnpacked;
        foreach (var entry in zip.Entries.Where(entry => entry.Name.Length > 0 && !entry.Name.StartsWith('.')))
        {
            using var copy = new MemoryStream();
            Unpack(name, entry, copy, ref left);
            // A zip within a zip is nobody's timetable.
            if (copy.ToArray() is [0x50, 0x4B, ..] inner && !IsSheets(inner))
            {
                found.Add(new SchoolFile(entry.Name, SchoolFileKind.Unknown));
                continue;
            }

            found.AddRange(Read(entry.Name, copy.ToArray()));
        }

        if (found.Count == 0)
            throw new FormatException($"There is no file in {name}.");
        var together = Together(found);
        return
        [
            .. together.Select(file =>
                file.Kind == SchoolFileKind.Roster
                    ? file with
                    {
                        Name = name,
                    }
                    : file with
                    {
                        Name = $"{name}, {file.Name}",
                    }
            ),
        ];
    }

    private static void Unpack(string name, ZipArchiveEntry entry, Stream into, ref long left)
    {
        try
        {
            RosterFiles.Unpack(name, entry, into, ref left);
        }
        catch (InvalidDataException)
        {
            throw new FormatException($"{name} cannot be unpacked. Save it anew, or take the file itself.");
        }
    }

    private static List<SchoolFile> Workbook(string name, byte[] bytes)
    {
        if (bytes is [0x50, 0x4B, ..])
        {
            using var zip = new ZipArchive(new MemoryStream(bytes), ZipArchiveMode.Read);
            var left = MostUnpacked;
            foreach (var entry in zip.Entries)
                Unpack(name, entry, Stream.Null, ref left);
        }

        var found = new List<SchoolFile>();
        try
        {
            using var reader = ExcelReaderFactory.CreateReader(new MemoryStream(bytes));
            var cells = 0;
            do
            {
                if (reader.VisibleState != "visible")
                    continue;
                var rows = ImmutableArray.CreateBuilder<ImmutableArray<string>>();
                var width = Math.Min(reader.FieldCount, MostColumns);
                while (reader.Read())
                {
                    if ((cells += width) > MostCells || rows.Count >= CsvTable.MostRows)
                        throw new FormatException(
                            $"{name} has far too many cells. Save the sheet with the timetable as a file of its own."
                        );
                    rows.Add([.. Enumerable.Range(0, width).Select(at => TextOf(reader.GetValue(at)))]);
                }

                if (rows.All(row => row.All(string.IsNullOrWhiteSpace)))
                    continue;
                var sheet = new Sheet(name, reader.Name, rows.ToImmutable())
                {
                    Merged =
                    [
                        .. (reader.MergeCells ?? []).Select(one => new MergedCells(
                            one.FromRow,
                            one.ToRow,
                            one.FromColumn,
                            one.ToColumn
                        )),
                    ],
                };
                var kind = SchoolFile.KindOf(sheet);
                found.Add(
                    kind == SchoolFileKind.People
                        ? new SchoolFile(
                            sheet.Called,
                            kind,
                            Tables: new Dictionary<string, Table> { [""] = TableOf(sheet) }
                        )
                        : new SchoolFile(sheet.Called, kind, sheet)
                );
            } while (reader.NextResult());
        }
        catch (InvalidPasswordException)
        {
            throw new FormatException($"{name} has a password. Save it without one, and choose it again.");
        }
        catch (ExcelReaderException)
        {
            throw new FormatException($"{name} cannot be read as a workbook. Open it, save it anew, and choose that.");
        }
        catch (Exception broken) when (broken is not FormatException and not OutOfMemoryException)
        {
            // Half a file: the library throws whatever it stumbles over.
            throw new FormatException($"{name} cannot be read as a workbook. Open it, save it anew, and choose that.");
        }

        return found.Count > 0 ? found : throw new FormatException($"There is nothing in {name}.");
    }

    // A day or a time of day: the library knows by the cell's format, and by which of the two date systems the workbook has.
    private static string TextOf(object? value) =>
        value switch
        {
            null => "",
            string text => text,
            DateTime { TimeOfDay.Ticks: 0 } day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            DateTime { Year: < 1905 } time => time.ToString("HH:mm", CultureInfo.InvariantCulture),
            DateTime both => both.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture),
            TimeSpan time => time.ToString(@"hh\:mm", CultureInfo.InvariantCulture),
            bool yes => yes ? "yes" : "no",
            double number => number.ToString("0.######", CultureInfo.InvariantCulture),
            _ => Convert.ToString(value, CultureInfo.InvariantCulture) ?? "",
        };

    private static Table TableOf(Sheet sheet)
    {
        var head = Math.Max(0, TimetableTable.Head(sheet).Row);
        return new Table(
            sheet.Called,
            sheet.Rows[head],
            [.. sheet.Rows.Skip(head + 1).Select((row, at) => new TableRow(head + 2 + at, row))]
        );
    }

    // Each row on its own line, so that what is refused is found again.
    private static Sheet SheetOf(Table table)
    {
        var rows = ImmutableArray.CreateBuilder<ImmutableArray<string>>();
        rows.Add(table.Columns);
        foreach (var row in table.Rows)
        {
            while (rows.Count < row.Line - 1)
                rows.Add([]);
            rows.Add(row.Fields);
        }

        return new Sheet(table.File, "", rows.ToImmutable()) { Remark = table.Remark };
    }
}
