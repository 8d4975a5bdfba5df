/* A number as a well has room for it: rounded, never cut in its middle. */

const DIGIT = 5.7; // px of a digit of the small face

/** The text where it fits; a number with fewer digits, two at least; nothing where not even those fit. */
export function fitting(text: string, width: number): string {
  const room = Math.floor((width - 3) / DIGIT);
  if (text.length <= room) return text;
  const value = Number(text.replace("−", "-"));
  if (text.trim() === "" || !Number.isFinite(value)) return room >= 3 ? `${text.slice(0, room - 1)}…` : "";
  for (let digits = 6; digits >= 2; digits--) {
    const shorter = shown(value, digits).find((each) => each.length <= room);
    if (shorter !== undefined) return shorter;
  }
  return "";
}

function shown(value: number, digits: number): string[] {
  const rounded = value.toPrecision(digits);
  const plain = rounded.includes("e") ? (Math.abs(value) < 1e5 ? String(Number(rounded)) : null) : rounded;
  const power = value.toExponential(Math.max(digits - 2, 0)).replace("e+", "e");
  return [plain, plain?.replace(/^(-?)0\./, "$1."), power]
    .filter((each): each is string => each != null)
    .map((each) => each.replace("-", "−"));
}
