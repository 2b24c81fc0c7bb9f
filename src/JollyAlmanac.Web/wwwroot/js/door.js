// A door that opens while somebody waits before it: counts down, and fetches the door's new state when it changes by
// itself, and now and then for what is done by hand. Without it, the page says the same and is reloaded.
const often = 20_000;

const minutes = (milliseconds) => {
  const seconds = Math.ceil(milliseconds / 1000);
  if (seconds < 60) return `in ${seconds} ${seconds === 1 ? "second" : "seconds"}`;
  if (seconds < 600) return `in ${Math.floor(seconds / 60)} min ${String(seconds % 60).padStart(2, "0")} s`;
  return null;
};

let looking = false;
let nextLook = Date.now() + often;

// The server's clock counts, not the reader's.
const serverNow = (door) => {
  door.ahead ??= new Date(door.dataset.now) - Date.now();
  return Date.now() + door.ahead;
};

async function look(door) {
  looking = true;
  nextLook = Date.now() + often;
  try {
    const answer = await fetch(door.dataset.look, { credentials: "same-origin", headers: { Accept: "text/html" } });
    if (answer.ok && !answer.redirected) {
      const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("door");
      // On the page of a class, a door that turned to another session of its room is no longer the class's own.
      if (fresh && fresh.dataset.session !== door.dataset.session && !/^\/(in|guest)\//.test(location.pathname)) {
        location.reload();
        return;
      }
      // What is the same stays, so that a screen reader does not say it again.
      if (fresh && fresh.querySelector("h2").textContent + (fresh.querySelector(".way")?.href ?? "") !== door.querySelector("h2").textContent + (door.querySelector(".way")?.href ?? "")) {
        door.replaceWith(document.importNode(fresh, true));
      } else if (fresh) {
        for (const name of ["now", "changes"]) door.dataset[name] = fresh.dataset[name];
        door.ahead = undefined;
      }
    }
  } catch {
    // The network is away; the next round tries again.
  }
  looking = false;
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
    counter.textContent = `The way in appears here ${words}.`;
  }
  const isDue = door.dataset.changes && now >= new Date(door.dataset.changes).getTime() && Date.now() >= nextLook - often + 900;
  if (!looking && !document.hidden && (isDue || Date.now() >= nextLook)) look(door);
}, 500);
