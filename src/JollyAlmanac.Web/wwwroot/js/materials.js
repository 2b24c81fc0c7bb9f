// Files that are chosen, dropped or pasted are sent in parts at once (tus 1.0) and carried on after a lost line; the form that
// attaches them then names them. Without this, the form carries the files itself. Rows are put in order by dragging.
const part = 2 * 1024 * 1024;
const retryDelays = [400, 800, 1600, 3200, 6400, 8000, 8000, 8000];

// Why a file was not taken, for people.
const reasonOf = error => {
  const answer = error.originalResponse;
  if (!answer || answer.getStatus() === 0 || answer.getStatus() >= 500)
    return "The line is gone. Choose the file again once it is back: it goes on where it was.";
  if (answer.getStatus() === 401)
    return "You are signed out. Sign in again in another tab, then choose the file once more: it goes on where it was.";
  return answer.getBody() || "It was not taken. Load the page again and send it once more.";
};

// Where the same file was begun before, on this machine, it is gone on with.
const send = (form, file, tell) =>
  new Promise((done, refuse) => {
    const upload = new tus.Upload(file, {
      endpoint: form.dataset.sends,
      metadata: { filename: file.name },
      headers: { "X-Almanac-Form": form.querySelector("[name=__RequestVerificationToken]").value },
      chunkSize: part,
      retryDelays,
      fingerprint: async () => `sent ${form.dataset.sends} ${file.name} ${file.size} ${file.lastModified}`,
      removeFingerprintOnSuccess: true,
      onProgress: (sent, all) => tell(all ? sent / all : 1),
      onShouldRetry: error => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const isPassing = status === 0 || status === 409 || status === 429 || status >= 500;
        if (isPassing) tell(null);
        return isPassing;
      },
      onSuccess: () => done(upload.url.split("/").pop()),
      onError: error => refuse(new Error(reasonOf(error))),
    });
    upload.findPreviousUploads().then(begun => {
      if (begun.length > 0) upload.resumeFromPreviousUpload(begun[0]);
      upload.start();
    });
  });

async function take(form, files) {
  const list = form.querySelector("[data-sending]");
  const button = form.querySelector("button.go") ?? form.querySelector(".acts button");
  const place = form.querySelector("#Place");
  form.closest("details")?.setAttribute("open", "");
  // Several files on a series are mostly one for each session; it is looked at before anything is attached.
  const deals = place && files.length > 1 && !place.dataset.chosen ? [...place.options].find(option => option.value.startsWith("deal")) : null;
  if (deals) place.value = deals.value;
  for (const file of files) {
    const line = document.createElement("li");
    const name = document.createElement("bdi");
    const says = document.createElement("span");
    const bar = document.createElement("progress");
    name.textContent = file.name;
    says.className = "soft";
    bar.max = 1;
    bar.value = 0;
    bar.setAttribute("aria-label", file.name);
    line.append(name, " ", says, bar);
    list.append(line);
    button.disabled = true;
    try {
      const key = await send(form, file, done => {
        says.textContent = done === null ? "the line is lost; trying again" : `${Math.round(done * 100)} %`;
        if (done !== null) bar.value = done;
      });
      const field = document.createElement("input");
      field.type = "hidden";
      field.name = "Uploads";
      field.value = key;
      says.textContent = "is in";
      bar.remove();
      line.append(field);
    } catch (failure) {
      line.className = "is-bad";
      bar.remove();
      says.textContent = failure.message;
    }
    button.disabled = false;
  }
}

const forms = [...document.querySelectorAll("form[data-sends]")];
for (const form of forms) arm(form);
// A session opened in place brings its form later.
new MutationObserver(() => {
  for (const form of document.querySelectorAll("form[data-sends]"))
    if (!form.dataset.armed) arm(form);
}).observe(document.body, { childList: true, subtree: true });

function arm(form) {
  form.dataset.armed = "yes";
  form.querySelector("#Place")?.addEventListener("change", event => (event.target.dataset.chosen = "yes"));
  for (const choose of form.querySelectorAll("input[type=file]"))
    choose.addEventListener("change", async () => {
      const files = [...choose.files];
      choose.value = "";
      await take(form, files);
    });
}

// What is dropped on a session goes to that session; anywhere else on the page, to the one form there is.
const formAt = target => {
  const near = target.closest?.("[data-place], .card, .open-session");
  const own = near?.querySelector("form[data-sends]");
  if (own) return own;
  const form = document.querySelector("form[data-sends]");
  const place = form?.querySelector("#Place");
  if (near?.dataset.place && place) {
    place.value = near.dataset.place;
    place.dataset.chosen = "yes";
  }
  return forms.length === 1 || place ? form : null;
};
addEventListener("dragover", event => {
  if (event.dataTransfer.types.includes("Files")) event.preventDefault();
});
addEventListener("drop", event => {
  if (!event.dataTransfer.types.includes("Files")) return;
  event.preventDefault();
  const form = formAt(event.target);
  if (form && event.dataTransfer.files.length > 0) take(form, [...event.dataTransfer.files]);
});
addEventListener("paste", event => {
  if (event.target.closest("input, textarea")) return;
  const form = formAt(event.target);
  if (!form) return;
  const files = [...event.clipboardData.files];
  const text = event.clipboardData.getData("text/plain").trim();
  if (files.length > 0) take(form, files);
  else if (/^https?:\/\/\S+$/.test(text)) {
    form.closest("details")?.setAttribute("open", "");
    const address = form.querySelector("[name=address], [name=newAddress]");
    address.value = text;
    address.focus();
  } else return;
  event.preventDefault();
});

// Rows are dragged into their order; the buttons beside them do the same by keys.
for (const list of document.querySelectorAll("[data-order]")) {
  if (list.children.length < 2) continue;
  let held = null;
  for (const row of list.children) {
    row.draggable = true;
    row.addEventListener("dragstart", event => {
      held = row;
      event.dataTransfer.effectAllowed = "move";
      event.dataTransfer.setData("text/plain", "");
    });
    row.addEventListener("dragover", event => {
      if (!held || held.parentElement !== list) return;
      event.preventDefault();
      const box = row.getBoundingClientRect();
      if (row !== held) list.insertBefore(held, event.clientY > box.top + box.height / 2 ? row.nextSibling : row);
    });
    row.addEventListener("dragend", () => {
      held = null;
      const order = [...list.children].map(one => one.dataset.id).join(",");
      if (order === list.dataset.order) return;
      const form = list.querySelector("form.order");
      const field = document.createElement("input");
      field.type = "hidden";
      field.name = "order";
      field.value = order;
      form.append(field);
      form.submit();
    });
  }
}
