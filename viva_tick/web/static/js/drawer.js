// A drawer of drawn things: typing narrows it, the arrows move in it, the one that Enter takes is lit.
export class Drawer {
  constructor(root, none) {
    this.root = root;
    this.none = root.querySelector(none);
    this.field = root.querySelector("input[type=search]");
    root.addEventListener("focusin", (event) => event.target.closest(".tray-drawer, .tray-find") && this.open());
    root.addEventListener("pointerdown", (event) => event.target.closest(".tray-drawer, .tray-find") && this.open());
    root.addEventListener("focusout", ({ relatedTarget }) => !(root.contains(relatedTarget) && relatedTarget.closest(".tray-drawer, .tray-find")) && this.close());
    root.addEventListener("keydown", (event) => {
      if (event.key !== "Escape" || !this.isOpen) return;
      this.field.value = "";
      this.narrow();
      document.getElementById("editor").focus();
      this.close();
      event.stopPropagation();
    });
    this.field.addEventListener("input", () => this.narrow());
    this.field.addEventListener("keydown", (event) => {
      const [first] = this.shown();
      if (event.key === "Enter" && this.lit) this.lit.click();
      else if (event.key === "ArrowDown" && first) first.focus();
      else return;
      event.preventDefault();
    });
    root.addEventListener("keydown", (event) => this.step(event));
    this.narrow();
  }

  get isOpen() {
    return this.root.classList.contains("is-open");
  }

  open() {
    this.root.classList.add("is-open");
  }

  close() {
    this.root.classList.remove("is-open");
  }

  shown() {
    return [...this.root.querySelectorAll(".tray-part:not(.is-hidden)")];
  }

  // An exact name wins over one that begins so, and that over one that is found by what it does.
  narrow() {
    const text = this.field.value.trim().toLowerCase();
    const words = text.split(/\s+/).filter(Boolean);
    for (const part of this.root.querySelectorAll(".tray-part")) {
      const known = part.dataset.find.split(" ");
      part.classList.toggle("is-hidden", !words.every((word) => known.some((one) => one.startsWith(word))));
      part.classList.remove("is-lit");
    }
    for (const shelf of this.root.querySelectorAll(".tray-shelf")) {
      shelf.classList.toggle("is-hidden", !shelf.querySelector(".tray-part:not(.is-hidden)"));
    }
    const rank = ({ dataset: { name } }) => (name === text ? 0 : name.startsWith(text) ? 1 : 2);
    const can = this.shown().filter((part) => part.ariaDisabled !== "true");
    this.lit = text ? can.sort((a, b) => rank(a) - rank(b))[0] : null;
    this.lit?.classList.add("is-lit");
    this.none.classList.toggle("is-hidden", this.shown().length > 0);
  }

  // Left and right go along; up and down to the nearest above or below.
  step(event) {
    const parts = this.shown();
    const here = parts.indexOf(event.target);
    if (here < 0 || !event.key.startsWith("Arrow")) return;
    event.preventDefault();
    const along = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (along) return parts[(here + along + parts.length) % parts.length].focus();
    const from = event.target.getBoundingClientRect();
    const down = event.key === "ArrowDown";
    const far = ({ box }) => Math.abs(box.top - from.top) * 9 + Math.abs(box.left - from.left);
    const beyond = parts
      .map((part) => ({ part, box: part.getBoundingClientRect() }))
      .filter(({ box }) => (down ? box.top > from.top + 4 : box.top < from.top - 4))
      .sort((a, b) => far(a) - far(b));
    (beyond[0]?.part ?? (down ? event.target : this.field)).focus();
  }
}
