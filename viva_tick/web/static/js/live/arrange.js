// Arranging the panel: things are dragged to where they sit on the box, or moved by the arrows; the corner sizes it.
import { edit } from "../session.js";

const STEP_MM = 1;
const FAR_MM = 5;
const WAITS_MS = 500; // after the last arrow
const MOST_PX = 400; // of its height, beside all else
const LEAST = 2.6; // pixels for a millimetre: with fewer, things come one after another
const ALONE_LEAST = 3; // and on a phone, where fingers press them
const NATURAL = 3.6; // pixels for a millimetre at which things are drawn in their own size

const desk = () => document.getElementById("try-desk");
const panel = () => document.getElementById("try-panel");
const spots = () => JSON.parse(desk().dataset.spots);
export const arranging = () => is && Boolean(desk());

let is = false; // whether it is being arranged
let chosen = null;
let waiting = null; // until the move by arrows is saved
let moving = null; // where a thing was moved to that is not saved yet

const flows = () => !panel().classList.contains("is-placed");
const scale = () => panel().clientWidth / Number(panel().dataset.wide);

// Everything in its place. The middle of what is drawn is where the hole is; the label hangs below it.
export function place() {
  const front = panel();
  if (!front) return;
  const { wide, high } = front.dataset;
  front.style.aspectRatio = `${wide} / ${high}`;
  const alone = document.body.classList.contains("is-panel");
  front.style.maxWidth = `${Math.round(((alone ? innerHeight - 20 : MOST_PX) * wide) / high)}px`;
  front.classList.toggle("is-placed", scale() >= (alone ? ALONE_LEAST : LEAST));
  front.classList.add("is-laid");
  front.style.setProperty("--k", Math.min(1.25, Math.max(0.62, scale() / NATURAL)).toFixed(3));
  if (moving) Object.assign(front.querySelector(`[data-thing="${moving.thing}"]`)?.dataset ?? {}, moving);
  for (const thing of front.querySelectorAll("[data-thing]")) put(thing, Number(thing.dataset.x), Number(thing.dataset.y));
  choose(chosen, false);
}

function put(thing, x, y) {
  thing.style.setProperty("--x", ((100 * x) / panel().dataset.wide).toFixed(2));
  thing.style.setProperty("--y", ((100 * y) / panel().dataset.high).toFixed(2));
  // The first thing in it that is seen: what is drawn, or on the back what can go wrong.
  const shape = [...thing.children].find((one) => one.getClientRects().length);
  const { top, height } = shape.getBoundingClientRect();
  const k = Number(getComputedStyle(panel()).getPropertyValue("--k")) || 1;
  thing.style.setProperty("--lift", `${((top - thing.getBoundingClientRect().top + height / 2) / (flows() ? 1 : k)).toFixed(1)}px`);
}

export function arrange(on) {
  const place = desk();
  is = on;
  if (!place) return;
  place.classList.toggle("is-arranging", on);
  document.getElementById("live-arrange").setAttribute("aria-pressed", String(on));
  document.getElementById("live-arrange").textContent = on ? "Done" : "Arrange";
  for (const thing of panel().querySelectorAll("[data-thing]")) {
    for (const part of thing.children) if (part.tagName !== "FIGCAPTION") part.inert = on;
    thing.setAttribute("tabindex", on ? "0" : "-1"); // never none: it would lose the focus
  }
  if (!on) choose(null);
}

export const again = () => {
  if (!desk()) return;
  place();
  if (arranging()) arrange(true);
};

function choose(ident, tell = true) {
  chosen = ident;
  for (const thing of panel().querySelectorAll("[data-thing]")) thing.classList.toggle("is-chosen", thing.dataset.thing === ident);
  for (const form of desk().querySelectorAll(".spot-form")) form.hidden = form.dataset.of !== ident;
  if (tell && ident) where(panel().querySelector(`[data-thing="${ident}"]`));
}

