// The strip: draws what the server computed, and moves over it by wheel, drag and keys.
import { ask } from "../net.js";
import { session } from "../session.js";
import { paper, scale, span } from "./axis.js";
import { colours, forgetColours } from "./colours.js";
import { LANES, ghost } from "./draw.js";
import { Windows } from "./windows.js";

const LANE = 34;
const CLOSEST_US = 200;
const NEAR_PX = 6;

// Whether a lane shows the same in both runs, so that a ghost of it would say nothing.
function alike(a, b) {
  return Boolean(a?.t) && a.t.length === b.t.length && a.t.every((at, n) => at === b.t[n] && a.v[n] === b.v[n]);
}

export function strip() {
  // What is drawn is kept out of Alpine's reach: it changes at every frame and no template looks at it.
  let shown = null;
  let from = 0;
  let to = 1;
  let pointer = null;
  let stood = null;
  let frame = 0;
  let callipers = { a: null, b: null };
  let drag = null;
  let parts = {};
  const windows = new Windows(() => redraw());

  const width = () => parts.lanes.clientWidth;
  const x = (us) => ((us - from) / (to - from)) * width();
  const us = (px) => from + (px / width()) * (to - from);

  function redraw() {
    if (!frame) frame = requestAnimationFrame(paintAll);
  }

  function fitCanvas(canvas, w, h) {
    const ratio = devicePixelRatio || 1;
    if (canvas.width !== Math.round(w * ratio) || canvas.height !== Math.round(h * ratio)) {
      canvas.width = Math.round(w * ratio);
      canvas.height = Math.round(h * ratio);
    }
    const pen = canvas.getContext("2d");
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, w, h);
    return pen;
  }

  function lanes() {
    return shown ? shown.lanes.filter((lane) => component.levels || !lane.extra) : [];
  }

  function paintAll() {
    frame = 0;
    if (!shown) return;
    const paint = colours();
    const w = width();
    const rows = lanes();
    const height = Math.max(rows.length * LANE, parts.scroll.clientHeight);
    parts.lanes.parentElement.style.setProperty("--lanes-height", `${height}px`);
    const view = { x, width: w, from, to, end: shown.length_us };
    const pen = fitCanvas(parts.lanes, w, height);
    paper(pen, view, height, paint);
    const data = windows.best(shown.key, from, to);
    const before = component.ghost ? windows.best(shown.ghost, from, to) : null;
    const seen = [parts.scroll.scrollTop / LANE - 1, (parts.scroll.scrollTop + parts.scroll.clientHeight) / LANE];
    rows.forEach((lane, row) => {
      if (row < seen[0] || row > seen[1]) return;
      const box = { top: row * LANE, height: LANE };
      pen.fillStyle = paint["line-strong"];
      pen.fillRect(0, box.top + LANE - 1, w, 1);
      const mine = data?.lanes[lane.id];
      if (before && mine && !alike(before.lanes[lane.id], mine)) ghost(pen, lane.kind, before.lanes[lane.id], view, box, paint);
      if (mine) LANES[lane.kind](pen, mine, view, box, paint, { states: shown.states[lane.of], timeout_us: shown.timeout_us });
    });
    drawCallipers(pen, height, paint);
    const axis = fitCanvas(parts.axis, w, 26);
    scale(axis, view, 26, paint);
    drawFlags(axis, paint);
    // `painted` tells tests and the benchmark which run is on the screen.
    if (data) parts.root.dataset.painted = shown.key;
  }

  function drawCallipers(pen, height, paint) {
    const rule = (at, colour, dash) => {
      pen.strokeStyle = colour;
      pen.setLineDash(dash);
      pen.lineWidth = 1;
      pen.beginPath();
      pen.moveTo(Math.round(x(at)) + 0.5, 0);
      pen.lineTo(Math.round(x(at)) + 0.5, height);
      pen.stroke();
      pen.setLineDash([]);
    };
    if (pointer !== null && !drag) rule(pointer, paint.cursor, [2, 3]);
    for (const at of Object.values(callipers)) if (at !== null) rule(at, paint.ink, []);
  }

  function drawFlags(pen, paint) {
    pen.font = "600 10.5px 'Spline Sans Variable', sans-serif";
    for (const [name, at] of Object.entries(callipers)) {
      if (at === null) continue;
      const px = x(at);
      pen.fillStyle = paint.ink;
      pen.fillRect(px - 7, 11, 14, 15);
      pen.fillStyle = paint.paper;
      pen.fillText(name.toUpperCase(), px - 3.5, 22);
    }
  }

  function move(newFrom, newTo) {
    const length = shown?.length_us ?? 1;
    const size = Math.min(Math.max(newTo - newFrom, CLOSEST_US), length);
    from = Math.min(Math.max(newFrom, 0), length - size);
    to = from + size;
    wish();
    redraw();
  }

  function wish() {
    if (!shown?.key) return;
    const names = lanes().map((lane) => lane.id);
    windows.want([shown.key, component.ghost ? shown.ghost : null], names, from, to, width(), shown.length_us);
  }

  function zoom(factor, at = (from + to) / 2) {
    const size = Math.min(Math.max((to - from) * factor, CLOSEST_US), shown?.length_us ?? 1);
    const share = (at - from) / (to - from);
    move(at - share * size, at + (1 - share) * size);
  }

  function labels() {
    parts.labels.replaceChildren(
      ...lanes().map((lane) => {
        const row = document.createElement("li");
        row.className = `lane-label is-${lane.kind}`;
        const title = document.createElement("b");
        title.textContent = lane.title;
        const note = document.createElement("span");
        note.textContent = lane.note;
        row.append(title, note);
        return row;
      }),
    );
  }

  function take(strip) {
    const fresh = !shown || shown.scenario !== strip.scenario || shown.length_us !== strip.length_us;
    shown = strip.key ? strip : null;
    parts.root.classList.toggle("is-empty", !shown);
    if (fresh) [from, to] = [0, strip.length_us || 1];
    component.difference = strip.difference ?? "";
    component.stopped = strip.stopped ?? "";
    parts.labels.replaceChildren();
    if (!shown) return;
    windows.take(shown.key, shown.windows, shown.length_us);
    labels();
    wish();
    redraw();
  }

  async function jump(forward) {
    if (!shown?.key) return;
    // From the event that was jumped to last, if it is still in sight; else from the edge of what is seen.
    const seen = stood !== null && stood >= from && stood <= to;
    const start = Math.round(seen ? stood : forward ? from - 1 : to + 1);
    const { ok, data } = await ask(`/api/runs/${shown.key}/event?at=${start}&forward=${forward ? 1 : 0}`);
    if (!ok || data.at_us === null) return (component.spoken = forward ? "No later event." : "No earlier event.");
    const size = Math.min(to - from, Math.max(shown.length_us / 6, 1));
    move(data.at_us - size / 2, data.at_us + size / 2);
    pointer = stood = data.at_us;
    const name = shown.lanes.find((lane) => lane.of === data.input)?.title ?? data.input;
    component.spoken = `${name}: ${data.what} at ${(data.at_us / 1e6).toFixed(3)} s`;
    component.cursor = component.spoken;
  }

  function place(name) {
    const at = pointer ?? (from + to) / 2;
    callipers = { ...callipers, [name]: Math.round(at) };
    const { a, b } = callipers;
    component.between = a !== null && b !== null ? `A–B Δt ${span(Math.abs(b - a))}` : `${name.toUpperCase()} at ${span(Math.round(at))}`;
    redraw();
  }

  function wheel(event) {
    if (!shown) return;
    event.preventDefault();
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      const by = ((event.deltaX || event.deltaY) / width()) * (to - from);
      return move(from + by, to + by);
    }
    zoom(Math.exp(Math.max(-1, Math.min(1, event.deltaY / 240))), us(event.offsetX));
  }

  function grab(event) {
    const near = Object.entries(callipers).find(([, at]) => at !== null && Math.abs(x(at) - event.offsetX) < NEAR_PX);
    drag = near ? { calliper: near[0] } : { x: event.clientX, from, to };
    event.target.setPointerCapture(event.pointerId);
  }

  function pull(event) {
    pointer = us(event.offsetX);
    component.cursor = shown ? `${(pointer / 1e6).toFixed(4)} s` : "";
    if (drag?.calliper) place(drag.calliper);
    else if (drag) {
      const by = ((drag.x - event.clientX) / width()) * (drag.to - drag.from);
      move(drag.from + by, drag.to + by);
    } else redraw();
  }

  function key(event) {
    const acts = {
      "[": () => jump(false), "]": () => jump(true), a: () => place("a"), b: () => place("b"), g: () => component.turnGhost(),
      l: () => component.turnLevels(), "+": () => zoom(0.6), "=": () => zoom(0.6), "-": () => zoom(1 / 0.6), 0: () => component.fit(),
    };
    const inside = parts.root.contains(event.target);
    const pan = (to - from) * (event.shiftKey ? 0.02 : 0.12);
    if (inside && event.target.matches("[role=separator]")) return sizeByKey(event);
    if (inside && event.key === "ArrowLeft") move(from - pan, to - pan);
    else if (inside && event.key === "ArrowRight") move(from + pan, to + pan);
    else if (acts[event.key]) acts[event.key]();
    else return;
    event.preventDefault();
  }

  function resize(height) {
    const most = Math.round(innerHeight * 0.75);
    const kept = Math.min(Math.max(height, 140), most);
    document.documentElement.style.setProperty("--strip-height", `${kept}px`);
    parts.grip.setAttribute("aria-valuenow", kept);
    redraw();
  }

  function sizeByKey(event) {
    const by = { ArrowUp: 24, ArrowDown: -24 }[event.key];
    if (!by) return;
    resize(parts.root.clientHeight + by);
    event.preventDefault();
  }

  let component = {
    difference: "",
    stopped: "",
    between: "",
    cursor: "",
    spoken: "",
    ghost: true,
    levels: false,
    get differenceText() { return this.difference; },
    get stoppedText() { return this.stopped; },
    get betweenText() { return this.between; },
    get cursorText() { return this.cursor; },
    get spokenText() { return this.spoken; },
    get ghostPressed() { return this.ghost ? "true" : "false"; },
    get levelsPressed() { return this.levels ? "true" : "false"; },
    previousEvent() { jump(false); },
    nextEvent() { jump(true); },
    placeA() { place("a"); },
    placeB() { place("b"); },
    zoomIn() { zoom(0.6); },
    zoomOut() { zoom(1 / 0.6); },
    fit() { move(0, shown?.length_us ?? 1); },
    turnGhost() {
      component.ghost = !component.ghost;
      wish();
      redraw();
    },
    turnLevels() {
      component.levels = !component.levels;
      labels();
      wish();
      redraw();
    },
    init() {
      component = this; // from here on the reactive one
      const root = this.$root;
      const find = (name) => root.querySelector(name);
      parts = { root, lanes: find(".lane-canvas"), axis: find(".axis-canvas"), labels: find(".lane-labels"), scroll: find(".strip-lanes"), grip: find(".strip-grip") };
      parts.lanes.addEventListener("wheel", wheel, { passive: false });
      parts.axis.addEventListener("wheel", wheel, { passive: false });
      parts.lanes.addEventListener("pointerdown", grab);
      parts.lanes.addEventListener("pointermove", pull);
      parts.lanes.addEventListener("pointerup", () => (drag = null));
      parts.lanes.addEventListener("pointercancel", () => (drag = null));
      parts.lanes.addEventListener("dblclick", (event) => zoom(0.25, us(event.offsetX)));
      parts.grip.addEventListener("pointerdown", (event) => parts.grip.setPointerCapture(event.pointerId));
      parts.grip.addEventListener("pointermove", (event) => parts.grip.hasPointerCapture(event.pointerId) && resize(innerHeight - event.clientY));
      parts.scroll.addEventListener("scroll", redraw, { passive: true });
      new ResizeObserver(() => {
        wish();
        redraw();
      }).observe(parts.scroll);
      document.addEventListener("vt:view", ({ detail }) => take(detail.strip));
      document.addEventListener("vt:preview", ({ detail }) => take(detail.strip));
      document.addEventListener("vt:key", ({ detail }) => key(detail));
      document.addEventListener("vt:show", ({ detail }) => {
        if (detail.levels && !component.levels) component.turnLevels();
        const size = Math.min(shown?.length_us ?? 1, detail.levels ? 300_000 : 80_000);
        move(detail.at - size / 2, detail.at + size / 2);
        pointer = stood = detail.at;
      });
      document.addEventListener("vt:theme", () => {
        forgetColours();
        redraw();
      });
      document.fonts.ready.then(redraw);
      session.windows = () => (shown ? windows.wishes(lanes().map((lane) => lane.id), Math.round(from), Math.round(to), width(), shown.length_us) : []);
      take(JSON.parse(root.dataset.strip));
    },
  };
  return component;
}
