/* Places and windows of the axis as they are typed, several at a time. */

export interface Span {
  lower: number | null;
  upper: number | null;
}

function number(text: string): number {
  return Number(text.trim().replace(",", ".").replace("−", "-"));
}

/** "452; 565" or "452 565"; null where something in it is no number. */
export function readPlaces(text: string): number[] | null {
  const parts = text.split(/[;\s]+|,\s+/).filter(Boolean);
  const found = parts.map(number);
  return found.every(Number.isFinite) ? found : null;
}

/** "400–420; 700–750"; null where something in it is no window. */
export function readSpans(text: string): Span[] | null {
  const parts = text
    .split(/;|,\s+/)
    .map((part) => part.trim())
    .filter(Boolean);
  const found = parts.map((part) => part.split(/\s*(?:–|to|-|\s)\s*/).map(number));
  if (!found.every((ends) => ends.length === 2 && ends.every(Number.isFinite))) return null;
  return found.map(([a, b]) => ({ lower: Math.min(a!, b!), upper: Math.max(a!, b!) }));
}

/** "565/498; 620/565"; null where something in it is no ratio. */
export function readRatios(text: string): { over: number; under: number }[] | null {
  const parts = text
    .split(/;|,\s+|\s+(?=\d)/)
    .map((part) => part.trim())
    .filter(Boolean);
  const found = parts.map((part) => part.split(/[/:]/).map(number));
  if (!found.every((ends) => ends.length === 2 && ends.every(Number.isFinite))) return null;
  return found.map(([over, under]) => ({ over: over!, under: under! }));
}

export function spansText(spans: readonly { lower?: number | null; upper?: number | null }[]): string {
  return spans.map((each) => `${each.lower ?? ""}–${each.upper ?? ""}`).join("; ");
}
