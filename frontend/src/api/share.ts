/* What a new answer of the server has in common with the last one keeps its identity, so that only what changed is drawn
   again. Looking through thousands of rows for that takes longer than drawing the few that are in view. */

const LONG = 2000;

/** `next`, with the parts that equal those of `last` taken from it; lists that are long are taken as they come. */
export function shared(last: unknown, next: unknown): unknown {
  if (Object.is(last, next)) return last;
  if (Array.isArray(last) && Array.isArray(next)) {
    if (next.length > LONG) return next;
    let same = last.length === next.length;
    const made = next.map((each, i) => {
      const part = i < last.length ? shared(last[i], each) : each;
      same &&= i < last.length && Object.is(part, last[i]);
      return part;
    });
    return same ? last : made;
  }
  if (isRecord(last) && isRecord(next)) {
    const keys = Object.keys(next);
    let same = keys.length === Object.keys(last).length;
    const made: Record<string, unknown> = {};
    for (const key of keys) {
      const part = key in last ? shared(last[key], next[key]) : next[key];
      made[key] = part;
      same &&= key in last && Object.is(part, last[key]);
    }
    return same ? last : made;
  }
  return next;
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
