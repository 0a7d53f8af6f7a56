// The drawn circuit of a contact: pressed with a click or the space bar, its pull or the contact itself dragged to
// the other rail.
import { edit } from "./session.js";

const NODE_Y = 90; // where the pin's wire runs, in the drawing's units
const STILL = 4; // less than this is a press, not a drag

export function rails() {
  return {
    held: null,
    init() {
      for (const svg of this.$root.querySelectorAll("svg.circuit")) {
        svg.addEventListener("pointerdown", (event) => this.take(event, svg));
        svg.addEventListener("pointermove", (event) => this.move(event, svg));
        svg.addEventListener("pointerup", (event) => this.drop(event, svg));
        svg.addEventListener("pointercancel", () => this.back());
      }
      for (const contact of this.$root.querySelectorAll("[data-press]")) {
        contact.setAttribute("tabindex", "0");
        contact.setAttribute("role", "button");
        contact.setAttribute("aria-label", "The contact: hold the space bar to press it");
        contact.addEventListener("keydown", (event) => this.key(event, contact, true));
        contact.addEventListener("keyup", (event) => this.key(event, contact, false));
        contact.addEventListener("blur", () => this.show(contact, false));
      }
    },
    key(event, contact, down) {
      if (event.key !== " ") return;
      event.preventDefault();
      event.stopPropagation();
      this.show(contact, down);
    },
    // While it is pressed the figure shows its other state.
    show(contact, over) {
      contact.closest("figure").classList.toggle("is-over", over);
    },
    y(event, svg) {
      return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).y;
    },
    take(event, svg) {
      const grip = event.target.closest("[data-grip], [data-press]");
      if (!grip) return;
      this.held = { grip, from: this.y(event, svg), moved: false };
      if (grip.dataset.press !== undefined) this.show(grip, true);
      svg.setPointerCapture(event.pointerId);
      event.preventDefault();
    },
    move(event, svg) {
      if (!this.held) return;
      const by = Math.max(-75, Math.min(75, this.y(event, svg) - this.held.from));
      if (Math.abs(by) < STILL && !this.held.moved) return;
      this.held.moved = true;
      this.show(this.held.grip, false);
      if (this.held.grip.dataset.grip) this.held.grip.setAttribute("transform", `translate(0 ${by})`);
    },
    back() {
      this.held?.grip.removeAttribute("transform");
      if (this.held) this.show(this.held.grip, false);
      this.held = null;
    },
    drop(event, svg) {
      if (!this.held) return;
      const { grip, moved } = this.held;
      const rail = this.y(event, svg) < NODE_Y ? "supply" : "ground";
      const what = grip.dataset.grip;
      this.back();
      if (!moved || !what) return;
      const { at, pull, contact, pullsDown } = this.$root.dataset;
      if (what === "contact") return rail !== contact && edit([{ op: "replace", path: `${at}/wiring/contact_to`, value: rail }], this.$root);
      const inside = pull.startsWith("internal");
      const value = rail === "supply" ? (inside ? "internal-up" : "up") : inside && pullsDown ? "internal-down" : "down";
      const now = pull.endsWith("down") ? "ground" : "supply";
      return rail !== now && edit([{ op: "replace", path: `${at}/wiring/pull`, value }], this.$root);
    },
  };
}
