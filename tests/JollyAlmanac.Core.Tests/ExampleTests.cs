using System.Collections;
using System.Reflection;
using System.Xml.Linq;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;

namespace JollyAlmanac.Core.Tests;

/// <summary>The examples of the documentation comments are compiled, and give what they say.</summary>
/// <remarks>
/// A line of an example is a statement, or an expression with what it gives behind <c>//</c>. Examples may use the zone, term, bells and
/// school that stand here.
/// </remarks>
public sealed class ExampleTests
{
    private const string Usings = """
        using System; using System.Collections.Generic; using System.Linq; using System.Text; using NodaTime;
        using JollyAlmanac.Core; using JollyAlmanac.Core.Access; using JollyAlmanac.Core.Calendars; using JollyAlmanac.Core.Doors;
        using JollyAlmanac.Core.JoinLinks; using JollyAlmanac.Core.Materials; using JollyAlmanac.Core.Parsing;
        using JollyAlmanac.Core.People; using JollyAlmanac.Core.Publishing; using JollyAlmanac.Core.Recurrence;
        using JollyAlmanac.Core.Rosters; using JollyAlmanac.Core.Series; using JollyAlmanac.Core.Terms; using JollyAlmanac.Core.Timetables;
        using JollyAlmanac.Formats;
        using JollyAlmanac.Formats.ICalendar;
        """;

    private const string School = """
        private static readonly DateTimeZone zone = DateTimeZoneProviders.Tzdb["America/Halifax"];
        private static readonly BellSchedule bells = new("Bells", [new BellPeriod("1", new LocalTime(8, 0), new LocalTime(8, 50))]);
        private static readonly Term term = new(new TermId(1), "2026/27", "Autumn", new LocalDate(2026, 9, 8), new LocalDate(2026, 12, 18));
        private static readonly NoClassDay thanksgiving = new(
            new LocalDate(2026, 10, 12), new LocalDate(2026, 10, 12), "Thanksgiving", NoClassKind.Holiday);
        private static readonly SchoolTime school = new(zone, IsoDayOfWeek.Monday, [term], [thanksgiving], bells);

        """;

    [Fact]
    public void What_an_example_says_is_what_it_gives()
    {
        var examples = new[] { typeof(Wording).Assembly, typeof(Formats.CsvTable).Assembly }
            .SelectMany(assembly =>
                XDocument.Load(Path.ChangeExtension(assembly.Location, ".xml")).Descendants("member")
            )
            .SelectMany(member =>
                member
                    .Elements("example")
                    .Elements("code")
                    .Select(code => (Member: member.Attribute("name")!.Value, Code: code.Value))
            )
            .ToList();
        Assert.True(examples.Count >= 60, $"{examples.Count} examples");
        var type = Compile([.. examples.Select(example => Method(example.Code))]);
        var wrong = new List<string>();
        foreach (var (number, example) in examples.Index())
        {
            var results = (List<(object? Is, string Says)>)type.GetMethod($"Example{number}")!.Invoke(null, null)!;
            Assert.True(results.Count > 0, $"{example.Member} has an example that says nothing.");
            wrong.AddRange(
                results
                    .Select(result => (Is: Text(result.Is), result.Says))
                    .Where(result => result.Is != result.Says)
                    .Select(result => $"{example.Member}: {result.Is}, and not {result.Says}")
            );
        }

        Assert.Empty(wrong);
    }

    private static string Method(string code)
    {
        var lines = code.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(line =>
                line.Split(" // ") is [var expression, var says]
                    ? $"results.Add(({expression}, {SymbolDisplay.FormatLiteral(says, quote: true)}));"
                    : line
            );
        return $"var results = new List<(object? Is, string Says)>();\n{string.Join('\n', lines)}\nreturn results;";
    }

    private static Type Compile(IReadOnlyList<string> bodies)
    {
        var methods = bodies.Select(
            (body, number) => $"public static List<(object? Is, string Says)> Example{number}()\n{{\n{body}\n}}\n"
        );
        var compilation = CSharpCompilation.Create(
            "Examples",
            [
                CSharpSyntaxTree.ParseText(
                    $"#nullable enable\n{Usings}\npublic static class Examples\n{{\n{School}{string.Concat(methods)}}}",
                    cancellationToken: TestContext.Current.CancellationToken
                ),
            ],
            ((string)AppContext.GetData("TRUSTED_PLATFORM_ASSEMBLIES")!)
                .Split(Path.PathSeparator)
                .Select(path => MetadataReference.CreateFromFile(path)),
            new CSharpCompilationOptions(OutputKind.DynamicallyLinkedLibrary)
        );
        using var bytes = new MemoryStream();
        var emitted = compilation.Emit(bytes, cancellationToken: TestContext.Current.CancellationToken);
        Assert.Empty(
            emitted
                .Diagnostics.Where(one => one.Severity == DiagnosticSeverity.Error)
                .Select(one =>
                    $"{one.GetMessage()}: {one.Location.SourceTree!.GetText().Lines[one.Location.GetLineSpan().StartLinePosition.Line]}"
                )
        );
        return Assembly.Load(bytes.ToArray()).GetType("Examples")!;
    }

    private static string Text(object? value) =>
        value switch
        {
            null => "null",
            bool truth => truth ? "true" : "false",
            string text => text.ReplaceLineEndings("\\n"),
            IEnumerable many => string.Join(" | ", many.Cast<object?>().Select(Text)),
            IFormattable formattable => formattable.ToString(null, System.Globalization.CultureInfo.InvariantCulture),
            _ => value.ToString()!,
        };
}
