// The tray of parts: what is chosen in it is added to the bench.
import { Drawer } from "./drawer.js";

export function tray() {
  return {
    init() {
      const drawer = new Drawer(this.$root, "#tray-none");
      // Added, it is the part that matters: the drawer closes, and P opens it again.
      this.$root.addEventListener("click", (event) => {
        if (!event.target.closest("[data-patch]")) return;
        drawer.close();
        document.getElementById("editor").focus();
      });
    },
  };
}
