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

const DO = { rail: turnRail, history: showHistory, find: openFinder, begin };

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
    DO[target.dataset.do]();
  });
  document.addEventListener("pointerdown", (event) => shut(event.target));
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || document.querySelector("dialog[open]")) return;
    const top = opened().pop();
    const why = document.querySelector(".why:not([hidden])");
    if (top) {
      top.open = false;
      top.querySelector("summary").focus();
    } else if (document.body.classList.contains("is-peeking")) document.body.classList.remove("is-peeking");
    else if (why) why.hidden = true;
    else if (isOpen()) close();
    else return;
    event.stopPropagation();
  });
  let station = document.body.dataset.station;
  document.addEventListener("vt:view", () => {
    if (session.place.station === station) return;
    station = session.place.station;
    shut();
    const why = document.querySelector(".why");
    if (why) why.hidden = true;
  });
}
