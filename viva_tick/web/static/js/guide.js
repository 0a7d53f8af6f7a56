// The help of a station, beside the work.
import { ask } from "./net.js";
import { session } from "./session.js";

const at = (id) => document.getElementById(id);
let asked = 0;

async function show(url) {
  const mine = ++asked;
  const answer = await ask(url).catch(() => null);
  if (mine !== asked) return;
  at("guide-body").innerHTML = answer?.ok ? answer.data.html : "";
  if (!answer?.ok) at("guide-body").textContent = "The help cannot be reached: the server is away.";
}

const station = () => show(`/help/station/${session.place.station}?piece=1&bench=${session.bench}&scenario=${encodeURIComponent(session.place.scenario ?? "")}`);

export function turnGuide(open = at("guide").hidden) {
  at("guide").hidden = !open;
  at("help").setAttribute("aria-expanded", String(open));
  if (!open) return at("help").focus();
  station();
  return at("guide-find").focus({ preventScroll: true });
}

export function listenGuide() {
  if (!at("guide")) return;
  at("guide").addEventListener("click", ({ target }) => {
    if (target.closest("#guide-close")) turnGuide(false);
    if (target.closest("#guide-keys")) at("help-dialog").showModal();
  });
  at("guide").addEventListener("keydown", (event) => event.key === "Escape" && turnGuide(false));
  at("guide-find").addEventListener("input", ({ target }) => {
    const text = target.value.trim();
    if (text) show(`/help/search?piece=1&q=${encodeURIComponent(text)}`);
    else station();
  });
  document.addEventListener("vt:view", () => {
    if (!at("guide").hidden && !at("guide-find").value) station();
  });
}
