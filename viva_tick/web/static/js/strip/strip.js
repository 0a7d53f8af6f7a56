// The strip: shows what the server computed, and moves over it by wheel, drag and keys.
import { ask } from "../net.js";
import { go, session } from "../session.js";
import { span } from "./axis.js";
import { colours, forgetColours } from "./colours.js";
import { LANE, paintAxis, paintLanes, paintMarks } from "./paint.js";
import { Doings } from "./doing.js";
import { View } from "./view.js";
import { Windows } from "./windows.js";

const NEAR_PX = 6;
const LIVE_US = 6_000_000; // so much is in sight of what is played by hand
const STEP = 0.6; // of a zoom by key
// Head, scale and three lanes; a good third of the page; most of it.
const HEIGHTS = { peek: () => 60 + 3 * LANE, half: () => 258, tall: () => Math.round(innerHeight * 0.62) };
const LOW = ["try", "build", "guard", "log"];
const SHOWN_US = { event: 80_000, level: 300_000 }; // how much is seen around what a finding shows

export function strip() {
  // What is drawn is kept out of Alpine's reach: it changes at every frame and no template looks at it.
  let run = null;
  let pointer = null; // where the pointer is, or what was jumped to
  let stood = null; // the event that was jumped to last
  let callipers = { a: null, b: null };
  let drag = null;
  let pressed = null; // where the pointer went down: a click that does not move asks about what is there
  let frame = 0;
  let row = -1; // the lane that the pointer was on last
  let lit = null; // "machine state" whose spans stand out
  let parts = {};
  let station = "";
  let going = null; // what is being run further
  let beneath = null; // the run that was shown before somebody played by hand
  const windows = new Windows(() => redraw());
  const doing = new Doings(() => redraw());
  let seen = { width: 1, height: 0, top: 0 }; // of the lanes: asked of the page only when it has changed
  let tall = 0; // how high all lanes are, as the page was told
  const view = new View(() => seen.width, () => refresh());

  // Lanes in which nothing happens are one line that names them, until they are unfolded.
  function lanes() {
    if (!run) return [];
    const all = run.lanes.filter((lane) => component.levels || !lane.extra);
    const still = run.live ? [] : all.filter((lane) => lane.quiet);
    if (component.unfolded || still.length < 2) return all;
    const folded = [...new Set(still.map((lane) => lane.title))];
    const fold = { id: "", kind: "quiet", of: "", title: `${folded.length} quiet`, note: "Q unfolds", names: folded };
    return [...all.filter((lane) => !lane.quiet), fold];
  }
  const names = () => lanes().map((lane) => lane.id).filter(Boolean);

  function redraw() {
    if (!frame) frame = requestAnimationFrame(paintAll);
  }

  // Something else is to be seen: ask for what is missing, draw what is here.
  function refresh() {
    if (!run) return;
    if (run.live) {
      document.dispatchEvent(new CustomEvent("vt:live-looks", { detail: wish() }));
      return redraw();
    }
    windows.want([run.key, component.ghost || run.beside ? run.ghost : null], names(), view.from, view.to, view.width, run.length_us);
    redraw();
  }

  function look() {
    seen = { width: parts.lanes.clientWidth, height: parts.scroll.clientHeight, top: parts.scroll.scrollTop };
  }

  function paintAll() {
    frame = 0;
    if (!run) return;
    const paint = colours();
    const rows = lanes();
    const height = Math.max(rows.length * LANE, seen.height);
    if (height !== tall) parts.scroll.style.setProperty("--lanes-height", `${(tall = height)}px`);
    const data = windows.best(run.key, view.from, view.to);
    const before = component.ghost || run.beside ? windows.best(run.ghost, view.from, view.to) : null;
    const pen = paintLanes(parts.lanes, seen, height, view, rows, { ...run, lit }, data, before, paint, doing);
    // What is known ahead of now has not happened yet.
    if (run.live && view.x(run.now_us) < view.width) pen.clearRect(view.x(run.now_us), 0, view.width, height);
    paintMarks(pen, height, view, callipers, drag ? null : pointer, paint);
    paintAxis(parts.axis, view, callipers, paint);
    // `painted` tells tests and the benchmark which run is on the screen.
    if (data) parts.root.dataset.painted = run.key;
  }

  function label({ id, kind, title, note, names: folded }) {
    const row = document.createElement("li");
    row.className = `lane-label is-${kind}`;
    if (folded) row.title = folded.join(", ");
    row.append(Object.assign(document.createElement("b"), { textContent: title }), Object.assign(document.createElement("span"), { textContent: note }));
    if (doing.adds[id]) {
      const add = Object.assign(document.createElement("button"), { type: "button", className: "lane-add", textContent: "+", title: "Do something to it here" });
      add.setAttribute("aria-label", `Do something to ${title}, ${note}`);
      add.addEventListener("click", () => doing.add(id, view.holds(pointer) ? pointer : view.middle));
      row.append(add);
    }
    return row;
  }

  const relabel = () => parts.labels.replaceChildren(...lanes().map(label));

  function take(strip) {
    letGoLive();
    const longer = Math.abs(strip.length_us / (run?.length_us || 1) - 1);
    // A repeat of a scenario is a little longer or shorter with its clock: what is in sight stays.
    const fresh = !run || run.scenario !== strip.scenario || longer > (strip.number || component.number ? 0.01 : 0);
    run = strip.key ? strip : null;
    parts.root.classList.toggle("is-empty", !run);
    component.difference = strip.difference ?? "";
    component.against = strip.beside ? `${strip.beside}:` : "last edit:";
    component.stopped = strip.stopped ?? "";
    component.why = strip.stopped_why ?? "";
    component.further = strip.further ? "run it further" : "";
    component.number = strip.number ?? 0;
    doing.take(strip.doing);
    if (run) windows.take(run.key, run.windows, run.length_us);
    relabel();
    if (fresh) view.whole(strip.length_us);
    else refresh();
  }

  // Played by hand, the strip grows: the seconds up to now are in sight, and all of it when it stands still.
  const wish = () => ({ lanes: names(), from_us: Math.max(0, Math.floor(view.from)), to_us: Math.ceil(view.to), columns: view.width });

  function live({ now_us, window, playing }) {
    if (!run) return;
    if (window) {
      const began = !run.live;
      beneath ??= run;
      run = { ...beneath, key: "by hand", ghost: null, beside: null, live: true, now_us, length_us: window.to_us, scales: window.scales };
      windows.lay(run.key, window);
      if (began) {
        doing.take({});
        Object.assign(component, { difference: "", against: "by hand:", between: "by hand, as it grows" });
        relabel();
      }
    }
    if (!run.live) return;
    run.now_us = now_us;
    view.length = Math.max(now_us, LIVE_US);
    if (playing) view.move(now_us - LIVE_US, now_us);
    else redraw();
  }

  // What a board did over the run of the same actions: the run as it is drawn always, the board as its ghost.
  function laid({ window, board }) {
    if (!run) return;
    beneath ??= run;
    run = { ...beneath, key: "computed", ghost: "board", beside: "the board", live: true, now_us: window.to_us, length_us: window.to_us, scales: window.scales };
    windows.lay("computed", window);
    windows.lay("board", board);
    doing.take({});
    Object.assign(component, { difference: "", between: "the board, as the ghost, over the bench" });
    relabel();
    view.whole(window.to_us);
  }

  // A long capture alone: its channels, fetched a window at a time.
  function captured({ key, length_us, lanes: channels, name }) {
    if (!run) return;
    beneath ??= run;
    run = { ...beneath, key, ghost: null, beside: null, live: false, lanes: channels, length_us, scales: {} };
    windows.run(key).whole = windows.run(key).fine = null;
    doing.take({});
    Object.assign(component, { difference: "", between: `${name}: the capture alone` });
    relabel();
    view.whole(length_us);
  }

  function letGoLive() {
    if (!beneath) return;
    component.between = "";
    beneath = null;
  }

  async function jump(forward) {
    if (!run || run.live) return;
    // From the event that was jumped to last, if it is still in sight; else from the edge of what is seen.
    const start = Math.round(view.holds(stood) ? stood : forward ? view.from - 1 : view.to + 1);
    const { ok, data } = await ask(`/api/runs/${run.key}/event?at=${start}&forward=${forward ? 1 : 0}`);
    if (!ok || data.at_us === null) {
      component.spoken = forward ? "No later event." : "No earlier event.";
      return;
    }
    view.centre(data.at_us, Math.min(view.size, Math.max(run.length_us / 6, 1)));
    pointer = stood = data.at_us;
    const name = run.lanes.find((lane) => lane.of === data.input)?.title ?? data.input;
    component.spoken = `${name}: ${data.what} at ${(data.at_us / 1e6).toFixed(3)} s`;
    component.cursor = component.spoken;
  }

  function place(name) {
    callipers = { ...callipers, [name]: Math.round(pointer ?? view.middle) };
    const { a, b } = callipers;
    const both = a !== null && b !== null;
    component.between = both ? `A–B Δt ${span(Math.abs(b - a))}` : `${name.toUpperCase()} at ${span(callipers[name])}`;
    redraw();
  }

  function wheel(event) {
    if (!run) return;
    event.preventDefault();
    const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
    if (sideways) view.pan(((event.deltaX || event.deltaY) / view.width) * view.size);
    else view.zoom(Math.exp(Math.max(-1, Math.min(1, event.deltaY / 240))), view.us(event.offsetX));
  }

  function grab(event) {
    row = Math.floor(event.offsetY / LANE);
    pressed = { row, x: event.clientX, us: view.us(event.offsetX) };
    const found = lanes()[row] && doing.hit(lanes()[row].id, event.offsetX, event.offsetY - row * LANE, view);
    if (found) {
      doing.grab(found, view.us(event.offsetX));
      event.target.setPointerCapture(event.pointerId);
      return;
    }
    const near = Object.entries(callipers).find(([, at]) => at !== null && Math.abs(view.x(at) - event.offsetX) < NEAR_PX);
    drag = near ? { calliper: near[0] } : { x: event.clientX, from: view.from, to: view.to };
    event.target.setPointerCapture(event.pointerId);
  }

  function pull(event) {
    pointer = view.us(event.offsetX);
    row = Math.floor(event.offsetY / LANE);
    component.cursor = run ? `${(pointer / 1e6).toFixed(4)} s` : "";
    if (doing.held) doing.pull(pointer, run.length_us);
    else if (drag?.calliper) place(drag.calliper);
    else if (drag) {
      const by = ((drag.x - event.clientX) / view.width) * (drag.to - drag.from);
      view.move(drag.from + by, drag.to + by);
    } else redraw();
  }

  // A run that stopped early is run on as long as anything is; the same press stops it.
  async function runFurther() {
    if (going) return going.abort();
    const mine = (going = new AbortController());
    const began = performance.now();
    const tick = () => { component.further = `running for ${Math.round((performance.now() - began) / 1000)} s: stop`; };
    tick();
    const clock = setInterval(tick, 1000);
    await go({ further: 1 }, false, mine.signal);
    clearInterval(clock);
    going = null;
    component.further = run?.further ? "run it further" : "";
  }

  // A state's span opens the transition that led there; an output's says why.
  async function about(lane, at) {
    if (!lane || run.live || !["state", "output"].includes(lane.kind)) return;
    const query = new URLSearchParams({ scenario: run.scenario, lane: lane.id, at: Math.round(at) });
    const { ok, data } = await ask(`/api/benches/${session.bench}/why?${query}`);
    if (!ok) return;
    if (lane.kind === "state") {
      if (data.links[0]?.machine) go({ station: "behave", picked: data.links[0].machine, chosen: data.chosen });
      return;
    }
    tellWhy(data);
  }

  function tellWhy(data) {
    const rows = data.links.map(({ words, at_us: us, machine, transition }) => {
      const row = document.createElement("li");
      const there = Object.assign(document.createElement("button"), { type: "button", className: "text-button", textContent: words });
      there.addEventListener("click", () => {
        pointer = stood = us;
        if (!view.holds(us)) view.centre(us, view.size);
        redraw();
        if (machine) go({ station: "behave", picked: machine, chosen: transition >= 0 ? `transition ${transition}` : null });
      });
      row.append(there);
      return row;
    });
    parts.why.querySelector("ol").replaceChildren(...rows);
    parts.why.querySelector("h3").textContent = `Why, at ${(data.at_us / 1e6).toFixed(3)} s`;
    parts.why.hidden = false;
    component.spoken = data.links.map((link) => link.words).join("; ");
  }

  // By key: of the output that the pointer is on, else of the one that changed last before it.
  function why() {
    const at = pointer ?? view.middle;
    const named = lanes()[row]?.kind === "output" ? lanes()[row] : lanes().find((lane) => lane.kind === "output");
    if (named) about(named, at);
  }

  const acts = {
    y: () => why(),
    "[": () => jump(false),
    "]": () => jump(true),
    a: () => place("a"),
    b: () => place("b"),
    g: () => component.turnGhost(),
    l: () => component.turnLevels(),
    q: () => component.turnQuiet(),
    s: () => component.turnHeight(),
    "+": () => view.zoom(STEP),
    "=": () => view.zoom(STEP),
    "-": () => view.zoom(1 / STEP),
    0: () => view.whole(),
  };

  function key(event) {
    const inside = parts.root.contains(event.target);
    const arrow = inside && { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const grow = event.target === parts.grip && { ArrowUp: 24, ArrowDown: -24 }[event.key];
    if (grow) keepHeight(resize(parts.root.clientHeight + grow));
    else if (arrow) view.pan(arrow * view.size * (event.shiftKey ? 0.02 : 0.12));
    else if (acts[event.key]) acts[event.key]();
    else return;
    event.preventDefault();
  }

  function resize(height) {
    const kept = Math.min(Math.max(height, HEIGHTS.peek()), Math.round(innerHeight * 0.75));
    document.documentElement.style.setProperty("--strip-height", `${kept}px`);
    parts.grip.setAttribute("aria-valuenow", kept);
    component.height = Object.keys(HEIGHTS).find((name) => Math.abs(HEIGHTS[name]() - kept) < 2) ?? "own";
    redraw();
    return kept;
  }

  // How high it is kept is kept for each station, over a reload; where somebody only reads, it begins low.
  function keepHeight(height) {
    localStorage.setItem(`strip ${station}`, component.height === "own" ? height : component.height);
  }

  function atStation(name) {
    if (station === name) return;
    station = name;
    const kept = localStorage.getItem(`strip ${name}`) ?? (LOW.includes(name) || innerWidth <= 760 ? "peek" : "half");
    resize(HEIGHTS[kept]?.() ?? (Number(kept) || HEIGHTS.half()));
  }

  function show({ at, levels }) {
    if (levels && !component.levels) component.turnLevels();
    view.centre(at, Math.min(view.length, levels ? SHOWN_US.level : SHOWN_US.event));
    pointer = stood = at;
  }

  function listen() {
    const { lanes: canvas, axis, grip, scroll } = parts;
    canvas.addEventListener("wheel", wheel, { passive: false });
    axis.addEventListener("wheel", wheel, { passive: false });
    canvas.addEventListener("pointerdown", grab);
    canvas.addEventListener("pointermove", pull);
    canvas.addEventListener("pointerup", (event) => {
      if (doing.held) return doing.drop();
      drag = null;
      if (pressed && Math.abs(event.clientX - pressed.x) < 3) about(lanes()[pressed.row], pressed.us);
    });
    canvas.addEventListener("pointercancel", () => (doing.held ? doing.back() : (drag = null)));
    canvas.addEventListener("dblclick", (event) => view.zoom(0.25, view.us(event.offsetX)));
    grip.addEventListener("pointerdown", (event) => grip.setPointerCapture(event.pointerId));
    grip.addEventListener("pointermove", (event) => grip.hasPointerCapture(event.pointerId) && keepHeight(resize(innerHeight - event.clientY)));
    const anew = (then) => () => {
      look();
      then();
    };
    scroll.addEventListener("scroll", anew(redraw), { passive: true });
    new ResizeObserver(anew(refresh)).observe(scroll);
    document.addEventListener("vt:view", ({ detail }) => {
      atStation(detail.station);
      take(detail.strip);
    });
    document.addEventListener("vt:preview", ({ detail }) => take(detail.strip));
    document.addEventListener("vt:live", ({ detail }) => live(detail));
    document.addEventListener("vt:capture", ({ detail }) => captured(detail));
    document.addEventListener("vt:laid", ({ detail }) => laid(detail));
    document.addEventListener("vt:key", ({ detail }) => key(detail));
    document.addEventListener("vt:show", ({ detail }) => show(detail));
    document.addEventListener("vt:light", ({ detail }) => {
      if (lit === detail) return;
      lit = detail;
      redraw();
    });
    parts.why.querySelector(".close").addEventListener("click", () => (parts.why.hidden = true));
    document.addEventListener("vt:theme", () => {
      forgetColours();
      redraw();
    });
    document.fonts.ready.then(redraw);
  }

  let component = {
    difference: "",
    against: "last edit:",
    stopped: "",
    why: "",
    further: "",
    number: 0,
    between: "",
    cursor: "",
    spoken: "",
    ghost: true,
    levels: false,
    unfolded: false,
    height: "half",
    get differenceText() { return this.difference; },
    get againstText() { return this.against; },
    get stoppedText() { return this.stopped; },
    get stoppedWhy() { return this.why; },
    get numberText() { return Boolean(this.number); },
    get furtherText() { return this.further; },
    runFurther() { runFurther(); },
    get betweenText() { return this.between; },
    get cursorText() { return this.cursor; },
    get spokenText() { return this.spoken; },
    get ghostPressed() { return this.ghost ? "true" : "false"; },
    get levelsPressed() { return this.levels ? "true" : "false"; },
    previousEvent() { jump(false); },
    nextEvent() { jump(true); },
    placeA() { place("a"); },
    placeB() { place("b"); },
    zoomIn() { view.zoom(STEP); },
    zoomOut() { view.zoom(1 / STEP); },
    fit() { view.whole(); },
    askWhy() { why(); },
    turnGhost() {
      component.ghost = !component.ghost;
      refresh();
    },
    get heightLabel() { return `S strip: ${this.height}; change its height`; },
    get heightText() { return `strip: ${this.height}`; },
    turnQuiet() {
      component.unfolded = !component.unfolded;
      relabel();
      refresh();
    },
    turnHeight() {
      const order = Object.keys(HEIGHTS);
      keepHeight(resize(HEIGHTS[order[(order.indexOf(component.height) + 1) % order.length]]()));
    },
    turnLevels() {
      component.levels = !component.levels;
      relabel();
      refresh();
    },
    init() {
      component = this; // from here on the reactive one
      const root = this.$root;
      const find = (name) => root.querySelector(name);
      parts = { root, lanes: find(".lane-canvas"), axis: find(".axis-canvas"), labels: find(".lane-labels"), scroll: find(".strip-lanes"), why: find(".why"), grip: find(".strip-grip") };
      session.liveWish = () => (run && parts.root.clientHeight ? { ...wish(), from_us: -1 } : null);
      session.sight = () => (run?.key.startsWith("capture-") ? { from_us: Math.max(0, Math.floor(view.from)), to_us: Math.ceil(view.to) } : null);
      session.windows = () => (run && !run.live ? windows.wishes(names(), Math.round(view.from), Math.round(view.to), view.width, run.length_us) : []);
      look();
      listen();
      atStation(location.pathname.split("/").pop());
      take(JSON.parse(root.dataset.strip));
    },
  };
  return component;
}