function where(thing) {
  const field = desk().querySelector(`.spot-form[data-of="${thing.dataset.thing}"] [data-where]`);
  if (field) field.textContent = `${Number(thing.dataset.x)}, ${Number(thing.dataset.y)} mm`;
}

function move(thing, x, y) {
  const { wide, high } = panel().dataset;
  thing.dataset.x = Math.min(Math.max(x, 0), wide);
  thing.dataset.y = Math.min(Math.max(y, 0), high);
  moving = { thing: thing.dataset.thing, x: thing.dataset.x, y: thing.dataset.y };
  put(thing, Number(thing.dataset.x), Number(thing.dataset.y));
  where(thing);
}

function save() {
  if (!moving) return;
  const { thing: ident, x, y } = moving;
  moving = null;
  const value = { ...spots()[ident], x_mm: Number(x), y_mm: Number(y) };
  edit([{ op: "add", path: `/panel/spots/${ident}`, value }], null);
}

function resize(wide, high) {
  const front = panel();
  front.dataset.wide = Math.min(Math.max(Math.round(wide), 40), 260);
  front.dataset.high = Math.min(Math.max(Math.round(high), 40), 180);
  place();
  front.querySelector(".panel-size").textContent = `${front.dataset.wide} × ${front.dataset.high} mm`;
}

function saveSize() {
  const { wide, high } = panel().dataset;
  edit([{ op: "replace", path: "/panel/wide_mm", value: Number(wide) }, { op: "replace", path: "/panel/high_mm", value: Number(high) }], null);
}

function grab(event) {
  if (!arranging() || event.button > 0) return;
  const corner = event.target.closest?.("#panel-corner");
  const thing = event.target.closest?.("#try-panel [data-thing]");
  if (!corner && !thing) return;
  event.preventDefault();
  (corner ?? thing).focus();
  if (thing) choose(thing.dataset.thing);
  const mm = 1 / scale();
  const { clientX, clientY } = event;
  const { x, y } = thing?.dataset ?? {};
  const { wide, high } = panel().dataset;
  let moved = false;
  const pull = (next) => {
    moved ||= Math.hypot(next.clientX - clientX, next.clientY - clientY) > 3;
    if (!moved) return;
    const right = (next.clientX - clientX) * mm;
    const down = (next.clientY - clientY) * mm;
    // The panel is as wide as there is room: dragging its corner changes what a pixel is.
    if (corner) resize(Number(wide) + right, Number(high) + down);
    else move(thing, Math.round(Number(x) + right), Math.round(Number(y) + down));
  };
  const drop = () => {
    document.removeEventListener("pointermove", pull);
    for (const end of ["pointerup", "pointercancel"]) document.removeEventListener(end, drop);
    if (moved) (corner ? saveSize() : save());
  };
  document.addEventListener("pointermove", pull);
  for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, drop);
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

// True where the key was for the panel.
export function arrow(event) {
  if (!arranging()) return false;
  const way = ARROWS[event.key];
  const corner = event.target.closest?.("#panel-corner");
  const thing = event.target.closest?.("#try-panel [data-thing]");
  if (event.key === "Escape") return arrange(false), true;
  if (!way || !(corner || thing)) return false;
  event.preventDefault();
  const by = event.shiftKey ? FAR_MM : STEP_MM;
  if (corner) resize(Number(panel().dataset.wide) + way[0] * by, Number(panel().dataset.high) + way[1] * by);
  else move(thing, Number(thing.dataset.x) + way[0] * by, Number(thing.dataset.y) + way[1] * by);
  clearTimeout(waiting);
  waiting = setTimeout(() => (corner ? saveSize() : save()), WAITS_MS);
  return true;
}

export function listenArrange() {
  document.addEventListener("pointerdown", grab, true);
  document.addEventListener("focusin", ({ target }) => {
    const thing = arranging() && target.closest?.("#try-panel [data-thing]");
    if (thing) choose(thing.dataset.thing);
  });
  document.addEventListener("click", ({ target }) => target.closest?.("#live-arrange") && arrange(!arranging()));
  new ResizeObserver(() => place()).observe(document.body);
}
