using System.Text;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>Something in a file that RFC 5545 does not allow, and that was forgiven as far as it could be.</summary>
/// <param name="Line">The line of the file, from 1.</param>
/// <param name="Section">Of RFC 5545: "3.1".</param>
/// <param name="Says">What is there, in plain words.</param>
/// <param name="Remedy">What to do.</param>
public sealed record Breach(int Line, string Section, string Says, string Remedy);

/// <summary>A file as it was read.</summary>
/// <param name="Calendars">Its VCALENDARs, in order; none where it is no calendar.</param>
/// <param name="Breaches">What was wrong with its lines, in order; a kind that goes on and on is told once.</param>
/// <param name="IsCutOff">It ends before its last component does.</param>
public sealed record ICalendarFile(IReadOnlyList<Component> Calendars, IReadOnlyList<Breach> Breaches, bool IsCutOff);

/// <summary>
/// Reads the lines and components of an iCalendar file (RFC 5545 §3.1, §3.4, §3.6), as they are found in the world: any line ends, a byte
/// order mark, lines folded inside a character, Western European letters, names in small letters. What they mean is asked of others.
/// </summary>
public static class ICalendarReader
{
    /// <summary>How deep components may stand within another; those of RFC 5545 stand three deep.</summary>
    public const int Deepest = 16;

    /// <summary>The longest line that is read, unfolded, in octets; files carry pictures in lines.</summary>
    public const int LongestLine = 4 * 1024 * 1024;

    // A kind of breach is told so often at most.
    private const int MostOfAKind = 20;

