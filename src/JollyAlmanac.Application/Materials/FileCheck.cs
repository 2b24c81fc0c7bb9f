using System.IO.Compression;
using System.Text;
using System.Xml;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.Drawing;

namespace JollyAlmanac.Application.Materials;

/// <summary>Looks into files for what would harm those who open them.</summary>
public interface IFileScanner
{
    /// <summary>Looks into a file.</summary>
    /// <param name="bytes">The file.</param>
    /// <returns>What was found, for people; null for nothing.</returns>
    /// <exception cref="FileScannerException">The file could not be looked at.</exception>
    string? Find(Stream bytes);
}

/// <summary>A file could not be scanned: it is not taken then, as nobody knows what is in it.</summary>
/// <param name="message">Why, for people; a sentence.</param>
/// <param name="inner">What failed.</param>
public sealed class FileScannerException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>Makes small pictures of pictures, somewhere that a picture which was made to do harm does none.</summary>
public interface IThumbnails
{
    /// <summary>A small picture, as WebP; null where the file cannot be read, is not there, or took too much.</summary>
    /// <param name="path">Where the picture lies.</param>
    /// <param name="stopping">Ends the waiting.</param>
    Task<byte[]?> Of(string path, CancellationToken stopping);
}

/// <summary>A file that was looked at.</summary>
/// <param name="Kind">What it is; null where it is not taken.</param>
/// <param name="Words">What it is found by beside its name; may be empty.</param>
/// <param name="Reason">Why it is not taken; null where it is.</param>
public sealed record CheckedFile(FileKind? Kind, string Words, string? Reason);

/// <summary>Whether a file is taken: by its name, by what is in it, and by what a scanner says. One place for all ways in.</summary>
/// <param name="scanner">Null where the school has none.</param>
public sealed class FileCheck(IFileScanner? scanner = null)
{
    /// <summary>The most that a package may have unpacked, in bytes.</summary>
    public const long MostUnpacked = 2L * 1024 * 1024 * 1024;

    /// <summary>Of text, so much is found by its words, in letters.</summary>
    public const int MostWords = 64 * 1024;

    // Packed text has a tenth or a twentieth of its size; what has far less was made to burst.
    private const int MostTimes = 200;

    private const int MostInPackage = 20_000;

    // So much of a part's XML is read, marks and all, in letters: the reader holds one attribute whole, however long.
    private const int MostRead = 8_000_000;

    /// <summary>Looks at a file.</summary>
    /// <param name="bytes">The file; can be read from any place.</param>
    /// <param name="name">Its name.</param>
    public CheckedFile Of(Stream bytes, string name)
    {
        if (bytes.Length == 0)
            return new CheckedFile(null, "", $"“{name}” is empty. Attach it again once it has something in it.");
        Span<byte> first = stackalloc byte[16];
        bytes.Position = 0;
        var (kind, reason) = FileKind.Of(
            name,
            first[..bytes.ReadAtLeast(first, first.Length, throwOnEndOfStream: false)]
        );
        if (kind is null)
            return new CheckedFile(null, "", reason);
        bytes.Position = 0;
        reason =
            kind.IsPackage ? InPackage(bytes, name)
            : kind.IsPicture ? InPicture(bytes, name)
            : null;
        if (reason is not null)
            return new CheckedFile(null, "", reason);
        bytes.Position = 0;
        try
        {
            if (scanner?.Find(bytes) is { } found)
                return new CheckedFile(null, "", $"“{name}” is not taken: {found}. Look at the machine it comes from.");
        }
        catch (FileScannerException failure)
        {
            return new CheckedFile(
                null,
                "",
                $"“{name}” is not taken, as it could not be scanned. {failure.Message} Try again in a few minutes."
            );
        }

        bytes.Position = 0;
        return new CheckedFile(kind, kind.IsText ? WordsOf(bytes) : "", null);
    }

    /// <summary>A small picture of a picture; only in a process that has an end in time and memory.</summary>
    /// <param name="bytes">The file; can be read from any place.</param>
    /// <returns>WebP; null where it cannot be read.</returns>
    public static byte[]? ThumbnailOf(Stream bytes) => Thumbnail.Of(bytes);

