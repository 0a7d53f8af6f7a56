// The panel: hands on it become actions with their instants; the server runs them and answers what comes of it, a
// little further than now. Nothing is decided here: this shows what the answer says of the instant that it is.
import { ask } from "./net.js";
import { edit, session } from "./session.js";
import { Player } from "./live/player.js";
import { place, again, arrange, arranging, arrow, listenArrange } from "./live/arrange.js";
import { listenHand } from "./live/hand.js";
import { paint, say } from "./live/paint.js";

let player = null;
let looksLater = null;

const desk = () => document.getElementById("try-desk");

function mine() {
  const place = desk();
  if (!place) return null;
  if (!player || player.bench !== session.bench || player.revision !== session.revision) {
    player?.stop();
    player = new Player(session.bench, session.revision, JSON.parse(place.dataset.live));
    player.told = (sentence) => say(sentence);
    player.answered = () => desk() && paint(desk(), player); // at once, not with the next frame
    player.drawn = (window) => requestAnimationFrame(() => setTimeout(() => grows(window))); // after the lamps
    say("");
  }
  return player;
}

// One look at a time: the next with the next frame, as long as it is played.
let looking = 0;

function look() {
  looking ||= requestAnimationFrame(frame);
}

function frame() {
  looking = 0;
  const place = desk();
  if (!place || !player) return;
  player.tick();
  paint(place, player);
  if (player.playing && player.asked === undefined && performance.now() - grown > GROWS_MS) grows();
  if (player.playing) look();
}

const GROWS_MS = 80; // the strip is drawn anew so often while it grows: a press must not wait for it
let grown = 0;

function grows(window) {
  grown = performance.now();
  if (player) document.dispatchEvent(new CustomEvent("vt:live", { detail: { now_us: player.now_us, window, playing: player.playing } }));
}

function act(action, lettingGo = false) {
  const one = mine();
  if (!one) return null;
  if (!one.playing) begin();
  const made = one.do(action, lettingGo);
  look();
  return made;
}

function begin() {
  const one = mine();
  one.play();
  look();
}

function pause() {
  player?.pause();
  look();
}

// What is held: contacts, keys of a pad, a hand at a wire. By the pointer or the key that holds it.
const held = new Map();

function press(button, by, stuck) {
  const { does, input, key } = button.dataset;
  const down = button.getAttribute("aria-pressed") === "true";
  if (does === "switch" || does === "magnet" || (does === "button" && (stuck || (down && ![...held.values()].some((one) => one.control === button))))) {
    return act({ kind: "set", input, pressed: !down });
  }
  if ([...held.values()].some((one) => one.control === button)) return null;
  if (does === "button") {
    held.set(by, { control: button, release: () => act({ kind: "set", input, pressed: false }, true) });
    return act({ kind: "set", input, pressed: true });
  }
  // How long it is held is known when it is let go: until then it is held for long.
  const made = act({ kind: does === "key" ? "key" : "touch", input, hold_us: 60_000_000, ...(does === "key" ? { key } : {}) });
  held.set(by, { control: button, release: () => player?.letGo(made) });
  return made;
}

function release(by) {
  const one = held.get(by);
  if (!one) return;
  held.delete(by);
  one.release();
  look();
}

function turn(input, clicks) {
  act({ kind: "turn", input, clicks, over_us: 30_000 });
}

// A slider tells far more often than a hand moves it: so often is enough.
const SLIDE_MS = 40;
const slid = new Map();

function slide() {
  for (const [input, value] of slid) act({ kind: "level", input, value, over_us: 0 });
  slid.clear();
}

// Back to an instant: the panel as it was then, and the strip there.
function goBack(at_us) {
  mine().back(at_us);
  look();
  document.dispatchEvent(new CustomEvent("vt:show", { detail: { at: at_us } }));
}

// A dial is turned by dragging around its middle: each detent that is passed is a click.
function twist(dial, event) {
  const box = dial.getBoundingClientRect();
  const angle = ({ clientX, clientY }) => Math.atan2(clientY - box.y - box.height / 2, clientX - box.x - box.width / 2);
  const detent = (2 * Math.PI) / Number(dial.dataset.clicks);
  let last = angle(event);
  let turned = 0;
  const pull = (next) => {
    const step = angle(next) - last;
    turned += step > Math.PI ? step - 2 * Math.PI : step < -Math.PI ? step + 2 * Math.PI : step;
    last = angle(next);
    const clicks = Math.trunc(turned / detent);
    if (!clicks) return;
    turned -= clicks * detent;
    turn(dial.dataset.input, clicks);
  };
  const drop = () => {
    dial.removeEventListener("pointermove", pull);
    for (const end of ["pointerup", "pointercancel"]) dial.removeEventListener(end, drop);
  };
  dial.addEventListener("pointermove", pull);
  for (const end of ["pointerup", "pointercancel"]) dial.addEventListener(end, drop);
}

