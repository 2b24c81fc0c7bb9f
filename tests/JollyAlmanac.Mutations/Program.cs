// Mutation testing: many single edits of the code, each of which some test should notice.
//   dotnet run --project tests/JollyAlmanac.Mutations -c Release -- [--seed 1] [--count 600] [--only Core/Series] [--named]
//                                                                   [--minutes 60] [--report FILE] [--clone DIR]
//                                                                   [--edits FILE] [--tests Core,Application,Web]
// All edits are built at once in a clone, each behind a switch that an environment variable turns on. The classes of tests are run
// once to see which edits each of them reaches; then each edit is run against those, the likeliest first, until one fails. --clone
// goes on in the clone of an earlier run with the same seed and count, which was built already: what its report has is not run again.
using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Text.RegularExpressions;
using JollyAlmanac.Mutations;

string Option(string name, string usual) =>
    Array.IndexOf(args, $"--{name}") is var at && at >= 0 && at + 1 < args.Length ? args[at + 1] : usual;
var seed = int.Parse(Option("seed", "1"), CultureInfo.InvariantCulture);
var count = int.Parse(Option("count", "600"), CultureInfo.InvariantCulture);
var only = Option("only", "");
var until = DateTime.UtcNow.AddMinutes(double.Parse(Option("minutes", "600"), CultureInfo.InvariantCulture));
var root = AppContext.BaseDirectory;
while (!File.Exists(Path.Combine(root, "JollyAlmanac.slnx")))
    root = Path.GetDirectoryName(root) ?? throw new InvalidOperationException("Run it within the repository.");
var clone = Option("clone", "");
var isBuilt = clone.Length > 0;
if (!isBuilt)
{
    clone = Directory.CreateTempSubdirectory("almanac-mutations-").FullName;
    Run("git", ["clone", "--quiet", root, clone], root);
}

string[] projects = ["Core", "Formats", "Storage", "Application", "Web"];
string[] testProjects = Option("tests", "Core,Application,Web").Split(',');
var src = Path.Combine(clone, "src");
var sources = projects
    .SelectMany(project =>
        Directory.EnumerateFiles(Path.Combine(src, $"JollyAlmanac.{project}"), "*.cs", SearchOption.AllDirectories)
    )
    .Select(file => Path.GetRelativePath(src, file).Replace('\\', '/'))
    .Where(file => !file.Contains("/obj/") && file.Contains(only, StringComparison.Ordinal))
    .Order(StringComparer.Ordinal)
    .ToDictionary(file => file, file => new Source(file, File.ReadAllText(Path.Combine(src, file))));

var mutants = args.Contains("--named") ? Named() : Chosen();
Console.WriteLine($"{mutants.Count} edits, seed {seed}, in {clone}");
var compiled = Path.Combine(clone, "compiled.txt");
if (isBuilt)
    mutants =
    [
        .. File.ReadLines(compiled)
            .Select(line => int.Parse(line, CultureInfo.InvariantCulture))
            .Select(id => mutants[id]),
    ];
else
    File.WriteAllLines(compiled, (mutants = Build(mutants)).Select(mutant => $"{mutant.Id}"));
Console.WriteLine($"{mutants.Count} of them compile");
var reached = Record();
Judge();
return 0;

// As many of each project as it has code, drawn by the seed.
List<Mutant> Chosen()
{
    var random = new Random(seed);
    var all = sources.Values.SelectMany(source => source.Mutants()).Select(mutant => (mutant, random.Next())).ToList();
    return Numbered([.. all.OrderBy(one => one.Item2).Take(count).Select(one => one.mutant)]);
}

List<Mutant> Named()
{
    var found = new List<Mutant>();
    foreach (
        var line in File.ReadLines(Option("edits", Path.Combine(root, "tests", "edits.txt")))
            .Where(line => line.Length > 0 && line[0] != '#')
    )
    {
        var parts = line.Split(" | ");
        if (
            sources
                .GetValueOrDefault($"JollyAlmanac.{parts[0]}")
                ?.Named(parts[1], parts.ElementAtOrDefault(2)?.Trim() ?? "") is
            { } mutant
        )
            found.Add(mutant);
        else
            Console.WriteLine($"not in a body, or not there any more: {line}");
    }

    return Numbered(found);
}

static List<Mutant> Numbered(IEnumerable<Mutant> mutants) =>
    [.. mutants.Select((mutant, at) => mutant with { Id = at })];

