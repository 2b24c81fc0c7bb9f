// What was typed into a form and not saved is kept in this browser, for its person, and comes back with the page: after a slip, a crash, a
// sign-in that ended. Nothing secret is kept, no file, and nothing for longer than two weeks.
const longest = 14 * 24 * 60 * 60 * 1000;
const most = 200_000;
const who = document.documentElement.dataset.person;
const prefix = "draft ";
// Read by almanac.js: the next page forgets it, unless it tells of a fault.
const pending = "draft that was sent";
const going = "draft that goes on";

const stored = key => {
  try {
    return JSON.parse(localStorage.getItem(key));
  } catch {
    return null;
  }
};
const forget = key => {
  try {
    localStorage.removeItem(key);
  } catch { /* A browser that keeps nothing has nothing to forget. */ }
};

const isKept = field =>
  field.name && !["password", "file", "hidden", "submit", "button"].includes(field.type)
  && !field.closest("[data-secret]") && field.name !== "to";
const fieldsOf = form => [...form.elements].filter(isKept);
// Of boxes and choices of one name, those that are ticked.
const read = form => {
  const values = {};
  for (const field of fieldsOf(form)) {
    const list = values[field.name] ??= [];
    if (field.type === "checkbox" || field.type === "radio" ? field.checked : true) list.push(field.value);
  }
  return values;
};
const write = (form, values) => {
  const turn = {};
  for (const field of fieldsOf(form)) {
    const list = values[field.name];
    if (!list) continue;
    if (field.type === "checkbox" || field.type === "radio") field.checked = list.includes(field.value);
    else field.value = list[turn[field.name] = (turn[field.name] ?? -1) + 1] ?? field.value;
    field.closest("details:not([open])")?.setAttribute("open", "");
  }
  for (const field of fieldsOf(form)) field.dispatchEvent(new Event("input", { bubbles: true }));
};
const versionOf = form => (form.elements.Version ?? form.elements.version)?.value ?? "";

if (who) {
  for (const key of Object.keys(localStorage).filter(key => key.startsWith(prefix)))
    if (!(Date.now() - (stored(key)?.at ?? 0) < longest)) forget(key);
  const isWrong = document.querySelector(".problems") !== null;
  // A form that was only read, or taken to another calendar, goes on as it came back.
  const on = sessionStorage.getItem(going);
  sessionStorage.removeItem(going);

  for (const form of document.querySelectorAll("form[data-draft]")) {
    const key = `${prefix}${who} ${form.dataset.draft}`;
    const fresh = JSON.stringify(read(form));
    const keep = () => {
      const values = read(form);
      const text = JSON.stringify({ at: Date.now(), version: versionOf(form), values });
      if (JSON.stringify(values) === fresh) forget(key);
      else if (text.length <= most)
        try {
          localStorage.setItem(key, text);
        } catch { /* The browser is full, or keeps nothing: then only the page has it. */ }
    };

    const draft = on === key ? null : stored(key);
    if (draft && !isWrong && JSON.stringify(draft.values) !== fresh) {
      const bar = document.createElement("div");
      bar.className = "said draft-bar flex flex-wrap items-center gap-3";
      bar.setAttribute("role", "status");
      const at = new Date(draft.at);
      const words = document.createElement("span");
      const button = document.createElement("button");
      button.type = "button";
      button.className = "btn small";
      // Into what began elsewhere, or was changed since, it is put by hand alone.
      const isAsked = location.search !== "" || draft.version !== versionOf(form);
      const when = at.toLocaleString("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit" });
      const told = () => {
        words.textContent = `What you typed here on ${when} and did not save is back.`;
        button.textContent = "Throw it away";
        button.onclick = () => {
          write(form, JSON.parse(fresh));
          forget(key);
          bar.remove();
        };
      };
      if (isAsked) {
        words.textContent = `On ${when} you typed something here and did not save it.`;
        button.textContent = "Bring it back";
        button.onclick = () => {
          write(form, draft.values);
          told();
        };
      } else {
        write(form, draft.values);
        told();
      }
      bar.append(words, button);
      form.before(bar);
    }

    let soon = 0;
    const later = () => {
      clearTimeout(soon);
      soon = setTimeout(keep, 300);
    };
    // Some fields of a form stand outside it.
    document.addEventListener("input", event => {
      if (event.isTrusted && event.target.form === form) later();
    });
    addEventListener("pagehide", () => {
      if (soon) keep();
    });
    form.addEventListener("submit", event => {
      keep();
      if (event.submitter?.formAction.includes("handler=") || event.submitter?.value === "read") {
        sessionStorage.setItem(going, key);
        return;
      }
      soon = 0;
      sessionStorage.setItem(pending, key);
    });
  }
}
