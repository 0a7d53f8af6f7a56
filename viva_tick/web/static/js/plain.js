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
    init() {
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
