// What is done to the bench, as bars along the tops of the lanes: dragged to another instant, or longer by an end.
import { openDrawer } from "../fragments.js";
import { edit, hold, letGo, preview } from "../session.js";

const THICK = 5;
const REACH = 8; // of a lane's height, from its top, in which its bars are taken hold of
const END = 6;
const LEAST_US = 1000;

export class Doings {
  constructor(redraw) {
    this.redraw = redraw;
    this.take({});
  }

  take({ bars = [], adds = {}, add_path: path = "", expects = [] } = {}) {
    this.expects = expects;
    // What is being dragged stays where the hand has it.
    if (this.held) return;
    this.bars = bars.map((bar) => ({ ...bar }));
    this.adds = adds;
    this.path = path;
  }

  of(lane) {
    return this.bars.filter((bar) => bar.lane === lane);
  }

  // What is expected lies along the bottom of its lane: a line where it is met, a broken one where it is not.
  drawExpected(pen, lane, view, bottom, paint) {
    for (const one of this.expects) {
      if (one.lane !== lane) continue;
      const from = Math.max(view.x(one.at), 0);
      const to = Math.min(view.x(one.to), view.width);
      if (to < 0 || from > view.width) continue;
      pen.strokeStyle = one.met ? paint.clean : paint.must;
      pen.lineWidth = 3;
      pen.setLineDash(one.met ? [] : [4, 3]);
      pen.beginPath();
      pen.moveTo(from, bottom - 2.5);
      pen.lineTo(Math.max(to, from + 2), bottom - 2.5);
      pen.stroke();
      pen.setLineDash([]);
    }
  }

  draw(pen, lane, view, top, paint) {
    for (const bar of this.of(lane)) {
      const from = view.x(bar.at);
      const to = Math.max(view.x(bar.to), from + 3);
      if (to < 0 || from > view.width) continue;
      pen.fillStyle = bar === this.held?.bar ? paint.ink : paint.cursor;
      pen.fillRect(from, top + 1, to - from, THICK - 2);
      pen.fillRect(from - 1, top + 1, 3, THICK + 1);
      if (bar.end) pen.fillRect(to - 1, top + 1, 3, THICK + 1);
    }
  }

  // The bar under a point, and by what it is taken: "move" or "end".
  hit(lane, x, y, view) {
    if (y > REACH) return null;
    for (const bar of this.of(lane).reverse()) {
      const from = view.x(bar.at);
      const to = view.x(bar.to);
      if (bar.end && Math.abs(x - to) <= END && Math.abs(x - to) <= Math.abs(x - from)) return { bar, by: "end" };
      if (x >= from - END && x <= Math.max(to, from) + END) return { bar, by: "move" };
    }
    return null;
  }

  grab(found, us) {
    const { bar, by } = found;
    this.held = { bar, by, us, at: bar.at, to: bar.to, moved: false };
  }

  pull(us, length) {
    const { bar, by, at, to, us: from } = this.held;
    const moved = Math.round((us - from) / 1000) * 1000;
    if (Math.abs(us - from) > LEAST_US) this.held.moved = true;
    if (by === "end") bar.to = Math.max(to + moved, at + LEAST_US);
    else {
      bar.at = Math.min(Math.max(at + moved, 0), length - LEAST_US);
      bar.to = bar.at + (to - at);
    }
    this.redraw();
    if (!this.held.moved) return;
    hold();
    preview(this.patch());
  }

  patch() {
    const { bar, by } = this.held;
    if (by === "end") return [{ op: "replace", path: `${bar.path}/${bar.end}`, value: bar.to - bar.at }];
    return [{ op: "replace", path: `${bar.path}/at_us`, value: bar.at }];
  }

  // Let go: an edit where it was moved, else whatever is written about it.
  async drop() {
    const { bar, moved } = this.held;
    const patch = this.patch();
    this.held = null;
    if (moved) edit(patch, null);
    else {
      letGo();
      await openDrawer(document.getElementById("doings")); // in Try it stands open on the page
      document.querySelector(`[data-doing="${bar.path}"] input`)?.focus();
    }
  }

  back() {
    const { bar, at, to } = this.held;
    Object.assign(bar, { at, to });
    this.held = null;
    letGo();
    preview([]);
    this.redraw();
  }

  add(lane, us) {
    const stimulus = this.adds[lane];
    if (stimulus) edit([{ op: "add", path: this.path, value: { ...stimulus, at_us: Math.max(Math.round(us / 1000) * 1000, 0) } }], null);
  }
}
