using System.Text;

namespace JollyAlmanac.Core.Calendars;

/// <summary>
/// A title's form in an address: lower-case letters, digits and single hyphens, at most 60 characters.
/// </summary>
/// <example>"Tidepool Biology 9A" becomes "tidepool-biology-9a".</example>
public static class Slug
{
    /// <summary>The longest slug.</summary>
    public const int Longest = 60;

    /// <summary>The slug of a title; <paramref name="fallback"/> where no letter of it fits in one.</summary>
    /// <returns>Lower-case letters a to z, digits and single hyphens, <see cref="Longest"/> at most. It may be taken already.</returns>
    /// <example>"Français 8ᵉ" is "francais-8"; "数学" is the fallback.</example>
    public static string Of(string title, string fallback)
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
        return text.Length == 0 ? fallback : text;
    }
}
