// What the strip has fetched: for each run the whole of it, coarse, and the last window that was wanted, fine.
import { ask } from "../net.js";

const MARGIN = 0.6; // fetched beyond each side of what is seen, as a share of it
const COARSEST = 2.5; // a window is fetched anew when a screen column would show this many of its columns

const named = (lanes) => [...lanes].sort().join("|"); // an answer's lanes come in no order

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

  // What a view of a run needs, as requests: the whole once, and the window where the whole is too coarse.
  wishes(lanes, from, to, width, length) {
    const whole = { lanes, from: 0, to: length, columns: width };
    if ((to - from) * COARSEST >= length) return [whole];
    const margin = (to - from) * MARGIN;
    const begin = Math.max(0, Math.floor(from - margin));
    const end = Math.min(length, Math.ceil(to + margin));
    return [whole, { lanes, from: begin, to: end, columns: Math.ceil(width * ((end - begin) / (to - from))) }];
  }

  // A window of what is played by hand: there is no other.
  lay(key, window) {
    const run = this.run(key);
    run.whole = { ...window, names: "", column_us: 0 };
    run.fine = null;
  }

  // Windows that came with an edit.
  take(key, windows, length) {
    const run = this.run(key);
    for (const window of windows ?? []) {
      const column_us = (window.to_us - window.from_us) / window.columns;
      if (window.from_us === 0 && window.to_us === length) run.whole = { ...window, names: named(Object.keys(window.lanes)), column_us };
      else run.fine = { ...window, column_us };
    }
  }

  async fetchRun(key, { lanes, from, to, width, length }) {
    const run = this.run(key);
    const names = named(lanes);
    if (!run.whole || run.whole.names !== names) {
      const got = await this.fetch(key, lanes, 0, length, width);
      if (got) run.whole = { ...got, names, column_us: length / width };
      run.fine = null;
      this.arrived();
    }
    const column = (to - from) / width;
    const have = this.best(key, from, to);
    if (have && have.column_us <= column * COARSEST) return;
    const wish = this.wishes(lanes, from, to, width, length)[1];
    if (!wish) return;
    const got = await this.fetch(key, lanes, wish.from, wish.to, wish.columns);
    if (got) run.fine = { ...got, column_us: (wish.to - wish.from) / wish.columns };
    this.arrived();
  }

  async fetch(key, lanes, from, to, columns) {
    const query = new URLSearchParams([["from", from], ["to", to], ["columns", Math.round(columns)], ...lanes.map((lane) => ["lane", lane])]);
    try {
      const answer = await ask(`/api/runs/${key}/window?${query}`);
      return answer.ok && answer.data.lanes ? answer.data : null;
    } catch {
      return null;
    }
  }
}
