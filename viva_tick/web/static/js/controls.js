// Controls say in the page what they change; this turns a click or a change into an edit.
import { toast } from "./desk.js";
import { edit, go, post, session } from "./session.js";
import { read } from "./values.js";

// A part of several pins: the wire that is chosen is the one that a click on a pin moves.
function chooseClaim(claim) {
  for (const other of document.querySelectorAll("[data-claim]")) other.setAttribute("aria-checked", String(other === claim));
}

function clicked(event) {
  const claim = event.target.closest("[data-claim]");
  if (claim) return chooseClaim(claim);
  const pin = event.target.closest("[data-pin]");
  const chosen = document.querySelector("[data-claim][aria-checked=true]");
  if (pin && chosen) return edit([{ op: "replace", path: chosen.dataset.claim, value: pin.dataset.pin }], pin);
  const commit = event.target.closest("[data-commit]");
  if (commit) return save(document.getElementById(commit.dataset.commit));
  const target = event.target.closest("[data-patch], [data-show], [data-scenario]:not(body), [data-station], [data-picked], [data-step], [data-copy], [data-pins], [data-fault], [data-number], [data-beside]");
  if (!target || target.tagName === "OPTION" || target.ariaDisabled === "true" || event.metaKey || event.ctrlKey) return;
  const { patch, show, station, picked, step, copy, thenPick, thenScenario } = target.dataset;
  if (target.tagName === "BODY") return;
  event.preventDefault();
  const { thenChoose, thenFocus } = target.dataset;
  if (thenChoose !== undefined) session.place.chosen = thenChoose || null;
  if (patch) edit(JSON.parse(patch), target, { picked: thenPick, scenario: thenScenario }).then((done) => done && focusAfter(thenFocus));
  else if (show) document.dispatchEvent(new CustomEvent("vt:show", { detail: { at: Number(show), levels: target.dataset.levels !== undefined } }));
  else if (step) post(step, {}, target);
  else if (target.dataset.pins !== undefined) post("pins", {}, target);
  else if (copy) copyText(document.querySelector(copy).textContent);
  else if (target.dataset.fault !== undefined) go({ fault: target.dataset.fault || null }, false);
  else if (target.dataset.number !== undefined) go({ number: target.dataset.number || null }, false);
  else if (target.dataset.beside !== undefined) go({ beside: target.dataset.beside || null });
  else if (target.dataset.scenario !== undefined) go({ scenario: target.dataset.scenario });
  else if (station) go({ station, picked: picked ?? null });
  else go({ picked });
}

// What was made is named at once.
function focusAfter(ident) {
  const field = ident && document.getElementById(ident);
  if (!field) return;
  field.focus();
  field.select?.();
  field.scrollIntoView({ block: "nearest" });
}

async function copyText(text) {
  try {
    await navigator.clipboard.writeText(text);
    toast("Copied. Paste it into your board's builder.");
  } catch {
    const range = document.createRange();
    range.selectNodeContents(document.getElementById("code"));
    getSelection().removeAllRanges();
    getSelection().addRange(range);
    toast("The browser would not copy; the program is selected, so copy it with the keyboard.");
  }
}

function changed(event) {
  const control = event.target;
  if (control.dataset.waits === undefined) save(control);
}

// What a control says becomes an edit.
function save(control) {
  if (control.id === "capture-file") return sendCapture(control);
  if (control.id === "machine-file") return sendMachine(control);
  if (control.id === "old-file") return keepLines(control);
  if (control.dataset.board !== undefined) return post("pins", { board: control.value }, control);
  if (control.dataset.goScenario !== undefined) return go({ scenario: control.value });
  if (control.dataset.sets !== undefined) return setAll(control);
  if (control.dataset.goBeside !== undefined) return go({ beside: control.value || null });
  if (control.dataset.optionPatch !== undefined) {
    const { patch, kept, part } = control.selectedOptions[0]?.dataset ?? {};
    if (kept) return post("contact", { kept, part }, control);
    return patch && edit(JSON.parse(patch), control);
  }
  // Where the document has no such object yet, the first value typed makes it.
  if (control.dataset.make && !control.dataset.path) {
    const { make, field } = control.dataset;
    return edit([{ op: "add", path: make, value: { [field]: read(control, control.value) } }], control);
  }
  // One of a list that is not as long yet is saved with the whole list.
  if (control.dataset.slots && !control.dataset.path) {
    const { slots, slot, list } = control.dataset;
    const value = JSON.parse(slots).map((word, place) => (place === Number(slot) ? control.value.trim() : word));
    return edit([{ op: "replace", path: list, value }], control);
  }
  if (control.dataset.path) {
    const then = control.dataset.thenScenario !== undefined ? { scenario: control.value.trim() } : {};
    // Of a table a row is made as it is first typed, and goes as it is emptied.
    const { path, row } = control.dataset;
    if (row === "there" && !control.value.trim()) return edit([{ op: "remove", path }], control, then);
    edit([{ op: row === undefined ? "replace" : "add", path, value: read(control, control.value) }], control, then);
  }
}

