// What a board printed, read on Log: pasted, typed or dropped as a file. The text and what was said of it stay for as
// long as the page is open, whatever else on it is drawn anew.
import { ask } from "./net.js";
import { Listening, hasPort } from "./serial.js";
import { lookAt, sendLong, stopSending } from "./long.js";
import { go, session } from "./session.js";

const MOST = 2_000_000; // bytes that are read at once; a longer capture goes piece by piece

const kept = { bench: 0, revision: 0, text: "", html: "", channels: {}, recording: null, sight: {}, came: null };
let hearing = null; // the port that is listened to
let due = 0;
const field = () => document.getElementById("told-text");
const place = () => document.getElementById("told-said");

let held = null; // settles as a chip that is dragged is let go
let busy = Promise.resolve();
const read = () => (busy = busy.then(readIt)); // one after another

async function readIt() {
  const text = field().value;
  const bench = session.bench;
  const say = place();
  say.setAttribute("aria-busy", "true");
  let html;
  let answer;
  try {
    const what = kept.recording ? { recording: kept.recording, ...kept.sight } : { text, arrived: kept.came };
    answer = await ask(`/api/benches/${bench}/told`, { ...what, channels: kept.channels });
    html = answer.ok ? answer.data.html : "";
    if (!answer.ok) say.textContent = [answer.data.error, answer.data.next].filter(Boolean).join(" ");
  } catch {
    html = "";
    say.textContent = "The server cannot be reached. The text is kept here; read it again when it is back.";
  }
  say.removeAttribute("aria-busy");
  Object.assign(kept, { bench, text, html, revision: session.revision });
  await held; // nothing is drawn anew under a hand
  if (html) {
    const open = say.querySelector(".placing")?.open;
    say.innerHTML = html;
    if (open && say.querySelector(".placing")) say.querySelector(".placing").open = true;
  }
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
  Object.assign(kept, { channels, name, recording: null, came: null });
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
  Object.assign(kept, { channels: {}, name: "A simulated board", recording: null, came: null });
  read();
}

function back() {
  if (!field() || kept.bench !== session.bench) return;
  if (!field().value) field().value = kept.text;
  if (!kept.html || field().value !== kept.text) return;
  if (!place().innerHTML.trim()) place().innerHTML = kept.html;
  if (kept.revision === session.revision) return;
  kept.revision = session.revision; // the bench is another: so is what it says
  read();
}

async function take(file) {
  if (!file) return;
  if (file.size > MOST) {
    field().value = "";
    return showLong(await sendLong(file));
  }
  field().value = await file.text();
  Object.assign(kept, { channels: {}, name: file.name, recording: null, came: null });
  read();
}

// A long capture is on the strip; what is in sight of it is compared when that is asked for.
function showLong(recording) {
  if (recording) Object.assign(kept, { bench: session.bench, revision: session.revision, text: "", html: place().innerHTML, channels: {}, recording });
}

const READ_MS = 900; // so often what has come is read again

// What comes over the serial port goes into the field, and is read as it grows.
function listenTo(button) {
  if (hearing) return;
  const simulated = button.dataset.listen === "simulated";
  if (!simulated && !hasPort()) {
    place().textContent = "This browser offers no serial port (some offer it on https or on this machine alone). Paste what a terminal shows, or listen to the simulated board.";
    return;
  }
  Object.assign(kept, { bench: session.bench, channels: {}, recording: null, name: simulated ? "A simulated board" : "Over the serial port" });
  place().textContent = "Listening…";
  const grown = () => {
    field().value = kept.text = `${hearing.lines.join("\n")}\n`;
    kept.came = hearing.came;
    if (field()) read();
  };
  hearing = new Listening(
    () => {
      due ||= setTimeout(() => {
        due = 0;
        if (hearing && field()) grown();
      }, READ_MS);
    },
    async (said) => {
      clearTimeout(due);
      due = 0;
      if (field() && hearing.lines.length) {
        grown();
        await busy;
      }
      hearing = null;
      stands();
      if (said && field()) place().insertAdjacentText("afterbegin", `${said} `);
      else if (field() && !kept.text) place().textContent = "";
    },
  );
  stands();
  hearing.from(simulated, Number(button.dataset.baud ?? 9600));
}

