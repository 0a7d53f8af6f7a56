// Tasks over time: a job dragged begins at another time, its end dragged takes longer. The strip follows as previews
// come back.
import { edit, hold, letGo, preview } from "./session.js";
import { inWords } from "./times.js";

export function timeline() {
  return {
    init() {
      this.svg = this.$root.querySelector("svg");
      this.svg.addEventListener("pointerdown", (event) => this.press(event));
      this.svg.addEventListener("pointermove", (event) => this.held && this.follow(event));
      this.svg.addEventListener("pointerup", (event) => this.drop(event));
      this.svg.addEventListener("pointercancel", () => this.held && this.back());
      for (const job of this.$root.querySelectorAll(".job[tabindex]")) job.addEventListener("keydown", (event) => this.key(event, job));
    },
    scale() {
      const { left, right, span } = this.$root.dataset;
      return Number(span) / (Number(right) - Number(left));
    },
    at(event) {
      return new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse()).x * this.scale();
    },
    take(job) {
      const { path, offset, run, period } = job.dataset;
      return { job, path, offset: Number(offset), run: Number(run), period: Number(period), saved: { offset: Number(offset), run: Number(run) } };
    },
    press(event) {
      const job = event.target.closest(".job");
      if (!job?.dataset.path) return;
      this.held = this.take(job);
      this.grow = event.target.closest(".job-end") !== null;
      this.from = this.at(event);
      this.svg.setPointerCapture(event.pointerId);
      job.focus({ preventScroll: true });
      this.$root.classList.add("is-dragging");
      event.preventDefault();
    },
    follow(event) {
      const by = this.at(event) - this.from;
      const { saved, period } = this.held;
      if (this.grow) this.set(saved.offset, saved.run + Math.round(by * 10) * 100);
      else this.set(Math.min(Math.max(Math.round(saved.offset + by), 0), period), saved.run);
    },
    set(offset, run) {
      const held = this.held;
      const kept = { offset: Math.max(offset, 0), run: Math.min(Math.max(run, 0), held.period * 1000) };
      if (kept.offset === held.offset && kept.run === held.run) return;
      Object.assign(held, kept);
      this.show();
      hold();
      preview(this.patch());
    },
    // All jobs of the row move together; the width shows the work.
    show() {
      const { job, offset, run, saved, path } = this.held;
      const dx = (offset - saved.offset) / this.scale();
      for (const box of this.$root.querySelectorAll(`.job[data-path="${path}"]`)) {
        box.setAttribute("transform", `translate(${dx} 0)`);
        const width = Math.max(run / 1000 / this.scale(), 4);
        box.querySelector(".job-box").setAttribute("width", width);
        box.querySelector(".job-end").setAttribute("x", Number(box.querySelector(".job-box").getAttribute("x")) + width - 4);
      }
      const words = `begins at ${inWords(offset * 1000)}, takes ${inWords(run)}`;
      this.$root.querySelector("figcaption").textContent = `${job.dataset.name} ${words}.`;
      job.setAttribute("aria-valuetext", words);
      job.setAttribute("aria-valuenow", offset);
    },
    patch() {
      const { path, offset, run, saved } = this.held;
      const patch = [];
      if (offset !== saved.offset) patch.push({ op: "add", path: `${path}/offset_us`, value: offset * 1000 });
      if (run !== saved.run) patch.push({ op: "replace", path: `${path}/run_us`, value: run });
      return patch;
    },
    drop() {
      if (!this.held) return;
      this.$root.classList.remove("is-dragging");
      this.commit();
    },
    commit() {
      const patch = this.held ? this.patch() : [];
      const control = this.held?.job;
      this.held = null;
      if (!patch.length) return letGo();
      edit(patch, control);
    },
    back() {
      const { saved } = this.held;
      Object.assign(this.held, saved);
      this.show();
      this.held = null;
      this.$root.classList.remove("is-dragging");
      clearTimeout(this.timer);
      letGo();
      preview([]);
    },
    key(event, job) {
      const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      const more = { "+": 1, "-": -1, "−": -1 }[event.key];
      if (event.key === "Escape" && this.held) this.back();
      else if (step || more) {
        this.held ??= this.take(job);
        if (step) this.set(Math.min(Math.max(this.held.offset + step * (event.shiftKey ? 10 : 1), 0), this.held.period), this.held.run);
        else this.set(this.held.offset, this.held.run + more * 500);
        clearTimeout(this.timer);
        this.timer = setTimeout(() => this.commit(), 350);
      } else return;
      event.preventDefault();
      event.stopPropagation();
    },
  };
}
