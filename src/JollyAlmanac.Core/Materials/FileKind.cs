using System.Collections.Frozen;

namespace JollyAlmanac.Core.Materials;

/// <summary>
/// The kinds of files a class hands out, known by their ending and, where the kind has one, by the bytes they begin
/// with. What is not in the table is not taken: programs, scripts, web pages and pictures that can carry scripts (SVG)
/// would run in a reader's browser or machine.
/// </summary>
/// <param name="MediaType">The media type it is served as.</param>
/// <param name="Label">For people: "PDF".</param>
/// <param name="OpensInBrowser">Whether a browser shows it safely; else it is saved.</param>
public sealed record FileKind(string MediaType, string Label, bool OpensInBrowser)
{
    private static readonly byte[] Zip = [0x50, 0x4B, 0x03, 0x04];

    private static readonly FrozenDictionary<string, (FileKind Kind, byte[][] Begins)> Known = new Dictionary<
        string,
        (FileKind, byte[][])
    >(StringComparer.OrdinalIgnoreCase)
    {
        [".pdf"] = (new("application/pdf", "PDF", true), ["%PDF-"u8.ToArray()]),
        [".png"] = (
            new("image/png", "Picture", true),
            [
                [0x89, 0x50, 0x4E, 0x47],
            ]
        ),
        [".jpg"] = (
            new("image/jpeg", "Picture", true),
            [
                [0xFF, 0xD8, 0xFF],
            ]
        ),
        [".jpeg"] = (
            new("image/jpeg", "Picture", true),
            [
                [0xFF, 0xD8, 0xFF],
            ]
        ),
        [".gif"] = (new("image/gif", "Picture", true), ["GIF8"u8.ToArray()]),
        [".webp"] = (new("image/webp", "Picture", true), ["RIFF"u8.ToArray()]),
        [".txt"] = (new("text/plain", "Text", false), []),
        [".md"] = (new("text/markdown", "Text", false), []),
        [".csv"] = (new("text/csv", "Table", false), []),
        [".docx"] = (
            new("application/vnd.openxmlformats-officedocument.wordprocessingml.document", "Document", false),
            [Zip]
        ),
        [".xlsx"] = (new("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "Table", false), [Zip]),
        [".pptx"] = (
            new("application/vnd.openxmlformats-officedocument.presentationml.presentation", "Slides", false),
            [Zip]
        ),
        [".odt"] = (new("application/vnd.oasis.opendocument.text", "Document", false), [Zip]),
        [".ods"] = (new("application/vnd.oasis.opendocument.spreadsheet", "Table", false), [Zip]),
        [".odp"] = (new("application/vnd.oasis.opendocument.presentation", "Slides", false), [Zip]),
        [".epub"] = (new("application/epub+zip", "Book", false), [Zip]),
        [".zip"] = (new("application/zip", "Archive", false), [Zip]),
        [".mp3"] = (new("audio/mpeg", "Sound", false), ["ID3"u8.ToArray(), [0xFF, 0xFB], [0xFF, 0xF3], [0xFF, 0xF2]]),
        [".m4a"] = (new("audio/mp4", "Sound", false), []),
        [".ogg"] = (new("audio/ogg", "Sound", false), ["OggS"u8.ToArray()]),
        [".wav"] = (new("audio/wav", "Sound", false), ["RIFF"u8.ToArray()]),
        [".mp4"] = (new("video/mp4", "Film", false), []),
        [".vtt"] = (new("text/vtt", "Captions", false), ["WEBVTT"u8.ToArray(), [0xEF, 0xBB, 0xBF, .. "WEBVTT"u8]]),
        [".webm"] = (
            new("video/webm", "Film", false),
            [
                [0x1A, 0x45, 0xDF, 0xA3],
            ]
        ),
    }.ToFrozenDictionary(StringComparer.OrdinalIgnoreCase);

    /// <summary>The endings that are taken, for people to read.</summary>
    public static string Endings { get; } = string.Join(", ", Known.Keys.Order(StringComparer.Ordinal));

    // What a system would run if it took the inner ending for the real one.
    private static readonly FrozenSet<string> Runs = new[]
    {
        ".exe",
        ".com",
        ".bat",
        ".cmd",
        ".scr",
        ".msi",
        ".ps1",
        ".vbs",
        ".js",
        ".jse",
        ".wsf",
        ".hta",
        ".jar",
        ".lnk",
        ".sh",
        ".app",
        ".dll",
        ".svg",
        ".html",
        ".htm",
        ".xhtml",
        ".php",
        ".docm",
        ".xlsm",
        ".pptm",
    }.ToFrozenSet(StringComparer.OrdinalIgnoreCase);

    /// <summary>The kind of a file by its name and first bytes.</summary>
    /// <returns>The kind, or the reason why the file is not taken.</returns>
    /// <example>
    /// <code>
    /// FileKind.Of("notes.pdf", "%PDF-1.7"u8).Kind!.MediaType // application/pdf
    /// FileKind.Of("notes.pdf", "&lt;html&gt;"u8).Kind // null
    /// </code>
    /// </example>
    public static (FileKind? Kind, string? Reason) Of(string fileName, ReadOnlySpan<byte> firstBytes)
    {
        for (
            var inner = Path.GetFileNameWithoutExtension(fileName);
            Path.GetExtension(inner) is { Length: > 0 } ending;
            inner = Path.GetFileNameWithoutExtension(inner)
        )
            if (Runs.Contains(ending))
                return (
                    null,
                    $"“{fileName}” has two endings, and one of them, {ending}, is of a program. Give it a plain name and attach it again."
                );
        if (!Known.TryGetValue(Path.GetExtension(fileName), out var known))
            return (
                null,
                $"“{fileName}” is not a kind of file that is taken, because it could run on a reader's machine. These are: {Endings}."
            );
        if (known.Begins.Length == 0)
            return (known.Kind, null);
        foreach (var begin in known.Begins)
            if (firstBytes.StartsWith(begin))
                return (known.Kind, null);
        return (
            null,
            $"“{fileName}” does not look inside like what its ending says. Save it again as {known.Kind.Label}, or attach the original."
        );
    }

    /// <summary>A picture.</summary>
    public bool IsPicture => MediaType.StartsWith("image/", StringComparison.Ordinal);

    /// <summary>Text that is shown on a page of the almanac's own.</summary>
    public bool IsText => MediaType is "text/plain" or "text/markdown" or "text/csv";

    /// <summary>Sound or film, with a player.</summary>
    public bool Plays =>
        MediaType.StartsWith("audio/", StringComparison.Ordinal)
        || MediaType.StartsWith("video/", StringComparison.Ordinal);

    /// <summary>A package of files in the ZIP format.</summary>
    public bool IsPackage => Known.Values.Any(known => known.Kind == this && known.Begins is [var only] && only == Zip);

    /// <summary>The kind that a media type stands for, as found when the file was taken.</summary>
    public static FileKind OfMediaType(string mediaType) =>
        Known.Values.FirstOrDefault(known => known.Kind.MediaType == mediaType).Kind
        ?? new FileKind("application/octet-stream", "File", false);
}
