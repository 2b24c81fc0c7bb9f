// Reads questions as lines of JSON ({ rrule, dtstart, tzid, most, until }) and answers each with the occurrences that
// rrule-temporal finds, as lines of JSON: [ "2026-09-14T08:00:00-03:00", … ], or { "error": … }.
import { createInterface } from "node:readline";
import { Temporal } from "temporal-polyfill";
globalThis.Temporal ??= Temporal;
const { RRuleTemporal } = await import("rrule-temporal");

for await (const line of createInterface({ input: process.stdin })) {
    const { rrule, dtstart, tzid, most, until } = JSON.parse(line);
    const found = [];
    try {
        const last = Temporal.PlainDateTime.from(until);
        const rule = new RRuleTemporal({
            rruleString: rrule,
            dtstart: Temporal.PlainDateTime.from(dtstart).toZonedDateTime(tzid),
            temporal: Temporal,
        });
        rule.all(time => {
            if (found.length >= most || Temporal.PlainDateTime.compare(time.toPlainDateTime(), last) >= 0) return false;
            found.push(time.toString({ timeZoneName: "never" }));
            return true;
        });
        process.stdout.write(JSON.stringify(found) + "\n");
    } catch (error) {
        process.stdout.write(JSON.stringify({ error: String(error.message ?? error), found }) + "\n");
    }
}
