// What is chosen of a machine, how it is looked at, and which state's spans the strip lights.
import { open } from "./opened.js";
import { go, session } from "./session.js";

const light = (state) => document.dispatchEvent(new CustomEvent("vt:light", { detail: state }));
const lit = (target) => target?.closest?.("[data-light]")?.dataset.light ?? document.querySelector(".is-chosen[data-light]")?.dataset.light ?? null;

const LOOKS = ["grid", "map", "both"];

export const turnLook = () => go({ look: LOOKS[(LOOKS.indexOf(session.place.look) + 1) % LOOKS.length] });

async function choose(target) {
  const wanted = target.dataset.choose || null;
  // The same again closes what is open; so does its own button.
  await open(wanted === session.place.chosen ? null : wanted);
}

export function listenChoice() {
  document.addEventListener("click", (event) => {
    const look = event.target.closest?.("[data-look]");
    if (look) return go({ look: look.dataset.look });
    const target = event.target.closest?.("[data-choose]");
    if (target) choose(target);
  });
  document.addEventListener("keydown", (event) => {
    const target = event.target.closest?.("[data-choose]");
    if (!target || target.tagName === "BUTTON" || (event.key !== "Enter" && event.key !== " ")) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    choose(target);
  });
  for (const name of ["pointerover", "focusin"]) document.addEventListener(name, (event) => light(lit(event.target)));
  document.addEventListener("vt:view", () => setTimeout(() => light(lit(null))));
}
