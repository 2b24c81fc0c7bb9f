using System.Text.RegularExpressions;

namespace JollyAlmanac.Core.Tests;

/// <summary>The words of the code are those of docs/glossary.md; words that were given up do not come back.</summary>
public sealed partial class GlossaryTests
{
    // Names that only who wrote them knew, and what the field calls the thing.
    private static readonly string[] GivenUp =
    [
        "Outlet",
        "Deed",
        "Habits",
        "DoorHand",
        "Passage",
        "WrongTries",
        "StrangerCache",
        "TicketsRead",
        "AlmanacActs",
        "WorkDoor",
        "Dealing",
        "KeptForms",
        "SentOnce",
        "GuessGuard",
        "StandingOnce",
        "BroughtIn",
    ];

    [Fact]
    public void Each_word_of_the_glossary_has_its_type()
    {
        var types = Declarations().ToHashSet();
        var rows = File.ReadAllLines(Path.Combine(ShapeTests.Root.FullName, "docs", "glossary.md"))
            .Select(line => GlossaryRow().Match(line))
            .Where(match => match.Success)
            .ToList();
        Assert.InRange(rows.Count, 50, int.MaxValue);
        Assert.DoesNotContain(rows.Select(row => row.Groups["type"].Value), type => !types.Contains(type));
        var words = rows.Select(row => row.Groups["word"].Value).ToList();
        Assert.Equal(words.Order(StringComparer.Ordinal), words);
    }

    [Fact]
    public void No_word_that_was_given_up_names_a_type() =>
        Assert.DoesNotContain(Declarations(), type =>
            GivenUp.Any(word => type.StartsWith(word, StringComparison.Ordinal))
        );

    private static IEnumerable<string> Declarations() =>
        Directory
            .EnumerateFiles(Path.Combine(ShapeTests.Root.FullName, "src"), "*.cs", SearchOption.AllDirectories)
            .Where(file =>
                !file.Contains("node_modules", StringComparison.Ordinal)
                && !file.Contains("/obj/", StringComparison.Ordinal)
            )
            .SelectMany(file =>
                Declaration().Matches(File.ReadAllText(file)).Select(match => match.Groups["name"].Value)
            );

    [GeneratedRegex(@"^\| (?<word>[^|]+?) \| [^|]+ \| `(?<type>\w+)` \|")]
    private static partial Regex GlossaryRow();

    [GeneratedRegex(@"\b(class|record struct|record|struct|interface|enum) (?<name>[A-Z]\w*)")]
    private static partial Regex Declaration();
}
