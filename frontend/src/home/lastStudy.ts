/* The study that was looked at last in this browser, which Home opens on. */
const KEY = "dosis.study";

export function lastStudy(): number | null {
  return Number(localStorage.getItem(KEY)) || null;
}

export function keepLastStudy(study: number): void {
  localStorage.setItem(KEY, String(study));
}
