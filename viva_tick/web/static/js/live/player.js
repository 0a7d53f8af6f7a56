// One session on the panel: its clock, what was done, what the server said of it.
import { ask } from "../net.js";
import { session } from "../session.js";

const LONGEST_US = 598_000_000;
const FRESH_US = 1_000_000; // so little is known ahead when more is asked for
const STRIP_US = 7_000_000; // so much of the past comes for the strip with what is to come
const GESTURE_MS = 1000; // what is done so soon after something else belongs to it, as a second click does

export class Player {
  constructor(bench, revision, data) {
    Object.assign(this, { bench, revision, data });
    this.actions = [];
    this.upsets = [];
    this.faults = []; // { word, at_us, until_us }: until_us is null while it is in
    this.now_us = 0;
    this.speed = 1;
    this.playing = false;
    this.signals = new Map(); // "kind of" → { times, values }
    this.happened = [];
    this.until_us = -1;
    this.asking = 0; // the number of what was asked last
    this.waiting = false;
    this.stale_us = null; // what is known from there on is of before the last action
    this.ended = false;
    this.stuck_us = null; // the run does not go on beyond that
    this.last = null; // { at_us, wall } of what hands did last, while the clock goes on
    this.seed = 0;
    this.session = Math.random().toString(36).slice(2); // what tells this one from others to the server
    this.waits = []; // ms from an action to its answer
    this.told = () => {};
    this.answered = () => {};
    this.drawn = () => {};
  }

  play() {
    this.fine = false;
    if (this.ended || this.playing) return;
    this.playing = true;
    this.last = null;
    this.wall = performance.now();
    this.want(this.until_us); // and what the strip shows of just before
  }

  pause() {
    this.tick();
    if (this.playing && this.until_us >= 0) this.look({ from_us: 0, to_us: this.now_us });
    this.playing = false;
  }

  stop() {
    this.playing = false;
    this.ended = true;
  }

  pace(speed) {
    this.tick();
    this.speed = speed;
    this.last = null;
  }

  // The clock goes on as far as is known, and no further: a run that is slower than the clock holds it up.
  tick() {
    const wall = performance.now();
    if (this.playing) {
      const wanted = this.now_us + (wall - this.wall) * 1000 * this.speed;
      const known = this.until_us;
      this.late = wanted > known + 50_000 * this.speed && this.until_us >= 0;
      this.now_us = Math.max(this.now_us, Math.min(wanted, Math.max(known, 0)));
      if (this.now_us >= LONGEST_US) {
        this.playing = false;
        this.told("Ten minutes are the most. What was done is kept until you begin anew.");
      } else if (this.stuck_us !== null) {
        if (this.now_us >= this.stuck_us) this.playing = false;
      } else if (!this.waiting && this.until_us - this.now_us < FRESH_US * Math.max(1, this.speed)) this.want(this.until_us);
    }
    this.wall = wall;
  }

  // The clock waits for the server, hands do not: what is let go, or done soon after something else, comes as long
  // after it as it did for the hand. What is done later is done to what is seen.
  handed(lettingGo) {
    this.tick();
    const wall = performance.now();
    const later = this.last && wall - this.last.wall;
    if (this.last && (lettingGo || later < GESTURE_MS)) this.now_us = Math.max(this.now_us, Math.min(this.last.at_us + later * 1000 * this.speed, LONGEST_US));
    return wall;
  }

  do(action, lettingGo = false) {
    const wall = this.handed(lettingGo);
    // Whoever begins by doing something finds a board that has started.
    if (!this.scripted && !this.actions.length && this.now_us < this.data.ready_us) this.now_us = this.data.ready_us;
    const at_us = Math.round(this.now_us);
    this.last = { at_us, wall };
    // Somebody who went back and does something else lets go what came later.
    // But what a scenario lays out still comes.
    if (!this.scripted) this.actions = this.actions.filter((one) => one.at_us <= at_us);
    this.upsets = this.upsets.filter((one) => one.at_us <= at_us);
    this.faults = this.faults.filter((one) => one.at_us <= at_us).map((one) => ({ ...one, until_us: one.until_us > at_us ? null : one.until_us, ended_us: undefined }));
    if (action.fault) {
      const there = this.faults.find((one) => one.word === action.fault && one.until_us === null && !(one.ended_us <= at_us));
      if (there && !action.passes) there.until_us = at_us;
      else this.faults.push({ word: action.fault, at_us, until_us: null });
      this.changed(at_us);
      return null;
    }
    const { upset, ...rest } = action;
    const made = { ...rest, at_us };
    (upset ? this.upsets : this.actions).push(made);
    this.changed(at_us);
    return made;
  }

