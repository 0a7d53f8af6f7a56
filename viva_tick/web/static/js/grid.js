// The grid of states and events by keyboard: arrows move, a state's name typed leads there, Enter opens the cell.
import { edit } from "./session.js";

const PAUSE_MS = 700; // after which what was typed is taken, if one name fits

const control = (cell) => cell?.querySelector(".goes, .drives, .state-name");
const table = () => document.querySelector("[data-grid]");
const rows = () => [...(table()?.querySelectorAll("tbody tr") ?? [])];
const cells = (row) => [...row.querySelectorAll(":scope > [data-cell]")];

let spot = null; // row and cell that had the focus last: what is drawn anew gets it again
let typed = "";
let timer = 0;

export function focusSpot() {
  const row = rows()[spot?.row];
  const found = row && control(cells(row)[spot.cell]);
  found?.focus({ preventScroll: true });
  return Boolean(found);
}

function move(cell, across, down) {
  const row = cell.closest("tr");
  const all = rows();
  const to = all[all.indexOf(row) + down] ?? row;
  const place = cells(row).indexOf(cell) + across;
  const next = control(cells(to)[Math.max(0, Math.min(place, cells(to).length - 1))]);
  next?.focus();
  next?.closest("[data-cell]").scrollIntoView({ block: "nearest", inline: "nearest" });
}

const states = () => JSON.parse(table().dataset.states);
const said = () => typed.trim().toLowerCase();
const fits = () => states().filter(([, name]) => name.toLowerCase().startsWith(said()));
const led = (button, ident) => JSON.parse(button.dataset.goto.replaceAll("$to", ident));

function clear(button) {
  typed = "";
  clearTimeout(timer);
  button.closest("td")?.removeAttribute("data-typed");
}

// The state that is meant; on Enter a name that no state has adds one.
function take(button, enter = false) {
  const found = fits();
  const whole = found.find(([, name]) => name.toLowerCase() === said());
  const meant = whole ?? (found.length === 1 || enter ? found[0] : null);
  const name = typed.trim();
  clear(button);
  if (meant) return edit(led(button, meant[0]), button);
  if (!enter || !name) return;
  const made = JSON.parse(table().dataset.add).map((one) => ({ ...one, value: { ...one.value, name } }));
  edit([...made, ...led(button, table().dataset.new)], button);
}

function letter(button, key) {
  typed += key;
  clearTimeout(timer);
  const found = fits();
  const cell = button.closest("td");
  if (!found.length) cell.dataset.typed = `${typed.trim()}: a new state, Enter adds it`;
  else {
    // What fits is shown at once and taken after a pause, so that a name typed whole is not taken for two.
    cell.dataset.typed = found.length === 1 ? found[0][1] : `${typed}… ${found.map(([, name]) => name).join(", ")}`;
    timer = setTimeout(() => take(button), PAUSE_MS);
  }
}

function key(event) {
  const cell = event.target.closest("[data-cell]");
  if (!cell || event.metaKey || event.ctrlKey || event.altKey) return;
  const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  const field = event.target.matches("input");
  if (arrow && (!field || !arrow[0]) && !event.target.closest("[data-time]")) {
    event.preventDefault();
    if (typed) take(event.target);
    return move(cell, ...arrow);
  }
  const button = event.target.closest(".goes, .drives");
  if (!button) return;
  const { goto: goes, none, ignore } = button.dataset;
  const names = goes && event.key.length === 1 && /[\p{L}\p{N}]|(?<=.) /u.test(typed + event.key);
  if (event.key === "Enter" && typed) take(button, true);
  else if (event.key === "Escape" && typed) clear(button);
  else if (event.key === "Backspace" && typed) letter(button, ((typed = typed.slice(0, -1)), ""));
  else if (event.key === "Delete" || event.key === "Backspace") none && edit(JSON.parse(none), button);
  else if (event.key === "-" && ignore && !typed) edit(JSON.parse(ignore), button);
  else if (names) letter(button, event.key);
  else return;
  event.preventDefault();
  event.stopPropagation();
}

export function grid() {
  return {
    init() {
      this.$root.addEventListener("keydown", key);
      this.$root.addEventListener("focusout", ({ target }) => typed && target.matches(".goes") && take(target));
      this.$root.addEventListener("focusin", ({ target }) => {
        const cell = target.closest("[data-cell]");
        const row = cell?.closest("tr");
        spot = cell && { row: rows().indexOf(row), cell: cells(row).indexOf(cell) };
      });
    },
  };
}

export function listenGrid() {
  document.addEventListener("focusin", ({ target }) => !target.closest("[data-grid], #opened") && (spot = null));
  document.addEventListener("vt:view", () => requestAnimationFrame(() => document.activeElement === document.body && spot && !document.getElementById("opened") && focusSpot()));
}
