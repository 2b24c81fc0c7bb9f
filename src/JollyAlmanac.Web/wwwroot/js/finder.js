// What htmx finds of people while one types: arrows choose, Enter takes, Escape closes. Without it the field takes a name or an
// address as typed.
for (const field of document.querySelectorAll(".finder input[data-hx-get]")) {
  const list = field.parentElement.querySelector("[role=listbox]");
  let at = -1;
  const options = () => [...list.querySelectorAll("[role=option]")];
  const close = () => {
    list.hidden = true;
    at = -1;
    field.setAttribute("aria-expanded", "false");
    field.removeAttribute("aria-activedescendant");
  };
  const choose = to => {
    const all = options();
    if (!all.length) return;
    at = (to + all.length) % all.length;
    all.forEach((one, index) => one.setAttribute("aria-selected", String(index === at)));
    field.setAttribute("aria-activedescendant", all[at].id);
    all[at].scrollIntoView({ block: "nearest" });
  };
  const take = option => {
    field.value = option.dataset.key.startsWith("group") ? option.dataset.key : option.dataset.value;
    close();
  };
  field.setAttribute("role", "combobox");
  field.setAttribute("aria-autocomplete", "list");
  field.setAttribute("aria-controls", list.id);
  field.setAttribute("aria-expanded", "false");
  field.addEventListener("input", () => {
    if (field.value.trim().length < 2) close();
  });
  // What is found has come by htmx; what comes late for a field that is nearly empty by now stays hidden.
  field.addEventListener("htmx:after:swap", () => {
    at = -1;
    list.hidden = options().length === 0 || field.value.trim().length < 2;
    field.setAttribute("aria-expanded", String(!list.hidden));
  });
  field.addEventListener("keydown", event => {
    if (list.hidden) return;
    if (event.key === "ArrowDown") choose(at + 1);
    else if (event.key === "ArrowUp") choose(at - 1);
    else if (event.key === "Enter" && at >= 0) take(options()[at]);
    else if (event.key === "Escape") close();
    else return;
    event.preventDefault();
  });
  list.addEventListener("mousedown", event => {
    const option = event.target.closest("[role=option]");
    if (!option) return;
    event.preventDefault();
    take(option);
  });
  field.addEventListener("blur", close);
}