    /// <summary>The words of a PDF or of a document, told by how it begins; only in a process that has an end in time and memory.</summary>
    /// <param name="bytes">The file; can be read from any place.</param>
    public static string WordsIn(Stream bytes)
    {
        Span<byte> first = stackalloc byte[2];
        var isPackage =
            bytes.ReadAtLeast(first, first.Length, throwOnEndOfStream: false) == 2 && first.SequenceEqual("PK"u8);
        bytes.Position = 0;
        return isPackage ? WordsInPackage(bytes) : PdfText.Of(bytes, MostWords);
    }

    private static string? InPicture(Stream bytes, string name) =>
        Thumbnail.SizeOf(bytes) is not var (width, height)
            ? $"“{name}” cannot be read as a picture. Save it again as one, or attach the original."
        : (long)width * height > Thumbnail.MostDots
            ? $"“{name}” is {width} by {height} dots, more than a browser can show. Make it smaller."
        : null;

    private static string? InPackage(Stream bytes, string name)
    {
        try
        {
            using var package = new ZipArchive(bytes, ZipArchiveMode.Read, leaveOpen: true);
            if (package.Entries.Count > MostInPackage)
                return $"“{name}” holds {package.Entries.Count} files, far more than a class can use.";
            var unpacked = 0L;
            foreach (var entry in package.Entries)
            {
                unpacked += entry.Length;
                if (
                    entry.Length > 10_000_000 && entry.Length / Math.Max(1, entry.CompressedLength) > MostTimes
                    || unpacked > MostUnpacked
                )
                    return $"“{name}” would grow to {UploadLimit.InWords(package.Entries.Sum(one => one.Length))} when it is opened, which stops the machine that opens it.";
                if (entry.FullName.EndsWith("vbaProject.bin", StringComparison.OrdinalIgnoreCase))
                    return $"“{name}” has a program in it (macros). Save it without, and attach it again.";
            }

            var ending = Path.GetExtension(name).ToLowerInvariant();
            var needs = ending switch
            {
                ".docx" or ".xlsx" or ".pptx" => "[Content_Types].xml",
                ".odt" or ".ods" or ".odp" or ".epub" => "mimetype",
                _ => null,
            };
            return needs is null || package.GetEntry(needs) is not null
                ? null
                : $"“{name}” does not look inside like what its ending says. Save it again, or attach the original.";
        }
        catch (InvalidDataException)
        {
            return $"“{name}” is damaged: it cannot be opened. Attach it again from where it is whole.";
        }
    }

    // Where documents, slides and tables have their text (ECMA-376, OASIS ODF 1.3: XML), its marks taken away.
    private static string WordsInPackage(Stream bytes)
    {
        var words = new StringBuilder();
        try
        {
            using var package = new ZipArchive(bytes, ZipArchiveMode.Read, leaveOpen: true);
            foreach (
                var entry in package.Entries.Where(entry =>
                    entry.FullName is "word/document.xml" or "content.xml" or "xl/sharedStrings.xml"
                    || (
                        entry.FullName.StartsWith("ppt/slides/slide", StringComparison.Ordinal)
                        && entry.FullName.EndsWith(".xml", StringComparison.Ordinal)
                    )
                )
            )
            {
                using var part = entry.Open();
                using var xml = XmlReader.Create(
                    part,
                    new XmlReaderSettings
                    {
                        DtdProcessing = DtdProcessing.Prohibit,
                        XmlResolver = null,
                        MaxCharactersInDocument = MostRead,
                    }
                );
                while (words.Length < MostWords && xml.Read())
                    if (xml.NodeType is XmlNodeType.Text or XmlNodeType.CDATA)
                        words.Append(xml.Value);
                    // Letters of one word may stand in several pieces; a paragraph, a cell or a line ends it.
                    else if (
                        xml.NodeType == XmlNodeType.EndElement
                        && xml.LocalName is "p" or "h" or "si" or "tab" or "br"
                    )
                        words.Append(' ');
                if (words.Length >= MostWords)
                    break;
                words.Append(' ');
            }
        }
        // What cannot be read as text is found by its name.
        catch (Exception failure) when (failure is XmlException or InvalidDataException)
        {
            return FormReader.Clean(words.ToString(), keepLines: false);
        }

        return FormReader.Clean(
            words.Length > MostWords ? words.ToString(0, MostWords) : words.ToString(),
            keepLines: false
        );
    }

    private static string WordsOf(Stream bytes)
    {
        using var reader = new StreamReader(bytes, Encoding.UTF8, true, 4096, leaveOpen: true);
        var text = new char[MostWords];
        return FormReader.Clean(new string(text, 0, reader.ReadBlock(text)), keepLines: false);
    }
}
