using System.Collections.Immutable;
using System.Text;
using CsvHelper;
using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Formats;

/// <summary>Tables as files of comma-separated values (RFC 4180): read as they are found, written so that nothing in them runs.</summary>
public static class CsvTable
{
    /// <summary>The most lines that are read.</summary>
    public const int MostRows = 200_000;

    private static readonly UTF8Encoding Strict = new(false, throwOnInvalidBytes: true);

    /// <summary>
    /// Reads a file. UTF-8 and UTF-16 are known by their mark, UTF-8 without one by its bytes; what is neither is read as Western European,
    /// and that is remarked. Commas, semicolons and tabs are told apart by the first lines.
    /// </summary>
    /// <param name="file">What it is called.</param>
    /// <param name="bytes">Its bytes.</param>
    /// <exception cref="FormatException">It is no table; the message is for people.</exception>
    /// <example>
    /// <code>
    /// CsvTable.Read("people.csv", Encoding.UTF8.GetBytes("Name;Role\n\"Quill; Teodor\";Pupil")).Rows[0].Fields // Quill; Teodor | Pupil
    /// </code>
    /// </example>
    public static Table Read(string file, byte[] bytes)
    {
        var (text, remark) = Decode(bytes);
        if (text.Contains('\0', StringComparison.Ordinal))
            throw new FormatException($"{Called(file)} is no text, so no table can be read from it.");
        try
        {
            // A stray quotation mark is a sign like others; one that is not closed would take the rest of the file into one field.
            var isOpen = false;
            using var reader = CsvReader.FromText(
                text,
                CsvReaderOptions.Default with
                {
                    OnMalformedRecord = record => isOpen |= record.Reason == CsvMalformedReason.UnterminatedQuote,
                    TrackLineNumbers = true,
                    TrimWhitespace = true,
                    MaxRecordSize = 256 * 1024,
                    IncludeValuesInExceptions = false,
                }
            );
            reader.ReadHeader();
            ImmutableArray<string> columns = [.. reader.Headers];
            if (columns.Length == 0)
                throw new FormatException($"{Called(file)} is empty.");
            var rows = ImmutableArray.CreateBuilder<TableRow>();
            while (reader.Read())
            {
                if (rows.Count == MostRows)
                    throw new FormatException(
                        $"{Called(file)} has more than {MostRows} lines. Cut it into several files."
                    );
                var fields = ImmutableArray.CreateBuilder<string>(reader.FieldCount);
                for (var at = 0; at < reader.FieldCount; at++)
                    fields.Add(reader.GetString(at));
                rows.Add(new TableRow((int)reader.LineNumber, fields.DrainToImmutable()));
            }

            return isOpen
                ? throw new FormatException(
                    $"{Called(file)} cannot be read as a table: a quotation mark is not closed."
                )
                : new Table(file, columns, rows.ToImmutable(), remark);
        }
        catch (CsvFormatException)
        {
            throw new FormatException($"{Called(file)} cannot be read as a table: a line is far too long.");
        }
    }

    /// <summary>The text of a file, decoded as a table's is.</summary>
    public static string TextOf(byte[] bytes) => Decode(bytes).Item1;

    /// <summary>The rows of a pasted table that say something, its head among them; a line break within quotes is a space of its field.</summary>
    /// <param name="text">The text.</param>
    /// <param name="separator">What is between fields.</param>
    /// <returns>Rows of as many fields as each has. From a quotation mark that is not closed on, the lines as they are, cut at separators.</returns>
    internal static IReadOnlyList<IReadOnlyList<string>> Rows(string text, char separator)
    {
        var openFrom = int.MaxValue;
        using var reader = CsvReader.FromText(
            text,
            CsvReaderOptions.Default with
            {
                Separator = separator,
                HasHeader = false,
                OnMalformedRecord = record =>
                {
                    if (record.Reason == CsvMalformedReason.UnterminatedQuote)
                        openFrom = Math.Min(openFrom, (int)record.LineNumber);
                },
                TrackLineNumbers = true,
                TrimWhitespace = true,
            }
        );
        var rows = new List<IReadOnlyList<string>>();
        while (reader.Read() && reader.LineNumber < openFrom)
        {
            List<string> fields =
            [
                .. Enumerable.Range(0, reader.FieldCount).Select(at => reader.GetString(at).ReplaceLineEndings(" ")),
            ];
            if (fields.Exists(field => field.Length > 0))
                rows.Add(fields);
        }

        if (openFrom < int.MaxValue)
            rows.AddRange(
                text.Split('\n')
                    .Skip(openFrom - 1)
                    .Where(line => !string.IsNullOrWhiteSpace(line))
                    .Select(line => line.Split(separator))
            );
        return rows;
    }

    /// <summary>Writes a table in UTF-8 with its mark; a field that a spreadsheet would run as a formula is marked as text.</summary>
    /// <example>
    /// <code>
    /// Encoding.UTF8.GetString(CsvTable.Write(["Name"], [["=1+1"]])).TrimStart('\uFEFF').Trim() // Name\n"'=1+1"
    /// </code>
    /// </example>
    public static byte[] Write(IReadOnlyList<string> columns, IEnumerable<IReadOnlyList<string>> rows)
    {
        using var stream = new MemoryStream();
        using (
            var writer = CsvWriter.Create(
                stream,
                CsvWriterOptions.Default with
                {
                    Injection = CsvInjection.Escape,
                    WriteByteOrderMark = true,
                },
                leaveOpen: true
            )
        )
        {
            foreach (var row in rows.Prepend(columns))
            {
                foreach (var field in row)
                    writer.WriteField(field);
                writer.EndRecord();
            }
        }

        return stream.ToArray();
    }

    private static (string Text, string Remark) Decode(byte[] bytes)
    {
        if (bytes is [0xEF, 0xBB, 0xBF, ..])
            return (Encoding.UTF8.GetString(bytes, 3, bytes.Length - 3), "");
        if (bytes is [0xFF, 0xFE, ..])
            return (Encoding.Unicode.GetString(bytes, 2, bytes.Length - 2), "");
        if (bytes is [0xFE, 0xFF, ..])
            return (Encoding.BigEndianUnicode.GetString(bytes, 2, bytes.Length - 2), "");
        try
        {
            return (Strict.GetString(bytes), "");
        }
        catch (DecoderFallbackException)
        {
            return (
                Encoding.Latin1.GetString(bytes),
                "It is not written in UTF-8, and was read as Western European. Look whether names with accents are right."
            );
        }
    }

    private static string Called(string file) => file.Length > 0 ? file : "The file";
}
