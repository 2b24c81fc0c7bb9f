using System.Text;

namespace JollyAlmanac.Core.Calendars;

/// <summary>
/// A calendar's name in addresses: lower-case letters a to z, digits and single hyphens, 1 to 60 characters. Unique; it never changes.
/// </summary>
/// <example>"Tidepool Biology 9A" becomes "tidepool-biology-9a".</example>
public readonly record struct Slug(string Value) : ITextId<Slug>
{
    /// <summary>The most characters of a slug.</summary>
    public const int Longest = 60;

    /// <summary>The slug of a title; <paramref name="fallback"/> where no letter of it fits in one. It may be taken already.</summary>
    /// <example>
    /// <code>
    /// Slug.Of("Français 8ᵉ", "class") // francais-8
    /// Slug.Of("数学", "class") // class
    /// </code>
    /// </example>
    public static Slug Of(string title, string fallback)
    {
        var slug = new StringBuilder();
        foreach (var letter in title.ToLowerInvariant())
        {
            if (char.IsAsciiLetterOrDigit(letter))
                slug.Append(letter);
            else if (PlainLetters.Of(letter) is { } plain)
                slug.Append(plain);
            else if (slug.Length > 0 && slug[^1] != '-')
                slug.Append('-');
            if (slug.Length >= Longest)
                break;
        }

        var text = slug.ToString().Trim('-');
        return new Slug(text.Length == 0 ? fallback : text);
    }

    /// <summary>This slug with a number behind it, shortened where it would be too long: "tidepool-2".</summary>
    /// <example>
    /// <code>
    /// new Slug("tidepool").Numbered(2) // tidepool-2
    /// </code>
    /// </example>
    public Slug Numbered(int number) =>
        new(FormattableString.Invariant($"{Value[..Math.Min(Value.Length, Longest - 6)].TrimEnd('-')}-{number}"));

    /// <inheritdoc />
    public static bool TryParse(string? text, IFormatProvider? provider, out Slug id)
    {
        id = text is { Length: > 0 and <= Longest } && text.All(IsLetter) ? new Slug(text) : default;
        return id.Value is not null;
    }

    /// <summary>Whether a slug, or a code of a join link, may have that letter.</summary>
    internal static bool IsLetter(char letter) =>
        letter == '-' || char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter);

    /// <inheritdoc />
    public override string ToString() => Value;
}
