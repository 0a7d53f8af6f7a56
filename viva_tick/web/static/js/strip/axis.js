// Graph paper and its scale: a step of 1, 2 or 5 that leaves about 90 pixels between labels.
const FONT = "11px 'Spline Sans Mono Variable', monospace";

export function step(span_us, width) {
  const wish = (span_us * 90) / width;
  const power = 10 ** Math.floor(Math.log10(wish));
  return Math.max(1, [1, 2, 5, 10].map((n) => n * power).find((n) => n >= wish));
}

export function time(us, step_us) {
  if (step_us >= 100_000) return `${(us / 1e6).toFixed(step_us >= 1e6 ? 0 : 1)} s`;
  if (step_us >= 1000) return `${Math.round(us / 1000).toLocaleString("en")} ms`;
  return `${(us / 1000).toFixed(step_us >= 100 ? 1 : step_us >= 10 ? 2 : 3)} ms`;
}

export function span(us) {
  const size = Math.abs(us);
  if (size >= 1e6) return `${(us / 1e6).toFixed(3)} s`;
  return size >= 1000 ? `${(us / 1000).toFixed(2)} ms` : `${us} µs`;
}

export function paper(pen, view, height, paint) {
  const big = step(view.to - view.from, view.width);
  for (const [pitch, colour] of [[big / 5, paint.line], [big, paint["line-strong"]]]) {
    pen.fillStyle = colour;
    for (let at = Math.ceil(view.from / pitch) * pitch; at <= view.to; at += pitch) pen.fillRect(Math.round(view.x(at)), 0, 1, height);
  }
}

export function scale(pen, view, height, paint) {
  const big = step(view.to - view.from, view.width);
  pen.font = FONT;
  pen.fillStyle = paint.soft;
  pen.strokeStyle = paint["line-strong"];
  pen.beginPath();
  for (let at = Math.ceil(view.from / big) * big; at <= view.to; at += big) {
    const x = Math.round(view.x(at)) + 0.5;
    pen.moveTo(x, height - 5);
    pen.lineTo(x, height);
    if (x < view.width - 40) pen.fillText(time(at, big), x + 4, height - 8);
  }
  pen.stroke();
}
