// Where the reader's clock differs from the calendar's, says the reader's own time beside each time.
const zone = document.body.dataset.zone;
const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
const twelve = document.body.dataset.hours === "12";
const clock = (instant, timeZone) =>
  new Intl.DateTimeFormat("en-GB", { hour: "numeric", minute: "2-digit", hour12: twelve, timeZone }).format(instant).replace(/^0/, "");
const day = (instant, timeZone) => new Intl.DateTimeFormat("en-GB", { weekday: "short", timeZone }).format(instant);

let differs = false;
for (const time of document.querySelectorAll("time[datetime]")) {
  const [from, until] = [new Date(time.dateTime), new Date(time.dataset.until)];
  if (clock(from, zone) === clock(from, own) && day(from, zone) === day(from, own)) continue;
  differs = true;
  const there = document.createElement("span");
  there.className = "own-time";
  // In a list it stands on a line of its own.
  const weekday = day(from, zone) === day(from, own) ? "" : day(from, own) + " ";
  there.textContent = `${time.closest(".row") ? "" : " · "}${weekday}${clock(from, own)}–${clock(until, own)} your time`;
  time.after(there);
}
if (differs) for (const note of document.querySelectorAll("[data-readers-zone]")) note.textContent = `; yours is ${own}`;
