using System.Collections.Immutable;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Parsing;

/// <summary>An e-mail address with the name that stood beside it.</summary>
/// <param name="Name">As people say it, the first name first; empty where none stood there.</param>
/// <param name="Address">The address as it was written.</param>
/// <param name="Line">On which line, from 1.</param>
public sealed record NamedAddress(string Name, EmailAddress Address, int Line);

/// <summary>
/// A pasted list of people's e-mail addresses: a column of a table, the recipients of a mail, a list typed by hand. Every word of it is
/// taken for a name or an address, or told of.
/// </summary>
/// <param name="People">Each address once, in order; letters' case apart.</param>
/// <param name="Problems">What could not be read: on which line, and a sentence that quotes it.</param>
/// <param name="Doubles">How many addresses stood there again.</param>
/// <example>
/// "Orla Marchbanks &lt;orla@skerry.example&gt;; Quill, Teodor &lt;teodor@skerry.example&gt;" is Orla Marchbanks and Teodor Quill.
/// "teodor@skerry" is a problem: it names no place of the internet.
/// </example>
public sealed partial record AddressList(
    ImmutableArray<NamedAddress> People,
    ImmutableArray<(int Line, string Sentence)> Problems,
    int Doubles
)
{
    // What looks like one, right or wrong: without what encloses and separates addresses.
    [GeneratedRegex("""[^\s<>()\[\],;:"“”„]*@[^\s<>()\[\],;:"“”„]*""")]
    private static partial Regex Like();

    [GeneratedRegex(@"^\s*(?:\d{1,4}[.)]|[-*•·])\s+")]
    private static partial Regex Bullet();

    /// <summary>Reads a list.</summary>
    /// <param name="text">Lines, or one line; any separators.</param>
    /// <example>
    /// <code>
    /// AddressList.Read("Quill, Teodor &lt;teodor@skerry.example&gt;").People.Single().Name // Teodor Quill
    /// </code>
    /// </example>
    public static AddressList Read(string text)
    {
        var people = new List<NamedAddress>();
        var problems = new List<(int Line, string Sentence)>();
        var known = new HashSet<EmailAddress>();
        var doubles = 0;
        foreach (var (at, whole) in text.ReplaceLineEndings("\n").Split('\n').Index())
        {
            var line = Bullet().Replace(whole, "").Replace("mailto:", "", StringComparison.OrdinalIgnoreCase);
            var found = Like().Matches(line);
            if (found.Count == 0 && Tidy(line).Length > 0)
                problems.Add((at + 1, $"There is no e-mail address in {Wording.Quote(whole)}."));
            for (var next = 0; next < found.Count; next++)
            {
                var match = found[next];
                var written = match.Value.Trim('\'').TrimEnd('.');
                var from = next == 0 ? 0 : found[next - 1].Index + found[next - 1].Length;
                var name = Tidy(line[from..match.Index]);
                // An address with its name behind it, as a table may have them.
                if (name.Length == 0 && found.Count == 1)
                    name = Tidy(line[(match.Index + match.Length)..]);
                if (!EmailAddress.TryParse(written, null, out var address))
                    problems.Add(
                        (at + 1, $"{Wording.Quote(written)} is no e-mail address. Write it like orla@skerry.example.")
                    );
                else if (known.Add(address))
                    people.Add(new NamedAddress(FirstNameFirst(name), address, at + 1));
                else
                    doubles++;
            }

            // What is left behind the last of several, or of one that has its name before it.
            if (found.Count > 0 && Rest(line, found) is { Length: > 0 } rest)
                problems.Add((at + 1, $"{Wording.Quote(rest)} belongs to no e-mail address."));
        }

        return new AddressList([.. people], [.. problems], doubles);
    }

    private static string Rest(string line, MatchCollection found)
    {
        var last = found[^1];
        var isNamedBefore = found.Count > 1 || Tidy(line[..last.Index]).Length > 0;
        return isNamedBefore ? Tidy(line[(last.Index + last.Length)..]) : "";
    }

    // Without what encloses and separates.
    private static string Tidy(string text) =>
        string.Join(
            ' ',
            text.Trim(' ', '\t', ',', ';', ':', '<', '>', '(', ')', '[', ']', '"', '“', '”', '„', '\'', '|')
                .Replace("\"", "", StringComparison.Ordinal)
                .Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries)
        );

    /// <summary>"Quill, Teodor" is Teodor Quill; a name without a comma, or with several, stays as it is.</summary>
    /// <example>
    /// <code>
    /// AddressList.FirstNameFirst("Quill, Teodor") // Teodor Quill
    /// </code>
    /// </example>
    public static string FirstNameFirst(string name) =>
        name.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) is [var last, var first]
            ? $"{first} {last}"
            : name;

    /// <summary>A field on one line, without what cannot be seen: controls, and marks that turn the direction of what follows.</summary>
    /// <example>
    /// <code>
    /// AddressList.Plain("Orla\u202E\u0007 M") // Orla M
    /// </code>
    /// </example>
    public static string Plain(string field)
    {
        if (
            !field.Any(letter =>
                char.IsControl(letter)
                || letter is '\uFEFF' or '\u00A0' or (>= '\u202A' and <= '\u202E') or (>= '\u2066' and <= '\u2069')
            )
        )
            return field.Trim();
        var plain = field
            .Select(letter => char.IsControl(letter) || letter == '\u00A0' ? ' ' : letter)
            .Where(letter =>
                letter is not ('\uFEFF' or (>= '\u202A' and <= '\u202E') or (>= '\u2066' and <= '\u2069'))
            );
        return string.Join(' ', string.Concat(plain).Split(' ', StringSplitOptions.RemoveEmptyEntries));
    }
}
