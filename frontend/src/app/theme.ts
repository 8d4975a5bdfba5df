/* Light or dark: as the system has it, or as a person has set it; the choice is kept in this browser. */
import { keep, kept } from "./kept";

export type Theme = "system" | "light" | "dark";
const KEY = "theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

export function chosenTheme(): Theme {
  const chosen = kept(KEY);
  return chosen === "light" || chosen === "dark" ? chosen : "system";
}

function show(theme: Theme): void {
  const shown = theme === "system" ? (dark.matches ? "dark" : "light") : theme;
  document.documentElement.dataset.theme = shown;
  document.documentElement.style.colorScheme = shown;
}

export function chooseTheme(theme: Theme): void {
  keep(KEY, theme === "system" ? null : theme);
  show(theme);
}

export function startTheme(): void {
  show(chosenTheme());
  dark.addEventListener("change", () => show(chosenTheme()));
}