// A magnet goes where the pointer drags it; near the middle of its track it is at the contact.
const NEAR = 0.22; // of the track

function drag(button, event) {
  const track = button.getBoundingClientRect();
  const grabbed = event.clientX;
  let moved = false;
  const pull = (next) => {
    moved ||= Math.abs(next.clientX - grabbed) > 3;
    if (!moved) return;
    const at = Math.min(Math.max((next.clientX - track.left) / track.width, 0.06), 0.94);
    button.querySelector(".magnet").style.left = `${100 * at}%`;
    const near = Math.abs(at - 0.5) < NEAR;
    if (near !== (button.getAttribute("aria-pressed") === "true")) act({ kind: "set", input: button.dataset.input, pressed: near });
  };
  const drop = () => {
    button.removeEventListener("pointermove", pull);
    for (const end of ["pointerup", "pointercancel"]) button.removeEventListener(end, drop);
    if (!moved) press(button, "", false);
    button.querySelector(".magnet").style.left = "";
  };
  button.addEventListener("pointermove", pull);
  for (const end of ["pointerup", "pointercancel"]) button.addEventListener(end, drop);
}

// A command that is typed: its name, or a number.
function typed(field) {
  const text = field.value.trim();
  const found = JSON.parse(field.dataset.said).find(([name]) => name.toLowerCase() === text.toLowerCase());
  const number = found ? found[1] : /^\d{1,5}$/.test(text) ? Number(text) : null;
  if (number === null) return say(`“${text}” is no command of this bench, and no number.`);
  act({ kind: "command", input: field.dataset.saysTo, number });
  field.value = "";
}

async function keep(expect) {
  const one = mine();
  if (!one?.actions.length) return say("Nothing was done yet: press something first.");
  pause();
  const faults = one.faults.length > 0;
  const answer = await ask(`/api/benches/${one.bench}/live`, one.body({ keep: true, expect }));
  if (!answer.ok) return say([answer.data.error, answer.data.next].filter(Boolean).join(" "));
  const kept = await edit(answer.data.patch, null, { scenario: answer.data.name });
  if (kept && faults) say("What was done is kept without its faults: Guard tries faults on every scenario.");
  return kept;
}

function pressed(event) {
  const button = event.target.closest?.("#try-desk [data-does]");
  if (!button || event.button > 0) return;
  const { does } = button.dataset;
  if (arranging()) return;
  if (does === "dial") {
    if (event.isTrusted) button.setPointerCapture(event.pointerId);
    return twist(button, event);
  }
  if (does === "magnet") {
    if (event.isTrusted) button.setPointerCapture(event.pointerId);
    return drag(button, event);
  }
  if (does === "button" || does === "switch" || does === "key" || does === "wire") {
    if (event.isTrusted) button.setPointerCapture(event.pointerId); // let go beside it, it is let go
    press(button, `pointer ${event.pointerId}`, event.shiftKey);
  }
}

function clicked(event) {
  if (!event.target.closest?.("#try-desk")) return;
  const at = (css) => event.target.closest(css);
  const button = at("[data-turn], [data-does=word], [data-speed], [data-upset], [data-back], [data-fault-word]");
  if (at("#live-play")) return player?.playing ? pause() : begin();
  if (at("#live-next")) return mine().next(), look();
  if (at("#live-pass")) return mine().pass();
  if (at("#live-anew")) return anew();
  if (at("#live-back")) return turnRound(!behind);
  if (at("#live-replay")) return replay(JSON.parse(at("#live-replay").dataset.stimuli), Number(at("#live-replay").dataset.seed));
  if (at("#live-phone")) return onPhone();
  if (at("#live-fill")) return fill(!document.body.classList.contains("is-panel"));
  if (at("#live-keep, #live-expect")) return keep(Boolean(at("#live-expect")));
  if (!button) return;
  const { turn: clicks, input, number, speed, upset, back, faultWord } = button.dataset;
  if (clicks) turn(input, Number(clicks));
  else if (number !== undefined) act({ kind: "command", input, number: Number(number) });
  else if (faultWord) act({ fault: faultWord, passes: button.dataset.passing !== undefined });
  else if (upset) act({ upset: true, kind: upset, for_us: 100_000 });
  else if (back) goBack(Number(back));
  else if (speed) {
    mine().pace(Number(speed));
    for (const one of desk().querySelectorAll("[data-speed]")) one.setAttribute("aria-pressed", String(button === one));
  }
}