// An older program goes out, and the new one comes down with its own lines.
function keepLines(control) {
  const token = document.createElement("input");
  Object.assign(token, { type: "hidden", name: "csrf_token", value: document.querySelector("meta[name=csrf-token]").content });
  control.form.append(token);
  control.form.submit();
  token.remove();
  control.value = ""; // the same file can be given again
}

// Boxes that stand for one list: those that are ticked.
function setAll(control) {
  const boxes = [...document.querySelectorAll(`[data-sets="${control.dataset.sets}"]`)];
  // One that stands alone takes the others out as it is ticked, and any other takes it out.
  const alone = control.dataset.alone !== undefined;
  const kept = control.checked ? boxes.filter((box) => (box.dataset.alone !== undefined) === alone) : boxes;
  edit([{ op: "replace", path: control.dataset.sets, value: kept.filter((box) => box.checked).map((box) => box.value) }], control);
}

function sendCapture(control) {
  if (!control.files.length) return;
  const form = new FormData();
  form.set("file", control.files[0]);
  form.set("input", control.closest("[data-capture]").dataset.capture);
  for (const name of ["unit", "rate", "threshold", "signal"]) form.set(name, document.getElementById(`capture-${name}`).value);
  for (const [name, value] of Object.entries(session.place)) form.set(name, value ?? "");
  const { name: file, size } = control.files[0];
  const line = document.getElementById("capture-going");
  form.progress = (share) => {
    line.hidden = false;
    const bar = line.querySelector("progress");
    if (share === null) bar.removeAttribute("value");
    else bar.value = share;
    line.querySelector("span").textContent = share === null ? `reading ${file}` : `sending ${(size / 1e6).toFixed(1)} MB`;
  };
  form.started = (request) => (document.getElementById("capture-stop").onclick = () => request.abort());
  post("capture", form, control).then(() => (line.hidden = true));
  control.value = "";
}

function sendMachine(control) {
  if (!control.files.length) return;
  const form = new FormData();
  form.set("file", control.files[0]);
  for (const [name, value] of Object.entries(session.place)) form.set(name, value ?? "");
  form.progress = form.started = () => {};
  post("machine", form, control);
  control.value = "";
}

function submitted(event) {
  if (event.target.closest("[data-capture]")) event.preventDefault();
}

// A part from the list, dropped on a pin of the board.
function dragged() {
  document.addEventListener("dragstart", (event) => {
    const part = event.target.closest?.("[data-pin-path]");
    if (part) event.dataTransfer.setData("text/x-pin-path", part.dataset.pinPath);
  });
  for (const name of ["dragover", "dragleave", "drop"]) {
    document.addEventListener(name, (event) => {
      const pin = event.target.closest?.("[data-pin]");
      if (!pin || !event.dataTransfer.types.includes("text/x-pin-path")) return;
      pin.classList.toggle("is-under", name === "dragover");
      event.preventDefault();
      if (name !== "drop") return;
      const path = event.dataTransfer.getData("text/x-pin-path");
      edit([{ op: "replace", path, value: pin.dataset.pin }], pin);
    });
  }
}

export function listen() {
  dragged();
  document.addEventListener("click", clicked);
  document.addEventListener("change", changed);
  document.addEventListener("submit", submitted);
  document.addEventListener("keydown", (event) => {
    // Enter in a field saves it, as leaving it does; it keeps the focus, and what is typed next takes its place.
    if (event.key === "Enter" && event.target.matches("input[data-path]")) requestAnimationFrame(() => event.target.isConnected && event.target.select?.());
    if (event.target.matches("g[role=button][data-patch]") && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      clicked(event);
    }
    if (event.target.matches("[role=radio]") && event.key.startsWith("Arrow")) {
      const group = [...event.target.closest("[role=radiogroup]").querySelectorAll("[role=radio]")];
      const step = event.key === "ArrowRight" || event.key === "ArrowDown" ? 1 : -1;
      group[(group.indexOf(event.target) + step + group.length) % group.length].focus();
      event.preventDefault();
    }
  });
}
