// Another hand at the panel: a modelled one, watched as it plays, or for a thousand actions at once.
import { ask } from "../net.js";
import { session } from "../session.js";

let playing = 0; // the number of the thousand that was asked for last
const kept = { bench: 0, revision: 0, html: "" };

const who = () => document.getElementById("hand-who").value;
const said = () => document.getElementById("hand-said");
const url = () => `/api/benches/${session.bench}/hand`;

const wrong = (answer) => [answer.data.error, answer.data.next].filter(Boolean).join(" ");
const away = { ok: false, data: { error: "The server cannot be reached.", next: "Try again when it is back." } };

// A few rounds with each answer, until there are a thousand; the same press stops it.
async function thousand(button) {
  const mine = (playing += 1);
  if (button.dataset.busy) return stop(button);
  button.dataset.busy = "yes";
  button.textContent = "Stop";
  const person = who();
  for (let upto = 5, most = 40; upto <= most; ) {
    const answer = await ask(url(), { who: person, upto }).catch(() => away);
    if (mine !== playing || !said()) break;
    if (!answer.ok) {
      said().textContent = wrong(answer);
      break;
    }
    Object.assign(kept, { bench: session.bench, revision: session.revision, html: answer.data.html });
    said().innerHTML = answer.data.html;
    most = answer.data.rounds;
    upto += answer.data.batch;
  }
  if (mine === playing) stop(button);
}

function stop(button) {
  playing += 1;
  delete button.dataset.busy;
  button.textContent = "A thousand actions";
}

export function listenHand(replay, say) {
  async function watch(person, round, from_us) {
    const answer = await ask(url(), { who: person, round }).catch(() => away);
    if (!answer.ok) return say(wrong(answer));
    replay(answer.data.stimuli, answer.data.seed, from_us);
    document.getElementById("try-desk").scrollIntoView({ block: "start" });
    return say(`${answer.data.name}${from_us ? `, at ${(from_us / 1e6).toFixed(1)} s` : ""}. Step in whenever you like.`);
  }

  document.addEventListener("click", ({ target }) => {
    const button = target.closest?.("#hand-watch, #hand-play, [data-hand-round]");
    if (!button) return;
    if (button.id === "hand-play") thousand(button);
    else if (button.id === "hand-watch") watch(who(), 0, 0);
    else watch(button.dataset.handWho, Number(button.dataset.handRound), Math.max(0, Number(button.dataset.handAt) - 700_000));
  });
  // What it said stays while the bench is the same.
  document.addEventListener("vt:view", () => queueMicrotask(() => {
    if (said() && kept.bench === session.bench && kept.revision === session.revision && !said().innerHTML) said().innerHTML = kept.html;
  }));
}
