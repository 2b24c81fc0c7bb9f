// A term sheet or a week worked by hand: a session opens in place, is dragged to another day or period, and asks how far
// the change reaches. Without this, the same links and forms lead to a page of their own.
const sheet = document.querySelector("[data-sheet]");

if (sheet) {
  let from = null;

  const shut = () => {
    for (const open of document.querySelectorAll(".opened")) open.remove();
    if (from?.isConnected) from.focus();
  };

  // Shows a piece of page beneath the row it belongs to.
  const show = async (address, row) => {
    let place = document.querySelector(".opened td");
    if (row || !place) {
      for (const open of document.querySelectorAll(".opened")) open.remove();
      const opened = document.createElement("tr");
      opened.className = "opened";
      place = opened.insertCell();
      place.colSpan = row.cells.length;
      row.after(opened);
    }
    place.dataset.address = address;
    await htmx.ajax("GET", address, { target: place, swap: "innerHTML" });
    for (const back of place.querySelectorAll("[data-back]"))
      back.value = location.pathname.startsWith("/week") ? location.pathname + location.search : "";
    place.querySelector("button:not([disabled]), input:not([type=hidden])")?.focus();
    place.scrollIntoView({ block: "nearest" });
  };

  // What cannot be shown in place is shown on a page of its own, which says why.
  sheet.addEventListener("htmx:before:swap", event => {
    const { response, target } = event.detail.ctx;
    if (response.status < 400 || !target.dataset.address) return;
    event.preventDefault();
    location.href = target.dataset.address;
  });

  const addressOf = (mark, values) => {
    const address = new URL(mark.href, location.href);
    for (const [name, value] of Object.entries(values)) if (value) address.searchParams.set(name, value);
    return address.pathname + address.search;
  };

  sheet.addEventListener("click", event => {
    if (event.ctrlKey || event.metaKey || event.shiftKey) return;
    const mark = event.target.closest("a[data-session]");
    const inside = event.target.closest(".opened a[data-open]");
    if (event.target.closest("[data-shut]")) {
      event.preventDefault();
      shut();
      return;
    }
    if (!mark && !inside) return;
    event.preventDefault();
    if (inside) {
      show(inside.getAttribute("href"));
      return;
    }
    from = mark;
    show(mark.getAttribute("href"), mark.closest("tr"));
  });

  sheet.addEventListener("submit", event => {
    if (!event.target.matches(".opened form[data-open]")) return;
    event.preventDefault();
    show(event.target.getAttribute("action") + "?" + new URLSearchParams(new FormData(event.target)));
  });

  // A free cell begins an entry there; several beneath each other, dragged over, make a longer one. An arrow key goes from cell to cell.
  const begin = (from, to) => {
    const address = new URL(sheet.dataset.add, location.href);
    address.searchParams.set("day", from.dataset.day);
    if (from.dataset.period) address.searchParams.set("period", from.dataset.period);
    if (to?.dataset.period) address.searchParams.set("to", to.dataset.period);
    return address.pathname + address.search;
  };
  if (sheet.dataset.add) {
    const inWords = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short" });
    const free = [...sheet.querySelectorAll("td[data-day]")];
    for (const cell of free) {
      const add = document.createElement("a");
      add.className = "add";
      add.href = begin(cell);
      add.draggable = false;
      add.tabIndex = -1;
      add.setAttribute("aria-label",
        `Add an entry on ${inWords.format(new Date(`${cell.dataset.day}T12:00`))}`
        + (cell.dataset.period ? `, period ${cell.dataset.period}` : ""));
      cell.prepend(add);
    }
    const adds = [...sheet.querySelectorAll("a.add")];
    const reach = add => {
      for (const other of adds) other.tabIndex = other === add ? 0 : -1;
    };
    reach(sheet.querySelector("td.now a.add") ?? adds[0]);
    sheet.addEventListener("keydown", event => {
      const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!step || event.shiftKey || !event.target.matches?.("a.add")) return;
      const rows = [...sheet.querySelectorAll("tr:has(> td[data-day])")];
      const row = event.target.closest("tr");
      const next = rows[rows.indexOf(row) + step[1]]?.cells[event.target.closest("td").cellIndex + step[0]]?.querySelector("a.add");
      if (!next) return;
      event.preventDefault();
      reach(next);
      next.focus();
    });

    let first = null;
    let last = null;
    const drawn = () => {
      if (!first) return [];
      const column = free.filter(cell => cell.dataset.day === first.dataset.day);
      const [one, other] = [column.indexOf(first), column.indexOf(last)].sort((a, b) => a - b);
      return column.slice(one, other + 1);
    };
    const draw = () => {
      for (const cell of free) cell.classList.toggle("is-target", first !== last && drawn().includes(cell));
    };
    sheet.addEventListener("mousedown", event => {
      if (event.button !== 0 || !event.target.matches("a.add")) return;
      first = last = event.target.closest("td");
      event.preventDefault();
    });
    sheet.addEventListener("mouseover", event => {
      const cell = event.target.closest("td[data-period]");
      if (!first?.dataset.period || cell?.dataset.day !== first.dataset.day || !cell.dataset.period) return;
      last = cell;
      draw();
    });
    document.addEventListener("mouseup", event => {
      const several = drawn();
      [first, last] = [null, null];
      draw();
      if (several.length > 1 && several.at(-1).closest("table").contains(event.target))
        location.href = begin(several[0], several.at(-1));
    });
  }

  const cells = () => [...sheet.querySelectorAll("td[data-day]")];
  const propose = (mark, cell) => {
    from = mark;
    show(addressOf(mark, { Do: "move", Day: cell.dataset.day, Period: cell.dataset.period }), cell.closest("tr"));
  };

  // Shift and an arrow key propose the next cell; Escape shuts what is open.
  sheet.addEventListener("keydown", event => {
    if (event.key === "Escape" && document.querySelector(".opened")) {
      event.preventDefault();
      shut();
      return;
    }
    const mark = event.target.closest?.("a.movable");
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!mark || !event.shiftKey || !step) return;
    event.preventDefault();
    const rows = [...sheet.querySelectorAll("tr:has(> td[data-day])")];
    const row = mark.closest("tr");
    const column = [...row.children].indexOf(mark.closest("td"));
    const target = rows[rows.indexOf(row) + step[1]]?.children[column + step[0]];
    if (target?.dataset.day) propose(mark, target);
  });

  for (const mark of sheet.querySelectorAll("a.movable")) mark.draggable = true;
  let dragged = null;
  sheet.addEventListener("dragstart", event => {
    dragged = event.target.closest("a.movable");
    if (!dragged) return;
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", dragged.title || dragged.textContent.trim());
    dragged.classList.add("is-dragged");
  });
  sheet.addEventListener("dragend", () => {
    dragged?.classList.remove("is-dragged");
    dragged = null;
    for (const cell of cells()) cell.classList.remove("is-target");
  });
  sheet.addEventListener("dragover", event => {
    const cell = event.target.closest("td[data-day]");
    if (!dragged || !cell) return;
    event.preventDefault();
    for (const other of sheet.querySelectorAll(".is-target")) if (other !== cell) other.classList.remove("is-target");
    cell.classList.add("is-target");
  });
  sheet.addEventListener("drop", event => {
    const cell = event.target.closest("td[data-day]");
    if (!dragged || !cell) return;
    event.preventDefault();
    if (cell !== dragged.closest("td")) propose(dragged, cell);
  });
}
