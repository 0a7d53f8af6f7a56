// Drawing a lane: one function for each kind. `x` turns µs into pixels; a lane's box is `top` to `top + height`.
import { inWords } from "../times.js";
import { BUSY, font, label, line, pennant, stretches } from "./pen.js";
import { count, heard, keyed, measure, ribbons, sent, value } from "./sensed.js";

function contact(pen, data, view, box, paint) {
  line(pen, data, view, box.top + 5, box.top + box.height - 4, paint.contact, 1.4);
}

function plainLevel(colour) {
  return (pen, data, view, box, paint) => line(pen, data, view, box.top + 5, box.top + box.height - 4, paint[colour], 1.2);
}

function cleaned(pen, data, view, box, paint) {
  const top = box.top + 5;
  const bottom = box.top + box.height - 4;
  // The metal thin behind what the firmware believes, so that a bounce shows where it was doubted.
  if (data.metal) line(pen, data.metal, view, top, bottom, paint.contact, 1.2);
  pen.fillStyle = paint.hatch(pen, paint.clean);
  for (const [from, to] of data.waits) {
    const left = view.x(from);
    const right = view.x(to);
    if (right > 0 && left < view.width) pen.fillRect(left, top, Math.max(right - left, 1.5), bottom - top);
  }
  line(pen, data, view, top, bottom, paint.clean, 2);
  const { t, v } = data.events;
  for (let n = 0; n < t.length; n += 1) {
    const at = view.x(t[n]);
    if (at < -60 || at > view.width || v[n] === BUSY) continue;
    const room = n + 1 < t.length ? view.x(t[n + 1]) - at : 99;
    const high = v[n] === "press" || v[n] === "above";
    pennant(pen, at, high ? top : bottom, v[n], room, paint, high ? 10 : -4);
  }
}

function state(pen, data, view, box, paint, extra) {
  const names = extra.states ?? [];
  const top = box.top + 3;
  const height = box.height - 7;
  stretches(data, view, (from, to, value) => {
    if (value === null) return;
    const place = names.findIndex(([id]) => id === value);
    pen.fillStyle = value === BUSY ? paint.hatch(pen, paint.soft) : paint.tints[Math.max(place, 0) % paint.tints.length];
    pen.fillRect(from, top, Math.max(to - from - 1, 1), height);
    if (extra.lit && place >= 0) {
      if (extra.lit === value) {
        pen.strokeStyle = paint.ink;
        pen.lineWidth = 2;
        pen.strokeRect(from + 1, top + 1, Math.max(to - from - 3, 1), height - 2);
      } else {
        pen.fillStyle = paint.paper;
        pen.globalAlpha = 0.55;
        pen.fillRect(from, top, Math.max(to - from - 1, 1), height);
        pen.globalAlpha = 1;
      }
    }
    if (place >= 0) label(pen, names[place][1], from, to, top + height / 2 + 4, paint.ink);
  });
}

// Spans of one kind go into one path and are filled once: a window can hold thousands.
function output(pen, data, view, box, paint) {
  if (data.duty) return dimmed(pen, data, view, box, paint);
  const top = box.top + 5;
  const bottom = box.top + box.height - 4;
  const on = new Path2D();
  const off = new Path2D();
  const busy = new Path2D();
  const words = [];
  stretches(data, view, (from, to, value) => {
    if (value === 1) {
      on.rect(from, top, Math.max(to - from, 1), bottom - top);
      if (to - from > 26) words.push([from, to]);
    } else if (value === BUSY) busy.rect(from, top, Math.max(to - from, 1), bottom - top);
    else if (value === 0) off.rect(from, bottom - 1.4, Math.max(to - from, 1), 1.4);
    else floating(pen, from, to, top, bottom, paint);
  });
  pen.fillStyle = paint.output;
  pen.fill(on);
  pen.fill(off);
  pen.fillStyle = paint.hatch(pen, paint.output);
  pen.fill(busy);
  for (const [from, to] of words) label(pen, "on", from, to, (top + bottom) / 2 + 4, paint.ink);
}

// What something dims is as high as its level.
function dimmed(pen, data, view, box, paint) {
  const top = box.top + 5;
  const bottom = box.top + box.height - 4;
  pen.fillStyle = paint.output;
  stretches(data.duty, view, (from, to, percent) => {
    const high = Math.max(((bottom - top) * percent) / 100, 1.4);
    pen.fillRect(from, bottom - high, Math.max(to - from, 1), high);
    if (percent > 0 && percent < 100 && to - from > 34) label(pen, `${percent} %`, from, to, bottom - high - 2 < top + 8 ? bottom - 3 : bottom - high - 2, paint.ink);
  });
}

