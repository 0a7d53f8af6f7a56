// The workspace: shows what the server sent, says whether it is saved, settles conflicts.
import { turnTheme } from "./plain.js";
import { show } from "./fragments.js";
import { turnGuide } from "./guide.js";
import { ask } from "./net.js";
import { go, post, retry, session } from "./session.js";

const clock = (date) => date.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });

// As dates are written in order: 2026-03-28 14:05:09, in the time of this place.
function iso(date) {
  const two = (number) => String(number).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`;
}

const shown = new Map(); // what each fragment was last given: the same again is left alone

// The focus goes to the control of the same id where the one that had it is gone.
function swap(fragments) {
  const held = document.activeElement?.id;
  const claim = document.querySelector("[data-claim][aria-checked=true]")?.dataset.claim;
  for (const [name, html] of Object.entries(fragments)) {
    const place = document.getElementById(`frag-${name}`);
    if (!place || shown.get(name) === html) continue;
    show(place, html);
    shown.set(name, html);
  }
  const claims = [...document.querySelectorAll("[data-claim]")];
  if (claims.some((one) => one.dataset.claim === claim)) for (const one of claims) one.setAttribute("aria-checked", String(one.dataset.claim === claim));
  if (held && document.activeElement === document.body) document.getElementById(held)?.focus({ preventScroll: true });
}

// Instants are kept in UTC and read in the time of this place.
function localTimes() {
  for (const one of document.querySelectorAll("time[data-local]")) one.textContent = iso(new Date(one.dateTime));
}

export function toast(text) {
  const box = document.getElementById("toast");
  box.textContent = text;
  box.hidden = false;
  clearTimeout(toast.timer);
  toast.timer = setTimeout(() => (box.hidden = true), 6000);
}

// The sentence of a refusal stands beside the control that caused it, which goes back to what holds.
function refuse({ control, error, next, rows, problems }) {
  document.querySelectorAll(".refusal.is-beside").forEach((old) => old.remove());
  const more = rows ?? (problems ?? []).slice(1).map((problem) => problem.sentence);
  const text = [error, ...more, next].filter(Boolean).join(" ");
  const spot = control?.isConnected ? control : control?.id ? document.getElementById(control.id) : null;
  if (!spot) return toast(text);
  if (spot.defaultValue !== undefined && spot.type !== "file") spot.value = spot.defaultValue;
  if (spot.tagName === "SELECT") for (const option of spot.options) option.selected = option.defaultSelected;
  const said = document.createElement("p");
  said.className = "refusal is-beside";
  said.setAttribute("role", "alert");
  said.textContent = text;
  (spot.closest("label, .choices, .methods, .sweep, .source, .pins, .board") ?? spot).after(said);
}

function askWhichSide(conflict) {
  const dialog = document.getElementById("conflict-dialog");
  const theirs = document.getElementById("conflict-theirs");
  theirs.replaceChildren(...conflict.theirs.map((words) => Object.assign(document.createElement("li"), { textContent: words })));
  document.getElementById("conflict-yours").textContent = conflict.yours;
  document.getElementById("conflict-mine").onclick = () => {
    dialog.close();
    session.revision = conflict.revision;
    // A patch points by position: the server leads it to what it meant when it was made.
    const made = conflict.body.made ?? conflict.made;
    post(conflict.what, conflict.body instanceof FormData ? conflict.body : { ...conflict.body, made }, conflict.control);
  };
  document.getElementById("conflict-leave").onclick = () => {
    dialog.close();
    session.save = { state: "saved", at: new Date(), sentence: "" };
    document.dispatchEvent(new CustomEvent("vt:save"));
    go({}, false);
  };
  dialog.oncancel = (event) => event.preventDefault();
  dialog.showModal();
}

export async function showHistory() {
  const list = document.getElementById("history-list");
  try {
    const { data } = await ask(`/api/benches/${session.bench}/history`);
    list.replaceChildren(
      ...data.history.map(({ at, words }) => {
        const row = document.createElement("li");
        const time = document.createElement("time");
        time.dateTime = at;
        time.textContent = iso(new Date(at));
        row.append(time, words);
        return row;
      }),
    );
    document.getElementById("history-dialog").showModal();
  } catch {
    toast("The server cannot be reached, so its history cannot be shown.");
  }
}

export function desk() {
  return {
    save: session.save,
    turnTheme,
    retry,
    get saveText() {
      const { state, at, sentence } = this.save;
      if (state === "saved") return at ? `saved ${clock(at)}` : "saved";
      return { saving: "saving…", held: "not saved yet" }[state] ?? sentence;
    },
    get saveClass() {
      return `is-${this.save.state}`;
    },
    get settled() {
      return this.save.state !== "failed";
    },
    openHistory() {
      showHistory();
    },
    openHelp() {
      turnGuide();
    },
    init() {
      const { bench, revision, station, picked, scenario, view: look } = this.$root.dataset;
      session.bench = Number(bench);
      session.revision = Number(revision);
      session.place = { station, picked: picked || null, scenario: scenario || null, chosen: document.getElementById("opened")?.dataset.opened ?? null, look, fault: null };
      const at = this.$root.querySelector(".save-state").dataset.at;
      session.save = { state: "saved", at: new Date(at), sentence: "" };
      this.save = session.save;
      history.replaceState(session.place, "");
      localTimes();
      document.addEventListener("vt:save", () => (this.save = session.save));
      document.addEventListener("vt:view", ({ detail }) => {
        document.title = document.title.replace(/^.*?( · )/, `${this.$root.querySelector("#bench-name").value}$1`);
        swap(detail.fragments);
        this.save = { ...session.save }; // what was drawn anew says it again
        localTimes();
      });
      document.addEventListener("vt:preview", ({ detail }) => {
        swap(detail.fragments);
        const figures = document.getElementById("figures");
        if (figures && detail.figures) figures.innerHTML = detail.figures;
      });
      document.addEventListener("vt:beside", ({ detail }) => swap(detail.fragments));
      document.addEventListener("vt:said", ({ detail }) => toast(detail[0].toUpperCase() + detail.slice(1)));
      document.addEventListener("vt:refused", ({ detail }) => refuse(detail));
      document.addEventListener("vt:conflict", ({ detail }) => askWhichSide(detail));
      document.addEventListener("vt:unsure", ({ detail }) => {
        if (confirm(detail.sentence)) post(detail.what, { ...detail.body, sure: true }, detail.control);
      });
      addEventListener("popstate", ({ state }) => state && go(state, false));
      addEventListener("beforeunload", (event) => {
        if (["failed", "saving", "held"].includes(session.save.state)) event.preventDefault();
      });
    },
  };
}

