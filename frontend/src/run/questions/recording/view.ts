/* The stretch of time that is seen, and what moves it. */

export interface Window {
  from: number;
  to: number;
}

/** Kept within the whole, and no narrower than a millionth of it. */
export function within(window: Window, whole: Window): Window {
  const all = whole.to - whole.from;
  const span = Math.min(Math.max(window.to - window.from, all * 1e-6), all);
  const from = Math.min(Math.max(window.from, whole.from), whole.to - span);
  return { from, to: from + span };
}

/** Narrower or wider by a factor, about a time that stays where it is. */
export function zoomed(window: Window, by: number, about: number): Window {
  return { from: about - (about - window.from) * by, to: about + (window.to - about) * by };
}

export function moved(window: Window, by: number): Window {
  return { from: window.from + by, to: window.to + by };
}
