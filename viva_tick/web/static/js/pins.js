// The pins of a board, drawn in their rows: an ability is chosen, and painted across the pins by dragging.
export function pins() {
  return {
    init() {
      const root = this.$root;
      const rows = root.querySelector(".board-pins");
      const brushes = [...root.querySelectorAll("[data-brush]")];
      let paints = null; // what a drag makes of each pin: has it, or has it not

      const box = (pin) => pin?.querySelector(`[data-ability="${rows.dataset.painting}"]`);
      const choose = (brush) => {
        rows.dataset.painting = brush.dataset.brush;
        for (const one of brushes) one.setAttribute("aria-checked", String(one === brush));
        for (const one of rows.querySelectorAll("[data-ability]")) one.classList.toggle("is-brush", one.dataset.ability === brush.dataset.brush);
        this.show(rows);
      };
      const paint = (pin) => {
        const one = box(pin);
        if (!one || one.disabled || one.matches(":disabled") || one.checked === paints) return;
        one.checked = paints;
        this.show(rows);
      };

      root.addEventListener("click", ({ target }) => target.closest("[data-brush]") && choose(target.closest("[data-brush]")));
      root.addEventListener("keydown", (event) => {
        const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
        const here = brushes.indexOf(event.target);
        if (!step || here < 0) return;
        event.preventDefault();
        const next = brushes[(here + step + brushes.length) % brushes.length];
        next.focus();
        choose(next);
      });
      rows.addEventListener("pointerdown", (event) => {
        const pin = event.target.closest("[data-pin-row]");
        if (!pin || event.target.matches("input")) return;
        event.preventDefault();
        paints = !box(pin)?.checked;
        paint(pin);
      });
      rows.addEventListener("pointermove", (event) => paints !== null && paint(document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-pin-row]")));
      for (const end of ["pointerup", "pointercancel"]) addEventListener(end, () => (paints = null));
      rows.addEventListener("change", () => this.show(rows));
      choose(brushes[0]);
    },
    // A pin that has what is painted is filled; what else it has stands below its name.
    show(rows) {
      for (const pin of rows.querySelectorAll("[data-pin-row]")) {
        const has = [...pin.querySelectorAll("[data-ability]")].filter((one) => one.checked);
        pin.classList.toggle("has-it", has.some((one) => one.dataset.ability === rows.dataset.painting));
        pin.querySelector(".pin-has").textContent = has.map((one) => one.dataset.short).join(" · ");
      }
    },
  };
}
