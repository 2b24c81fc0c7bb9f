// A door that opens while somebody waits before it: counts down, and says when it is due to be looked at, as its state changes by
// itself, and now and then for what is done by hand; htmx fetches it then. Without it, the page says the same and is reloaded.
const often = 20_000;

const minutes = milliseconds => {
  const seconds = Math.ceil(milliseconds / 1000);
  if (seconds < 60) return `in ${seconds} ${seconds === 1 ? "second" : "seconds"}`;
  if (seconds < 600) return `in ${Math.floor(seconds / 60)} min ${String(seconds % 60).padStart(2, "0")} s`;
  return null;
};

let nextLook = Date.now() + often;
let said = null;
let ahead = 0;

// The server's clock counts, not the reader's.
const serverNow = door => {
  if (door.dataset.now !== said) [said, ahead] = [door.dataset.now, new Date(door.dataset.now) - Date.now()];
  return Date.now() + ahead;
};

// On the page of a class, a door that turned to another session of its room is no longer the class's own.
const session = document.getElementById("door")?.dataset.session;
document.addEventListener("htmx:after:swap", () => {
  const door = document.getElementById("door");
  if (door && door.dataset.session !== session && !/^\/(in|guest)\//.test(location.pathname)) location.reload();
});

setInterval(() => {
  const door = document.getElementById("door");
  if (!door) return;
  const now = serverNow(door);
  const counter = door.querySelector("[data-countdown]");
  const left = counter && new Date(counter.dataset.countdown) - now;
  const words = counter && left > 0 && minutes(left);
  if (words) {
    counter.setAttribute("aria-live", "off");
    counter.textContent = `The way in appears here ${words}.`;
  }
  const isDue = door.dataset.changes && now >= new Date(door.dataset.changes).getTime() && Date.now() >= nextLook - often + 900;
  if (document.hidden || !(isDue || Date.now() >= nextLook)) return;
  nextLook = Date.now() + often;
  door.dispatchEvent(new Event("due"));
}, 500);
