// The interval on its chart: the handle follows the pointer at once, the strip as fast as previews come back.
import { edit, hold, letGo, preview } from "./session.js";
import { inWords } from "./times.js";

export function interval() {
  return {
    value: 0,
    dragging: false,
    words: "",
    get caption() {
      return this.words;
    },
    init() {
      const data = this.$root.dataset;
      this.sweep = JSON.parse(data.sweep);
      this.value = Number(data.now);
      this.saved = this.value;
      this.words = this.$root.querySelector("figcaption").textContent;
      const svg = this.$root.querySelector("svg");
      svg.addEventListener("pointerdown", (event) => this.press(event, svg));
      svg.addEventListener("pointermove", (event) => this.dragging && this.follow(event, svg));
      svg.addEventListener("pointerup", (event) => this.drop(event, svg));
      svg.addEventListener("pointercancel", () => this.dragging && this.back());
      this.$root.querySelector("[role=slider]").addEventListener("keydown", (event) => this.key(event));
    },
    at(event, svg) {
      const { left, right, most } = this.$root.dataset;
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
      const share = (point.x - Number(left)) / (Number(right) - Number(left));
      return Math.min(Math.max(Math.round(share * Number(most)), 0), Number(most));
    },
    press(event, svg) {
      // The advised handle taken hold of is the interval set there; it can be dragged on from where it is.
      const advised = event.target.closest("[data-take]") && this.$root.dataset.advised;
      if (!advised && !event.target.closest(".now")) return;
      if (advised) this.set(Number(advised));
      this.moved = !advised;
      this.grabbed = event.clientX;
      this.dragging = true;
      svg.setPointerCapture(event.pointerId);
      this.$root.classList.add("is-dragging");
      event.preventDefault();
    },
    follow(event, svg) {
      this.moved ||= Math.abs(event.clientX - this.grabbed) > 3;
      if (!this.moved) return;
      const value = this.at(event, svg);
      if (value !== this.value) this.set(value);
    },
    drop(event, svg) {
      if (!this.dragging) return;
      this.follow(event, svg);
      this.dragging = false;
      this.$root.classList.remove("is-dragging");
      this.commit();
    },
    back() {
      this.dragging = false;
      this.$root.classList.remove("is-dragging");
      clearTimeout(this.timer);
      this.set(this.saved);
      letGo();
    },
    take() {
      const advised = this.$root.dataset.advised;
      if (advised) {
        this.set(Number(advised));
        this.commit();
      }
    },
    key(event) {
      const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[event.key];
      if (event.key === "Home") this.take();
      else if (event.key === "Escape") this.back();
      else if (step) {
        const by = step * (event.shiftKey && Math.abs(step) === 1 ? 5 : 1);
        this.set(Math.min(Math.max(this.value + by, 0), Number(this.$root.dataset.limit)));
        clearTimeout(this.timer);
        this.timer = setTimeout(() => this.commit(), 250);
      } else return;
      event.preventDefault();
    },
    patch() {
      const { path, op, method, sample } = this.$root.dataset;
      if (!method) return [{ op: "replace", path, value: this.value * 1000 }];
      return [{ op, path, value: { method, interval_us: this.value * 1000, sample_us: Number(sample) } }];
    },
    set(value) {
      this.value = value;
      const { left, right, most } = this.$root.dataset;
      const x = Number(left) + ((Number(right) - Number(left)) * Math.min(value, Number(most))) / Number(most);
      const now = this.$root.querySelector(".now");
      now.setAttribute("transform", `translate(${x} 0)`);
      now.querySelector(".now-text").textContent = `now ${inWords(value * 1000)}`;
      const slider = this.$root.querySelector("[role=slider]");
      slider.setAttribute("aria-valuenow", value);
      slider.setAttribute("aria-valuetext", inWords(value * 1000));
      this.words = this.say(value);
      hold();
      preview(this.patch());
    },
    say(value) {
      const { interval_ms: ms, doubled, missed, wait_us: wait, presses } = this.sweep;
      let near = 0;
      for (let n = 1; n < ms.length; n += 1) if (Math.abs(ms[n] - value) < Math.abs(ms[near] - value)) near = n;
      const waited = wait[near][0] < 0 ? "no press accepted" : `typical wait ${inWords(wait[near][0])}, worst ${inWords(wait[near][2])}`;
      return `At ${inWords(ms[near] * 1000)}, of ${presses.toLocaleString("en")} presses: ${doubled[near]} extra, ${missed[near]} missed, ${waited}.`;
    },
    commit() {
      if (this.value === this.saved) return letGo();
      this.saved = this.value;
      edit(this.patch(), this.$root.querySelector("[role=slider]"));
    },
  };
}
