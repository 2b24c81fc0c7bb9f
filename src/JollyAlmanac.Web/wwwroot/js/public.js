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
  const [before, after] = time.closest(".row") ? ["", ""] : [" · ", " your time"];
  there.textContent = `${before}${weekday}${clock(from, own)}–${clock(until, own)}${after}`;
  time.after(there);
}
// Whose time stands in the rows is said once, above them.
const rows = differs && document.querySelector(".class-list");
if (rows) {
  const note = document.createElement("p");
  note.className = "part soft";
  note.textContent = `The second time in each row is yours: ${own.split("/").pop().replaceAll("_", " ")}.`;
  rows.prepend(note);
}
if (differs) for (const note of document.querySelectorAll("[data-readers-zone]")) note.textContent = `; yours is ${own}`;

// A door that opens while somebody waits before it: counts down, and is looked at when its state changes by itself, and now and then for
// what is done by hand; it is fetched then. Without it, the page says the same and is reloaded.
const often = 20_000;
// Who waits for a host asks more often, and is counted by what their page calls itself.
const oftenWaiting = 5_000;
const waiter = crypto.getRandomValues(new Uint32Array(3)).join("-");

const minutes = milliseconds => {
  const seconds = Math.ceil(milliseconds / 1000);
  if (seconds < 60) return `in ${seconds} ${seconds === 1 ? "second" : "seconds"}`;
  if (seconds < 600) return `in ${Math.floor(seconds / 60)} min ${String(seconds % 60).padStart(2, "0")} s`;
  return null;
};

let nextLook = Date.now() + (document.getElementById("door")?.dataset.waits ? 0 : often);
let said = null;
let ahead = 0;

// The server's clock counts, not the reader's.
const serverNow = door => {
  if (door.dataset.now !== said) [said, ahead] = [door.dataset.now, new Date(door.dataset.now) - Date.now()];
  return Date.now() + ahead;
};

// On the page of a class, a door that turned to another session of its room is no longer the class's own.
const session = document.getElementById("door")?.dataset.session;
async function look(door) {
  const answer = await fetch(door.dataset.look + (door.dataset.waits ? `&waits=${waiter}` : ""), { cache: "no-store" }).catch(() => null);
  const fresh = answer?.ok && new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("door");
  // What somebody types in it stays; the next look comes soon.
  if (!fresh || door.contains(document.activeElement?.closest("input"))) return;
  if (fresh.dataset.session !== session && !/^\/(in|guest)\//.test(location.pathname)) return location.reload();
  const place = [...door.querySelectorAll("a, button")].indexOf(document.activeElement);
  if (fresh.innerHTML !== door.innerHTML) {
    // Told anew only where it says something else than the seconds that are left.
    const counted = door.querySelector("[data-countdown]")?.textContent;
    const counter = fresh.querySelector("[data-countdown]");
    if (counted && counter) counter.textContent = counted;
    door.innerHTML = fresh.innerHTML;
    door.className = fresh.className;
    if (place >= 0) door.querySelectorAll("a, button")[place]?.focus();
  }
  for (const name of ["now", "changes", "session", "waits"])
    if (name in fresh.dataset) door.dataset[name] = fresh.dataset[name];
    else delete door.dataset[name];
}

setInterval(() => {
  const door = document.getElementById("door");
  if (!door) return;
  const now = serverNow(door);
  const counter = door.querySelector("[data-countdown]");
  const left = counter && new Date(counter.dataset.countdown) - now;
  const words = counter && left > 0 && minutes(left);
  if (words) {
    counter.setAttribute("aria-live", "off");
    counter.textContent = `The Join button appears here ${words}.`;
  }
  const isDue = door.dataset.changes && now >= new Date(door.dataset.changes).getTime() && Date.now() >= nextLook - often + 900;
  if (document.hidden || !(isDue || Date.now() >= nextLook)) return;
  nextLook = Date.now() + (door.dataset.waits ? oftenWaiting : often);
  look(door);
}, 500);

// The last state of a page that anybody may see stays readable when the line is gone.
if (document.body.dataset.keeps && "serviceWorker" in navigator) navigator.serviceWorker.register("/sw.js");
if (!navigator.onLine) for (const line of document.querySelectorAll(".gone-line")) line.hidden = false;

for (const box of document.querySelectorAll(".address-box")) box.addEventListener("focus", () => box.select());

// "/" finds, wherever there is something to find in; never while somebody types.
document.addEventListener("keydown", event => {
  const field = document.querySelector(".find input");
  if (event.key !== "/" || !field || event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select")) return;
  event.preventDefault();
  field.focus();
});
