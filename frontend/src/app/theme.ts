/* Light or dark: as the system has it, or as a person has set it; the choice is kept in this browser. */
export type Theme = "system" | "light" | "dark";
const KEY = "dosis theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

export function chosenTheme(): Theme {
  try {
    const kept = localStorage.getItem(KEY);
    return kept === "light" || kept === "dark" ? kept : "system";
  } catch {
    return "system"; // a browser that keeps nothing
  }
}

function show(theme: Theme): void {
  const shown = theme === "system" ? (dark.matches ? "dark" : "light") : theme;
  document.documentElement.dataset.theme = shown;
  document.documentElement.style.colorScheme = shown;
}

export function chooseTheme(theme: Theme): void {
  try {
    if (theme === "system") localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, theme);
  } catch {
    // It holds for as long as the page is open.
  }
  show(theme);
}

/** What stands on paper is light: the tokens of the light theme, read while nothing is painted. */
export function inLight<T>(read: () => T): T {
  const { dataset } = document.documentElement;
  const shown = dataset.theme;
  dataset.theme = "light";
  try {
    return read();
  } finally {
    if (shown) dataset.theme = shown;
  }
}

export function startTheme(): void {
  show(chosenTheme());
  dark.addEventListener("change", () => show(chosenTheme()));
}
