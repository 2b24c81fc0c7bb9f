// Reads feeds as lines of JSON ({ ics, from, until }) and answers each with the starts that ical.js finds, cancelled ones left out:
// [ "2026-09-14T11:00:00.000Z", … ], dates as "2026-09-14", or { "error": … }.
import { createInterface } from "node:readline";
import ICAL from "ical.js";

for await (const line of createInterface({ input: process.stdin })) {
    const { ics, until } = JSON.parse(line);
    try {
        const calendar = new ICAL.Component(ICAL.parse(ics));
        ICAL.TimezoneService.reset();
        for (const zone of calendar.getAllSubcomponents("vtimezone")) ICAL.TimezoneService.register(zone);
        const say = time => (time.isDate ? time.toString() : time.toJSDate().toISOString());
        const last = ICAL.Time.fromDateString(until);
        const all = calendar.getAllSubcomponents("vevent");
        const found = [];
        for (const component of all.filter(one => !one.hasProperty("recurrence-id"))) {
            const event = new ICAL.Event(component, {
                exceptions: all.filter(
                    one => one.hasProperty("recurrence-id") && one.getFirstPropertyValue("uid") === component.getFirstPropertyValue("uid"),
                ),
            });
            if (!event.isRecurring()) {
                if (component.getFirstPropertyValue("status") !== "CANCELLED") found.push(say(event.startDate));
                continue;
            }
            const times = event.iterator();
            for (let time = times.next(), count = 0; time && count < 3000 && time.compare(last) < 0; time = times.next(), count++) {
                const at = event.getOccurrenceDetails(time);
                if (at.item.component.getFirstPropertyValue("status") !== "CANCELLED") found.push(say(at.startDate));
            }
        }
        process.stdout.write(JSON.stringify(found.sort()) + "\n");
    } catch (error) {
        process.stdout.write(JSON.stringify({ error: String(error.message ?? error) }) + "\n");
    }
}