// Builds; edits that do not compile are left out, until it does.
List<Mutant> Build(List<Mutant> these)
{
    File.WriteAllText(Path.Combine(src, "JollyAlmanac.Core", "AlmanacMutant.cs"), Switch(these.Count));
    while (true)
    {
        var lines = new Dictionary<string, List<(int First, int Last, Mutant Mutant)>>();
        foreach (var (file, source) in sources)
        {
            File.WriteAllText(
                Path.Combine(src, file),
                source.With([.. these.Where(one => one.File == file)], out var whose)
            );
            lines[file] = whose;
        }

        var (code, said) = Run(
            "dotnet",
            [
                "build",
                "JollyAlmanac.slnx",
                "-c",
                "Release",
                "--nologo",
                "-v",
                "quiet",
                "-p:RunAnalyzers=false",
                "-p:TreatWarningsAsErrors=false",
                "-p:EnforceCodeStyleInBuild=false",
                "-p:WarningLevel=0",
                "-p:GenerateDocumentationFile=false",
            ],
            clone,
            check: false
        );
        if (code == 0)
            break;
        var gone = new HashSet<int>();
        foreach (Match error in Regex.Matches(said, @"src/(JollyAlmanac\.[^\s(]+)\((\d+),\d+\): error"))
        foreach (var (first, last, mutant) in lines.GetValueOrDefault(error.Groups[1].Value) ?? [])
            if (
                int.Parse(error.Groups[2].Value, CultureInfo.InvariantCulture) is var line
                && first <= line
                && line <= last
            )
                gone.Add(mutant.Id);
        if (gone.Count == 0)
            throw new InvalidOperationException(said.Length > 4000 ? said[..4000] : said);
        these = [.. these.Where(one => !gone.Contains(one.Id))];
    }

    // Some tests read the sources.
    Run("git", ["checkout", "--quiet", "src"], clone);
    File.Delete(Path.Combine(src, "JollyAlmanac.Core", "AlmanacMutant.cs"));
    return these;
}

static string Switch(int count) =>
    $$"""
        /// <summary>Which edit is on, and which were reached.</summary>
        public static class AlmanacMutant
        {
            private static readonly int Active = int.Parse(System.Environment.GetEnvironmentVariable("ALMANAC_MUTANT") ?? "-1");
            private static readonly string? File = System.Environment.GetEnvironmentVariable("ALMANAC_MUTANTS_REACHED");
            private static readonly bool[]? Reached = File is null ? null : new bool[{{count}}];

            static AlmanacMutant()
            {
                if (Reached is not null)
                    System.AppDomain.CurrentDomain.ProcessExit += (_, _) =>
                        System.IO.File.WriteAllLines(File!, System.Linq.Enumerable.Select(System.Linq.Enumerable.Where(
                            System.Linq.Enumerable.Range(0, Reached.Length), id => Reached[id]), id => id.ToString()));
            }

            /// <summary>False; the compiler does not know it.</summary>
            public static bool Never => Active == -2;

            /// <summary>Whether this edit is on.</summary>
            public static bool On(int id)
            {
                if (Reached is not null)
                    Reached[id] = true;
                return id == Active;
            }
        }
        """;

// The classes of tests, how long each takes, and which edits it reaches.
List<(string Project, string Class, TimeSpan Time, HashSet<int> Reached)> Record()
{
    var classes = testProjects
        .SelectMany(project =>
            Directory
                .EnumerateFiles(Path.Combine(clone, "tests", $"JollyAlmanac.{project}.Tests"), "*.cs")
                .Select(File.ReadAllText)
                .Where(text =>
                    text.Contains("[Fact", StringComparison.Ordinal)
                    || text.Contains("[Theory", StringComparison.Ordinal)
                    || text.Contains("[Property", StringComparison.Ordinal)
                )
                .SelectMany(text =>
                    Regex.Matches(text, @"^public (?:sealed |partial )*class (\w+)", RegexOptions.Multiline)
                )
                .Select(match => (project, match.Groups[1].Value))
        )
        .Distinct()
        .ToList();
    var recorded = new ConcurrentBag<(string, string, TimeSpan, HashSet<int>)>();
    var known = Path.Combine(clone, "reached.txt");
    if (File.Exists(known))
    {
        foreach (var parts in File.ReadLines(known).Select(line => line.Split('\t')))
            recorded.Add(
                (
                    parts[0],
                    parts[1],
                    TimeSpan.FromSeconds(double.Parse(parts[2], CultureInfo.InvariantCulture)),
                    [
                        .. parts[3]
                            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                            .Select(id => int.Parse(id, CultureInfo.InvariantCulture)),
                    ]
                )
            );
        classes.Clear();
    }

    Parallel.ForEach(classes, new ParallelOptions { MaxDegreeOfParallelism = 2 }, one =>
    {
        var file = Path.GetTempFileName();
        var watch = Stopwatch.StartNew();
        var failed = Test(one.project, one.Value, TimeSpan.FromMinutes(10), ("ALMANAC_MUTANTS_REACHED", file));
        if (failed is not null)
            Console.WriteLine($"{one.Value} fails without an edit, and is left out");
        else
            recorded.Add(
                (
                    one.project,
                    one.Value,
                    watch.Elapsed,
                    [.. File.ReadLines(file).Select(line => int.Parse(line, CultureInfo.InvariantCulture))]
                )
            );
        File.Delete(file);
    });
    File.WriteAllLines(
        known,
        recorded.Select(one =>
            string.Create(
                CultureInfo.InvariantCulture,
                $"{one.Item1}\t{one.Item2}\t{one.Item3.TotalSeconds}\t{string.Join(' ', one.Item4)}"
            )
        )
    );
    Console.WriteLine(
        $"{recorded.Count} classes of tests, {recorded.Sum(one => one.Item3.TotalSeconds):0} s one after the other"
    );
    // Quick ones, and those that look at little: it is the likelier to be what they look at.
    return [.. recorded.OrderBy(one => one.Item3.TotalSeconds * one.Item4.Count)];
}

