// The grid of states and events by keyboard: arrows move, a state's name typed fills a cell, Enter opens what it does.
import { edit, go } from "./session.js";

const PAUSE_MS = 600; // after which what was typed is taken, if one name fits

const control = (cell) => cell?.querySelector("select, .state-name");

export function grid() {
  let typed = "";
  let timer = 0;
  let root = null;

  const cells = (row) => [...row.querySelectorAll(":scope > [data-cell]")];

  function move(cell, across, down) {
    const row = cell.closest("tr");
    const rows = [...root.querySelectorAll("tbody tr")];
    const to = rows[rows.indexOf(row) + down];
    const place = cells(row).indexOf(cell) + across;
    control(cells(to ?? row)[Math.max(0, Math.min(place, cells(row).length - 1))])?.focus();
  }

  function pick(select, option) {
    clear(select);
    if (!option || option.selected) return;
    edit(JSON.parse(option.dataset.patch), select);
  }

  function clear(select) {
    typed = "";
    clearTimeout(timer);
    select.closest("td")?.removeAttribute("data-typed");
  }

  const fits = (select) => [...select.options].filter((one) => one.hasAttribute("value") && one.dataset.patch && one.textContent.trim().toLowerCase().startsWith(typed));

  function take(select) {
    const found = fits(select);
    const whole = found.find((one) => one.textContent.trim().toLowerCase() === typed);
    pick(select, whole ?? (found.length === 1 ? found[0] : null));
  }

  function letter(select, key) {
    typed += key.toLowerCase();
    clearTimeout(timer);
    const found = fits(select);
    if (!found.length) return clear(select);
    // What fits is shown at once and taken after a pause, so that a name typed whole is not taken for two.
    select.closest("td").dataset.typed = found.length === 1 ? found[0].textContent.trim() : `${typed}…`;
    timer = setTimeout(() => take(select), PAUSE_MS);
  }

  const open = (select) => {
    const wanted = select.dataset.way !== undefined ? `way ${select.dataset.way}` : select.dataset.more;
    if (wanted) go({ chosen: wanted }).then(() => document.querySelector("#drawer select, #drawer input")?.focus());
  };

  function key(event) {
    const cell = event.target.closest("[data-cell]");
    if (!cell || event.metaKey || event.ctrlKey || event.altKey) return;
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const select = event.target.closest("select");
    if (arrow && (select || event.key === "ArrowUp" || event.key === "ArrowDown") && !event.target.closest("[data-time], [type=number]")) {
      event.preventDefault();
      if (select && typed) take(select);
      return move(cell, ...arrow);
    }
    if (!select) return;
    const none = [...select.options].find((one) => !one.hasAttribute("value") && one.dataset.pass === undefined);
    const pass = [...select.options].find((one) => one.dataset.pass !== undefined);
    if (event.key === "Enter") typed ? take(select) : open(select);
    else if (event.key === "Escape" && typed) clear(select);
    else if (event.key === "Delete" || event.key === "Backspace") pick(select, none);
    else if (event.key === "-" && pass) pick(select, pass);
    else if (event.key.length === 1 && /[\p{L}\p{N}]|(?<=.) /u.test(typed + event.key)) letter(select, event.key);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  return {
    init() {
      root = this.$root;
      root.addEventListener("keydown", key);
      root.addEventListener("focusout", ({ target }) => typed && target.matches("select") && take(target));
    },
  };
}
