using System.Text;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// One content line of RFC 5545 §3.1: a name, parameters, and a value that is already in its final form. The lowest
/// layer: it knows quoting and folding, and nothing of what lines mean.
/// </summary>
public sealed record ContentLine(string Name, string Value, params (string Name, string Value)[] Parameters)
{
    /// <summary>The line of the file that it begins on, from 1; 0 for one that was not read.</summary>
    public int Number { get; init; }

    /// <summary>The first value of that parameter; null where it has none.</summary>
    public string? Parameter(string name)
    {
        foreach (var (own, value) in Parameters)
            if (own == name)
                return value;
        return null;
    }

    private static readonly string Controls = string.Concat(
        Enumerable.Range(0, 0xA0).Select(code => (char)code).Where(char.IsControl)
    );

    // What TEXT escapes or leaves away.
    private static readonly System.Buffers.SearchValues<char> Special = System.Buffers.SearchValues.Create(
        "\\;,\u2028\u2029" + Controls
    );

    private static readonly System.Buffers.SearchValues<char> NoParameter = System.Buffers.SearchValues.Create(
        "\"" + Controls
    );

    /// <summary>The most octets in a line, its line break not counted (RFC 5545 §3.1).</summary>
    public const int MostOctets = 75;

    /// <summary>
    /// A value of type TEXT: backslash, semicolon, comma and line breaks escaped (§3.3.11), control characters left away.
    /// </summary>
    /// <example>
    /// <code>
    /// ContentLine.Text("Bring boots; nets, and\nrope") // Bring boots\; nets\, and\nrope
    /// </code>
    /// </example>
    public static string Text(string value)
    {
        // Nearly all texts have nothing to be escaped.
        if (!value.AsSpan().ContainsAny(Special))
            return value;
        var text = new StringBuilder(value.Length + 8);
        foreach (var letter in value.ReplaceLineEndings("\n"))
        {
            switch (letter)
            {
                case '\\':
                    text.Append("\\\\");
                    break;
                case ';':
                    text.Append("\\;");
                    break;
                case ',':
                    text.Append("\\,");
                    break;
                case '\n':
                    text.Append("\\n");
                    break;
                case '\t':
                    text.Append('\t');
                    break;
                default:
                    if (!char.IsControl(letter))
                        text.Append(letter);
                    break;
            }
        }

        return text.ToString();
    }

    /// <summary>What a value of type TEXT says: <see cref="Text"/> the other way round. An escape that is none stays as it is.</summary>
    /// <example>
    /// <code>
    /// ContentLine.FromText("boots\\, nets") // boots, nets
    /// </code>
    /// </example>
    public static string FromText(string value)
    {
        if (!value.Contains('\\', StringComparison.Ordinal))
            return value;
        var text = new StringBuilder(value.Length);
        for (var at = 0; at < value.Length; at++)
        {
            var letter = value[at];
            if (letter != '\\' || at + 1 == value.Length)
            {
                text.Append(letter);
                continue;
            }

            switch (value[++at])
            {
                case 'n' or 'N':
                    text.Append('\n');
                    break;
                case '\\' or ';' or ',' or ':' or '"':
                    text.Append(value[at]);
                    break;
                default:
                    text.Append('\\').Append(value[at]);
                    break;
            }
        }

        return text.ToString();
    }

    /// <summary>Writes the line, folded, with CRLF at its end.</summary>
    public void WriteTo(StringBuilder document)
    {
        // Nearly all lines are short and plain; they are written where they go.
        var length = Name.Length + 1 + Value.Length;
        var isPlain = Ascii.IsValid(Value);
        foreach (var (name, value) in Parameters)
        {
            length += name.Length + value.Length + 4;
            isPlain &= Ascii.IsValid(value);
        }

        if (isPlain && length <= MostOctets)
        {
            document.Append(Name);
            foreach (var (name, value) in Parameters)
                document.Append(';').Append(name).Append('=').Append(Quoted(value));
            document.Append(':').Append(Value).Append("\r\n");
            return;
        }

        var line = new StringBuilder(Name);
        foreach (var (name, value) in Parameters)
            line.Append(';').Append(name).Append('=').Append(Quoted(value));
        line.Append(':').Append(Value);
        Fold(line.ToString(), document);
    }

    // A parameter value may hold no quote and no control character at all (§3.2), and needs quotes around : ; ,
    private static string Quoted(string value)
    {
        if (!value.AsSpan().ContainsAny(NoParameter))
            return value.AsSpan().IndexOfAny(":;,") >= 0 ? $"\"{value}\"" : value;
        var clean = string.Concat(value.Where(letter => letter != '"' && !char.IsControl(letter)));
        return clean.AsSpan().IndexOfAny(":;,") >= 0 ? $"\"{clean}\"" : clean;
    }

    // Counts octets of UTF-8 and cuts only between whole characters; a continuation line's space counts, too.
    private static void Fold(string line, StringBuilder document)
    {
        var (octets, begun, at) = (0, 0, 0);
        foreach (var rune in line.EnumerateRunes())
        {
            if (octets + rune.Utf8SequenceLength > MostOctets)
            {
                document.Append(line, begun, at - begun).Append("\r\n ");
                (octets, begun) = (1, at);
            }

            at += rune.Utf16SequenceLength;
            octets += rune.Utf8SequenceLength;
        }

        document.Append(line, begun, line.Length - begun).Append("\r\n");
    }
}
