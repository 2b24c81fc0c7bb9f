using System.Security.Cryptography;
using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>
/// The last part of a short address, "tidepool-7k4mqx": a word of the name, and six characters that do not look alike.
/// It never changes and is never given out again.
/// </summary>
public readonly record struct JoinCode(string Value) : ITextId<JoinCode>
{
    // No 0/o, 1/l/i, 2/z, 5/s, 8/b, and no vowels or u/v, so that no word comes about by accident.
    private const string Letters = "34679cdfghjkmnpqrtwx";

    /// <summary>The fewest characters of a code chosen by hand.</summary>
    public const int Shortest = 4;

    /// <summary>The most.</summary>
    public const int Longest = 40;

    /// <summary>A new code for a link of that name, from the system's random source.</summary>
    public static JoinCode New(string name)
    {
        var word = Slug.Of(name, "class").Value.Split('-')[0];
        return new JoinCode($"{(word.Length > 12 ? word[..12] : word)}-{RandomNumberGenerator.GetString(Letters, 6)}");
    }

    /// <summary>Reads a code that somebody chose: lower-case letters, digits and single hyphens.</summary>
    /// <returns>The code, or the reason why it is none.</returns>
    /// <example>
    /// <code>
    /// JoinCode.Read("tide-pool").Code // tide-pool
    /// JoinCode.Read("Tide Pool").Code // null
    /// </code>
    /// </example>
    public static (JoinCode? Code, string? Reason) Read(string text)
    {
        text = text.Trim().ToLowerInvariant();
        if (text.Length is < Shortest or > Longest)
            return (
                null,
                $"A short address has {Shortest} to {Longest} characters after /in/; this has {text.Length}."
            );
        return
            text.All(Slug.IsLetter)
            && text[0] != '-'
            && text[^1] != '-'
            && !text.Contains("--", StringComparison.Ordinal)
            ? (new JoinCode(text), null)
            : (null, "A short address is made of the letters a to z, digits, and single hyphens between them.");
    }

    /// <inheritdoc />
    /// <remarks>Capital letters are read as small ones: phones begin a line with one, and people copy codes from paper.</remarks>
    /// <example>
    /// <code>
    /// JoinCode.TryParse("Tidepool-7K", null, out var code) // true
    /// code // tidepool-7k
    /// </code>
    /// </example>
    public static bool TryParse(string? text, IFormatProvider? provider, out JoinCode id)
    {
        var small = text?.ToLowerInvariant();
        id = small is { Length: > 0 and <= Longest } && small.All(Slug.IsLetter) ? new JoinCode(small) : default;
        return id.Value is not null;
    }

    /// <summary>Where it stands, from the almanac's root: "/in/tidepool-7k4mqx".</summary>
    public string Path => $"/in/{Value}";

    /// <summary>Where it stands, whole.</summary>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <example>
    /// <code>
    /// new JoinCode("tidepool-7k").At(new Uri("https://almanac.skerry.example/")) // https://almanac.skerry.example/in/tidepool-7k
    /// </code>
    /// </example>
    public Uri At(Uri root) => new(root, Path[1..]);

    /// <inheritdoc />
    public override string ToString() => Value;
}
