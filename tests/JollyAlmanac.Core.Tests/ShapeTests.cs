using System.Text.Json;
using System.Text.RegularExpressions;

namespace JollyAlmanac.Core.Tests;

/// <summary>How the source hangs together, held by looking at it.</summary>
public sealed partial class ShapeTests
{
    internal static readonly DirectoryInfo Root = FindRoot();

    private static DirectoryInfo FindRoot()
    {
        var root = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(root.FullName, "JollyAlmanac.slnx")))
            root = root.Parent!;
        return root;
    }

    [GeneratedRegex(@"^@?using (?:static |\w+ = )?([\w.]+)", RegexOptions.Multiline)]
    private static partial Regex Using();

    [GeneratedRegex(
        @"^(?:public|internal)[\w ]*? (?:class|record struct|record|struct|interface|enum) (\w+)",
        RegexOptions.Multiline
    )]
    private static partial Regex Declared();

    [GeneratedRegex(@"(?:[A-Z]\w*\.)*[A-Z]\w*")]
    private static partial Regex Named();

    [GeneratedRegex("""^\s*//.*$""", RegexOptions.Multiline)]
    private static partial Regex Comment();

    // Where a project is put together: these files know all of it, and nothing of it knows them.
    private static readonly HashSet<string> Compositions =
    [
        "Stores.cs",
        "AlmanacDatabase.cs",
        "DataCopy.cs",
        "ServiceRegistration.cs",
        "AlmanacServer.cs",
        "CommandLine.cs",
        "Program.cs",
    ];

    private sealed record SourceFile(string Path, string Namespace, string Text, bool IsComposition)
    {
        public IEnumerable<string> Types => Declared().Matches(Text).Select(match => match.Groups[1].Value);
    }

    // A file knows a namespace whose types it names: by a using, by the full name, or since the namespace is around its own.
    [Theory]
    [InlineData("Core", 12, "Access", "People")]
    [InlineData("Formats", 3, null, null)]
    [InlineData("Storage", 9, "Calendars", "Rows")]
    [InlineData("Application", 14, "Composing", "Joining")]
    [InlineData("Demo", 6, null, null)]
    [InlineData("Web", 8, "Pages.Public", "Serving")]
    public void Namespaces_of_a_project_form_no_circle(string project, int atLeast, string? one, string? knownToIt)
    {
        var name = $"JollyAlmanac.{project}";
        var folder = Path.Combine(Root.FullName, "src", name);
        List<SourceFile> files =
        [
            .. Directory
                .EnumerateFiles(folder, "*.cs*", SearchOption.AllDirectories)
                .Where(file => Path.GetExtension(file) is ".cs" or ".cshtml")
                .Select(file => (file, Path.GetRelativePath(folder, file).Replace(Path.DirectorySeparatorChar, '.')))
                .Where(file => file.Item2.Split('.')[0] is not ("bin" or "obj" or "node_modules"))
                .Select(file => new SourceFile(
                    file.Item2,
                    Path.GetDirectoryName(Path.GetRelativePath(folder, file.file)) is { Length: > 0 } inside
                        ? $"{name}.{inside.Replace(Path.DirectorySeparatorChar, '.')}"
                        : name,
                    Comment().Replace(File.ReadAllText(file.file), ""),
                    Compositions.Contains(Path.GetFileName(file.file))
                )),
        ];
        var homes = files
            .SelectMany(file => file.Types.Select(type => (type, file)))
            .ToLookup(pair => pair.type, pair => pair.file);
        var knows = files
            .Select(file => file.Namespace)
            .Distinct()
            .ToDictionary(one => one, _ => new Dictionary<string, string>());
        foreach (var file in files.Where(file => !file.IsComposition))
        {
            var usings = Using().Matches(file.Text).Select(match => match.Groups[1].Value).ToHashSet();
            // Unneeded usings do not build: each of them is knowledge, of extension methods, too.
            foreach (var used in usings.Where(used => file.Path.EndsWith(".cs", StringComparison.Ordinal)))
                if (used != file.Namespace && knows.ContainsKey(used))
                    knows[file.Namespace].TryAdd(used, $"{file.Path}: using");
            foreach (var word in Named().Matches(file.Text).Select(match => match.Value).Distinct())
            {
                var parts = word.Split('.');
                foreach (var home in homes[parts[0]].Where(IsInSight).Concat(homes[parts[^1]].Where(IsQualified)))
                {
                    if (home.Namespace == file.Namespace || homes[parts[0]].Any(own => own.Namespace == file.Namespace))
                        continue;
                    Assert.False(home.IsComposition, $"{file.Path} knows {home.Path}");
                    knows[file.Namespace].TryAdd(home.Namespace, $"{file.Path}: {word}");
                }

                bool IsInSight(SourceFile home) =>
                    usings.Contains(home.Namespace)
                    || file.Namespace.StartsWith(home.Namespace + ".", StringComparison.Ordinal);
                bool IsQualified(SourceFile home) =>
                    parts.Length > 1
                    && home.Namespace != name
                    && $"{name}.{word}".EndsWith(
                        $"{home.Namespace[name.Length..]}.{parts[^1]}",
                        StringComparison.Ordinal
                    );
            }
        }

        Assert.InRange(knows.Count, atLeast, int.MaxValue);
        // The reading of sources sees something at all.
        if (one is not null)
            Assert.Contains($"{name}.{knownToIt}", knows[$"{name}.{one}"].Keys);
        // Those at the bottom and at the top are taken away, one after the other; what is left goes round in a circle.
        while (
            knows
                .FirstOrDefault(node =>
                    node.Value.Count == 0 || !knows.Values.Any(others => others.ContainsKey(node.Key))
                )
                .Key
                is { } outermost
        )
        {
            knows.Remove(outermost);
            foreach (var others in knows.Values)
                others.Remove(outermost);
        }

        Assert.Empty(
            knows.SelectMany(node => node.Value.Select(other => $"{node.Key} knows {other.Key} ({other.Value})"))
        );
    }

    [GeneratedRegex("\"(?:[^\"\\\\]|\\\\.)*\"")]
    private static partial Regex Texts();

    // What the formatter does not see: pages, styles and scripts. A sentence for people stays on its line, however long.
    [Fact]
    public void Lines_have_140_characters_at_most()
    {
        var tooLong = new List<string>();
        foreach (var folder in new[] { "src", "tests", "bench" })
        foreach (
            var file in Directory.EnumerateFiles(Path.Combine(Root.FullName, folder), "*", SearchOption.AllDirectories)
        )
        {
            var path = Path.GetRelativePath(Root.FullName, file).Replace('\\', '/');
            if (Path.GetExtension(file) is not (".cshtml" or ".css" or ".js" or ".mjs"))
                continue;
            if (
                path.Split('/').Any(part => part is "node_modules" or "obj" or "bin" or "lib")
                || path.Contains("wwwroot/css", StringComparison.Ordinal)
            )
                continue;
            var isText = false;
            foreach (var (at, line) in File.ReadLines(file).Index())
            {
                if (
                    !isText
                    && line.Length > 140
                    && Texts().Replace(line, "\"\"").Length > 140
                    && !line.Contains("\"\"\"", StringComparison.Ordinal)
                )
                    tooLong.Add($"{path}:{at + 1}");
                if (line.Split("\"\"\"").Length % 2 == 0)
                    isText = !isText;
            }
        }

        Assert.Empty(tooLong);
    }

    // THIRD-PARTY.md is made by notices.mjs; whoever changes a dependency makes it anew.
    [Fact]
    public void What_others_made_is_told_as_the_lock_files_have_it()
    {
        var told = File.ReadAllText(Path.Combine(Root.FullName, "THIRD-PARTY.md"));
        var web = Path.Combine(Root.FullName, "src", "JollyAlmanac.Web");
        using var nuget = JsonDocument.Parse(File.ReadAllText(Path.Combine(web, "packages.lock.json")));
        var packages = nuget
            .RootElement.GetProperty("dependencies")
            .GetProperty("net10.0")
            .EnumerateObject()
            .Where(one => one.Value.GetProperty("type").GetString() != "Project")
            .Select(one => $"| {one.Name} | {one.Value.GetProperty("resolved").GetString()} | ")
            .ToList();
        Assert.True(packages.Count > 10);
        Assert.All(packages, package => Assert.Contains(package, told, StringComparison.Ordinal));
        using var npm = JsonDocument.Parse(File.ReadAllText(Path.Combine(web, "package-lock.json")));
        var vendored = File.ReadAllText(Path.Combine(web, "vendor.mjs"));
        foreach (var one in npm.RootElement.GetProperty("packages").EnumerateObject())
            if (
                one.Name.StartsWith("node_modules/", StringComparison.Ordinal)
                && vendored.Contains($"\"{one.Name[13..]}/", StringComparison.Ordinal)
            )
                Assert.Contains(
                    $"| {one.Name[13..]} | {one.Value.GetProperty("version").GetString()} | ",
                    told,
                    StringComparison.Ordinal
                );
    }

    // What no page asks for, and who does.
    private static readonly Dictionary<string, string> AskedElsewhere = new()
    {
        ["Share.GiveTo"] = "Share.Give by its other parameters: the demo's story",
        ["EditJoinLinks.PutBack"] = "EditJoinLinks.SetWithdrawn, back",
        ["OperateDoor.Release"] = "OperateDoor.Do, back to its usual times",
        ["EditNotices.PutChange"] = "EditNotices.Put, of one that is there",
        ["PrintSheetQuery.Read"] = "Prints",
        ["SetSchoolTime.Do"] = "the demo's story",
        ["AddPeople.Do"] = "the demo's story",
        ["PreviewAs.BeginAnybody"] = "PreviewAs.Begin, of nobody on a calendar",
    };

    // What people may do (the table of acts) they can do: some page or address asks for it.
    [Fact]
    public void Every_act_of_the_table_is_asked_for_by_a_page()
    {
        var acts = File.ReadAllLines(Path.Combine(Root.FullName, "tests", "JollyAlmanac.Application.Tests", "acts.txt"))
            .Where(line => line.Length > 0 && line[0] != '#')
            .Select(line => line.Split(' ')[0])
            .ToList();
        var web = Directory
            .EnumerateFiles(
                Path.Combine(Root.FullName, "src", "JollyAlmanac.Web"),
                "*.cs*",
                SearchOption.AllDirectories
            )
            .Where(file =>
                Path.GetRelativePath(Root.FullName, file).Split(Path.DirectorySeparatorChar) is var parts
                && !parts.Contains("obj")
                && !parts.Contains("node_modules")
            )
            .Select(File.ReadAllText)
            .ToList();
        Assert.InRange(acts.Count, 150, int.MaxValue);
        var never = acts.Where(act =>
                act.Split('.') is [var type, var method]
                && !web.Exists(text => Regex.IsMatch(text, $@"\b{type}\b") && Regex.IsMatch(text, $@"\.{method}\b"))
            )
            .ToHashSet();
        Assert.Empty(never.Except(AskedElsewhere.Keys));
        // What is asked for by now is no exception any more.
        Assert.Empty(AskedElsewhere.Keys.Except(never));
    }
}
