// Single edits of rules, to see whether a test notices: node tests/mutate.mjs [--seed 1] [--count 40] [--only Series] [--named]
// Run it in a clone: it edits files, builds, tests, and puts each back. An edit that does not compile is not counted.
import { execFileSync, spawnSync } from "node:child_process";
import { copyFileSync, existsSync, readFileSync, readdirSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";

const option = (name, usual) => {
    const at = process.argv.indexOf(`--${name}`);
    return at < 0 ? usual : process.argv[at + 1];
};
const root = new URL("..", import.meta.url).pathname;
const folders = [
    "Core/Access",
    "Core/Series",
    "Core/Sheets",
    "Core/JoinLinks",
    "Core/Doors",
    "Core/Findings",
    "Core/Terms",
    "Application",
].filter(folder => !option("only", "") || folder.includes(option("only", "")));
const edits = [
    [/ < /, " <= "],
    [/ <= /, " < "],
    [/ > /, " >= "],
    [/ >= /, " > "],
    [/ == /, " != "],
    [/ != /, " == "],
    [/ && /, " || "],
    [/ \|\| /, " && "],
    [/\.Any\(/, ".All("],
    [/\.All\(/, ".Any("],
    [/PlusDays\(1\)/, "PlusDays(0)"],
    [/ \+ 1\b/, " + 0"],
    [/ - 1\b/, " - 0"],
    [/\bis null\b/, "is not null"],
    [/\bis not null\b/, "is null"],
    [/\btrue\b/, "false"],
    [/\bfalse\b/, "true"],
    [/\.OrderBy\(/, ".OrderByDescending("],
    [/(?<=[(,&|?:=] ?)!(?=[a-zA-Z(])/, ""],
    [/\.Min\(/, ".Max("],
    [/\.Max\(/, ".Min("],
];

const files = folder =>
    readdirSync(folder).flatMap(name =>
        statSync(join(folder, name)).isDirectory()
            ? name === "obj" || name === "bin"
                ? []
                : files(join(folder, name))
            : name.endsWith(".cs")
              ? [join(folder, name)]
              : [],
    );
const sites = [];
for (const file of folders.flatMap(folder => files(join(root, "src", `JollyAlmanac.${folder}`))).sort())
    readFileSync(file, "utf8")
        .split("\n")
        .forEach((line, at) => {
            // Comments, attributes, patterns of text, and what lambdas and generics look like are no rules.
            if (/^\s*(\/\/|\[|using |namespace )/.test(line) || line.includes("GeneratedRegex")) return;
            for (const [find, put] of edits) if (find.test(line)) sites.push({ file, at, find, put });
        });

// Or those that are named in edits.txt.
const named = process.argv.includes("--named")
    ? readFileSync(join(root, "tests/edits.txt"), "utf8")
          .split("\n")
          .filter(line => line.trim() && !line.startsWith("#"))
          .map(line => line.split(" | ").map(part => part.trim()))
    : null;
// What is named is found however its line is broken.
const anywhere = text =>
    new RegExp([...text.replace(/\s+/g, "")].map(letter => letter.replace(/[^\w]/, "\\$&")).join("\\s*"));
const wanted = named
    ? named.map(([path, find, put]) => {
          const file = join(root, "src", `JollyAlmanac.${path}`),
              found = anywhere(find).exec(readFileSync(file, "utf8"));
          if (!found) throw new Error(`There is no “${find}” in ${path}.`);
          return { file, at: found.input.slice(0, found.index).split("\n").length - 1, find: anywhere(find), put };
      })
    : null;

// A small generator of its own, so that a seed means the same edits everywhere.
let state = Number(option("seed", "1")) >>> 0;
const next = most => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 4294967296) * most);
};
const run = (command, ...words) =>
    spawnSync(command, words, {
        cwd: root,
        stdio: "ignore",
        // Tests that wait for ever have noticed something, too.
        timeout: 300_000,
        env: { ...process.env, DOTNET_CLI_TELEMETRY_OPTOUT: "1" },
    }).status === 0;
const built = project => join(root, "artifacts", "bin", project, "debug");
const parts = ["Core", "Application", "Web"];
// Only the project of the edit is built, without analysers, and laid beside the tests that are built already.
const build = project =>
    run(
        "dotnet",
        "build",
        `src/${project}`,
        "--no-dependencies",
        "--no-restore",
        "-v",
        "q",
        "--nologo",
        "-p:RunAnalyzers=false",
        "-p:TreatWarningsAsErrors=false",
    );
const lay = (project, from = join(built(project), `${project}.dll`)) =>
    parts.forEach(
        part =>
            existsSync(join(built(`JollyAlmanac.${part}.Tests`), `${project}.dll`)) &&
            copyFileSync(from, join(built(`JollyAlmanac.${part}.Tests`), `${project}.dll`)),
    );
// As it is without an edit, to be laid back after each.
const unedited = project => join(root, "artifacts", `${project}.unedited.dll`);
// Left out are the slow comparisons with other libraries, and the reading of spoiled rows, which is of Storage.
const leftOut = { Core: ["*RecurrenceBeside*"], Application: ["*FeedReader*"], Web: ["*UnreadableTests", "*StartTests"] };
const passes = part =>
    run(
        join(built(`JollyAlmanac.${part}.Tests`), `JollyAlmanac.${part}.Tests`),
        "-noColor",
        "-noLogo",
        "-stopOnFail",
        ...leftOut[part].flatMap(name => ["-class-", name]),
    );

if (execFileSync("git", ["status", "--porcelain", "src"], { cwd: root }).length > 0)
    throw new Error("There are changes under src. Run this in a clone.");
if (!run("dotnet", "build", "JollyAlmanac.slnx", "-v", "q", "--nologo")) throw new Error("It does not build as it is.");
// Else every edit would seem to be noticed.
for (const project of ["JollyAlmanac.Core", "JollyAlmanac.Application", "JollyAlmanac.Storage"])
    copyFileSync(join(built(project), `${project}.dll`), unedited(project));
for (const part of parts) if (!passes(part)) throw new Error(`The tests of ${part} do not pass as it is.`);
const result = { killed: 0, survived: [] };
for (let made = 0; wanted ? wanted.length > 0 : made < Number(option("count", "40")) && sites.length > 0;) {
    const [{ file, at, find, put }] = wanted ? wanted.splice(0, 1) : sites.splice(next(sites.length), 1);
    const project = file.match(/src\/(JollyAlmanac\.\w+)/)[1];
    const text = readFileSync(file, "utf8"),
        lines = text.split("\n"),
        before = lines[at];
    if (wanted) writeFileSync(file, text.replace(find, () => put));
    else writeFileSync(file, [...lines.slice(0, at), before.replace(find, put), ...lines.slice(at + 1)].join("\n"));
    try {
        if (!build(project)) {
            if (wanted) console.log(`does not build: ${put}`);
            continue;
        }
        made++;
        lay(project);
        // What Core's own tests do not notice, those of the acts may, and what those do not, those of the pages.
        const isKilled = parts.some(part => (part !== "Core" || project === "JollyAlmanac.Core") && !passes(part));
        const where = `${file.slice(root.length)}:${at + 1}`;
        if (isKilled) result.killed++;
        else result.survived.push(where);
        console.log(`${isKilled ? "killed  " : "SURVIVED"} ${where}  ${before.trim().slice(0, 150)}  →  ${put.trim()}`);
    } finally {
        writeFileSync(file, text);
        lay(project, unedited(project));
    }
}

const all = result.killed + result.survived.length;
console.log(`${result.killed} of ${all} noticed (${Math.round((100 * result.killed) / all)} %)`);
