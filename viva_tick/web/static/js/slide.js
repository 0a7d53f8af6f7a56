// A scale with handles: values of the document that are dragged along it, the strip following as previews come back.
import { edit, hold, letGo, preview } from "./session.js";

const nearest = (places, value) => {
  let near = 0;
  for (let n = 1; n < places.length; n += 1) if (Math.abs(places[n] - value) < Math.abs(places[near] - value)) near = n;
  return near;
};

// What is said under the chart while something is dragged: read off tables that came with it.
const SAY = {
  noise({ places, chatter, stands }, { below, above }, unit) {
    const upper = nearest(places, above);
    const times = chatter[upper][Math.min(nearest(places, below), upper)];
    return `Standing at ${Number(stands.toPrecision(4))} ${unit} it crosses ${times.toLocaleString("en")} times an hour; hysteresis ${Number((above - below).toPrecision(3))} ${unit}.`;
  },
  turns({ places, lost, backwards, errors, steps }, { turned }) {
    const near = nearest(places, turned);
    return `At ${turned} turns a second, of ${steps} steps: ${lost[near]} missed, ${backwards[near]} backwards, ${errors[near]} readings without sense.`;
  },
};

export function slide() {
  return {
    words: "",
    get caption() {
      return this.words;
    },
    init() {
      const data = this.$root.dataset;
      this.told = JSON.parse(data.told);
      this.words = this.$root.querySelector("figcaption").textContent;
      this.svg = this.$root.querySelector("svg");
      this.handles = [...this.$root.querySelectorAll(".now")];
      this.values = Object.fromEntries(this.handles.map((handle) => [this.name(handle), Number(handle.dataset.value)]));
      this.saved = { ...this.values };
      this.svg.addEventListener("pointerdown", (event) => this.press(event));
      this.svg.addEventListener("pointermove", (event) => this.held && this.follow(event));
      this.svg.addEventListener("pointerup", (event) => this.drop(event));
      this.svg.addEventListener("pointercancel", () => this.held && this.back());
      for (const handle of this.handles) handle.addEventListener("keydown", (event) => this.key(event, this.name(handle)));
    },
    name: (handle) => handle.id.replace("handle-", ""),
    number(name) {
      return Number(this.$root.dataset[name]);
    },
    at(event) {
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
      const share = (point.x - this.number("left")) / (this.number("right") - this.number("left"));
      return this.number("least") + share * (this.number("most") - this.number("least"));
    },
    press(event) {
      const handle = event.target.closest(".now");
      if (!handle) return;
      this.held = this.name(handle);
      this.from = event.clientX;
      // Of two that lie on each other the way decides which one is meant.
      this.either = this.values.below === this.values.above && "below" in this.values;
      this.svg.setPointerCapture(event.pointerId);
      handle.focus({ preventScroll: true });
      this.$root.classList.add("is-dragging");
      event.preventDefault();
    },
    follow(event) {
      if (this.either && Math.abs(event.clientX - this.from) < 3) return;
      if (this.either) this.held = event.clientX < this.from ? "below" : "above";
      this.either = false;
      this.set(this.held, this.at(event));
    },
    drop(event) {
      if (!this.held) return;
      this.follow(event);
      this.held = null;
      this.$root.classList.remove("is-dragging");
      this.commit();
    },
    back() {
      this.held = null;
      this.$root.classList.remove("is-dragging");
      clearTimeout(this.timer);
      this.values = { ...this.saved };
      this.show();
      letGo();
      preview([]);
    },
    key(event, name) {
      const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[event.key];
      if (event.key === "Escape") this.back();
      else if (step) {
        const by = step * (event.shiftKey ? 5 : 1) * this.number("grid");
        this.set(name, this.values[name] + by);
        clearTimeout(this.timer);
        this.timer = setTimeout(() => this.commit(), 300);
      } else return;
      event.stopPropagation();
      event.preventDefault();
    },
    set(name, value) {
      const bounded = Math.min(Math.max(value, this.number("least")), this.number("most"));
      const rounded = Number((Math.round(bounded / this.number("grid")) * this.number("grid")).toFixed(this.number("digits")));
      if (rounded === this.values[name]) return;
      this.values[name] = rounded;
      // The lower threshold is never over the upper one: the one that is dragged takes the other along.
      if (name === "above" && this.values.below > rounded) this.values.below = rounded;
      if (name === "below" && this.values.above < rounded) this.values.above = rounded;
      this.show();
      hold();
      preview(this.patch());
    },
    show() {
      const [left, right, least, most] = ["left", "right", "least", "most"].map((name) => this.number(name));
      const x = (value) => left + ((right - left) * Math.min(Math.max(value - least, 0), most - least)) / (most - least);
      for (const handle of this.handles) {
        const value = this.values[this.name(handle)];
        handle.setAttribute("transform", `translate(${x(value)} 0)`);
        handle.setAttribute("aria-valuenow", value);
        handle.setAttribute("aria-valuetext", `${value} ${this.$root.dataset.unit}`);
        handle.querySelector("text").textContent = `${handle.dataset.words} ${value}`;
      }
      const zone = this.$root.querySelector("[data-zone]");
      if (zone && "below" in this.values) {
        zone.setAttribute("x", x(this.values.below));
        zone.setAttribute("width", Math.max(x(this.values.above) - x(this.values.below), 1));
      }
      this.words = SAY[this.$root.dataset.kind](this.told, this.values, this.$root.dataset.unit);
    },
    patch() {
      const changed = this.handles.filter((handle) => this.values[this.name(handle)] !== this.saved[this.name(handle)]);
      return changed.map((handle) => ({ op: "replace", path: handle.dataset.path, value: this.values[this.name(handle)] }));
    },
    commit() {
      const patch = this.patch();
      if (!patch.length) return letGo();
      this.saved = { ...this.values };
      edit(patch, this.$root);
    },
  };
}
