// Shortcuts that hold anywhere on a bench, unless something is being typed.
import { turnGuide } from "./guide.js";
import { turnLook } from "./choose.js";
import { openFinder } from "./finder.js";
import { turnRail } from "./panels.js";
import { showHistory } from "./desk.js";
import { turnTheme } from "./plain.js";
import { go, post, session } from "./session.js";

const STATIONS = ["wire", "clean", "behave", "pace", "guard", "try", "build", "log"];

function stepItem(by) {
  const items = [...document.querySelectorAll("#frag-side .entry")];
  const here = items.findIndex((item) => item.dataset.picked === session.place.picked);
  const next = items[(here + by + items.length) % items.length];
  if (next) go({ picked: next.dataset.picked });
}

// As everybody expects; in a field that is being typed into the browser's own undo of letters comes first.
const commands = { z: () => post("undo", {}), "shift z": () => post("redo", {}), y: () => post("redo", {}), k: openFinder };

function commanded(event, command) {
  const field = event.target.matches("input:not([type=checkbox]), textarea") && event.target.value !== event.target.defaultValue;
  if (field && command !== "k") return;
  event.preventDefault();
  commands[event.shiftKey ? `shift ${command}` : command]();
}

// To the tray, or to the recipes, wherever one is.
async function to(event, station, field) {
  event.preventDefault();
  if (session.place.station !== station) await go({ station, picked: null });
  document.getElementById(field)?.focus();
}

export function listenKeys() {
  document.addEventListener("keydown", (event) => {
    const command = (event.ctrlKey || event.metaKey) && !event.altKey && event.key.toLowerCase();
    if (session.bench && command && !document.querySelector("dialog[open]") && commands[event.shiftKey ? `shift ${command}` : command]) return commanded(event, command);
    const typing = event.target.matches("input, textarea, select") && event.target.type !== "checkbox";
    if (typing || event.metaKey || event.ctrlKey || event.altKey || document.querySelector("dialog[open]")) return;
    if (!session.bench) return event.key === "d" && turnTheme();
    const key = event.key;
    if (/^[1-8]$/.test(key)) go({ station: STATIONS[key - 1], picked: null });
    else if (key === "j") stepItem(1);
    else if (key === "k") stepItem(-1);
    else if (key === "z") post("undo", {});
    else if (key === "Z") post("redo", {});
    else if (key === "f") turnRail();
    else if (key === "d") turnTheme();
    else if (key === "p") to(event, "wire", "find-part");
    else if (key === "r") to(event, "behave", "find-recipe");
    else if (key === "/") (event.preventDefault(), openFinder());
    else if (key === "h") showHistory();
    else if (key === "m" && session.place.station === "behave") turnLook();
    else if (key === "?") (event.preventDefault(), turnGuide());
    else document.dispatchEvent(new CustomEvent("vt:key", { detail: event }));
  });
}
