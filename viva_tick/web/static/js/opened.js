// What is open on the grid or the map stands at what it is about; it is closed by Esc, by a click elsewhere, by a change
// of station.
import { focusSpot } from "./grid.js";
import { go, session } from "./session.js";

const GAP = 6;
const panel = () => document.getElementById("opened");
const anchor = () => [...document.querySelectorAll("[data-choose]")].find((one) => one.dataset.choose === session.place.chosen && one.id !== "opened-close");

let last = null; // the id of what was opened last: where the focus goes back to

// Under its anchor, or above where there is more room; always whole on the page.
function place() {
  const box = panel();
  const at = anchor()?.getBoundingClientRect();
  if (!box) return;
  box.style.visibility = at ? "" : "hidden";
  for (const one of document.querySelectorAll(".is-open[data-choose]")) one.classList.remove("is-open");
  anchor()?.classList.add("is-open");
  if (!at) return;
  const { offsetWidth: width, offsetHeight: height } = box;
  const below = innerHeight - at.bottom;
  const top = below > height + 2 * GAP || below > at.top ? at.bottom + GAP : at.top - height - GAP;
  box.style.left = `${Math.max(GAP, Math.min(at.left - 20, innerWidth - width - GAP))}px`;
  box.style.top = `${Math.max(GAP, Math.min(top, innerHeight - height - GAP))}px`;
}

const first = () => panel()?.querySelector("[aria-checked=true]") ?? panel()?.querySelector(".opened-set input, .opened-set select, [role=radio], .opened-acts button, select, #opened-close");

// What came open by another way has the focus, too.
export function enter() {
  if (!panel()) return;
  last = anchor()?.id ?? last;
  place();
  first()?.focus({ preventScroll: true });
}

export async function open(wanted) {
  await go({ chosen: wanted }, false);
  if (wanted) enter();
  else back();
}

function back() {
  if (document.getElementById(last)) document.getElementById(last).focus({ preventScroll: true });
  else if (!focusSpot()) document.getElementById("editor")?.focus({ preventScroll: true });
}

export const close = () => open(null);
export const isOpen = () => Boolean(panel());

// A letter goes to the chip that begins so; the arrows go along.
let typed = "";
let timer = 0;
function narrow(event) {
  const chips = [...panel().querySelectorAll(".chips [role=radio]")];
  if (!event.target.matches(".chips [role=radio]") || event.key.length !== 1 || event.key === " " || event.ctrlKey || event.metaKey) return;
  clearTimeout(timer);
  timer = setTimeout(() => (typed = ""), 900);
  typed += event.key.toLowerCase();
  const fits = chips.filter((chip) => chip.textContent.trim().toLowerCase().startsWith(typed));
  chips.forEach((chip) => chip.classList.toggle("is-out", !fits.includes(chip)));
  fits[0]?.focus();
  event.preventDefault();
  event.stopPropagation();
}

export function listenOpened() {
  document.addEventListener("vt:view", () => requestAnimationFrame(place));
  document.addEventListener("scroll", () => panel() && place(), { capture: true, passive: true });
  addEventListener("resize", place);
  document.addEventListener("keydown", (event) => {
    if (!panel()?.contains(event.target)) return;
    if (event.key === "Escape") {
      event.stopPropagation();
      event.preventDefault();
      close();
    } else narrow(event);
  }, true);
  document.addEventListener("pointerdown", (event) => {
    if (!panel() || panel().contains(event.target) || event.target.closest("[data-choose], .strip, dialog, .head")) return;
    go({ chosen: null }, false);
  });
  if (panel()) {
    session.place.chosen = panel().dataset.opened;
    place();
  }
}
