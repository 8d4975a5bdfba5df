/* What this browser keeps of a person's choices; one that keeps nothing holds them for as long as the page is open. */

export function kept(key: string): string | null {
  try {
    return localStorage.getItem(`dosis ${key}`);
  } catch {
    return null;
  }
}

/** Keep a choice, or forget it. */
export function keep(key: string, value: string | null): void {
  try {
    if (value === null) localStorage.removeItem(`dosis ${key}`);
    else localStorage.setItem(`dosis ${key}`, value);
  } catch {
    // The page has it.
  }
}
