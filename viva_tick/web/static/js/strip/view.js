// The stretch of a run that is on the screen, in µs, and how it is moved. `changed` is called after each move.
const CLOSEST_US = 200;

export class View {
  constructor(width, changed) {
    this.measure = width;
    this.changed = changed;
    this.length = 1;
    this.from = 0;
    this.to = 1;
    this.x = (us) => ((us - this.from) / (this.to - this.from)) * this.width;
    this.us = (px) => this.from + (px / this.width) * (this.to - this.from);
  }

  get width() {
    return this.measure();
  }

  get size() {
    return this.to - this.from;
  }

  get middle() {
    return (this.from + this.to) / 2;
  }

  holds(us) {
    return us !== null && us >= this.from && us <= this.to;
  }

  whole(length = this.length) {
    this.length = Math.max(length, 1);
    this.move(0, this.length);
  }

  move(from, to) {
    const size = Math.min(Math.max(to - from, CLOSEST_US), this.length);
    this.from = Math.min(Math.max(from, 0), this.length - size);
    this.to = this.from + size;
    this.changed();
  }

  pan(us) {
    this.move(this.from + us, this.to + us);
  }

  centre(us, size) {
    this.move(us - size / 2, us + size / 2);
  }

  zoom(factor, at = this.middle) {
    const size = Math.min(Math.max(this.size * factor, CLOSEST_US), this.length);
    const share = (at - this.from) / this.size;
    this.move(at - share * size, at + (1 - share) * size);
  }
}
