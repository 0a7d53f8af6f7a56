// A capture too long for the page: sent piece by piece, with how far it is and a stop; then looked at in the strip.
import { ask, send } from "./net.js";
import { session } from "./session.js";

const PIECE = 1_000_000; // bytes; so much is in hand at once, here and on the server
const TRIES = 5; // of a piece, while the server is away
let stopped = false;

const url = (what) => `/api/benches/${session.bench}/recordings${what}`;
const place = () => document.getElementById("told-said");
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

function told(file, { taken, changes }, length) {
  const box = place().querySelector(".sending");
  if (!box) return;
  box.querySelector("progress").value = taken / length;
  box.querySelector("span").textContent = `${file}: ${(taken / 1e6).toFixed(0)} of ${(length / 1e6).toFixed(0)} MB, ${changes.toLocaleString("en")} changes`;
}

// A piece is sent again when the answer was lost: the server knows how much it has.
async function piece(number, file, at) {
  const last = at + PIECE >= file.size ? 1 : 0;
  for (let left = TRIES; ; left -= 1) {
    try {
      return await send(url(`/${number}/more?at=${at}&last=${last}`), file.slice(at, at + PIECE));
    } catch (error) {
      if (left <= 1) throw error;
      await pause(800);
    }
  }
}

export async function sendLong(file) {
  stopped = false;
  const box = Object.assign(document.createElement("div"), { className: "sending" });
  const halt = Object.assign(document.createElement("button"), { type: "button", className: "act is-plain", textContent: "Stop" });
  halt.dataset.sendingStop = "";
  box.append(document.createElement("span"), Object.assign(document.createElement("progress"), { max: 1, value: 0 }), halt);
  place().replaceChildren(box);
  try {
    const begun = await ask(url(""), { name: file.name });
    if (!begun.ok) return say(begun.data);
    const { id } = begun.data;
    let at = 0;
    while (!stopped) {
      const answer = await piece(id, file, at);
      if (!answer.ok) return say(answer.data);
      at = answer.data.taken;
      told(file.name, answer.data, file.size);
      if (answer.data.entry) return lookAt(id);
      if (at >= file.size) return say({ error: "The file was changed while it was read.", next: "Drop it again." });
    }
    await ask(url(`/${id}/stop`), {});
    say({ error: "Stopped.", next: "Nothing of the file was kept." });
  } catch {
    say({ error: "The server cannot be reached.", next: "Drop the file again when it is back." });
  }
  return null;
}

function say({ error, next }) {
  place().textContent = [error, next].filter(Boolean).join(" ");
  return null;
}

// On the strip, all of it; and beside it what can be done with it. Answers its number.
export async function lookAt(number) {
  const answer = await ask(url(`/${number}`)).catch(() => null);
  if (!answer?.ok) return say(answer?.data ?? { error: "The server cannot be reached.", next: "" });
  place().innerHTML = answer.data.html;
  document.dispatchEvent(new CustomEvent("vt:capture", { detail: answer.data.shown }));
  return number;
}

export const stopSending = () => (stopped = true);
