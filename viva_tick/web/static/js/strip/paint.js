// One frame of the strip: paper, lanes, ghosts, callipers, and the scale above them.
import { paper, scale } from "./axis.js";
import { LANES, ghost, quiet } from "./draw.js";

export const LANE = 24;
const AXIS = 22;

function fitted(canvas, w, h) {
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

// Whether a lane shows the same in both runs, so that a ghost of it would say nothing.
function alike(a, b) {
  return Boolean(a?.t) && a.t.length === b.t.length && a.t.every((at, n) => at === b.t[n] && a.v[n] === b.v[n]);
}

// `run` describes the run, `data` and `before` are windows of it and of the ghost, `seen` is the part of `height` in sight.
export function paintLanes(canvas, seen, height, view, rows, run, data, before, paint, doing) {
  const pen = fitted(canvas, view.width, height);
  const drawn = { x: view.x, width: view.width, from: view.from, to: view.to, end: run.length_us };
  paper(pen, drawn, height, paint);
  const first = Math.floor(seen.top / LANE);
  const last = Math.ceil((seen.top + seen.height) / LANE);
  rows.forEach((lane, row) => {
    if (row < first || row > last) return;
    const box = { top: row * LANE, height: LANE };
    pen.fillStyle = paint["line-strong"];
    pen.fillRect(0, box.top + LANE - 1, view.width, 1);
    if (lane.kind === "quiet") return quiet(pen, lane.names, drawn, box, paint);
    // Another method on the same presses: what its run has for the contact.
    const mine = lane.kind === "beside" ? before?.lanes[`cleaned ${lane.of}`] : data?.lanes[lane.id];
    if (!mine) return;
    const was = before?.lanes[lane.id];
    if (was && !alike(was, mine)) ghost(pen, lane.kind, was, drawn, box, paint);
    LANES[lane.kind](pen, mine, drawn, box, paint, { states: run.states[lane.of], lit: run.lit?.startsWith(`${lane.of} `) ? run.lit.slice(lane.of.length + 1) : null, names: run.names, timeout_us: run.timeout_us, scale: run.scales?.[lane.of] });
    doing.draw(pen, lane.id, view, box.top, paint);
    doing.drawExpected(pen, lane.id, view, box.top + LANE, paint);
  });
  return pen;
}

function rule(pen, x, height, colour, dash) {
  pen.strokeStyle = colour;
  pen.setLineDash(dash);
  pen.lineWidth = 1;
  pen.beginPath();
  pen.moveTo(Math.round(x) + 0.5, 0);
  pen.lineTo(Math.round(x) + 0.5, height);
  pen.stroke();
  pen.setLineDash([]);
}

export function paintMarks(pen, height, view, callipers, pointer, paint) {
  if (pointer !== null) rule(pen, view.x(pointer), height, paint.cursor, [2, 3]);
  for (const at of Object.values(callipers)) if (at !== null) rule(pen, view.x(at), height, paint.ink, []);
}

export function paintAxis(canvas, view, callipers, paint) {
  const pen = fitted(canvas, view.width, AXIS);
  scale(pen, { x: view.x, width: view.width, from: view.from, to: view.to }, AXIS, paint);
  pen.font = "600 10.5px 'Spline Sans Variable', sans-serif";
  for (const [name, at] of Object.entries(callipers)) {
    if (at === null) continue;
    const x = view.x(at);
    pen.fillStyle = paint.ink;
    pen.fillRect(x - 7, 11, 14, 15);
    pen.fillStyle = paint.paper;
    pen.fillText(name.toUpperCase(), x - 3.5, 22);
  }
}
