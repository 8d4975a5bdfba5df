/* A level as it is shown beside a name: as short as it was given. */

export function shownLevel(level: number): string {
  return String(+level.toPrecision(4))
    .replace("-", "−")
    .replace(/e\+?(.+)$/, " × 10^$1");
}