function floating(pen, from, to, top, bottom, paint) {
  pen.strokeStyle = paint.soft;
  pen.lineWidth = 1;
  pen.beginPath();
  for (let at = from; at < to; at += 2) pen.lineTo(at, (top + bottom) / 2 + 2.5 * Math.sin(at / 2.5));
  pen.stroke();
  if (to - from > 56) label(pen, "floats", from, to, top + 5, paint.soft);
}

function blockedSpans(pen, data, view, box, paint, extra) {
  for (const [from, to, what] of data.blocked) {
    const left = view.x(from);
    const right = view.x(to);
    if (right < 0 || left > view.width) continue;
    pen.fillStyle = paint["must-tint"];
    pen.fillRect(left, box.top + 4, Math.max(right - left, 1.5), box.height - 8);
    pen.fillStyle = paint.hatch(pen, paint.must);
    pen.fillRect(left, box.top + 4, Math.max(right - left, 1.5), box.height - 8);
    const [kind, of] = what.split(" ");
    const name = of && ["debounce", "drive", "text", "task", "serial", "machine"].includes(kind) ? extra.names?.[of] ?? of : what;
    const words = `${name} holds it ${inWords(to - from)}`;
    if (right - left > 60) {
      pen.font = font(600);
      const w = pen.measureText(words).width;
      pen.fillStyle = paint["must-tint"];
      if (right - left > w + 16) pen.fillRect(Math.max(left, 0) + 4, box.top + 5, w + 6, box.height - 10);
      label(pen, words, left, right, box.top + box.height / 2 + 4, paint.must);
    }
  }
}

function loop(pen, data, view, box, paint, extra) {
  const middle = box.top + box.height / 2;
  const dense = new Path2D();
  const ticks = new Path2D();
  for (const [start, length, count] of data.runs) {
    const from = Math.round(Math.max(view.x(start), 0));
    const to = Math.round(Math.min(view.x(start + length * count), view.width));
    if (to < from) continue;
    if (view.x(start + length) - view.x(start) < 3) {
      dense.rect(from, middle - 4, Math.max(to - from, 1), 8);
      continue;
    }
    for (let n = Math.max(0, Math.floor((view.from - start) / length)); n <= count; n += 1) {
      const at = view.x(start + n * length);
      if (at > view.width) break;
      ticks.rect(Math.round(at), middle - 4, 1, 8);
    }
  }
  pen.fillStyle = paint.loop;
  pen.fill(ticks);
  pen.globalAlpha = 0.28;
  pen.fill(dense);
  pen.globalAlpha = 1;
  blockedSpans(pen, data, view, box, paint, extra);
  resets(pen, data, view, box.top + 7, paint, { power: "unplugged", pin: "reset pin", dip: "supply dips", software: "restarts" });
}

function watchdog(pen, data, view, box, paint, extra) {
  const base = box.top + box.height - 4;
  const limit = box.top + 6;
  const rise = (length) => base - Math.min(1, length / extra.timeout_us) * (base - limit);
  pen.strokeStyle = paint.watchdog;
  pen.setLineDash([5, 4]);
  pen.lineWidth = 1;
  pen.beginPath();
  pen.moveTo(0, limit);
  pen.lineTo(view.width, limit);
  pen.stroke();
  pen.setLineDash([]);
  pen.lineWidth = 1.4;
  pen.beginPath();
  for (const [start, length, count] of data.runs) {
    const from = view.x(start);
    const pitch = view.x(start + length) - from;
    const to = Math.min(view.x(start + length * count), view.width);
    if (to < 0 || from > view.width) continue;
    if (pitch < 3) {
      pen.moveTo(Math.max(from, 0), Math.min(rise(length), base - 0.7));
      pen.lineTo(to, Math.min(rise(length), base - 0.7));
      continue;
    }
    for (let n = Math.max(0, Math.floor((view.from - start) / length)); n < count; n += 1) {
      const at = view.x(start + n * length);
      if (at > view.width) break;
      pen.moveTo(at, base);
      pen.lineTo(at + pitch, rise(length));
      pen.lineTo(at + pitch, base);
    }
  }
  pen.stroke();
  for (const at of data.barks ?? []) {
    const x = view.x(at);
    if (x < -50 || x > view.width) continue;
    pen.fillStyle = paint.watchdog;
    pen.fillRect(x - 1, limit - 4, 2, 10);
    label(pen, "calls", x, x + 60, limit + 4, paint.watchdog);
  }
  resets(pen, data, view, limit, paint, { watchdog: "reset" });
}

