// Lanes of inputs that are more than a contact, and of numbers.
import { BUSY, label, pennant, stretches } from "./pen.js";

export function value(pen, data, view, box, paint, { scale }) {
  if (!scale) return;
  const y = numbers(pen, data, view, box, scale, paint.clean, 1.8);
  stretches(data, view, (from, to, number) => to - from > 22 && label(pen, String(number), from - 3, to, y(number) - 4 < box.top + 9 ? y(number) + 12 : y(number) - 4, paint.ink));
}

// Numbers as a line that steps; `scale` is the least and the most of the whole run.
function numbers(pen, data, view, box, [least, most], colour, width) {
  const top = box.top + 5;
  const bottom = box.top + box.height - 4;
  const y = (value) => bottom - ((value - least) / (most - least || 1)) * (bottom - top); // what is at the foot may be more
  pen.strokeStyle = colour;
  pen.lineWidth = width;
  pen.beginPath();
  let last = null;
  stretches(data, view, (from, to, value) => {
    const at = y(value);
    if (last === null) pen.moveTo(from, at);
    else pen.lineTo(from, last);
    pen.lineTo(from, at);
    pen.lineTo(to, at);
    last = at;
  });
  pen.stroke();
  return y;
}

export function measure(pen, data, view, box, paint, { scale }) {
  if (!scale) return;
  const y = numbers(pen, data, view, box, scale, paint.reading, 1);
  numbers(pen, data.smooth, view, box, scale, paint.clean, 1.6);
  pen.strokeStyle = paint.ink;
  pen.lineWidth = 1;
  pen.setLineDash([5, 4]);
  pen.beginPath();
  for (const line of scale.slice(2)) {
    pen.moveTo(0, Math.round(y(line)) + 0.5);
    pen.lineTo(view.width, Math.round(y(line)) + 0.5);
  }
  pen.stroke();
  pen.setLineDash([]);
}

function flags(pen, events, view, y, paint, words) {
  const { t, v } = events;
  for (let n = 0; n < t.length; n += 1) {
    const at = view.x(t[n]);
    if (at < -60 || at > view.width || v[n] === BUSY) continue;
    const room = n + 1 < t.length ? view.x(t[n + 1]) - at : 99;
    pennant(pen, at, y, words(v[n]), room, paint);
  }
}

export function count(pen, data, view, box, paint, { scale }) {
  if (!scale) return;
  numbers(pen, data, view, box, scale, paint.clean, 2);
  flags(pen, data.events, view, box.top + 7, paint, (what) => what);
}

// Names as ribbons: which keys are held, or believed to be.
export function ribbons(pen, data, view, box, paint) {
  const top = box.top + 4;
  const height = box.height - 8;
  stretches(data, view, (from, to, value) => {
    if (!value) return;
    pen.fillStyle = value === BUSY ? paint.hatch(pen, paint.soft) : paint.tints[1];
    pen.fillRect(from, top, Math.max(to - from - 1, 1), height);
    if (value !== BUSY) label(pen, value, from, to, top + height / 2 + 4, paint.ink);
  });
}

export function keyed(pen, data, view, box, paint) {
  ribbons(pen, data, view, box, paint);
  flags(pen, data.events, view, box.top + 7, paint, () => "");
}

export function sent(pen, data, view, box, paint) {
  flags(pen, data, view, box.top + 9, paint, (number) => (number < 0 ? `${-number - 1}, not recognised` : String(number)));
}

export function heard(pen, data, view, box, paint) {
  flags(pen, data, view, box.top + 9, paint, (what) => what.replace("command ", ""));
}
