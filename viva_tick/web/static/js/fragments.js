// What the server sent takes the place of what is shown, by the script library's morph: what is the same stays as it is,
// with the focus, the caret, the scroll and open panels in it.
import Alpine from "../vendor/alpine-csp.js";
import morph from "../vendor/alpine-morph.js";
import { go } from "./session.js";

Alpine.plugin(morph);

const sent = new WeakMap(); // what the server sent last, of a component that sets itself up from it
// Most edits are made with a drawer closed: it is brought up to date when it is opened, and the strip is drawn sooner.
const later = new WeakMap();
const missing = new WeakSet(); // drawers whose content was not sent, being closed
const typing = new WeakSet(); // fields with text that has not been handed in yet

// A component that reads its figures as it begins is replaced whole as soon as anything in it is another.
const key = (node) => (node.hasAttribute?.("data-whole") ? `whole ${sent.get(node) ?? node.outerHTML}` : node.id || undefined);

function remember(root) {
  if (root.nodeType !== Node.ELEMENT_NODE) return;
  for (const one of [root, ...root.querySelectorAll("[data-whole]")]) if (one.hasAttribute("data-whole")) sent.set(one, one.outerHTML);
}

const OPTIONS = {
  key,
  updating(now, next, _, skip) {
    if (now.nodeType !== Node.ELEMENT_NODE) return;
    if (now.hasAttribute("data-whole")) skip(); // its key says that it is the same
    else if (now.dataset.kept && now.dataset.kept === next.dataset.kept) skip(); // filled here, and it still holds
    else if (now.hasAttribute("data-drawer") && next.hasAttribute("data-drawer") && (!now.open || next.hasAttribute("data-later"))) {
      later.delete(now);
      missing.delete(now);
      if (next.hasAttribute("data-later")) missing.add(now);
      else later.set(now, next);
      now.firstElementChild.innerHTML = next.firstElementChild.innerHTML;
      skip();
      if (now.open) fill(now); // opened while the answer was on its way
    } else if (now.tagName === "DETAILS") {
      later.delete(now);
      next.toggleAttribute("open", now.open);
    }
  },
  added: remember,
};

// A field shows what holds, whatever was typed into it before; but not one that is being typed into.
function settle(place) {
  for (const field of place.querySelectorAll("input, textarea")) {
    if (field.type === "file" || typing.has(field)) continue;
    if (["checkbox", "radio"].includes(field.type)) field.checked = field.defaultChecked;
    else if (field.value !== field.defaultValue) field.value = field.defaultValue;
  }
  for (const option of place.querySelectorAll("option")) if (option.selected !== option.defaultSelected) option.selected = option.defaultSelected;
}

export function show(place, html) {
  const next = place.cloneNode(false);
  next.innerHTML = html;
  Alpine.morph(place, next, OPTIONS);
  settle(place);
}

async function fill(drawer) {
  if (!drawer.open) return;
  if (missing.has(drawer)) {
    missing.delete(drawer);
    drawer.lastElementChild.inert = true; // what stands there still is of before
    await go({}, false);
    if (drawer.lastElementChild.inert) missing.add(drawer);
    return;
  }
  const next = later.get(drawer);
  if (!next) return;
  later.delete(drawer);
  Alpine.morph(drawer, next, OPTIONS);
  settle(drawer);
}

export async function openDrawer(drawer) {
  if (!drawer) return;
  drawer.open = true;
  await fill(drawer);
}

export function listenTyping() {
  remember(document.body);
  document.addEventListener("toggle", ({ target }) => fill(target), true);
  document.addEventListener("input", ({ target }) => target.matches?.("input:not([type=checkbox], [type=radio]), textarea") && typing.add(target));
  for (const done of ["change", "focusout"]) document.addEventListener(done, ({ target }) => typing.delete(target), true);
}
