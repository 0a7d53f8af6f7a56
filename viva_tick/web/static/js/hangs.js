// Hang tests: one fault after another is asked of the server, each fills its row; it can be stopped between two.
import { ask } from "./net.js";
import { session } from "./session.js";

let going = 0;

async function tryAll(button) {
  const mine = (going += 1);
  const rows = [...document.querySelectorAll("[data-hang]")];
  const bar = document.getElementById("hangs-going");
  const say = document.getElementById("hangs-said");
  bar.hidden = false;
  button.disabled = true;
  let done = 0;
  let runs = 0;
  let failed = "";
  for (const row of rows) {
    if (mine !== going || !row.isConnected) break;
    bar.querySelector("progress").value = done / rows.length;
    bar.querySelector("span").textContent = `${done} of ${rows.length} faults, ${row.dataset.name}`;
    const query = new URLSearchParams({ scenario: session.place.scenario, fault: row.dataset.hang, of: row.dataset.of });
    try {
      const answer = await ask(`/api/benches/${session.bench}/hangs?${query}`);
      if (!answer.ok) failed = answer.data.error ?? "The bench has changed; try them again.";
      else if (row.isConnected) row.innerHTML = answer.data.html;
      runs += answer.data.row?.tried ?? 0;
    } catch {
      failed = "The server cannot be reached; what was tried so far stands.";
    }
    if (failed) break;
    done += 1;
  }
  if (!bar.isConnected) return;
  bar.hidden = true;
  button.disabled = false;
  say.textContent = failed || (done < rows.length ? `Stopped: ${done} of ${rows.length} faults tried.` : `${runs} runs. A row shows its worst one on the strip.`);
}

export function listenHangs() {
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("#try-hangs");
    if (button) tryAll(button);
    if (event.target.closest?.("#stop-hangs")) going += 1;
  });
}
