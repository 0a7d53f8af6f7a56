// Before anything is painted: the theme that was chosen, or the system's.
(() => {
  let theme = null;
  try {
    theme = localStorage.getItem("theme");
  } catch {
    // Without storage the system's theme holds.
  }
  const dark = matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = theme ?? (dark ? "dark" : "light");
})();
