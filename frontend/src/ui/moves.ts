/* The arrow keys, as steps of row and column. */

export const MOVES: Record<string, readonly [row: number, column: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};
