// Pages without a bench: the theme, and forms that send themselves or ask first.
export function turnTheme() {
  const theme = document.documentElement.dataset.theme === "dark" ? "light" : "dark";
  document.documentElement.dataset.theme = theme;
  try {
    localStorage.setItem("theme", theme);
  } catch {
    // Without storage it holds until the page is left.
  }
  document.dispatchEvent(new CustomEvent("vt:theme"));
}

export function plain() {
  return {
    turnTheme,
    print: () => window.print(),
    // One card after another, in the order in which they stand.
    async lookAtAll() {
      for (const place of this.$root.querySelectorAll("[data-card]")) {
        try {
          const answer = await fetch(place.dataset.card);
          if (!answer.ok) continue;
          place.innerHTML = await answer.text();
          const { station } = place.querySelector("[data-station]").dataset;
          place.href = place.href.replace(/[a-z]+$/, station);
        } catch {
          return;
        } finally {
          place.removeAttribute("aria-busy");
        }
      }
    },
    // By what is typed and by the tags that are pressed: only benches that have all of it.
    narrow() {
      const words = (document.getElementById("find-bench")?.value ?? "").toLowerCase().split(/\s+/).filter(Boolean);
      const tags = [...this.$root.querySelectorAll("[data-tag][aria-pressed=true]")].map((one) => one.dataset.tag);
      let shown = 0;
      for (const card of this.$root.querySelectorAll("[data-known]")) {
        const own = card.dataset.tags.split("|");
        card.hidden = !(words.every((word) => card.dataset.known.includes(word)) && tags.every((tag) => own.includes(tag)));
        shown += card.hidden ? 0 : 1;
      }
      document.getElementById("found-none").hidden = shown > 0;
    },
    init() {
      this.lookAtAll();
      this.$root.addEventListener("input", (event) => event.target.id === "find-bench" && this.narrow());
      this.$root.addEventListener("click", ({ target }) => {
        const tag = target.closest("[data-tag]");
        if (!tag) return;
        tag.setAttribute("aria-pressed", String(tag.getAttribute("aria-pressed") !== "true"));
        this.narrow();
      });
      this.$root.addEventListener("change", (event) => {
        const form = event.target.closest("[data-send-on-change]");
        if (form && event.target.value) form.requestSubmit();
      });
      this.$root.addEventListener("submit", (event) => {
        const question = event.target.dataset.ask;
        if (question && !confirm(question)) event.preventDefault();
      });
    },
  };
}
