using System.Globalization;

namespace JollyAlmanac.Core.Parsing;

/// <summary>What a piece of a line is.</summary>
internal enum TokenKind
{
    /// <summary>Letters.</summary>
    Word,

    /// <summary>Digits.</summary>
    Number,

    /// <summary>One sign; all dashes are "-".</summary>
    Sign,

    /// <summary>Words in quotes, without them.</summary>
    Quoted,

    /// <summary>A web address.</summary>
    Address,
}

/// <summary>A piece of a line as people write it.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Text">As it was written.</param>
/// <param name="At">Where it begins in the line.</param>
/// <param name="End">Where it ends.</param>
/// <param name="Stands">White space, or the begin of the line, comes before it.</param>
internal sealed record Token(TokenKind Kind, string Text, int At, int End, bool Stands)
{
    /// <summary>A word in lower case; empty for what is none.</summary>
    public string Word { get; } =
        Kind == TokenKind.Word
            ? Text.ToLowerInvariant().Replace('’', '\'').Replace(".", "", StringComparison.Ordinal)
            : "";

    /// <summary>A number; -1 for what is none.</summary>
    public int Number { get; } =
        Kind == TokenKind.Number && Text.Length <= 6 ? int.Parse(Text, CultureInfo.InvariantCulture) : -1;

    /// <summary>A sign; none for anything else.</summary>
    public char Sign { get; } = Kind == TokenKind.Sign ? Text[0] : '\0';

    /// <summary>Cuts a line into its pieces. Nothing is lost: what stands between them is white space.</summary>
    /// <example>"Lab MWF 8:00–8:50" is Lab, MWF, 8, :, 00, -, 8, :, 50.</example>
    public static List<Token> Of(string line)
    {
        var tokens = new List<Token>();
        var stands = true;
        for (var at = 0; at < line.Length; )
        {
            var letter = line[at];
            if (char.IsWhiteSpace(letter))
            {
                (stands, at) = (true, at + 1);
                continue;
            }

            var end = at + 1;
            var (kind, text) = (TokenKind.Sign, letter.ToString());
            if (
                letter is '"' or '“' or '”' or '„'
                && line.IndexOfAny(['"', '“', '”'], at + 1) is > 0 and var close
                && close > at + 1
            )
            {
                (kind, text, end) = (TokenKind.Quoted, line[(at + 1)..close].Trim(), close + 1);
            }
            else if (
                line.AsSpan(at).StartsWith("http://", StringComparison.OrdinalIgnoreCase)
                || line.AsSpan(at).StartsWith("https://", StringComparison.OrdinalIgnoreCase)
            )
            {
                while (end < line.Length && !char.IsWhiteSpace(line[end]))
                    end++;
                (kind, text) = (TokenKind.Address, line[at..end]);
            }
            else if (char.IsAsciiDigit(letter))
            {
                while (end < line.Length && char.IsAsciiDigit(line[end]))
                    end++;
                (kind, text) = (TokenKind.Number, line[at..end]);
            }
            else if (char.IsLetter(letter))
            {
                while (
                    end < line.Length
                    && (
                        char.IsLetter(line[end])
                        || (line[end] is '\'' or '’' && end + 1 < line.Length && char.IsLetter(line[end + 1]))
                    )
                )
                    end++;
                // "a.m" and "p.m" are one word; the stop behind them ends it.
                if (
                    end == at + 1
                    && letter is 'a' or 'p' or 'A' or 'P'
                    && end + 1 < line.Length
                    && line[end] == '.'
                    && line[end + 1] is 'm' or 'M'
                    && (end + 2 == line.Length || !char.IsLetter(line[end + 2]))
                )
                    end += 2;
                (kind, text) = (TokenKind.Word, line[at..end]);
            }
            else if (letter is '–' or '—' or '−' or '‐' or '‑' or '~' or '→')
            {
                text = "-";
            }

            tokens.Add(new Token(kind, text, at, end, stands));
            (stands, at) = (false, end);
        }

        return tokens;
    }
}
