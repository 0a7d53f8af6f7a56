// The tray: typing narrows it, the arrows move in it, Enter puts the part down.
export function tray() {
  return {
    init() {
      const field = this.$root.querySelector("input");
      const open = (yes) => this.$root.classList.toggle("is-open", yes);
      this.$root.addEventListener("focusin", () => open(true));
      this.$root.addEventListener("pointerdown", () => open(true));
      // Put down, it is the part that matters: the drawer closes, and P opens it again.
      this.$root.addEventListener("click", (event) => event.target.closest("[data-patch]") && document.getElementById("editor").focus());
      this.$root.addEventListener("focusout", (event) => open(this.$root.contains(event.relatedTarget)));
      this.$root.addEventListener("keydown", (event) => {
        if (event.key !== "Escape") return;
        this.narrow((field.value = ""));
        document.getElementById("editor").focus();
        open(false);
      });
      field.addEventListener("input", () => this.narrow(field.value));
      field.addEventListener("keydown", (event) => {
        const first = this.shown()[0];
        if (event.key === "Enter" && first) first.click();
        else if (event.key === "ArrowDown" && first) first.focus();
        else return;
        event.preventDefault();
      });
      this.$root.addEventListener("keydown", (event) => this.step(event, field));
    },
    shown() {
      return [...this.$root.querySelectorAll(".tray-part:not(.is-hidden)")];
    },
    narrow(text) {
      const words = text.toLowerCase().split(/\s+/).filter(Boolean);
      for (const part of this.$root.querySelectorAll(".tray-part")) {
        const fits = words.every((word) => part.dataset.find.split(" ").some((known) => known.startsWith(word)));
        part.classList.toggle("is-hidden", !fits);
      }
      for (const shelf of this.$root.querySelectorAll(".tray-shelf")) {
        shelf.classList.toggle("is-hidden", !shelf.querySelector(".tray-part:not(.is-hidden)"));
      }
      this.$root.querySelector("#tray-none").classList.toggle("is-hidden", this.shown().length > 0);
    },
    // Left and right go along; up and down to the nearest part above or below.
    step(event, field) {
      const parts = this.shown();
      const here = parts.indexOf(event.target);
      if (here < 0 || !event.key.startsWith("Arrow")) return;
      event.preventDefault();
      const along = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (along) return parts[(here + along + parts.length) % parts.length].focus();
      const from = event.target.getBoundingClientRect();
      const down = event.key === "ArrowDown";
      const beyond = parts
        .map((part) => ({ part, box: part.getBoundingClientRect() }))
        .filter(({ box }) => (down ? box.top > from.top + 4 : box.top < from.top - 4))
        .sort((a, b) => Math.abs(a.box.top - from.top) * 9 + Math.abs(a.box.left - from.left) - (Math.abs(b.box.top - from.top) * 9 + Math.abs(b.box.left - from.left)));
      (beyond[0]?.part ?? (down ? event.target : field)).focus();
    },
  };
}
