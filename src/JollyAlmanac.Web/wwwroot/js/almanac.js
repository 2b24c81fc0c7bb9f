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

// A long list says how far it is while it is taken in.
for (const form of document.querySelectorAll("form[data-progress]"))
  form.addEventListener("submit", () => {
    const says = form.querySelector("[data-progress-says]");
    setInterval(async () => {
      const answer = await fetch(form.dataset.progress);
      if (!answer.ok) return;
      const { looked, of } = await answer.json();
      says.textContent = `${looked} of ${of} looked at`;
    }, 300);
  });

// What a toggled part fetches comes when it opens (htmx); a preview is tried at any width.
for (const range of document.querySelectorAll("[data-width-of]")) {
  range.parentElement.hidden = false;
  range.addEventListener("input", () => {
    document.querySelector(range.dataset.widthOf).width = range.value;
  });
}