    private static readonly UTF8Encoding Strict = new(false, throwOnInvalidBytes: true);
    private static readonly Encoding Western = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    /// <summary>Whether a file that is no calendar is a web page: mostly one to sign in at, saved in its stead.</summary>
    /// <example>
    /// <code>
    /// ICalendarReader.IsWebPage("&lt;!DOCTYPE html&gt;&lt;p&gt;Sign in"u8) // true
    /// </code>
    /// </example>
    public static bool IsWebPage(ReadOnlySpan<byte> bytes)
    {
        var start = Encoding
            .UTF8.GetString(bytes[..Math.Min(bytes.Length, 1000)])
            .TrimStart('\uFEFF', ' ', '\r', '\n', '\t');
        return start.StartsWith("<!DOCTYPE", StringComparison.OrdinalIgnoreCase)
            || start.StartsWith("<html", StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>Reads a file. Never fails: what cannot be read is left out and told.</summary>
    public static ICalendarFile Read(ReadOnlySpan<byte> bytes)
    {
        var reading = new Reading();
        if (bytes is [0xEF, 0xBB, 0xBF, ..])
        {
            reading.Tell(1, "3.1.4", "It begins with a byte order mark.", "Save it as UTF-8 without one.");
            bytes = bytes[3..];
        }

        var line = new byte[4096];
        for (int at = 0, number = 1; at < bytes.Length; )
        {
            var (begins, length) = (number, 0);
            var isTooLong = false;
            do
            {
                var rest = bytes[at..];
                var end = rest.IndexOfAny((byte)'\n', (byte)'\r');
                var piece = end < 0 ? rest : rest[..end];
                if (piece.Length > ContentLine.MostOctets)
                    reading.Tell(
                        number,
                        "3.1",
                        $"The line has {piece.Length} octets.",
                        $"Fold it after {ContentLine.MostOctets}."
                    );
                if (length + piece.Length <= LongestLine)
                {
                    if (line.Length < length + piece.Length)
                        Array.Resize(ref line, Math.Max(line.Length * 2, length + piece.Length));
                    piece.CopyTo(line.AsSpan(length));
                    length += piece.Length;
                }
                else
                {
                    isTooLong = true;
                }

                var isPair = end >= 0 && rest[end] == '\r' && end + 1 < rest.Length && rest[end + 1] == '\n';
                if (!isPair)
                    reading.Tell(
                        number,
                        "3.1",
                        end < 0 ? "The last line has no end." : "A line does not end with CR and LF.",
                        "End each line with carriage return and line feed."
                    );
                at += end < 0 ? rest.Length : end + (isPair ? 2 : 1);
                number++;
                // What begins with a space or a tab goes on with the line before, in the middle of a character, too.
                if (at >= bytes.Length || bytes[at] is not ((byte)' ' or (byte)'\t'))
                    break;
                at++;
            } while (true);
            if (isTooLong)
                reading.Tell(begins, "3.1", "The line is far too long.", "Leave what it carries out of the file.");
            else
                reading.Take(line.AsSpan(0, length), begins);
        }

        return reading.End();
    }

    private static string TextOf(ReadOnlySpan<byte> line, Reading reading, int number)
    {
        try
        {
            return Strict.GetString(line);
        }
        catch (DecoderFallbackException)
        {
            reading.Tell(
                number,
                "3.1.4",
                "The line is not in UTF-8; it was read as Western European (Windows-1252).",
                "Save the file as UTF-8."
            );
            return Western.GetString(line);
        }
    }

    // A line's name and parameters; null where it is no content line.
    private static ContentLine? LineOf(string text, int number, Reading reading)
    {
        var at = 0;
        while (at < text.Length && IsName(text[at]))
            at++;
        if (at == 0 || at == text.Length || text[at] is not (':' or ';'))
        {
            reading.Tell(
                number,
                "3.1",
                $"“{Short(text)}” is no line of a calendar: a name, and its value after a colon.",
                "Take the line out, or begin it with a space if it goes on with the line before."
            );
            return null;
        }

        var name = text[..at].ToUpperInvariant();
        if (text[at] == ':')
            return new ContentLine(name, text[(at + 1)..]) { Number = number };
        var parameters = new List<(string, string)>();
        while (at < text.Length && text[at] == ';')
        {
            var begin = ++at;
            while (at < text.Length && IsName(text[at]))
                at++;
            var own = text[begin..at].ToUpperInvariant();
            if (own.Length == 0 || at == text.Length || text[at] != '=')
            {
                // ";VALUE:" or ";;": what has no value says nothing.
                reading.Tell(
                    number,
                    "3.2",
                    $"{name} has a parameter without a value.",
                    "Give it a value after =, or take it out."
                );
                while (at < text.Length && text[at] is not (';' or ':'))
                    at++;
                continue;
            }

            do
            {
                begin = ++at;
                if (at < text.Length && text[at] == '"')
                {
                    var end = text.IndexOf('"', at + 1);
                    if (end < 0)
                    {
                        reading.Tell(
                            number,
                            "3.2",
                            $"A quotation mark of {name}’s {own} is not closed.",
                            "Close it before the colon."
                        );
                        return null;
                    }

                    parameters.Add((own, text[(at + 1)..end]));
                    at = end + 1;
                    // What stands between a closing quotation mark and the next separator belongs nowhere.
                    while (at < text.Length && text[at] is not (',' or ';' or ':'))
                        at++;
                }
                else
                {
                    while (at < text.Length && text[at] is not (',' or ';' or ':'))
                        at++;
                    parameters.Add((own, text[begin..at]));
                }
            } while (at < text.Length && text[at] == ',');
        }

        if (at >= text.Length)
        {
            reading.Tell(number, "3.1", $"{name} has no colon before its value.", "Put a colon after its parameters.");
            return null;
        }

        return new ContentLine(name, text[(at + 1)..], [.. parameters]) { Number = number };
    }

    // Names have letters, digits and hyphens; programs of the world write underscores, too.
    private static bool IsName(char letter) => char.IsAsciiLetterOrDigit(letter) || letter is '-' or '_';

    /// <summary>The beginning of a text, to show which is meant.</summary>
    internal static string Short(string text)
    {
        var clean = string.Concat(text.Where(letter => !char.IsControl(letter) && !char.IsSurrogate(letter)));
        return clean.Length <= 40 ? clean : clean[..40] + "…";
    }

    private sealed class Reading
    {
        private readonly List<Component> roots = [];
        private readonly List<Breach> breaches = [];
        private readonly Dictionary<(string, string), int> told = [];
        private readonly Stack<Component> open = [];
        private int skipped;

        public void Tell(int line, string section, string says, string remedy)
        {
            var count = told[(section, remedy)] = told.GetValueOrDefault((section, remedy)) + 1;
            if (count < MostOfAKind)
                breaches.Add(new Breach(line, section, says, remedy));
            else if (count == MostOfAKind)
                breaches.Add(new Breach(line, section, $"{says} More of the same are not told.", remedy));
        }

        public void Take(ReadOnlySpan<byte> bytes, int number)
        {
            if (bytes.IndexOfAnyExcept((byte)' ', (byte)'\t') < 0)
            {
                Tell(number, "3.1", "The line is empty.", "Take it out.");
                return;
            }

            if (LineOf(TextOf(bytes, this, number), number, this) is not { } line)
                return;
            if (line.Name == "BEGIN")
            {
                Begin(line.Value.Trim().ToUpperInvariant(), number);
            }
            else if (line.Name == "END")
            {
                Close(line.Value.Trim().ToUpperInvariant(), number);
            }
            else if (skipped == 0)
            {
                if (open.Count > 0)
                    open.Peek().Add(line);
                else
                    Tell(
                        number,
                        "3.4",
                        $"{line.Name} stands outside of a calendar.",
                        "Put it between BEGIN:VCALENDAR and END:VCALENDAR."
                    );
            }
        }

        public ICalendarFile End()
        {
            var isCutOff = open.Count > 0;
            if (isCutOff)
                Tell(0, "3.4", $"The file ends within {open.Peek().Name}.", "It is cut off: save or fetch it again.");
            return new ICalendarFile(roots, [.. breaches.OrderBy(breach => breach.Line)], isCutOff);
        }

        private void Begin(string name, int number)
        {
            if (skipped > 0 || open.Count == Deepest)
            {
                if (skipped == 0)
                    Tell(number, "3.6", $"Components stand more than {Deepest} deep.", "Take those within out.");
                skipped++;
                return;
            }

            var part = new Component(name) { Number = number };
            if (open.Count > 0)
                open.Peek().Add(part);
            else if (name == "VCALENDAR")
                roots.Add(part);
            else
                Tell(
                    number,
                    "3.4",
                    $"{name} stands outside of a calendar.",
                    "Put it between BEGIN:VCALENDAR and END:VCALENDAR."
                );
            open.Push(part);
        }

        private void Close(string name, int number)
        {
            if (skipped > 0)
            {
                skipped--;
                return;
            }

            if (open.Count == 0 || !open.Any(part => part.Name == name))
            {
                Tell(number, "3.6", $"END:{Short(name)} ends nothing that has begun.", "Take it out.");
                return;
            }

            while (open.Pop() is var part && part.Name != name)
                Tell(
                    number,
                    "3.6",
                    $"{part.Name} of line {part.Number} is not ended.",
                    $"Put END:{part.Name} before this line."
                );
        }
    }
}