// The back of the panel: its wires, its contacts, its board.
let behind = false;

function turnRound(back) {
  behind = back;
  desk().classList.toggle("is-back", back);
  const button = document.getElementById("live-back");
  button?.setAttribute("aria-pressed", String(back));
  if (button) button.textContent = back ? "The front" : "The back";
  place();
}

function anew() {
  player?.stop();
  player = null;
  mine();
  look();
}

// The panel alone, over all of the page: for a phone beside the bench.
function fill(alone) {
  document.body.classList.toggle("is-panel", alone);
  const button = document.getElementById("live-fill");
  button?.setAttribute("aria-pressed", String(alone));
  if (button) button.textContent = alone ? "Back to the bench" : "Panel alone";
  place();
}

async function onPhone() {
  const answer = await ask(`/api/benches/${session.bench}/phone`).catch(() => null);
  document.getElementById("phone-said").innerHTML = answer?.ok ? answer.data.html : "";
  if (answer?.ok) document.getElementById("phone-dialog").showModal();
  else say("The server cannot be reached.");
}

// A scenario on the panel: its actions come as laid out, and hands may step in.
function replay(stimuli, seed, from_us = 0) {
  anew();
  const one = mine();
  one.script(stimuli, seed);
  one.now_us = from_us;
  begin();
}

function keyed(event) {
  if (arrow(event)) return;
  if (event.key === "Escape") fill(false);
  if (event.key === "Enter" && event.target.matches?.("[data-says-to]")) return typed(event.target);
  if (!desk() || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
  const field = event.target.closest?.("input, textarea, select, [contenteditable]");
  const dial = event.target.closest?.(".dial");
  if (dial && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
    event.preventDefault();
    return turn(dial.dataset.input, event.key === "ArrowRight" ? 1 : -1);
  }
  const own = event.target.closest?.("#try-desk [data-does=button], #try-desk [data-does=switch], #try-desk [data-does=key], #try-desk [data-does=wire], #try-desk [data-does=magnet]");
  if (own && (event.key === " " || event.key === "Enter")) {
    event.preventDefault();
    return press(own, `key ${event.key}`, event.shiftKey);
  }
  const hot = !field && /^[a-z]$/i.test(event.key) && desk().querySelector(`[data-hot="${event.key.toLowerCase()}"]`);
  if (!hot || hot.closest("[inert]")) return;
  event.preventDefault();
  press(hot, `key ${event.code}`, event.shiftKey);
}

export function listenLive() {
  document.addEventListener("pointerdown", pressed);
  for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, (event) => release(`pointer ${event.pointerId}`));
  document.addEventListener("click", clicked);
  document.addEventListener("keydown", keyed, true);
  document.addEventListener("keyup", (event) => {
    release(`key ${event.key}`);
    release(`key ${event.code}`);
  });
  window.addEventListener("blur", () => [...held.keys()].forEach(release));
  document.addEventListener("input", ({ target }) => {
    if (!target.matches?.("#try-desk [data-does=slider]")) return;
    target.nextElementSibling.textContent = `${Number(Number(target.value).toPrecision(4))} ${target.dataset.unit}`;
    slid.set(target.dataset.input, Number(target.value));
    if (slid.size === 1) setTimeout(slide, SLIDE_MS);
  });
  document.addEventListener("vt:live-looks", ({ detail }) => {
    clearTimeout(looksLater);
    if (player && !player.playing && player.now_us > 0) looksLater = setTimeout(() => player.look(detail), 150);
  });
  document.addEventListener("wheel", (event) => {
    const dial = event.target.closest?.("#try-desk .dial");
    if (!dial) return;
    event.preventDefault();
    turn(dial.dataset.input, event.deltaY > 0 ? -1 : 1);
  }, { passive: false });
  document.addEventListener("vt:view", ({ detail }) => queueMicrotask(() => {
    if (!desk()) {
      player?.pause();
      arrange(false);
      behind = false;
      fill(false);
    }
    else {
      // Where nothing is another that is played (the panel was arranged, a scenario kept), what is played goes on.
      if (player && player.revision !== session.revision) {
        if (detail.same_run || arranging()) player.revision = session.revision;
        else anew();
      }
      again();
      turnRound(behind);
      look(); // what was drawn here is drawn anew
    }
  }));
  listenArrange();
  listenHand(replay, say);
  if (desk() && new URLSearchParams(location.search).has("alone")) fill(true);
  again();
}

