// The times of a drive, dragged on the drawing of its course, or moved by the arrows; the strip follows.
import { edit, hold, letGo, preview } from "./session.js";

let held = null;

// To two figures or so: 180 ms, 1.2 s, never 1.2037 s.
export function round(us) {
  const step = us < 20_000 ? 1000 : us < 200_000 ? 5000 : us < 1_000_000 ? 10_000 : us < 10_000_000 ? 100_000 : 1_000_000;
  return Math.max(Math.round(us / step) * step, 1000);
}

// A time in words: ms, and seconds from one second on.
export const inWords = (us) => (us >= 1e6 ? `${Number((us / 1e6).toPrecision(4))} s` : `${Number((us / 1000).toPrecision(3))} ms`);

const patch = (handle, us) => [{ op: "replace", path: handle.dataset.time, value: us }];

function show(handle, x) {
  const line = handle.querySelector("line");
  line.setAttribute("x1", x);
  line.setAttribute("x2", x);
  handle.querySelector("circle").setAttribute("cx", x);
}

function grab(event) {
  const handle = event.target.closest?.("[data-time]");
  if (!handle) return;
  const box = handle.ownerSVGElement.getBoundingClientRect();
  const scale = handle.ownerSVGElement.viewBox.baseVal.width / box.width;
  held = { handle, left: box.left, scale, us: Number(handle.dataset.us), start: Number(handle.dataset.start), x: Number(handle.dataset.x), to: null };
  handle.setPointerCapture(event.pointerId);
  handle.focus();
  event.preventDefault();
}

function pull(event) {
  if (!held) return;
  const x = Math.max((event.clientX - held.left) * held.scale, held.start + 1);
  held.to = round((held.us * (x - held.start)) / (held.x - held.start));
  show(held.handle, x);
  held.handle.dataset.said = `${held.to / 1000} ms`;
  const field = document.getElementById(`n${held.handle.dataset.time}`);
  if (field) field.value = held.to / 1000;
  hold();
  preview(patch(held.handle, held.to));
}

function drop() {
  if (!held) return;
  const { handle, to, us } = held;
  held = null;
  if (to !== null && to !== us) edit(patch(handle, to), handle);
  else letGo();
}

export function listenTimes() {
  document.addEventListener("pointerdown", grab);
  document.addEventListener("pointermove", pull);
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", drop);
  document.addEventListener("keydown", (event) => {
    const handle = event.target.closest?.("[data-time]");
    const by = { ArrowLeft: 1 / 1.1, ArrowRight: 1.1 }[event.key];
    if (!handle || !by) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const us = Number(handle.dataset.us);
    const to = round(us * by);
    edit(patch(handle, to === us ? us + (by > 1 ? 1000 : -1000) : to), handle);
  });
}
