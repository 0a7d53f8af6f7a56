// What every lane is drawn with: stretches of a signal, lines, words, flags.
export const BUSY = "*";
const FONT = "11px 'Spline Sans Variable', sans-serif";
export const font = (weight) => `${weight} ${FONT}`;

// Walk the stretches of a signal that are on the screen: draw(from px, to px, value).
export function stretches({ t, v }, view, draw) {
  const { x, width, end } = view;
  for (let n = 0; n < t.length; n += 1) {
    const from = x(t[n]);
    const to = n + 1 < t.length ? x(t[n + 1]) : x(end);
    if (to < 0) continue;
    if (from > width) break;
    // Whole pixels: nothing is blurred, and a software canvas fills them many times faster.
    draw(Math.round(Math.max(from, -2)), Math.round(Math.min(to, width + 2)), v[n], t[n]);
  }
}

export function line(pen, data, view, top, bottom, colour, width, dash) {
  pen.strokeStyle = colour;
  pen.lineWidth = width;
  pen.setLineDash(dash ?? []);
  pen.beginPath();
  let last = null;
  const middle = (top + bottom) / 2;
  stretches(data, view, (from, to, value) => {
    if (value === null) return;
    const y = value === BUSY ? last ?? bottom : value === 1 ? top : value === 0 ? bottom : middle;
    if (last === null) pen.moveTo(from, y);
    else {
      pen.lineTo(from, last);
      pen.lineTo(from, y);
    }
    pen.lineTo(to, y);
    last = y;
  });
  pen.stroke();
  pen.setLineDash([]);
  pen.fillStyle = colour;
  pen.globalAlpha = 0.55;
  stretches(data, view, (from, to, value) => value === BUSY && pen.fillRect(from, top, Math.max(to - from, 1), bottom - top));
  pen.globalAlpha = 1;
}

// With `ground`, on a ground of that colour: where something is drawn under it.
export function label(pen, text, from, to, y, colour, ground = "") {
  const left = Math.max(from, 0) + 6;
  if (to - left < 14) return;
  pen.fillStyle = colour;
  pen.font = FONT;
  const room = to - left - 6;
  let shown = text;
  if (pen.measureText(shown).width > room) {
    while (shown.length > 1 && pen.measureText(`${shown}…`).width > room) shown = shown.slice(0, -1);
    shown = shown.length > 1 ? `${shown}…` : "";
  }
  if (ground && shown) {
    pen.fillStyle = ground;
    pen.fillRect(left - 2, y - 10, pen.measureText(shown).width + 4, 13);
    pen.fillStyle = colour;
  }
  pen.fillText(shown, left, y);
}

export function pennant(pen, x, y, what, room, paint, under = 10) {
  const press = what !== "release" && what !== "below" && what !== "back";
  pen.fillStyle = paint.clean;
  pen.beginPath();
  pen.moveTo(x, y - 4);
  pen.lineTo(x + 8, y - (press ? 0.5 : 3.5));
  pen.lineTo(x, y + (press ? 3 : -3) - (press ? 0 : 1));
  pen.fill();
  pen.font = FONT;
  if (!what || what === "release" || room < pen.measureText(what).width + 14) return;
  pen.lineWidth = 3;
  pen.strokeStyle = paint.paper;
  pen.strokeText(what, x + 11, y + under);
  pen.fillText(what, x + 11, y + under);
}
