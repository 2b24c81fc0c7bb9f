// Copies what the browser needs from the installed packages into wwwroot/lib, so that nothing is fetched at run time.
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import subsetFont from "subset-font";

const out = "wwwroot/lib";
rmSync(out, { recursive: true, force: true });
mkdirSync(out, { recursive: true });
const files = {
    "htmx.min.js": "htmx.org/dist/htmx.min.js",
    "tus.min.js": "tus-js-client/dist/tus.min.js",
    "bricolage-grotesque.woff2": "@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-latin-wght-normal.woff2",
    "atkinson-hyperlegible-next.woff2":
        "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2",
    "atkinson-hyperlegible-next-ext.woff2":
        "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-ext-wght-normal.woff2",
};
// What is drawn on paper needs letters of more languages, in a form that the library for it reads.
Object.assign(files, {
    "dejavu-sans-condensed.ttf": "dejavu-fonts-ttf/ttf/DejaVuSansCondensed.ttf",
    "dejavu-sans-condensed-bold.ttf": "dejavu-fonts-ttf/ttf/DejaVuSansCondensed-Bold.ttf",
});
// Their licences go with them, as they ask.
const licences = {
    "dejavu-sans.LICENSE.txt": "dejavu-fonts-ttf/LICENSE",
    "htmx.LICENSE.txt": "htmx.org/LICENSE",
    "tus.LICENSE.txt": "tus-js-client/LICENSE",
    "bricolage-grotesque.LICENSE.txt": "@fontsource-variable/bricolage-grotesque/LICENSE",
    "atkinson-hyperlegible-next.LICENSE.txt": "@fontsource-variable/atkinson-hyperlegible-next/LICENSE",
};
Object.assign(files, licences);
for (const [name, source] of Object.entries(files)) cpSync(`node_modules/${source}`, `${out}/${name}`);

// The page that families open on the way needs few letters and fewer weights: half the bytes. What is not in them comes from the
// whole fonts.
const run = (first, count) => String.fromCharCode(...Array.from({ length: count }, (_, at) => first + at));
const letters = run(0x20, 0x5f) + run(0xa0, 0x60)
    + "\u2013\u2014\u2018\u2019\u201c\u201d\u2026\u2212";
for (const [name, wght] of [["bricolage-grotesque", 700], ["atkinson-hyperlegible-next", { min: 400, max: 700 }]])
    writeFileSync(`${out}/${name}.small.woff2`,
        await subsetFont(readFileSync(`${out}/${name}.woff2`), letters, { targetFormat: "woff2", variationAxes: { wght } }));
// The same letters for paper, one weight each, as the library that draws reads them.
for (const wght of [400, 700])
    writeFileSync(`${out}/atkinson-hyperlegible-next-${wght}.ttf`,
        await subsetFont(readFileSync(`${out}/atkinson-hyperlegible-next.woff2`), letters, { targetFormat: "truetype", variationAxes: { wght } }));
