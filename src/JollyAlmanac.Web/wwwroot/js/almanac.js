// What the hand needs beside plain forms: copying. Buttons that need it are hidden until this has run.
for (const button of document.querySelectorAll("[data-copy]")) {
  button.hidden = false;
  const label = button.textContent;
  button.addEventListener("click", async () => {
    try {
      await navigator.clipboard.writeText(button.dataset.copy);
      button.textContent = button.dataset.copied ?? "Copied";
    } catch {
      button.textContent = "Not copied: mark it by hand";
    }
    button.setAttribute("aria-live", "polite");
    setTimeout(() => {
      button.textContent = label;
    }, 2500);
  });
}

// A choice that a button takes up is taken up at once; the button is for where this does not run.
for (const choice of document.querySelectorAll("[data-press]")) {
  const button = document.getElementById(choice.dataset.press);
  button.hidden = true;
  choice.addEventListener("change", () => choice.form.requestSubmit(button));
}

// What was kept of a form that was sent goes, once another page answers and tells of no fault. Where a sign-in came in between, the form is
// there again, unsent: by its own address, or by that of its handler.
const sentDraft = sessionStorage.getItem("draft that was sent");
if (sentDraft && !location.pathname.startsWith("/kept/")) {
  sessionStorage.removeItem("draft that was sent");
  const form = document.querySelector("form[data-draft]");
  const isUnsent = location.search.includes("handler=") || (form !== null && !form.action.includes("handler="));
  if (!isUnsent && !document.querySelector(".problems")) localStorage.removeItem(sentDraft);
}

// A field that something is wrong with says so, and the first of them has the focus.
let firstWrong = null;
for (const problem of document.querySelectorAll(".field-problem[id]"))
  for (const field of document.querySelectorAll(`[aria-describedby~="${CSS.escape(problem.id)}"]`)) {
    field.setAttribute("aria-invalid", "true");
    firstWrong ??= field;
  }
firstWrong?.focus();

// A date box has the order of the browser's own language: beside it the day stands in letters, as the reader has it.
const monthFirst = document.documentElement.dataset.dates === "month-first";
const dayInWords = value => {
  const [year, month, day] = value.split("-").map(Number);
  const date = new Date(year, month - 1, day);
  const weekday = date.toLocaleDateString("en-GB", { weekday: "short" });
  const name = date.toLocaleDateString("en-GB", { month: "short" }).slice(0, 3);
  return monthFirst ? `${weekday} ${name} ${day}` : `${weekday} ${day} ${name}`;
};
const tellDates = place => {
  for (const box of place.querySelectorAll("input[type=date]:not([data-told])")) {
    box.dataset.told = "";
    const words = document.createElement("small");
    words.className = "date-words";
    words.setAttribute("aria-hidden", "true");
    const tell = () => {
      words.textContent = box.value ? dayInWords(box.value) : "";
    };
    box.after(words);
    box.addEventListener("input", tell);
    tell();
  }
};
tellDates(document);
new MutationObserver(() => tellDates(document)).observe(document.body, { childList: true, subtree: true });

// An address box is there to be copied: one click marks all of it.
for (const box of document.querySelectorAll(".address-box")) box.addEventListener("focus", () => box.select());

// On a narrow screen the ribbon is scrolled to the week that is on.
const here = document.querySelector(".ribbon .here");
if (here)
  here.parentElement.scrollLeft =
    here.offsetLeft - here.parentElement.offsetLeft - here.parentElement.clientWidth / 2 + here.clientWidth / 2;

// A wide week begins with today.
const today = document.querySelector(".week th.now");
if (today) today.closest(".sheet-scroll").scrollLeft = today.offsetLeft - 70;

// The account menu closes when the focus or a click goes elsewhere.
for (const menu of document.querySelectorAll("details.who")) {
  document.addEventListener("click", event => {
    if (!menu.contains(event.target)) menu.open = false;
  });
  menu.addEventListener("keydown", event => {
    if (event.key === "Escape") {
      menu.open = false;
      menu.querySelector("summary").focus();
    }
  });
}

// What a toggled part fetches comes when it opens (htmx); a preview is tried at any width.
for (const range of document.querySelectorAll("[data-width-of]")) {
  range.parentElement.hidden = false;
  range.addEventListener("input", () => {
    document.querySelector(range.dataset.widthOf).width = range.value;
  });
}

// Keys: "/" finds, "?" lists the keys, "g" and a letter goes somewhere. Never while somebody types, and never with a modifier.
const finder = document.getElementById("find-dialog");
const keys = document.getElementById("keys-dialog");
if (finder) {
  const field = finder.querySelector("input");
  const found = document.getElementById("find-found");
  const open = () => {
    if (finder.open) return;
    finder.showModal();
    field.select();
    htmx.trigger(field, "look");
  };
  finder.addEventListener("keydown", event => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const all = [field, ...found.querySelectorAll("a")];
    const at = all.indexOf(document.activeElement) + (event.key === "ArrowDown" ? 1 : -1);
    all[(at + all.length) % all.length].focus();
    event.preventDefault();
  });
  // A search box empties itself at the first Escape; here one press closes.
  finder.addEventListener("keydown", event => {
    if (event.key !== "Escape") return;
    event.preventDefault();
    finder.close();
  });
  // A click beside it closes it.
  for (const dialog of [finder, keys])
    dialog.addEventListener("click", event => {
      if (event.target === dialog) dialog.close();
    });
  document.querySelector("[data-find]")?.addEventListener("click", event => {
    event.preventDefault();
    open();
  });
  document.querySelector("[data-keys]")?.addEventListener("click", event => {
    event.preventDefault();
    keys.showModal();
  });
  const places = { t: "/today", c: "/calendars", w: "/week", j: "/join-links" };
  let goes = 0;
  document.addEventListener("keydown", event => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select, dialog[open], [contenteditable]")) return;
    if (event.key === "/") open();
    else if (event.key === "?") keys.showModal();
    else if (event.key === "g") goes = Date.now();
    else if (Date.now() - goes < 1500 && document.querySelector(`.band a[href="${places[event.key]}"]`)) location.href = places[event.key];
    else return;
    event.preventDefault();
  });
}
