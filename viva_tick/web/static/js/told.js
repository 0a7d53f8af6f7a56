// What a board printed, read on Log: pasted, typed or dropped as a file. The text and what was said of it stay for as
// long as the page is open, whatever else on it is drawn anew.
import { ask } from "./net.js";
import { go, session } from "./session.js";

const kept = { bench: 0, revision: 0, text: "", html: "", channels: {} };
const field = () => document.getElementById("told-text");
const place = () => document.getElementById("told-said");

async function read() {
  const text = field().value;
  const bench = session.bench;
  const say = place();
  say.setAttribute("aria-busy", "true");
  let html;
  let answer;
  try {
    answer = await ask(`/api/benches/${bench}/told`, { text, channels: kept.channels });
    html = answer.ok ? answer.data.html : "";
    if (!answer.ok) say.textContent = [answer.data.error, answer.data.next].filter(Boolean).join(" ");
  } catch {
    html = "";
    say.textContent = "The server cannot be reached. The text is kept here; read it again when it is back.";
  }
  say.removeAttribute("aria-busy");
  Object.assign(kept, { bench, text, html, revision: session.revision });
  if (html) say.innerHTML = html;
  if (answer?.data.laid) document.dispatchEvent(new CustomEvent("vt:laid", { detail: answer.data.laid }));
}

// Into the log, to be looked at again; and out of it.
async function keepIt() {
  const body = { text: kept.text, channels: kept.channels, name: kept.name };
  const answer = await ask(`/api/benches/${session.bench}/log/capture`, body).catch(() => null);
  if (answer?.ok) go({ station: "log" }, false);
  else place().textContent = answer ? [answer.data.error, answer.data.next].join(" ") : "Not kept: the server cannot be reached.";
}

async function readAgain(number) {
  const answer = await ask(`/api/benches/${session.bench}/log/${number}/text`).catch(() => null);
  if (!answer?.ok) return;
  const { text, channels, name } = answer.data;
  Object.assign(kept, { channels, name });
  field().value = text;
  await read();
  document.getElementById("told").scrollIntoView();
}

// A board that is not quite as planned, for who has none at hand.
async function simulate(as) {
  const answer = await ask(`/api/benches/${session.bench}/simulated`, { as, scenario: session.place.scenario }).catch(() => null);
  if (!answer?.ok) {
    place().textContent = answer ? [answer.data.error, answer.data.next].join(" ") : "The server cannot be reached.";
    return;
  }
  field().value = answer.data.text;
  Object.assign(kept, { channels: {}, name: "A simulated board" });
  read();
}

function back() {
  if (!field() || kept.bench !== session.bench) return;
  if (!field().value) field().value = kept.text;
  if (!kept.html || field().value !== kept.text) return;
  if (!place().innerHTML.trim()) place().innerHTML = kept.html;
  if (kept.revision !== session.revision) read(); // the bench is another: so is what it says
}

async function take(file) {
  if (!file) return;
  field().value = await file.text();
  Object.assign(kept, { channels: {}, name: file.name });
  read();
}

export function listenTold() {
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("#read-told")) read();
    if (event.target.closest?.("[data-keep-capture]")) keepIt();
    const again = event.target.closest?.("[data-log-capture]");
    if (again) readAgain(again.dataset.logCapture);
    const simulated = event.target.closest?.("[data-simulated]");
    if (simulated) simulate(simulated.dataset.simulated);
  });
  document.addEventListener("input", (event) => {
    if (event.target.id === "told-text") Object.assign(kept, { bench: session.bench, text: event.target.value, channels: {} });
  });
  document.addEventListener("change", (event) => {
    const { channel } = event.target.dataset;
    if (channel !== undefined) {
      kept.channels[channel] = event.target.value;
      read();
    }
    if (event.target.id === "told-file") take(event.target.files[0]);
  });
  document.addEventListener("drop", (event) => {
    if (!event.target.closest?.("#told") || !event.dataTransfer.files.length) return;
    event.preventDefault();
    take(event.dataTransfer.files[0]);
  });
  document.addEventListener("dragover", (event) => {
    if (event.target.closest?.("#told")) event.preventDefault();
  });
  document.addEventListener("vt:view", () => queueMicrotask(back));
}
