// Four steps to begin, on the real controls: what is next is ringed, and the card goes on as the bench does.
import { go, session } from "./session.js";

const card = () => document.getElementById("frag-begin");
const key = () => `begin ${session.bench}`;

function left() {
  try {
    return localStorage.getItem(key()) === "left";
  } catch {
    return false;
  }
}

function say(word) {
  try {
    localStorage.setItem(key(), word);
  } catch {
    // It is asked again after a reload.
  }
}

function ring() {
  document.querySelectorAll(".is-ringed").forEach((one) => one.classList.remove("is-ringed"));
  const step = card()?.querySelector("[data-next-step]");
  if (!step || !document.body.classList.contains("is-beginning")) return;
  document.querySelector(step.dataset.at)?.classList.add("is-ringed");
}

// An empty bench begins by itself; a person who has left is not asked again.
function look() {
  const { stepsDone: step, on } = card()?.firstElementChild?.dataset ?? {};
  if (step === undefined) return;
  const going = document.body.classList.contains("is-beginning");
  if (!going && on !== undefined && !left()) document.body.classList.add("is-beginning");
  ring();
}

export function begin() {
  say("on");
  document.body.classList.add("is-beginning");
  ring();
  there();
}

export function leaveBeginning() {
  say("left");
  document.body.classList.remove("is-beginning");
  ring();
}

async function there() {
  const step = card()?.querySelector("[data-next-step]");
  if (!step) return;
  if (step.dataset.to !== session.place.station) await go({ station: step.dataset.to, picked: null });
  document.querySelector(step.dataset.at)?.focus();
}

export function listenBegin() {
  document.addEventListener("vt:view", () => requestAnimationFrame(look));
  document.addEventListener("click", ({ target }) => {
    if (target.closest?.("[data-begin=leave]")) leaveBeginning();
    else if (target.closest?.("[data-begin=there]")) there();
  });
  setTimeout(look);
}
