// Shortcuts that hold anywhere on a bench, unless something is being typed.
import { turnLook } from "./choose.js";
import { showHistory } from "./desk.js";
import { turnTheme } from "./plain.js";
import { go, post, session } from "./session.js";

const STATIONS = ["wire", "clean", "behave", "pace", "guard", "build"];

function stepItem(by) {
  const items = [...document.querySelectorAll("#frag-side .entry")];
  const here = items.findIndex((item) => item.dataset.picked === session.place.picked);
  const next = items[(here + by + items.length) % items.length];
  if (next) go({ picked: next.dataset.picked });
}

// To the tray, wherever one is.
async function putDown(event) {
  event.preventDefault();
  if (session.place.station !== "wire") await go({ station: "wire", picked: null });
  document.getElementById("find-part")?.focus();
}

export function listenKeys() {
  document.addEventListener("keydown", (event) => {
    const typing = event.target.matches("input, textarea, select") && event.target.type !== "checkbox";
    if (typing || event.metaKey || event.ctrlKey || event.altKey || document.querySelector("dialog[open]")) return;
    if (!session.bench) return event.key === "d" && turnTheme();
    const key = event.key;
    if (/^[1-6]$/.test(key)) go({ station: STATIONS[key - 1], picked: null });
    else if (key === "j") stepItem(1);
    else if (key === "k") stepItem(-1);
    else if (key === "z") post("undo", {});
    else if (key === "Z") post("redo", {});
    else if (key === "d") turnTheme();
    else if (key === "p" || key === "/") putDown(event);
    else if (key === "h") showHistory();
    else if (key === "m" && session.place.station === "behave") turnLook();
    else if (key === "?") document.getElementById("help-dialog").showModal();
    else document.dispatchEvent(new CustomEvent("vt:key", { detail: event }));
  });
}
