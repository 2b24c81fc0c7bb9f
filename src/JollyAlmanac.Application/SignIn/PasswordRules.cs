using System.Collections.Frozen;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Application.SignIn;

/// <summary>
/// What a password must be: long enough and not one that everybody tries first (NIST SP 800-63B-4 §3.1.1.2: length, a list of common
/// ones, no rules of composition). The list is the part of ten characters and more of the dictionary of the package
/// @zxcvbn-ts/language-common 4.1.3 (MIT), and ships with the almanac.
/// </summary>
public static class PasswordRules
{
    private static readonly Lazy<FrozenSet<string>> Common = new(() =>
    {
        using var stream = typeof(PasswordRules).Assembly.GetManifestResourceStream("common-passwords.txt")!;
        using var reader = new StreamReader(stream);
        return reader
            .ReadToEnd()
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .ToFrozenSet(StringComparer.Ordinal);
    });

    /// <summary>Why a password is not taken, for people; null where it is.</summary>
    /// <param name="password">As typed.</param>
    /// <param name="name">Whose it is to be.</param>
    /// <param name="email">Their address; null where none is known.</param>
    public static string? WhyNot(string password, string name, EmailAddress? email)
    {
        // As people count: a letter of two parts is one.
        if (
            new System.Globalization.StringInfo(password).LengthInTextElements < Passwords.Shortest
            || password.Length > Passwords.Longest
        )
            return $"The password must have {Passwords.Shortest} to {Passwords.Longest} characters. A few words in a row do well.";
        var plain = PlainLetters.Fold(password);
        if (Common.Value.Contains(plain) || plain.Distinct().Count() <= 3 || IsRow(plain))
            return "That is one of the passwords that are tried first. Take a few words that have nothing to do with each other.";
        string[] own =
        [
            PlainLetters.Fold(email?.Value ?? ""),
            PlainLetters.Fold(email?.LocalPart ?? ""),
            PlainLetters.Fold(name),
            PlainLetters.Fold(name).Replace(" ", "", StringComparison.Ordinal),
        ];
        return own.Any(one =>
            one.Length > 0
            && plain.Replace(one, "", StringComparison.Ordinal).Length < Passwords.Shortest / 2
            && plain.Contains(one, StringComparison.Ordinal)
        )
            ? "That is little more than your own name or address. Take something that nobody guesses from it."
            : null;
    }

    // "abcdefghij", "9876543210".
    private static bool IsRow(string text) =>
        Enumerable.Range(1, text.Length - 1).All(at => text[at] - text[at - 1] == 1)
        || Enumerable.Range(1, text.Length - 1).All(at => text[at] - text[at - 1] == -1);
}
