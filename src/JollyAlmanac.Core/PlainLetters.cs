using System.Collections.Frozen;
using System.Globalization;
using System.Text;

namespace JollyAlmanac.Core;

/// <summary>
/// Letters without what hangs on them. Folded by hand: the almanac runs without the machine's language data, where letters do not come
/// apart from their accents.
/// </summary>
public static class PlainLetters
{
    private static readonly FrozenDictionary<char, string> Plain = new[]
    {
        ("a", "àáâãäåāăą"),
        ("c", "çćĉċč"),
        ("d", "ðďđ"),
        ("e", "èéêëēĕėęě"),
        ("g", "ĝğġģ"),
        ("h", "ĥħ"),
        ("i", "ìíîïĩīĭįı"),
        ("j", "ĵ"),
        ("k", "ķ"),
        ("l", "ĺļľŀł"),
        ("n", "ñńņňŋ"),
        ("o", "òóôõöøōŏő"),
        ("r", "ŕŗř"),
        ("s", "śŝşšș"),
        ("t", "ţťŧț"),
        ("u", "ùúûüũūŭůűų"),
        ("w", "ŵẁẃẅ"),
        ("y", "ýÿŷỳ"),
        ("z", "źżž"),
        ("ss", "ß"),
        ("ae", "æ"),
        ("oe", "œ"),
        ("th", "þ"),
        ("", "'’"),
    }
        .SelectMany(pair => pair.Item2.Select(letter => (letter, pair.Item1)))
        .ToFrozenDictionary(pair => pair.letter, pair => pair.Item2);

    /// <summary>
    /// What stands for a lower-case letter: "o" for "ø", "ss" for "ß", nothing for an apostrophe; null for one that stands for itself.
    /// </summary>
    /// <example>
    /// <code>
    /// PlainLetters.Of('ø') // o
    /// PlainLetters.Of('ß') // ss
    /// PlainLetters.Of('k') // null
    /// </code>
    /// </example>
    public static string? Of(char letter) => Plain.GetValueOrDefault(letter);

    /// <summary>
    /// A text in lower case, its accents apart: letters of a to z where one stands for it, letters of other scripts as they are.
    /// </summary>
    /// <example>
    /// <code>
    /// PlainLetters.Fold("Sørb-Ó’Néill") // sorb-oneill
    /// </code>
    /// </example>
    public static string Fold(string text)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var letter in text.ToLowerInvariant())
            if (char.GetUnicodeCategory(letter) is not UnicodeCategory.NonSpacingMark)
                plain.Append(Of(letter) ?? letter.ToString());
        return plain.ToString();
    }
}
