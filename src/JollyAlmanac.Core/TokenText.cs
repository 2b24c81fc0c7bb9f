using System.Diagnostics.CodeAnalysis;
using System.Security.Cryptography;

namespace JollyAlmanac.Core;

/// <summary>Unguessable texts for addresses: 26 characters of 5 bits each, 130 bits in all.</summary>
public static class TokenText
{
    // Lower-case base 32 without letters that look alike (i, l, o, u).
    private const string Alphabet = "0123456789abcdefghjkmnpqrstvwxyz";

    /// <summary>How many characters a token has.</summary>
    public const int Length = 26;

    /// <summary>A new token from the system's random source.</summary>
    public static string New() => RandomNumberGenerator.GetString(Alphabet, Length);

    /// <summary>The token of 26 bytes or more; the low five bits of each of the first 26 count.</summary>
    public static string Of(ReadOnlySpan<byte> bytes)
    {
        var letters = new char[Length];
        for (var at = 0; at < Length; at++)
            letters[at] = Alphabet[bytes[at] & 31];
        return new string(letters);
    }

    /// <summary>Whether a text has the form of a token.</summary>
    public static bool IsOne([NotNullWhen(true)] string? text) =>
        text is { Length: Length } && text.All(letter => Alphabet.Contains(letter, StringComparison.Ordinal));
}
