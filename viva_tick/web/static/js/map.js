// The map of a machine: a state is dragged to another place, a new transition is pulled from one state to another.
import { edit } from "./session.js";

const FAR = 4; // px that make a drag of a click
const KEYS = { ArrowLeft: [-12, 0], ArrowRight: [12, 0], ArrowUp: [0, -12], ArrowDown: [0, 12] };

export function map() {
  let root = null;
  let held = null;

  const at = (event) => {
    const svg = root.querySelector("svg");
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return { x: point.x, y: point.y };
  };

  // All states get a place with the first that is moved, so that the others stay where they are seen.
  function places(moved, dx, dy) {
    const nodes = [...root.querySelectorAll("[data-node]")];
    return nodes.map((node) => {
      const mine = node === moved ? [dx, dy] : [0, 0];
      const value = [Math.round(Number(node.dataset.x) + mine[0]), Math.round(Number(node.dataset.y) + mine[1])];
      return { op: "replace", path: `${root.dataset.machine}/states/${node.dataset.place}/place`, value };
    });
  }

  function grab(event) {
    const pull = event.target.closest("[data-pull]");
    const node = event.target.closest("[data-node]");
    if (!node) return;
    held = { node, pull: Boolean(pull), from: at(event), far: false };
    root.querySelector("svg").setPointerCapture(event.pointerId);
  }

  function drag(event) {
    if (!held) return;
    const { x, y } = at(event);
    const dx = x - held.from.x;
    const dy = y - held.from.y;
    held.far ||= Math.hypot(dx, dy) > FAR;
    if (!held.far) return;
    if (held.pull) {
      held.line ??= root.querySelector("svg").appendChild(document.createElementNS("http://www.w3.org/2000/svg", "path"));
      held.line.setAttribute("class", "pulled");
      held.line.setAttribute("d", `M${held.from.x} ${held.from.y} L${x} ${y}`);
    } else held.node.setAttribute("transform", `translate(${dx} ${dy})`);
  }

  function drop(event) {
    if (!held) return;
    const { node, pull, from, far, line } = held;
    held = null;
    line?.remove();
    if (!far) return node.dispatchEvent(new MouseEvent("click", { bubbles: true }));
    const { x, y } = at(event);
    if (!pull) return edit(places(node, x - from.x, y - from.y), node);
    const under = document.elementsFromPoint(event.clientX, event.clientY).map((one) => one.closest("[data-node]")).find(Boolean);
    if (under) join(node, under);
  }

  // The first event that the state does not use yet; a time, where it uses them all.
  function join(one, other) {
    const { events, used } = root.dataset;
    const taken = new Set((JSON.parse(used)[one.dataset.node] ?? []).map((event) => JSON.stringify(event)));
    const free = JSON.parse(events).find((event) => !taken.has(JSON.stringify(event)));
    const on = free ?? { kind: "timeout", after_us: 1_000_000 };
    const value = { source: one.dataset.node, on, target: other.dataset.node };
    edit([{ op: "add", path: `${root.dataset.machine}/transitions/-`, value }], one, { chosen: `transition ${root.dataset.transitions}` });
  }

  function key(event) {
    const node = event.target.closest("[data-node]");
    const by = event.shiftKey && KEYS[event.key];
    if (!node || !by) return;
    event.preventDefault();
    event.stopPropagation();
    edit(places(node, ...by), node);
  }

  return {
    init() {
      root = this.$root;
      const svg = root.querySelector("svg");
      svg.addEventListener("pointerdown", grab);
      svg.addEventListener("pointermove", drag);
      svg.addEventListener("pointerup", drop);
      svg.addEventListener("pointercancel", () => (held = null));
      root.addEventListener("keydown", key);
    },
  };
}
