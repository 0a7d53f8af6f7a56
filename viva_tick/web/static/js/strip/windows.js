// What the strip has fetched: for each run the whole of it, coarse, and the last window that was wanted, fine.
import { ask } from "../net.js";

const MARGIN = 0.6; // fetched beyond each side of what is seen, as a share of it
const COARSEST = 2.5; // a window is fetched anew when a screen column would show this many of its columns

export class Windows {
  constructor(arrived) {
    this.arrived = arrived;
    this.runs = new Map();
    this.wanted = null;
    this.busy = false;
  }

  run(key) {
    if (!this.runs.has(key)) {
      if (this.runs.size > 8) this.runs.delete(this.runs.keys().next().value);
      this.runs.set(key, { whole: null, fine: null });
    }
    return this.runs.get(key);
  }

  // The best that is here for a stretch of a run; null before anything has come.
  best(key, from, to) {
    if (!key) return null;
    const { whole, fine } = this.run(key);
    return fine && fine.from_us <= from && fine.to_us >= to ? fine : whole;
  }

  // Ask for what a view needs. Only the latest wish counts while a request is on its way.
  want(keys, lanes, from, to, width, length) {
    this.wanted = { keys: keys.filter(Boolean), lanes, from, to, width, length };
    if (!this.busy) this.fetchAll();
  }

  async fetchAll() {
    this.busy = true;
    while (this.wanted) {
      const wish = this.wanted;
      this.wanted = null;
      await Promise.all(wish.keys.map((key) => this.fetchRun(key, wish)));
    }
    this.busy = false;
  }

  async fetchRun(key, { lanes, from, to, width, length }) {
    const run = this.run(key);
    const names = lanes.join("|");
    if (!run.whole || run.whole.names !== names) {
      const got = await this.fetch(key, lanes, 0, length, width);
      if (got) run.whole = { ...got, names, column_us: length / width };
      run.fine = null;
      this.arrived();
    }
    const column = (to - from) / width;
    const have = this.best(key, from, to);
    if (have && have.column_us <= column * COARSEST) return;
    const margin = (to - from) * MARGIN;
    const begin = Math.max(0, Math.floor(from - margin));
    const end = Math.min(length, Math.ceil(to + margin));
    const columns = Math.ceil(width * ((end - begin) / (to - from)));
    const got = await this.fetch(key, lanes, begin, end, columns);
    if (got) run.fine = { ...got, column_us: (end - begin) / columns };
    this.arrived();
  }

  async fetch(key, lanes, from, to, columns) {
    const query = new URLSearchParams([["from", from], ["to", to], ["columns", Math.round(columns)], ...lanes.map((lane) => ["lane", lane])]);
    try {
      const answer = await ask(`/api/runs/${key}/window?${query}`);
      return answer.ok ? answer.data : null;
    } catch {
      return null;
    }
  }
}
