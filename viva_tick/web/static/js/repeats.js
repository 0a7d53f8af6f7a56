// A scenario repeated: a stretch of its numbers after another is asked of the server, two at a time; it can be stopped.
import { ask } from "./net.js";
import { session } from "./session.js";

let going = 0;
let of = ""; // the state of the bench and the scenario that something was asked of
const at = (id) => document.getElementById(id);

const now = () => `${session.revision} ${session.place.scenario}`;

async function asked(more) {
  const mine = (of = now());
  const query = new URLSearchParams({ scenario: session.place.scenario, ...more });
  const answer = await ask(`/api/benches/${session.bench}/repeat?${query}`).catch(() => null);
  if (mine !== now() || !at("repeats-said")) return null; // the bench has moved on
  if (answer?.ok) at("repeats-said").innerHTML = answer.data.html;
  else at("repeats-said").textContent = answer?.data?.error ?? "The server cannot be reached; ask again.";
  return answer?.ok ? answer.data : null;
}

const waits = (yes) => {
  for (const one of document.querySelectorAll("[data-repeat]")) one.disabled = yes;
  if (at("repeats-going")) at("repeats-going").hidden = !yes;
};

async function repeat(many) {
  const mine = (going += 1);
  const bar = at("repeats-going");
  bar.querySelector("progress").value = 0;
  bar.querySelector("span").textContent = "";
  waits(true);
  const stretch = async (begin, end) => {
    for (let from = begin; from < end && mine === going; ) {
      const data = await asked({ begin: from, end });
      if (!data || !bar.isConnected) return;
      from = data.from;
      bar.querySelector("progress").value = data.runs / many;
      bar.querySelector("span").textContent = `${data.runs.toLocaleString("en")} of ${many.toLocaleString("en")} runs`;
    }
  };
  await Promise.all([stretch(0, many / 2), stretch(many / 2, many)]);
  if (mine === going || bar.isConnected) waits(false);
  document.dispatchEvent(new CustomEvent("vt:counted"));
}

// What was counted of another state of the bench, or of another scenario, holds no more.
function forget() {
  if (!of || now() === of) return;
  of = "";
  going += 1;
  at("repeats-said")?.replaceChildren();
  waits(false);
}

export function listenRepeats() {
  document.addEventListener("vt:view", forget);
  document.addEventListener("click", ({ target }) => {
    const many = target.closest?.("[data-repeat]");
    if (many) repeat(Number(many.dataset.repeat));
    if (target.closest?.("#stop-repeats")) going += 1;
    const on = target.closest?.("[data-repeat-on]");
    if (on) {
      on.textContent = "working it out…";
      asked({ on: on.dataset.repeatOn }).then(() => document.dispatchEvent(new CustomEvent("vt:counted")));
    }
  });
}
