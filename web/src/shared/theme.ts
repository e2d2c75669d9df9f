// Light or dark: the person's choice, otherwise the system's.
const KEY = "zugzwang-theme";
type Theme = "light" | "dark";

export function currentTheme(): Theme {
  return document.documentElement.dataset.theme === "dark" ? "dark" : "light";
}

export function startTheme(): void {
  const chosen = localStorage.getItem(KEY);
  const system = matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  apply(chosen === "light" || chosen === "dark" ? chosen : system);
}

export function switchTheme(): void {
  const next: Theme = currentTheme() === "dark" ? "light" : "dark";
  localStorage.setItem(KEY, next);
  apply(next);
}

function apply(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  window.dispatchEvent(new Event("themechange"));
}