// How a test failed, or that they did not come to an end; null where all pass.
string? Test(string project, string name, TimeSpan longest, (string Name, string Value) variable)
{
    var start = new ProcessStartInfo(
        "dotnet",
        [
            "exec",
            Path.Combine(
                clone,
                "artifacts",
                "bin",
                $"JollyAlmanac.{project}.Tests",
                "release",
                $"JollyAlmanac.{project}.Tests.dll"
            ),
            "-class",
            $"JollyAlmanac.{project}.Tests.{name}",
            "-stopOnFail",
            "-noLogo",
            "-noColor",
        ]
    )
    {
        RedirectStandardOutput = true,
        RedirectStandardError = true,
        WorkingDirectory = clone,
    };
    start.Environment[variable.Name] = variable.Value;
    using var process = Process.Start(start)!;
    process.OutputDataReceived += (_, _) => { };
    process.ErrorDataReceived += (_, _) => { };
    process.BeginOutputReadLine();
    process.BeginErrorReadLine();
    // By the time of the processor, so that other work on the machine does not make an end of a test that has one.
    for (var started = Stopwatch.StartNew(); !process.WaitForExit(1000); )
        if (process.TotalProcessorTime > longest || started.Elapsed > longest * 10)
        {
            process.Kill(entireProcessTree: true);
            return "does not end";
        }

    return process.ExitCode == 0 ? null : "fails";
}

void Judge()
{
    var file = Option("report", Path.Combine(clone, "mutations.txt"));
    var results = new ConcurrentDictionary<Mutant, string>();
    if (isBuilt && File.Exists(file))
        foreach (var parts in File.ReadLines(file).Select(line => line.Split('\t', 2)))
            if (mutants.Find(mutant => $"{mutant}" == parts[1]) is { } known)
                results[known] = parts[0];
    using var report = new StreamWriter(file, append: isBuilt) { AutoFlush = true };
    // In an order of its own, so that a run that is broken off has seen some of everything.
    var random = new Random(seed);
    var order = mutants
        .Select(mutant => (mutant, random.Next()))
        .OrderBy(one => one.Item2)
        .Select(one => one.mutant)
        .Where(mutant => !results.ContainsKey(mutant))
        .ToList();
    Parallel.ForEach(
        Partitioner.Create(order, EnumerablePartitionerOptions.NoBuffering),
        new ParallelOptions { MaxDegreeOfParallelism = 2 },
        mutant =>
        {
            if (DateTime.UtcNow > until)
                return;
            var by = reached.Where(one => one.Reached.Contains(mutant.Id)).ToList();
            var noticed = by.Select(one =>
                    (
                        one.Class,
                        How: Test(
                            one.Project,
                            one.Class,
                            one.Time * 6 + TimeSpan.FromSeconds(20),
                            ("ALMANAC_MUTANT", $"{mutant.Id}")
                        )
                    )
                )
                .FirstOrDefault(one => one.How is not null);
            var result =
                noticed.How is { } how ? $"{noticed.Class} {how}"
                : by.Count == 0 ? "NOT REACHED"
                : "NOT NOTICED";
            results[mutant] = result;
            lock (report)
                report.WriteLine($"{result}\t{mutant}");
        }
    );
    foreach (var project in results.GroupBy(one => one.Key.Project).OrderBy(one => one.Key, StringComparer.Ordinal))
    {
        var noticed = project.Count(one => !one.Value.StartsWith("NOT ", StringComparison.Ordinal));
        Console.WriteLine(
            $"{project.Key}: {noticed} of {project.Count()} noticed, {100.0 * noticed / project.Count():0} %"
        );
    }

    foreach (
        var (mutant, result) in results
            .Where(one => one.Value.StartsWith("NOT ", StringComparison.Ordinal))
            .OrderBy(one => one.Key.File, StringComparer.Ordinal)
    )
        Console.WriteLine($"{result}  {mutant}");
    if (results.Count < mutants.Count)
        Console.WriteLine($"{mutants.Count - results.Count} were not tried: the time was over");
}

static (int Code, string Said) Run(string command, string[] arguments, string directory, bool check = true)
{
    using var process = Process.Start(
        new ProcessStartInfo(command, arguments)
        {
            WorkingDirectory = directory,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        }
    )!;
    var error = process.StandardError.ReadToEndAsync();
    var said = process.StandardOutput.ReadToEnd() + error.Result;
    process.WaitForExit();
    return check && process.ExitCode != 0 ? throw new InvalidOperationException(said) : (process.ExitCode, said);
}
