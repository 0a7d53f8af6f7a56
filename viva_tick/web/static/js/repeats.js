// A scenario repeated: a piece of its runs after another is asked of the server; it can be stopped between two.
import { ask } from "./net.js";
import { session } from "./session.js";

let going = 0;
const at = (id) => document.getElementById(id);

async function asked(more) {
  const query = new URLSearchParams({ scenario: session.place.scenario, ...more });
  const answer = await ask(`/api/benches/${session.bench}/repeat?${query}`).catch(() => null);
  if (!at("repeats-said")) return null;
  if (answer?.ok) at("repeats-said").innerHTML = answer.data.html;
  else at("repeats-said").textContent = answer?.data?.error ?? "The server cannot be reached; ask again.";
  return answer?.ok ? answer.data : null;
}

async function repeatAll() {
  const mine = (going += 1);
  at("repeats-going").hidden = false;
  at("repeat-all").disabled = true;
  let pieces = 1;
  for (let piece = 0; piece < pieces && mine === going; piece += 1) {
    const data = await asked({ piece });
    if (!data || !at("repeats-going")) break;
    pieces = data.pieces;
    at("repeats-going").querySelector("progress").value = (piece + 1) / pieces;
    at("repeats-going").querySelector("span").textContent = `${data.runs} of ${data.of} runs`;
  }
  if (!at("repeats-going")) return;
  at("repeats-going").hidden = true;
  at("repeat-all").disabled = false;
}

export function listenRepeats() {
  document.addEventListener("click", ({ target }) => {
    if (target.closest?.("#repeat-all")) repeatAll();
    if (target.closest?.("#stop-repeats")) going += 1;
    const on = target.closest?.("[data-repeat-on]");
    if (on) {
      on.textContent = "working it out…";
      asked({ on: on.dataset.repeatOn });
    }
  });
}
