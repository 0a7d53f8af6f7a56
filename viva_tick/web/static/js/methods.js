// A method that the pointer or the focus rests on is tried in the strip, with the present one as the ghost.
import { preview } from "./session.js";

const REST_MS = 350; // passing over is not asking

export function methods() {
  return {
    timer: 0,
    trying: false,
    init() {
      for (const tile of this.$root.querySelectorAll(".method")) {
        if (tile.getAttribute("aria-checked") === "true") continue;
        tile.addEventListener("pointerenter", () => this.ask(tile));
        tile.addEventListener("pointerleave", () => this.leave());
        tile.addEventListener("focus", () => this.ask(tile));
        tile.addEventListener("blur", () => this.leave());
        tile.addEventListener("click", () => clearTimeout(this.timer));
      }
    },
    ask(tile) {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => {
        this.trying = true;
        preview(JSON.parse(tile.dataset.patch));
      }, REST_MS);
    },
    leave() {
      clearTimeout(this.timer);
      if (this.trying) preview([]);
      this.trying = false;
    },
  };
}
