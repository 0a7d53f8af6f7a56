// What folds, drops down and closes: the menus, the rail of what stands out, the strip's panel of a scenario. One Esc
// closes the topmost; a click elsewhere too; a change of station closes all.
import { showHistory } from "./desk.js";
import { begin } from "./begin.js";
import { openFinder } from "./finder.js";
import { close, isOpen } from "./opened.js";
import { session } from "./session.js";

const PANELS = "details.menu, details.doings, details.import-more, details.set-menu";

const opened = () => [...document.querySelectorAll(PANELS)].filter((one) => one.open);

function shut(except = null) {
  for (const one of opened()) if (!one.contains(except)) one.open = false;
  if (!except?.closest?.(".outs")) document.body.classList.remove("is-peeking");
  if (!except?.closest?.(".side, .outs")) document.body.classList.remove("is-side", "is-outs");
}

function keep(name, value) {
  try {
    localStorage.setItem(name, value);
  } catch {
    // Without storage it holds until the page is left.
  }
}

// Folded it stays a rail over a reload; where nothing stands out it is one by itself, and looking at it opens it over the page.
export function turnRail() {
  if (document.querySelector(".outs-none")) return document.body.classList.toggle("is-peeking");
  keep("rail", document.body.classList.toggle("is-railed") ? "1" : "");
}

// On a phone the list, or what stands out, comes from the bottom; one at a time.
function turnSheet(name, other) {
  document.body.classList.remove(other);
  document.body.classList.toggle(name);
}

const DO = { side: () => turnSheet("is-side", "is-outs"), outs: () => turnSheet("is-outs", "is-side"), rail: turnRail, history: showHistory, find: openFinder, begin };

// The station that one is at is in sight on the path, however narrow the page.
const here = () => document.querySelector(".stop.is-here")?.scrollIntoView({ block: "nearest", inline: "center" });

export function listenPanels() {
  try {
    document.body.classList.toggle("is-railed", localStorage.getItem("rail") === "1");
  } catch {
    // It begins unfolded.
  }
  document.addEventListener("click", (event) => {
    const target = event.target.closest?.("[data-do]");
    if (!target) return;
    shut();
    DO[target.dataset.do](target);
  });
  document.addEventListener("pointerdown", (event) => shut(event.target));
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || document.querySelector("dialog[open]")) return;
    const top = opened().pop();
    const why = document.querySelector(".why:not([hidden])");
    if (top) {
      top.open = false;
      top.querySelector("summary").focus();
    } else if (document.body.matches(".is-peeking, .is-side, .is-outs")) document.body.classList.remove("is-peeking", "is-side", "is-outs");
    else if (why) why.hidden = true;
    else if (isOpen()) close();
    else return;
    event.stopPropagation();
  });
  here();
  let station = document.body.dataset.station;
  let picked = document.body.dataset.picked;
  document.addEventListener("vt:view", () => {
    if (session.place.picked !== picked) document.body.classList.remove("is-side");
    picked = session.place.picked;
    if (session.place.station === station) return;
    station = session.place.station;
    shut();
    here();
    const why = document.querySelector(".why");
    if (why) why.hidden = true;
  });
}
