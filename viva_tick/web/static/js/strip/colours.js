// The theme's colours, read once a theme, and hatching made from them.
const NAMES = ["paper", "ink", "soft", "line", "line-strong", "contact", "clean", "level", "reading", "output", "loop", "must", "must-tint", "look", "note", "watchdog", "ghost", "cursor"];

let cached = null;

export function colours() {
  if (cached) return cached;
  const style = getComputedStyle(document.documentElement);
  const read = (name) => style.getPropertyValue(`--${name}`).trim();
  cached = Object.fromEntries(NAMES.map((name) => [name, read(name)]));
  cached.tints = [0, 1, 2, 3, 4, 5].map((n) => read(`tint-${n}`));
  cached.hatch = (context, colour) => hatch(context, colour);
  return cached;
}

export function forgetColours() {
  cached = null;
  hatches.clear();
}

const hatches = new Map();

function hatch(context, colour) {
  if (!hatches.has(colour)) {
    const tile = document.createElement("canvas");
    tile.width = tile.height = 6;
    const pen = tile.getContext("2d");
    pen.strokeStyle = colour;
    pen.lineWidth = 1.2;
    pen.beginPath();
    for (const shift of [-6, 0, 6]) {
      pen.moveTo(shift, 6);
      pen.lineTo(shift + 6, 0);
    }
    pen.stroke();
    hatches.set(colour, context.createPattern(tile, "repeat"));
  }
  return hatches.get(colour);
}
