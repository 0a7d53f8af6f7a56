// The one bench on the screen: its revision, where the person is, and the edits on their way, one after another.
import { ask, upload } from "./net.js";

export const session = {
  bench: 0,
  revision: 0,
  place: { station: "wire", picked: null, scenario: null, chosen: null, look: "grid", fault: null, number: null },
  save: { state: "saved", at: null, sentence: "" },
  pending: null,
  windows: () => [], // what of the strip is on the screen; the strip says
  sight: () => null, // the stretch of a long capture that is in sight
  liveWish: () => null, // and of what is played by hand
};

let chain = Promise.resolve();
let previewing = false;
let nextPreview = null;
let epoch = 0;

const url = (what) => `/api/benches/${session.bench}/${what}`;
// What is in a panel that is closed need not be sent.
const place = () => ({ ...session.place, closed: document.querySelector("#doings:not([open])") !== null });
const here = () => ({ ...place(), windows: session.windows() });
const tell = (name, detail) => document.dispatchEvent(new CustomEvent(name, { detail }));

function setSave(state, sentence = "") {
  session.save = { state, sentence, at: state === "saved" ? new Date() : session.save.at };
  tell("vt:save");
}

function take(view) {
  session.revision = view.revision;
  session.place = { station: view.station, picked: view.picked, scenario: view.scenario, chosen: view.chosen, look: view.look, fault: view.preview ? session.place.fault : view.fault, number: view.preview ? session.place.number : view.number, beside: view.preview ? session.place.beside : view.beside };
  tell("vt:view", view);
  if (view.said) tell("vt:said", view.said);
}

async function send(what, body, control) {
  epoch += 1;
  nextPreview = null;
  setSave("saving");
  let answer;
  try {
    const full = body instanceof FormData ? body : { ...body, base: session.revision, place: here() };
    if (body instanceof FormData) body.set("base", session.revision);
    answer = body instanceof FormData ? await upload(url(what), full, body.progress, body.started) : await ask(url(what), full);
  } catch {
    session.pending = { what, body, control };
    setSave("failed", "not saved: the server cannot be reached");
    tell("vt:refused", { error: "The server cannot be reached.", next: "Your last edit is kept here; try again when it is back." });
    return false;
  }
  session.pending = null;
  if (answer.ok) {
    setSave("saved");
    take(answer.data);
    return true;
  }
  if (answer.status === 409 && answer.data.conflict) {
    setSave("conflict", "not saved: changed elsewhere");
    tell("vt:conflict", { ...answer.data.conflict, what, body, control });
    return false;
  }
  if (answer.status === 409 && answer.data.unsure) {
    setSave("saved");
    tell("vt:unsure", { sentence: answer.data.unsure, what, body, control });
    return false;
  }
  if (answer.data.again) {
    session.pending = { what, body, control };
    setSave("failed", "not saved");
    tell("vt:refused", answer.data);
    return false;
  }
  setSave("refused", "edit refused");
  tell("vt:refused", { control, ...answer.data });
  return false;
}

// Edits wait for each other, so that each is made against the revision that the one before it left.
export function post(what, body, control = null) {
  chain = chain.then(() => send(what, body, control));
  return chain;
}

// `then` says where the person should be when the edit is made, where that differs from where they are.
export const edit = (patch, control, then = {}) => {
  if (!patch.length) return Promise.resolve(true);
  const moved = Object.entries(then).filter(([, value]) => value);
  session.place = { ...session.place, ...Object.fromEntries(moved) };
  return post("edit", { patch }, control);
};

export const retry = () => session.pending && post(session.pending.what, session.pending.body, session.pending.control);

// Something is being changed that is not an edit yet: a handle held, a key that may be followed by another.
export function hold() {
  if (session.save.state === "saved" || session.save.state === "refused") setSave("held");
}

export function letGo() {
  if (session.save.state !== "held") return;
  session.save = { ...session.save, state: "saved" };
  tell("vt:save");
}

// Previews are many and short-lived: one at a time, and only the latest of those that waited.
export async function preview(patch) {
  nextPreview = patch;
  if (previewing) return;
  previewing = true;
  while (nextPreview) {
    const body = { base: session.revision, patch: nextPreview, place: here(), preview: true };
    const mine = epoch;
    nextPreview = null;
    try {
      const answer = await ask(url("edit?preview"), body); // the address says that it can wait
      if (answer.ok && mine === epoch) tell("vt:preview", answer.data);
    } catch {
      break; // The edit that follows will say that the server is away.
    }
  }
  previewing = false;
}

export async function go(change, push = true, signal = undefined) {
  const there = { ...place(), ...change };
  if (change.scenario) there.number = null;
  const query = new URLSearchParams(Object.entries(there).filter(([, value]) => value));
  try {
    await chain;
    const answer = await ask(`${url("view")}?${query}`, undefined, signal);
    if (!answer.ok) return tell("vt:refused", { control: null, ...answer.data });
    take(answer.data);
  } catch (error) {
    if (error.name === "AbortError") return false; // as it was asked for
    return tell("vt:refused", { error: "The server cannot be reached.", next: "Start it again; what was saved is kept." });
  }
  if (push) {
    const { station, picked, scenario, look } = session.place;
    const shown = new URLSearchParams(Object.entries({ picked, scenario, look: look === "grid" ? null : look }).filter(([, value]) => value));
    history.pushState(session.place, "", `/benches/${session.bench}/${station}?${shown}`);
  }
}
