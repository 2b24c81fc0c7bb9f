// Reads iCalendar documents as lines of JSON strings and answers each with what ical.js makes of it: jCal (RFC 7265).
import { createInterface } from "node:readline";
import ICAL from "ical.js";

for await (const line of createInterface({ input: process.stdin }))
    process.stdout.write(JSON.stringify(ICAL.parse(JSON.parse(line))) + "\n");
