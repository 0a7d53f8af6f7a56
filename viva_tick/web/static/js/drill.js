// A drill: something is asked of the hidden bench, and answered. And what is kept on the shelf.
import { ask } from "./net.js";
import { post, session } from "./session.js";

// Something of the bench is kept on the shelf.
async function keep({ keepKind, keepOf }) {
  const answer = await ask(`/api/benches/${session.bench}/shelf/${keepKind}`, { of: keepOf }).catch(() => null);
  const said = answer?.ok ? answer.data.said : answer?.data.error ?? "Not kept: the server cannot be reached.";
  document.dispatchEvent(new CustomEvent("vt:said", { detail: said }));
}

export function listenDrill() {
  document.addEventListener("click", ({ target }) => {
    const kept = target.closest?.("[data-keep-kind]");
    if (kept) return keep(kept.dataset);
    const asks = target.closest?.("[data-drill-ask]");
    if (!asks) return null;
    const { drillAsk: what, drillFrom: from, drillOf } = asks.dataset;
    const of = from ? document.getElementById(from).value : drillOf ?? "";
    if (what === "give-up" && !confirm("Give up, and be told?")) return null;
    if (what === "state" && !of) return null;
    return post("ask", { what, of }, asks);
  });
}