// The buttons say whether somebody listens.
function stands() {
  const stop = document.getElementById("listen-stop");
  if (stop) stop.hidden = !hearing;
  for (const one of document.querySelectorAll("[data-listen]")) one.disabled = Boolean(hearing);
}

// A channel is what somebody says; what was taken for that before is not it.
function put(channel, key) {
  const before = key && document.querySelector(`[data-socket="${CSS.escape(key)}"] [data-channel]`)?.dataset.channel;
  if (before && before !== channel) kept.channels[before] = "";
  kept.channels[channel] = key;
  read();
}

// A chip is dragged to its pin.
function dragged(event) {
  const chip = event.target.closest?.(".channel-chip");
  if (!chip || event.target.closest("select") || event.button) return;
  event.preventDefault();
  const from = { x: event.clientX, y: event.clientY };
  let letGo;
  held = new Promise((done) => (letGo = done));
  const over = (to) => {
    chip.hidden = true; // what lies under it
    const found = document.elementFromPoint(to.clientX, to.clientY)?.closest("[data-socket]");
    chip.hidden = false;
    return found;
  };
  const move = (to) => {
    chip.style.translate = `${to.clientX - from.x}px ${to.clientY - from.y}px`;
    chip.classList.add("is-dragged");
    for (const one of document.querySelectorAll("[data-socket]")) one.classList.toggle("is-under", one === over(to));
  };
  const drop = (to) => {
    removeEventListener("pointermove", move);
    removeEventListener("pointerup", drop);
    removeEventListener("pointercancel", drop);
    const socket = over(to);
    letGo();
    chip.style.translate = "";
    chip.classList.remove("is-dragged");
    for (const one of document.querySelectorAll("[data-socket].is-under")) one.classList.remove("is-under");
    if (to.type === "pointerup" && socket && !socket.contains(chip)) put(chip.dataset.channel, socket.dataset.socket);
  };
  addEventListener("pointermove", move);
  addEventListener("pointerup", drop);
  addEventListener("pointercancel", drop);
}

// How a contact bounced, for the shelf.
async function toShelf(button) {
  const section = button.closest(".bounced, .measured");
  const what = button.dataset.capture ? { capture: button.dataset.capture } : kept.recording ? { recording: kept.recording, ...kept.sight } : { text: kept.text };
  const body = { ...what, channels: kept.channels, of: button.dataset.shelfContact, name: section.querySelector("[data-shelf-name]").value };
  const answer = await ask(`/api/benches/${session.bench}/shelf/contact`, body).catch(() => null);
  section.querySelector("[data-shelf-said]").textContent = answer?.ok ? answer.data.said : answer?.data.error ?? "Not kept: the server cannot be reached.";
}

export function listenTold() {
  document.addEventListener("pointerdown", dragged);
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("#read-told")) read();
    if (event.target.closest?.("[data-keep-capture]")) keepIt();
    const again = event.target.closest?.("[data-log-capture]");
    if (again) readAgain(again.dataset.logCapture);
    const shelf = event.target.closest?.("[data-shelf-contact]");
    if (shelf) toShelf(shelf);
    if (event.target.closest?.("[data-sending-stop]")) stopSending();
    const long = event.target.closest?.("[data-log-recording], [data-recording-whole]");
    if (long) lookAt(Number(long.dataset.logRecording ?? kept.recording)).then(showLong);
    if (event.target.closest?.("[data-recording-compare]")) {
      const sight = session.sight();
      kept.sight = sight ?? kept.sight;
      if (sight) read();
      else lookAt(kept.recording).then(showLong); // the strip shows the comparison: first the capture again
    }
    const listen = event.target.closest?.("[data-listen]");
    if (listen) listenTo(listen);
    if (event.target.closest?.("#listen-stop")) hearing?.stop();
    const simulated = event.target.closest?.("[data-simulated]");
    if (simulated) simulate(simulated.dataset.simulated);
  });
  document.addEventListener("input", (event) => {
    if (event.target.id === "told-text") Object.assign(kept, { bench: session.bench, text: event.target.value, channels: {}, recording: null, came: null });
  });
  document.addEventListener("change", (event) => {
    const { channelIs } = event.target.dataset;
    if (channelIs !== undefined) put(channelIs, event.target.value);
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
  document.addEventListener("vt:view", () => queueMicrotask(stands));
}
