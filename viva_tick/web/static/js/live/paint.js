// The panel as it is at an instant.
const EYE_US = 40_000; // what is shorter than that an eye takes for a glow
const WARMS_US = 8_000_000; // a heater is warm for that long, and takes as long to be

let sound = null;

export function say(sentence) {
  const line = document.getElementById("live-said");
  if (line) line.textContent = sentence;
}

// What stands there already is not written again: it would be laid out again.
function put(place, words) {
  if (place.textContent !== String(words)) place.textContent = words;
}

const clock = (us, fine) => {
  const seconds = us / 1e6;
  return `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(fine ? 6 : 3).padStart(fine ? 9 : 6, "0")}`;
};

const age = (us) => (us < 10e6 ? `${(us / 1e6).toFixed(1)} s` : `${Math.round(us / 1e6)} s`);

function thing(figure, player) {
  const { shape } = figure.dataset;
  const ids = figure.dataset.shows.split(" ").filter(Boolean);
  const say = figure.querySelector("[data-says]");
  if (shape === "text") {
    for (const line of figure.querySelectorAll("[data-line]")) put(line, player.value("text", line.dataset.line) || "\u00a0");
    put(say, "");
    return;
  }
  if (shape === "servo") {
    const angle = player.value("angle", ids[0]) ?? 0;
    figure.querySelector(".horn").style.transform = `rotate(${angle - 90}deg)`;
    put(say, `${angle}°`);
    return;
  }
  const over_us = shape === "heater" ? WARMS_US : EYE_US * Math.max(1, player.speed);
  const levels = ids.map((id) => player.glow(id, over_us));
  const most = Math.max(0, ...levels);
  const level = most.toFixed(2);
  if (figure.dataset.level !== level) {
    figure.dataset.level = level;
    figure.style.setProperty("--level", level);
  }
  if (shape === "rgb") figure.style.setProperty("--mixed", `rgb(${levels.map((one) => Math.round(255 * one)).join(" ")})`);
  figure.classList.toggle("is-on", most > 0.02);
  const pitch = player.value("pitch", ids[0]);
  const since = player.since("output", ids[0]);
  const on = player.value("output", ids[0]);
  const duty = player.value("duty", ids[0]);
  const word = on === -1 || on === undefined ? "floats" : on === 0 ? "off" : duty > 0 && duty < 100 ? `${duty} %` : "on";
  put(say, word === "floats" ? word : `${word}${on && pitch > 0 ? `, ${pitch} Hz` : ""} for ${age(player.now_us - since)}`);
}

// A relay clicks as it closes and as it opens.
function clicks(place, audible) {
  for (const relay of place.querySelectorAll(".panel-thing.is-relay")) {
    const now = String(relay.classList.contains("is-on"));
    const moved = relay.dataset.stood !== undefined && relay.dataset.stood !== now;
    relay.dataset.stood = now;
    if (!moved || !audible) continue;
    const { context } = speaker();
    const click = context.createOscillator();
    const gain = context.createGain();
    click.type = "triangle";
    click.frequency.value = now === "true" ? 1900 : 1300;
    gain.gain.setValueAtTime(0.12, context.currentTime);
    gain.gain.exponentialRampToValueAtTime(0.001, context.currentTime + 0.03);
    click.connect(gain).connect(context.destination);
    click.start();
    click.stop(context.currentTime + 0.04);
  }
}

function speaker() {
  if (!sound) {
    const context = new AudioContext();
    const tone = context.createOscillator();
    const gain = context.createGain();
    tone.type = "square";
    gain.gain.value = 0;
    tone.connect(gain).connect(context.destination);
    tone.start();
    sound = { context, tone, gain };
  }
  return sound;
}

// A tone while a sounder is on, if it is asked for.
function sounds(place, player) {
  const wanted = document.getElementById("live-sound")?.checked;
  clicks(place, wanted && player.playing);
  const on = wanted && player.playing && place.querySelector(".panel-thing.is-sounder.is-on");
  if (!on) {
    sound?.gain.gain.setTargetAtTime(0, sound.context.currentTime, 0.005);
    return;
  }
  speaker();
  const pitch = player.value("pitch", on.dataset.shows) || 2300;
  sound.tone.frequency.setValueAtTime(pitch, sound.context.currentTime);
  sound.gain.gain.setTargetAtTime(0.05, sound.context.currentTime, 0.005);
}

