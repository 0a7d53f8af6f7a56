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
    init() {
      this.lookAtAll();
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
