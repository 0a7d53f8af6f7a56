// What a person types, as the document wants it; and values on a drawing, typed over where they stand.
import { edit } from "./session.js";

const plain = (text) => {
  const found = text.trim().replace(",", ".").replace("−", "-").match(/^(-?\d*\.?\d+)\s*([a-zA-Zµμ°ΩΩ%/]*)/);
  return found ? { number: Number(found[1]), unit: found[2] } : { number: NaN, unit: "" };
};

// 4k7, 4.7k, 10 kΩ, 2M2, 330R → ohm.
function ohm(text) {
  const said = text.trim().replace(",", ".").replace(/[ΩΩ\s]|ohms?/gi, "");
  const inside = said.match(/^(\d+)([kKMRr])(\d+)$/);
  const found = inside ? [said, `${inside[1]}.${inside[3]}`, inside[2]] : said.match(/^(\d*\.?\d+)([kKMRr]?)$/);
  return found ? Number(found[1]) * ({ k: 1000, K: 1000, M: 1e6 }[found[2]] ?? 1) : NaN;
}

// Volts unless it says mV; milliampere unless it says A or µA. A unit of something else is no value.
const scaled = (text, own, units) => {
  const { number, unit } = plain(text);
  return Math.round(number * (unit ? (units[unit] ?? NaN) : own));
};

const TIME = { us: 1, "µs": 1, "μs": 1, ms: 1000, s: 1e6, min: 6e7, h: 3.6e9 };

const list = (text, by) => text.split(by).map((word) => word.trim()).filter(Boolean);

// A table: "10: 19k9 · 25: 10k", its rows apart by a dot in the middle, a semicolon or a comma.
function table(text, field, by) {
  const rows = list(text, /[·;,]+/).map((row) => {
    const [, value, gives] = row.match(/^([^:=\s]+)\s*[:=\s]\s*(.+)$/) ?? ["", "", ""];
    return { value: plain(value).number, [field]: by(gives) };
  });
  return rows.some((row) => Number.isNaN(row.value) || Number.isNaN(row[field])) ? NaN : rows;
}

export const READ = {
  text: (text) => text.trim(),
  words: (text) => list(text, /\s+/),
  list: (text) => list(text, ","),
  numbers: (text) => {
    const found = list(text, /[\s,]+/).map(Number); // 170, or 0xAA
    return found.some(Number.isNaN) ? NaN : found;
  },
  s: (text) => scaled(text, 1e6, TIME),
  ms: (text) => scaled(text, 1000, TIME),
  time: (text) => scaled(text, 1000, TIME),
  int: (text) => Math.round(plain(text).number),
  cm: (text) => scaled(text, 1, { m: 100, cm: 1, mm: 0.1 }),
  float: (text) => plain(text).number,
  ohm: (text) => Math.round(ohm(text)),
  ohms: ohm,
  meter: (text) => (/^\s*(ol|open|inf|∞)/i.test(text) ? 1e9 : ohm(text)), // what it shows where nothing is joined
  "ohms-at": (text) => table(text, "ohm", ohm),
  "volts-at": (text) => table(text, "mv", (said) => scaled(said, 1000, { mV: 1, V: 1000 })),
  volt: (text) => scaled(text, 1000, { mV: 1, V: 1000 }),
  milli: (text) => scaled(text, 1, { mV: 1, V: 1000 }),
  amp: (text) => scaled(text, 1000, { A: 1e6, mA: 1000, uA: 1, "µA": 1, "μA": 1 }),
};

export function read(control, text) {
  const value = READ[control.dataset.as ?? control.dataset.reads](text);
  return Number.isNaN(value) ? null : value;
}

// A value on a drawing becomes a field over itself; Enter or leaving it makes the edit, Escape leaves it as it was.
function typeOver(group) {
  const figure = group.closest("figure");
  const box = group.getBoundingClientRect();
  const frame = figure.getBoundingClientRect();
  const field = document.createElement("input");
  field.className = "typed-over";
  field.value = group.dataset.shown ?? group.querySelector("text").textContent.replace(/^[^\d−-]+/, "");
  field.setAttribute("aria-label", group.getAttribute("aria-label"));
  field.style.left = `${box.left - frame.left - 4}px`;
  field.style.top = `${box.top - frame.top - 4}px`;
  field.style.width = `${Math.max(box.width + 26, 76)}px`;
  let done = false;
  const close = (keep) => {
    if (done) return;
    done = true;
    const text = field.value;
    field.remove();
    group.focus();
    if (keep && text.trim() !== "") edit([{ op: "replace", path: group.dataset.edit, value: read(group, text) }], group);
  };
  field.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter") close(true);
    if (event.key === "Escape") close(false);
  });
  field.addEventListener("blur", () => close(true));
  figure.append(field);
  field.focus();
  field.select();
}

export function listenValues() {
  document.addEventListener("click", (event) => {
    const group = event.target.closest?.("[data-edit]");
    if (group) typeOver(group);
  });
  document.addEventListener("keydown", (event) => {
    const group = event.target.closest?.("[data-edit]");
    if (!group || (event.key !== "Enter" && event.key !== " ")) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    typeOver(group);
  });
}
