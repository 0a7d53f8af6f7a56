// One key finds anything: stations, parts, machines and their states, what stands out, scenarios, and what can be done.
import { turnGuide } from "./guide.js";
import { begin } from "./begin.js";
import { showHistory, toast } from "./desk.js";
import { ask } from "./net.js";
import { enter } from "./opened.js";
import { turnTheme } from "./plain.js";
import { edit, go, post, session } from "./session.js";

const MOST = 12;
const DO = {
  undo: () => post("undo", {}),
  redo: () => post("redo", {}),
  history: showHistory,
  theme: turnTheme,
  begin,
  help: () => turnGuide(true),
  rail: () => document.querySelector("[data-do=rail]").click(),
  strip: () => document.dispatchEvent(new CustomEvent("vt:key", { detail: new KeyboardEvent("keydown", { key: "s" }) })),
  home: () => (location.href = "/"),
};

const dialog = () => document.getElementById("finder");
const field = () => document.getElementById("finder-field");
let entries = [];
let lit = 0;

// Words in any order, each the beginning of a word; what begins with the text comes first.
function found(text) {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = entries.filter(({ known }) => words.every((word) => known.some((one) => one.startsWith(word))));
  const rank = ({ words: said }) => (said.toLowerCase() === text ? 0 : said.toLowerCase().startsWith(text) ? 1 : 2);
  return fits.sort((a, b) => rank(a) - rank(b)).slice(0, MOST);
}

function draw() {
  const rows = found(field().value.trim().toLowerCase());
  lit = Math.max(0, Math.min(lit, rows.length - 1));
  document.getElementById("finder-list").replaceChildren(
    ...rows.map((entry, place) => {
      const row = document.createElement("li");
      row.setAttribute("role", "option");
      row.id = `found-${place}`;
      row.setAttribute("aria-selected", String(place === lit));
      row.append(Object.assign(document.createElement("b"), { textContent: entry.words }), Object.assign(document.createElement("span"), { textContent: entry.group }));
      row.addEventListener("click", () => run(entry));
      row.addEventListener("pointermove", () => lit !== place && ((lit = place), draw()));
      return row;
    }),
  );
  field().setAttribute("aria-activedescendant", rows.length ? `found-${lit}` : "");
  document.getElementById("finder-none").hidden = rows.length > 0;
  return rows;
}

function run({ patch, pick, scenario, to, act, words }) {
  dialog().close();
  if (patch) return edit(patch, null, { station: to?.station, picked: pick, scenario }).then((done) => done && toast(`${words}: done.`));
  if (act) return DO[act]();
  return go({ chosen: null, ...to }).then(enter);
}

export async function openFinder() {
  try {
    const query = new URLSearchParams(session.place.scenario ? { scenario: session.place.scenario } : {});
    const { data } = await ask(`/api/benches/${session.bench}/find?${query}`);
    entries = data.found.map((one) => ({ ...one, known: `${one.words} ${one.group} ${one.more ?? ""}`.toLowerCase().split(/[\s,:;()“”]+/) }));
  } catch {
    return toast("The server cannot be reached, so nothing can be found.");
  }
  lit = 0;
  field().value = "";
  draw();
  dialog().showModal();
  field().focus();
}

export function listenFinder() {
  if (!dialog()) return;
  field().addEventListener("input", () => ((lit = 0), draw()));
  dialog().addEventListener("click", (event) => event.target === dialog() && dialog().close());
  field().addEventListener("keydown", (event) => {
    const rows = found(field().value.trim().toLowerCase());
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by && rows.length) {
      lit = (lit + by + rows.length) % rows.length;
      draw();
    } else if (event.key === "Enter" && rows[lit]) run(rows[lit]);
    else return;
    event.preventDefault();
  });
}
