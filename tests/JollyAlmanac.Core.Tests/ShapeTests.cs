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

    [GeneratedRegex(@"^using (?:static |\w+ = )?JollyAlmanac\.Core\.(\w+)", RegexOptions.Multiline)]
    private static partial Regex Using();

    // A name of another folder in the code itself: "JoinLinks.EntryAudience", "Core.Series.Series".
    [GeneratedRegex(@"(?<![\w.])(?:JollyAlmanac\.)?(?:Core\.)?([A-Z]\w+)\.[A-Z]\w+")]
    private static partial Regex Named();

    [Fact]
    public void Folders_of_the_core_form_no_circle()
    {
        var core = Path.Combine(Root.FullName, "src", "JollyAlmanac.Core");
        var folders = Directory
            .GetDirectories(core)
            .Select(folder => Path.GetFileName(folder)!)
            .Where(name => name is not ("bin" or "obj"))
            .ToHashSet();
        var knows = folders.ToDictionary(
            folder => folder,
            folder =>
                Directory
                    .GetFiles(Path.Combine(core, folder), "*.cs")
                    .SelectMany(file =>
                    {
                        var text = File.ReadAllText(file);
                        // Types may bear the name of a folder; with the folder's own types nested in it, the using tells.
                        return Using()
                            .Matches(text)
                            .Select(match => match.Groups[1].Value)
                            .Concat(
                                Named()
                                    .Matches(text)
                                    .Select(match => match.Groups[1].Value)
                                    .Where(name => name is not ("Series" or "Access"))
                            );
                    })
                    .Where(other => folders.Contains(other) && other != folder)
                    .ToHashSet()
        );
        Assert.True(folders.Count > 10 && knows["Access"].Contains("People"));
        // Those at the bottom are taken away, one after the other; what stays goes round in a circle.
        while (knows.FirstOrDefault(one => one.Value.Count == 0).Key is { } lowest)
        {
            knows.Remove(lowest);
            foreach (var others in knows.Values)
                others.Remove(lowest);
        }

        Assert.Empty(knows.Select(one => $"{one.Key} knows {string.Join(", ", one.Value)}"));
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
                && !parts.Contains("Demo")
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