  // Whether a fault is in at this instant.
  faulty(word) {
    return this.faults.some((one) => one.word === word && one.at_us <= this.now_us && Math.min(one.until_us ?? Infinity, one.ended_us ?? Infinity) > this.now_us);
  }

  script(actions, seed) {
    Object.assign(this, { actions, seed, scripted: true });
  }

  // How hands have left an input at this instant.
  latest(input) {
    let found;
    for (const one of this.actions) if (one.input === input && one.at_us <= this.now_us && (!found || one.at_us >= found.at_us)) found = one;
    return found;
  }

  down(input, key) {
    let found;
    for (const one of this.actions) {
      if (one.input === input && (key === undefined || one.key === key) && one.at_us <= this.now_us && (!found || one.at_us >= found.at_us)) found = one;
    }
    if (!found) return false;
    return found.kind === "set" ? found.pressed : found.at_us + (found.hold_us ?? 0) > this.now_us;
  }

  turned(input) {
    return this.actions.reduce((sum, one) => (one.kind === "turn" && one.input === input && one.at_us <= this.now_us ? sum + one.clicks : sum), 0);
  }

  letGo(made) {
    if (!made) return;
    const wall = this.handed(true);
    this.last = { at_us: Math.round(this.now_us), wall };
    made.hold_us = Math.max(1000, Math.round(this.now_us) - made.at_us);
    this.changed(made.at_us + made.hold_us);
  }

  changed(at_us) {
    this.asked ??= performance.now();
    this.stuck_us = null;
    this.stale_us = this.stale_us === null ? at_us : Math.min(this.stale_us, at_us);
    this.want(at_us - 1); // whatever else is being asked: its answer is of before this
  }

  body(more = {}) {
    const strip = session.liveWish();
    if (strip) strip.from_us = Math.max(0, Math.round(this.now_us - STRIP_US * Math.max(1, Math.min(this.speed, 1))));
    return {
      revision: this.revision, strip, session: this.session, stimuli: this.actions, upsets: this.upsets, now_us: Math.min(Math.round(this.now_us), LONGEST_US),
      since_us: -1, faults: this.faults.map((one) => [one.word, one.at_us, one.until_us].filter((part) => part !== null).join(":")), ahead_us: Math.round(2e6 * Math.max(1, this.speed)), seed: this.seed, ...more,
    };
  }

  async want(since_us) {
    const mine = (this.asking += 1);
    const since = Math.min(since_us, this.until_us, (this.stale_us ?? Infinity) - 1); // no gap: from where it is known
    this.waiting = true;
    let answer;
    try {
      answer = await ask(`/api/benches/${this.bench}/live`, this.body({ since_us: Math.max(-1, Math.round(since)) }));
    } catch {
      answer = { ok: false, data: { error: "The server cannot be reached.", next: "What was done stays here; go on when it is back." } };
    }
    if (this.ended || mine !== this.asking) return; // something was done meanwhile, and asked for
    this.waiting = false;
    if (!answer.ok) {
      this.playing = false;
      this.stale_us = since + 1;
      this.told([answer.data.error, answer.data.next].filter(Boolean).join(" "));
      return;
    }
    this.stale_us = null;
    if (this.asked) this.waits.push(performance.now() - this.asked);
    this.asked = undefined;
    this.take(answer.data, since);
    this.tick();
    this.answered();
  }

