// The log: notes and pictures, cards that are ticked, trials that are counted. What is done is stored, then shown.
import { ask, upload } from "./net.js";
import { go, post, session } from "./session.js";

const url = (what) => `/api/benches/${session.bench}/log/${what}`;
const say = (sentence) => {
  const line = document.getElementById("log-said");
  if (line) line.textContent = sentence;
};
const away = { ok: false, data: { error: "Not saved: the server cannot be reached.", next: "What you wrote is still here; try again when it is back." } };

async function keep(what, body) {
  const answer = await (body instanceof FormData ? upload(url(what), body) : ask(url(what), body)).catch(() => away);
  say(answer.ok ? "" : [answer.data.error, answer.data.next].filter(Boolean).join(" "));
  return answer.ok ? answer.data : null;
}

const shown = (picked = session.place.picked) => go({ station: "log", picked }, picked !== session.place.picked);

async function sent(event) {
  const form = event.target.closest("[data-log-form], [data-trial-add]");
  if (!form) return;
  event.preventDefault();
  if (form.dataset.trialAdd !== undefined) {
    const at = Number(form.elements.at.value.replace(",", "."));
    if (!form.elements.at.value.trim() || Number.isNaN(at)) return say("Type a number.");
    form.elements.at.value = "";
    return (await keep(`${form.closest("[data-trial]").dataset.trial}/try`, { at, so: true, by: 0 })) && shown();
  }
  const body = Object.fromEntries([...new FormData(form)].filter(([name]) => name !== "file"));
  if (form.dataset.logForm === "trial") body.aim = Number(body.aim.replace(",", "."));
  const made = await keep(form.dataset.logForm, body);
  if (!made) return;
  form.reset();
  shown(made.picked ?? null);
}

async function picture(field) {
  if (!field.files.length) return;
  const form = new FormData();
  form.set("file", field.files[0]);
  form.set("words", document.getElementById("note-words").value);
  if (await keep("picture", form)) document.getElementById("note-words").value = "";
  field.value = "";
  shown();
}

async function tick(line, state, value = null) {
  const card = line.closest("[data-card]").dataset.card;
  const who = document.getElementById("card-who").value;
  try {
    localStorage.setItem("card who", who);
  } catch {
    // Without storage the name is typed again.
  }
  if (await keep(`${card}/tick`, { line: line.dataset.line, state, value, who })) shown();
}

const marked = () => [...document.querySelectorAll("[data-log-mark]:checked")].map((one) => Number(one.dataset.logMark));

// What is searched for, and of which kinds.
function sift() {
  const words = document.getElementById("log-find")?.value.toLowerCase() ?? "";
  const kinds = new Set([...document.querySelectorAll("[data-log-kind][aria-pressed=true]")].map((one) => one.dataset.logKind));
  for (const row of document.querySelectorAll(".log-row")) row.hidden = !kinds.has(row.dataset.kind) || !row.textContent.toLowerCase().includes(words);
}

async function clicked(event) {
  const at = (css) => event.target.closest?.(css);
  const kind = at("[data-log-kind]");
  if (kind) {
    kind.setAttribute("aria-pressed", String(kind.getAttribute("aria-pressed") !== "true"));
    return sift();
  }
  const open = at("[data-log-open]");
  if (open) {
    const form = document.getElementById(open.dataset.logOpen);
    form.hidden = !form.hidden;
    return form.hidden || form.elements[0].focus();
  }
  if (at("[data-log-new]")) {
    const made = await keep("card", {});
    return made && shown(made.picked);
  }
  const remove = at("[data-log-remove]");
  if (remove) return (await keep(`${remove.dataset.logRemove}/remove`, {})) && shown();
  const there = at("[data-log-go]");
  if (there) return post("back_to", { revision: Number(there.dataset.logGo) }, there);
  if (at("#log-compare")) {
    const two = marked().sort((one, other) => one - other);
    return two.length === 2 ? shown(`compare-${two[0]}-${two[1]}`) : say("Mark two of the changes first: the boxes at their right.");
  }
  const ticked = at("[data-card-tick]");
  if (ticked) return tick(ticked.closest("[data-line]"), ticked.getAttribute("aria-pressed") === "true" ? "" : ticked.dataset.cardTick);
  const tried = at("[data-try], [data-untry]");
  if (!tried) return null;
  const row = tried.closest("[data-at]");
  const back = tried.dataset.untry !== undefined;
  const body = { at: Number(row.dataset.at), so: (tried.dataset.try ?? tried.dataset.untry) === "1", by: back ? -1 : 1 };
  return (await keep(`${tried.closest("[data-trial]").dataset.trial}/try`, body)) && shown();
}

export function listenRecord() {
  document.addEventListener("submit", sent);
  document.addEventListener("click", clicked);
  document.addEventListener("input", ({ target }) => target.id === "log-find" && sift());
  document.addEventListener("change", ({ target }) => {
    if (target.id === "log-picture") picture(target);
    if (target.dataset.logMark !== undefined) document.getElementById("log-compare").setAttribute("aria-disabled", String(marked().length !== 2));
    if (target.dataset.cardValue !== undefined && target.value.trim()) {
      const value = Number(target.value.replace(",", ".").replace("−", "-"));
      if (Number.isNaN(value)) say("Type a number, as the meter shows it.");
      else tick(target.closest("[data-line]"), "", value);
    }
  });
  const named = () => {
    const field = document.getElementById("card-who");
    if (field && !field.value) field.value = localStorage.getItem("card who") ?? "";
  };
  document.addEventListener("vt:view", () => queueMicrotask(named));
  named();
}
