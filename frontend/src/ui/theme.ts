/** Light or dark: as chosen here, else as the system has it. */
const KEY = "jaskel.theme";

export function applyTheme() {
  const chosen = localStorage.getItem(KEY);
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset["theme"] = dark ? "dark" : "light";
}

export function toggleTheme() {
  localStorage.setItem(KEY, document.documentElement.dataset["theme"] === "dark" ? "light" : "dark");
  applyTheme();
  window.dispatchEvent(new Event("themechange"));
}