// How a task of the kernel stands: running filled, ready hatched, waiting a line with what it waits for.
function stands(pen, data, view, box, paint, { names }) {
  const top = box.top + 4;
  const height = box.height - 8;
  stretches(data, view, (from, to, word) => {
    const width = Math.max(to - from, 1);
    pen.fillStyle = word === "running" ? paint.loop : word === "ready" || word === BUSY ? paint.hatch(pen, paint.loop) : paint.line;
    const thin = word?.startsWith?.("waiting");
    pen.fillRect(from, thin ? top + height - 2 : top, width, thin ? 2 : height);
    if (thin && word.length > 8) label(pen, names?.[word.slice(8)] ?? word.slice(8), from, to, top + height - 3, paint.soft);
  });
}

// Where the board started anew, for the causes that are given words.
function resets(pen, data, view, middle, paint, words) {
  for (const [at, cause] of data.resets) {
    const x = view.x(at);
    if (!words[cause] || x < -50 || x > view.width) continue;
    pen.fillStyle = paint.must;
    pen.beginPath();
    pen.moveTo(x, middle - 5);
    pen.lineTo(x + 5, middle);
    pen.lineTo(x, middle + 5);
    pen.lineTo(x - 5, middle);
    pen.fill();
    label(pen, words[cause], x + 2, x + 110, middle + 4, paint.must, paint.paper);
  }
}

// Jobs of a task: each as long as it held the processor, a mark before it where it began late.
function job(pen, data, view, box, paint) {
  const top = box.top + 6;
  const bottom = box.top + box.height - 5;
  pen.fillStyle = paint["line-strong"];
  pen.fillRect(0, bottom - 1, view.width, 1);
  for (const [from, to, late] of data.jobs) {
    const left = view.x(from);
    const right = view.x(to);
    if (right < -4 || left > view.width) continue;
    const waited = late > 0 ? left - view.x(from - late) : 0;
    if (waited > 3) {
      pen.fillStyle = paint.hatch(pen, paint.look);
      pen.fillRect(left - waited, top, waited, bottom - top);
    }
    pen.fillStyle = late >= 1000 ? paint.look : paint.note;
    pen.fillRect(left, top, Math.max(right - left, 2), bottom - top);
    if (right - left > 40) label(pen, inWords(to - from), left, right, (top + bottom) / 2 + 4, paint.paper);
  }
}

// The names of lanes in which nothing happens, folded into one.
export function quiet(pen, names, view, box, paint) {
  label(pen, names.join(" · "), 0, view.width, box.top + box.height / 2 + 4, paint.soft);
}

// What a line of a display shows, or what went out over the serial line.
function text(pen, data, view, box, paint) {
  const top = box.top + 3;
  const height = box.height - 7;
  stretches(data, view, (from, to, shown) => {
    if (!shown) return;
    pen.fillStyle = shown === BUSY ? paint.hatch(pen, paint.soft) : paint.tints[0];
    pen.fillRect(from, top, Math.max(to - from - 1, 1), height);
    pen.fillStyle = paint.ink;
    pen.fillRect(from, top, 1, height);
    if (shown !== BUSY) label(pen, shown, from + 2, to, top + height / 2 + 4, paint.ink);
  });
}

export const LANES = { contact, level: plainLevel("level"), reading: plainLevel("reading"), cleaned, state, output, loop, watchdog, measure, crossing: cleaned, beside: cleaned, count, value, held: ribbons, keyed, sent, heard, job, text, angle: value, fill: value, stands };

// The run before the edit, thin and broken, behind the lanes where it can differ.
export function ghost(pen, kind, data, view, box, paint) {
  if (!data) return;
  if (kind === "cleaned" || kind === "output" || kind === "crossing") {
    line(pen, data, view, box.top + 4, box.top + box.height - 3, paint.ghost, 1, [3, 3]);
  } else if (kind === "state") {
    pen.strokeStyle = paint.ghost;
    pen.setLineDash([3, 3]);
    pen.beginPath();
    stretches(data, view, (from) => {
      pen.moveTo(from, box.top + 2);
      pen.lineTo(from, box.top + box.height - 2);
    });
    pen.stroke();
    pen.setLineDash([]);
  }
}
