// In the second after an edit its scenario is run a few times more, and what that says of it shown. Never before the
// edit's own answer, and not while something is on its way.
import { ask } from "./net.js";
import { session } from "./session.js";

const AFTER_MS = 400;
let timer = 0;
let asking = null;
let known = "";

function leave() {
  clearTimeout(timer);
  asking?.abort();
  asking = null;
}

async function look() {
  const { scenario } = session.place;
  const of = `${session.revision} ${scenario}`;
  if (!scenario || of === known) return;
  const mine = (asking = new AbortController());
  const query = new URLSearchParams(Object.entries(session.place).filter(([, value]) => value));
  try {
    const { ok, data } = await ask(`/api/benches/${session.bench}/sure?${query}`, undefined, mine.signal);
    if (!ok || mine !== asking || data.revision !== session.revision) return;
    if (data.later) {
      timer = setTimeout(look, 3 * AFTER_MS); // room was made for something else
      return;
    }
    known = of;
    if (data.fragments) document.dispatchEvent(new CustomEvent("vt:beside", { detail: data }));
  } catch {
    // left for an edit; and of a server that is away the next edit tells
  }
}

function soon() {
  leave();
  timer = setTimeout(look, AFTER_MS);
}

export function listenSure() {
  document.addEventListener("vt:save", () => session.save.state !== "saved" && leave());
  document.addEventListener("vt:preview", leave);
  document.addEventListener("vt:view", soon);
  document.addEventListener("vt:counted", () => {
    known = ""; // more is known
    soon();
  });
  if (document.body.dataset.bench) soon();
}
