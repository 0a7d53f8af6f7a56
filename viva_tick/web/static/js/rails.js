// The drawn circuit of a contact: its pull or the contact itself is dragged to the other rail.
import { edit } from "./session.js";

const NODE_Y = 90; // where the pin's wire runs, in the drawing's units

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
    },
    y(event, svg) {
      return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).y;
    },
    take(event, svg) {
      const grip = event.target.closest("[data-grip]");
      if (!grip) return;
      this.held = { grip, from: this.y(event, svg) };
      svg.setPointerCapture(event.pointerId);
      event.preventDefault();
    },
    move(event, svg) {
      if (!this.held) return;
      const by = Math.max(-75, Math.min(75, this.y(event, svg) - this.held.from));
      this.held.grip.setAttribute("transform", `translate(0 ${by})`);
    },
    back() {
      this.held?.grip.removeAttribute("transform");
      this.held = null;
    },
    drop(event, svg) {
      if (!this.held) return;
      const rail = this.y(event, svg) < NODE_Y ? "supply" : "ground";
      const what = this.held.grip.dataset.grip;
      this.back();
      const { at, pull, contact, pullsDown } = this.$root.dataset;
      if (what === "contact") return rail !== contact && edit([{ op: "replace", path: `${at}/wiring/contact_to`, value: rail }], this.$root);
      const inside = pull.startsWith("internal");
      const value = rail === "supply" ? (inside ? "internal-up" : "up") : inside && pullsDown ? "internal-down" : "down";
      const now = pull.endsWith("down") ? "ground" : "supply";
      return rail !== now && edit([{ op: "replace", path: `${at}/wiring/pull`, value }], this.$root);
    },
  };
}