  // A look at what was played, for the strip alone: the latest wish counts.
  async look(wish) {
    const mine = (this.looks = (this.looks ?? 0) + 1);
    const strip = session.liveWish();
    if (!strip) return;
    const answer = await ask(`/api/benches/${this.bench}/live`, this.body({ since_us: Math.round(this.until_us), strip: { ...strip, ...wish, from_us: Math.max(0, Math.round(wish.from_us)), to_us: Math.round(wish.to_us) } })).catch(() => null);
    if (answer?.ok && mine === this.looks && !this.ended && !this.playing) this.drawn(answer.data.window);
  }

  // The next pass of the loop, and no further.
  async pass() {
    this.pause();
    this.waiting = true;
    const answer = await ask(`/api/benches/${this.bench}/live`, this.body({ since_us: Math.max(-1, Math.round(this.until_us)), strip: null })).catch(() => null);
    this.waiting = false;
    if (!answer?.ok) return this.told([answer?.data.error ?? "The server cannot be reached.", answer?.data.next].filter(Boolean).join(" "));
    if (this.ended || this.playing) return;
    const at = answer.data.next_pass_us;
    if (this.until_us < answer.data.until_us) this.take(answer.data, this.until_us);
    if (at === null) this.told("No pass begins in the next seconds: the board sleeps, or stands still.");
    else Object.assign(this, { now_us: at, fine: true });
    this.answered();
  }

  take({ until_us, stopped, changes, happened, window, ended = {} }, since_us) {
    // A reset has ended those that were in the firmware.
    for (const [place, at_us] of Object.entries(ended)) if (this.faults[place]) this.faults[place].ended_us = at_us;
    if (window) this.drawn(window);
    for (const one of this.signals.values()) {
      while (one.times.length && one.times.at(-1) > since_us) {
        one.times.pop();
        one.values.pop();
      }
    }
    for (const [kind, rows] of Object.entries(changes)) {
      for (const [of, found] of Object.entries(rows)) {
        const name = `${kind} ${of}`;
        if (!this.signals.has(name)) this.signals.set(name, { times: [], values: [] });
        const one = this.signals.get(name);
        for (const [at, value] of found) {
          one.times.push(at);
          one.values.push(value);
        }
      }
    }
    this.happened = [...this.happened.filter((one) => one.at_us <= since_us), ...happened];
    this.until_us = until_us;
    if (stopped) {
      this.stuck_us = until_us;
      this.told(`${stopped} The panel goes no further; begin anew.`);
    }
  }

  // The place of the last change at or before an instant; -1 for none.
  place(one, at_us) {
    let low = 0;
    let high = one.times.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (one.times[middle] <= at_us) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  }

  value(kind, of, at_us = this.now_us) {
    const one = this.signals.get(`${kind} ${of}`);
    return one?.values[this.place(one, at_us)];
  }

  // How many presses the firmware has counted of a contact by now.
  counted(of) {
    const one = this.signals.get(`cleaned ${of}`);
    const last = one ? this.place(one, this.now_us) : -1;
    let many = 0;
    for (let at = 1; at <= last; at += 1) if (one.values[at] === 1 && one.values[at - 1] === 0) many += 1;
    return many;
  }

  since(kind, of) {
    const one = this.signals.get(`${kind} ${of}`);
    return one?.times[this.place(one, this.now_us)];
  }

  // How much of the time up to now it was on, as an eye has it: a blink that is too fast to see is a glow.
  glow(of, over_us) {
    const kind = this.signals.has(`duty ${of}`) ? "duty" : "output";
    const one = this.signals.get(`${kind} ${of}`);
    if (!one) return 0;
    const from = this.now_us - over_us;
    let to = this.now_us;
    let sum = 0;
    for (let at = this.place(one, to); at >= 0 && to > from; at -= 1) {
      const begins = Math.max(one.times[at], from);
      sum += (to - begins) * Math.max(0, one.values[at]);
      to = begins;
    }
    return Math.min(1, sum / over_us / (kind === "duty" ? 100 : 1));
  }

  next() {
    this.pause();
    const at = this.happened.find((one) => one.at_us > this.now_us)?.at_us;
    if (at === undefined) this.told("Nothing happens by itself within the next seconds.");
    else this.now_us = at;
  }

  back(at_us) {
    this.pause();
    this.now_us = at_us;
  }
}
