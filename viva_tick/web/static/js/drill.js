// A drill: something is asked of the hidden bench, and answered.
import { post } from "./session.js";

export function listenDrill() {
  document.addEventListener("click", ({ target }) => {
    const asks = target.closest?.("[data-drill-ask]");
    if (!asks) return;
    const { drillAsk: what, drillFrom: from, drillOf } = asks.dataset;
    const of = from ? document.getElementById(from).value : drillOf ?? "";
    if (what === "give-up" && !confirm("Give up, and be told?")) return;
    if (what === "state" && !of) return;
    post("ask", { what, of }, asks);
  });
}
