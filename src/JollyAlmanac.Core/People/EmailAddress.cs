using System.Text.RegularExpressions;

namespace JollyAlmanac.Core.People;

/// <summary>An e-mail address that a letter can be sent to. Two that differ in the case of letters alone are the same.</summary>
/// <param name="Value">As it was written.</param>
public readonly partial record struct EmailAddress(string Value) : ITextId<EmailAddress>
{
    /// <summary>The most characters (RFC 5321 §4.5.3.1.3, less the brackets).</summary>
    public const int Longest = 254;

    // RFC 5321 §4.1.2, as far as anybody has one: a local part without quotes, and a domain of two labels at least. Letters of any
    // language (RFC 6531).
    [GeneratedRegex(
        @"^[\p{L}\p{N}.!#$%&'*+/=?^_`{|}~-]+@[\p{L}\p{N}]([\p{L}\p{N}-]*[\p{L}\p{N}])?(\.[\p{L}\p{N}]([\p{L}\p{N}-]*[\p{L}\p{N}])?)+\z"
    )]
    private static partial Regex Whole();

    /// <summary>What stands before the "@".</summary>
    public string LocalPart => Value[..Value.LastIndexOf('@')];

    /// <summary>What stands behind it.</summary>
    public string Domain => Value[(Value.LastIndexOf('@') + 1)..];

    /// <inheritdoc />
    /// <example>
    /// <code>
    /// EmailAddress.TryParse("orla@skerry.example", null, out _) // true
    /// EmailAddress.TryParse("orla@skerry.example\n", null, out _) // false
    /// </code>
    /// </example>
    public static bool TryParse(string? text, IFormatProvider? provider, out EmailAddress id)
    {
        id =
            text is { Length: > 0 and <= Longest }
            && Whole().IsMatch(text)
            && !text.Contains("..", StringComparison.Ordinal)
                ? new EmailAddress(text)
                : default;
        return id.Value is not null;
    }

    /// <summary>Whether both are the same address, letters' case apart.</summary>
    public bool Equals(EmailAddress other) => string.Equals(Value, other.Value, StringComparison.OrdinalIgnoreCase);

    /// <inheritdoc />
    public override int GetHashCode() => Value is null ? 0 : StringComparer.OrdinalIgnoreCase.GetHashCode(Value);

    /// <inheritdoc />
    public override string ToString() => Value;
}
