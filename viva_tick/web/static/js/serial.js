// What a board prints, as it comes: over the serial port, where the browser offers one, or from a board that is simulated.
import { ask } from "./net.js";
import { session } from "./session.js";

export const hasPort = () => "serial" in navigator;

// A port as the browser gives it: `open`, `readable`, `close`.
async function realPort(baudRate) {
  const port = await navigator.serial.requestPort();
  await port.open({ baudRate });
  return port;
}

// The same of the simulated board: its lines come when it has them.
async function simulatedPort() {
  const answer = await ask(`/api/benches/${session.bench}/simulated`, { as: "trace", scenario: session.place.scenario });
  if (!answer.ok) throw new Error([answer.data.error, answer.data.next].join(" "));
  const lines = answer.data.text.split("\n");
  const began = performance.now();
  let timer = 0;
  let next = 0;
  const readable = new ReadableStream({
    start(stream) {
      const say = () => {
        while (next < lines.length && performance.now() - began >= answer.data.at_ms[next]) stream.enqueue(new TextEncoder().encode(`${lines[next++]}\r\n`));
        if (next === lines.length) return stream.close();
        timer = setTimeout(say, Math.max(answer.data.at_ms[next] - (performance.now() - began), 4));
        return null;
      };
      say();
    },
    cancel: () => clearTimeout(timer),
  });
  return { readable, close: async () => clearTimeout(timer) };
}

// Lines, each with when it came (ms); until the port ends, goes away or is let go. `heard` is told after each.
export class Listening {
  constructor(heard, ended) {
    Object.assign(this, { heard, ended, lines: [], came: [], reader: null, on: true });
  }

  async from(simulated, baud) {
    let port = null;
    let said = "";
    try {
      port = simulated ? await simulatedPort() : await realPort(baud);
      this.reader = port.readable.getReader();
      if (!this.on) await this.stop();
      await this.read();
    } catch (error) {
      said = error.name === "NotFoundError" ? "No port was chosen." : `The port went away (${error.message}); what came is kept.`;
    }
    this.reader?.releaseLock();
    await port?.close().catch(() => null);
    this.on = false;
    this.ended(said);
  }

  async read() {
    const decoder = new TextDecoder();
    let rest = "";
    for (;;) {
      const { value, done } = await this.reader.read();
      if (done) return;
      const now = performance.now();
      const parts = (rest + decoder.decode(value, { stream: true })).split(/\r?\n/);
      rest = parts.pop();
      for (const line of parts) {
        this.lines.push(line);
        this.came.push(now);
      }
      if (parts.length) this.heard();
    }
  }

  async stop() {
    this.on = false;
    await this.reader?.cancel().catch(() => null);
  }
}
