namespace JollyAlmanac.Core.People;

/// <summary>The words by which somebody is found: the first letters of any of them, accents and case apart.</summary>
public static class NameWords
{
    /// <summary>The most words that are looked at.</summary>
    public const int Most = 8;

    private static readonly char[] Between =
    [
        ' ',
        '\t',
        '-',
        '.',
        ',',
        '_',
        '/',
        '(',
        ')',
        '@',
        '+',
        '"',
        '“',
        '”',
        '·',
        '<',
        '>',
    ];

    /// <summary>The words of a name, each once.</summary>
    /// <example>
    /// <code>
    /// NameWords.Of("Marit Sørb-Ó’Néill") // marit | sorb | oneill
    /// </code>
    /// </example>
    public static IReadOnlyList<string> Of(string name) =>
        [
            .. PlainLetters
                .Fold(name)
                .Split(Between, StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                .Distinct()
                .Take(Most),
        ];

    /// <summary>Whether what was typed are the first letters of words of the name, in any order.</summary>
    /// <param name="typed">As typed; nothing is found by nothing.</param>
    /// <param name="name">A name.</param>
    /// <example>
    /// <code>
    /// NameWords.Match("on ma", "Marit Sørb-Ó’Néill") // true
    /// </code>
    /// </example>
    public static bool Match(string typed, string name)
    {
        var words = Of(name);
        return Of(typed) is { Count: > 0 } wanted
            && wanted.All(one => words.Any(word => word.StartsWith(one, StringComparison.Ordinal)));
    }
}
