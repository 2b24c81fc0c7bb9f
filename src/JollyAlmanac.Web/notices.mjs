// Writes THIRD-PARTY.md: what ships with the almanac that others made, read from the lock files and what each package says of
// itself. Run it from the root after a restore whenever a dependency changes: node src/JollyAlmanac.Web/notices.mjs
import { existsSync, readFileSync, readdirSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import { join } from "node:path";

const web = "src/JollyAlmanac.Web";
const json = file => JSON.parse(readFileSync(join(web, file), "utf8"));
const cache = process.env.NUGET_PACKAGES ?? join(homedir(), ".nuget", "packages");

const nuget = Object.entries(json("packages.lock.json").dependencies["net10.0"])
  .filter(([, one]) => one.type !== "Project")
  .map(([name, { resolved }]) => {
    const folder = join(cache, name.toLowerCase(), resolved);
    const spec = readdirSync(folder).find(file => file.endsWith(".nuspec"));
    const text = readFileSync(join(folder, spec), "utf8");
    const said = tag => text.match(new RegExp(`<${tag}[^>]*>([^<]*)</${tag}>`))?.[1].trim();
    const beside = text.match(/<license type="file">([^<]*)</)?.[1];
    const licence = beside
      ? (readFileSync(join(folder, beside), "utf8").match(/\b(MIT|Apache-2\.0|BSD)\b/)?.[1] ?? beside)
      : (said("license") ?? said("licenseUrl") ?? "not said");
    return [name, resolved, licence, said("copyright") ?? said("authors") ?? ""];
  });

// Of the packages from npm only these are sent to browsers, Tailwind by its reset alone; the others build them.
const sent = ["dejavu-fonts-ttf", "htmx.org", "tus-js-client", "tailwindcss", "@fontsource-variable/atkinson-hyperlegible-next", "@fontsource-variable/bricolage-grotesque"];
const lock = json("package-lock.json").packages;
const npm = sent.map(name => {
  const { version, license } = lock[`node_modules/${name}`];
  const file = join(web, "node_modules", name, "LICENSE");
  const said = existsSync(file) ? readFileSync(file, "utf8").match(/^\s*(Copyright.*?)(?: \(http|$)/m)?.[1].trim() : undefined;
  return [name, version, license, said ?? "its authors"];
});

const table = rows => ["| package | version | licence | whose |", "|---|---|---|---|", ...rows.map(row => `| ${row.join(" | ")} |`)].join("\n");
writeFileSync(
  "THIRD-PARTY.md",
  `# What others made\n\nMade by \`${web}/notices.mjs\` from the lock files.\n\n## Runs in the server (NuGet)\n\n${table(nuget)}\n\n` +
    "## Words of others\n\nThe list of common passwords is the part of ten characters and more of the dictionary in @zxcvbn-ts/language-common " +
    "4.1.3 (MIT, Copyright (c) 2012-2016 Dan Wheeler and Dropbox, Inc., Copyright (c) 2021 @zxcvbn-ts).\n\n" +
    `## Is sent to browsers (npm)\n\nTheir licence texts stand beside them in \`wwwroot/lib\`.\n\n${table(npm)}\n`,
);