function log(list, player) {
  const upto = player.happened.filter((one) => one.at_us <= player.now_us);
  const mark = `${upto.length} ${upto.at(-1)?.at_us} ${upto.at(-1)?.words}`;
  if (list.dataset.mark === mark) return;
  list.dataset.mark = mark;
  list.replaceChildren(...upto.slice(-150).reverse().map(({ at_us, words, odd }) => {
    const row = document.createElement("li");
    const back = document.createElement("button");
    Object.assign(back, { type: "button", textContent: (at_us / 1e6).toFixed(3), title: "Go back to this instant" });
    back.dataset.back = at_us;
    const said = document.createElement("span");
    said.textContent = words;
    row.classList.toggle("is-odd", odd);
    row.append(back, said);
    return row;
  }));
}

// Buttons, dials and sliders stand as hands have left them, or as a scenario has.
function hands(place, player) {
  for (const one of place.querySelectorAll("[data-does=button], [data-does=switch], [data-does=key], [data-does=wire], [data-does=magnet]")) {
    const down = String(player.down(one.dataset.input, one.dataset.key));
    if (one.getAttribute("aria-pressed") !== down) one.setAttribute("aria-pressed", down);
  }
  for (const dial of place.querySelectorAll("[data-does=dial]")) {
    const turned = String(player.turned(dial.dataset.input));
    if (dial.getAttribute("aria-valuenow") === turned) continue;
    dial.setAttribute("aria-valuenow", turned);
    dial.querySelector(".horn").style.transform = `rotate(${(360 * turned) / Number(dial.dataset.clicks)}deg)`;
  }
  for (const bar of place.querySelectorAll("[data-does=slider]:not(:active):not(:focus)")) {
    const value = player.latest(bar.dataset.input)?.value ?? Number(bar.getAttribute("value"));
    if (Number(bar.value) === value) continue;
    bar.value = value;
    put(bar.nextElementSibling, `${Number(Number(value).toPrecision(4))} ${bar.dataset.unit}`);
  }
}

// How often a button counted; how a switch stands for the firmware.
function counts(place, player) {
  for (const one of place.querySelectorAll("[data-counts]")) {
    const many = player.counted(one.dataset.counts);
    put(one, many ? `counted ${many}` : "");
  }
}

function back(place, player) {
  for (const one of place.querySelectorAll("[data-fault-word][aria-pressed]")) {
    const on = String(player.faulty(one.dataset.faultWord));
    if (one.getAttribute("aria-pressed") !== on) one.setAttribute("aria-pressed", on);
  }
  const named = [...place.querySelectorAll("[data-fault-word][aria-pressed=true]")].map((one) => [one.closest("[data-thing]")?.dataset.name, one.textContent].filter(Boolean).join(": "));
  put(document.getElementById("live-faults"), named.length ? `Out of order now: ${named.join("; ")}. Mend it on the back.` : "");
}

export function paint(place, player) {
  for (const figure of place.querySelectorAll("[data-shows]")) thing(figure, player);
  for (const field of place.querySelectorAll("[data-state]")) {
    const state = player.value("state", field.dataset.state);
    put(field, player.data.states[field.dataset.state]?.[state] ?? "–");
    const waits = player.data.waits[field.dataset.state]?.[state];
    put(field.closest("li").querySelector("[data-waits-for]"), waits ? `next: ${waits}` : "");
    const tint = `tint-${player.data.tints[field.dataset.state]?.[state] ?? 0}`;
    if (field.className !== tint) field.className = tint;
    const since = player.since("state", field.dataset.state);
    put(field.nextElementSibling, since === undefined ? "" : age(player.now_us - since));
  }
  for (const field of place.querySelectorAll("[data-value]")) put(field, player.value("value", field.dataset.value) ?? "–");
  hands(place, player);
  back(place, player);
  counts(place, player);
  put(document.getElementById("live-clock"), clock(player.now_us, player.fine));
  const play = document.getElementById("live-play");
  play.setAttribute("aria-label", player.playing ? "Pause" : player.now_us ? "Go on" : "Begin");
  play.classList.toggle("is-playing", player.playing);
  const how = player.playing ? (player.late ? "slower than the clock" : "running, recording") : player.now_us ? "paused" : "not begun";
  put(document.getElementById("live-how"), how);
  log(document.getElementById("live-log"), player);
  sounds(place, player);
}
