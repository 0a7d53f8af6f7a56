// A sum, worked out as it is typed.
import { ask } from "./net.js";

let asked = 0;

async function work(form) {
  const mine = ++asked;
  const fields = [...new FormData(form)].filter(([name]) => !["csrf_token", "place"].includes(name));
  const answer = await ask(`/api/sums/${document.getElementById("sum").dataset.sum}?${new URLSearchParams(fields)}`).catch(() => null);
  if (!answer?.ok || mine !== asked) return;
  const { asks, gives, note, svg, places } = answer.data;
  for (const { id, fault, read } of asks) {
    const out = document.getElementById(`read-${id}`);
    out.textContent = fault || `= ${read}`;
    out.classList.toggle("is-wrong", Boolean(fault));
  }
  for (const { id, text, corner } of gives) {
    const row = document.getElementById(`give-${id}`);
    row.querySelector("b").textContent = text;
    row.querySelector("small").textContent = corner;
  }
  document.getElementById("sum-note").textContent = note;
  document.getElementById("sum-drawing").innerHTML = svg;
  const select = document.getElementById("sum-place");
  if (select) {
    const before = select.value;
    select.replaceChildren(...places.map(({ value, label }) => new Option(label, value, false, value === before)));
    select.closest("p").hidden = !places.length;
  }
  history.replaceState(null, "", `?${new URLSearchParams(fields)}`);
}

export function listenSums() {
  const form = document.getElementById("sum-form");
  form?.addEventListener("input", (event) => event.target.name !== "place" && work(form));
  form?.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && event.target.tagName === "INPUT") event.preventDefault();
  });
}
