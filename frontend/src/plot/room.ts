/* Finding room on a drawing: what stands there is entered on a grid of pixels, and labels go where nothing does. */

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

const CELL = 2; // pixels to a cell: fine enough for a label, and quick
const RIM = 2; // pixels kept free around a label

export class Room {
  private readonly across: number;
  private readonly down: number;
  private readonly taken: Uint8Array;

  constructor(private readonly frame: Box) {
    this.across = Math.max(Math.floor(frame.width / CELL), 1);
    this.down = Math.max(Math.floor(frame.height / CELL), 1);
    this.taken = new Uint8Array(this.across * this.down);
  }

  take({ left, top, width, height }: Box): void {
    const clamp = (value: number, most: number) => Math.min(Math.max(value, 0), most);
    const x0 = clamp(Math.floor((left - this.frame.left) / CELL), this.across);
    const x1 = clamp(Math.ceil((left + width - this.frame.left) / CELL), this.across);
    const y0 = clamp(Math.floor((top - this.frame.top) / CELL), this.down);
    const y1 = clamp(Math.ceil((top + height - this.frame.top) / CELL), this.down);
    for (let y = y0; y < y1; y++) this.taken.fill(1, y * this.across + x0, y * this.across + x1);
  }

  takeLine(xs: readonly number[], ys: readonly number[]): void {
    for (let i = 1; i < xs.length; i++) {
      const [dx, dy] = [xs[i]! - xs[i - 1]!, ys[i]! - ys[i - 1]!];
      const steps = Math.ceil(Math.max(Math.abs(dx), Math.abs(dy)) / CELL) + 1;
      if (!(steps < 4000)) continue;
      for (let k = 0; k <= steps; k++)
        this.take({
          left: xs[i - 1]! + (dx * k) / steps - 1,
          top: ys[i - 1]! + (dy * k) / steps - 1,
          width: 2,
          height: 2,
        });
    }
  }

  /** The free place of that size nearest to a point, within so many pixels of it; null where there is none. */
  free(
    width: number,
    height: number,
    near: { x: number; y: number },
    most = Number.POSITIVE_INFINITY,
  ): Box | null {
    const wide = Math.ceil((width + 2 * RIM) / CELL);
    const high = Math.ceil((height + 2 * RIM) / CELL);
    const sums = this.sums();
    const stride = this.across + 1;
    let best: Box | null = null;
    let closest = most * most;
    for (let y = 0; y + high <= this.down; y++)
      for (let x = 0; x + wide <= this.across; x++) {
        const count =
          sums[(y + high) * stride + x + wide]! - sums[y * stride + x + wide]! -
          sums[(y + high) * stride + x]! + sums[y * stride + x]!; // biome-ignore format: a sum over a rectangle
        if (count > 0) continue;
        const left = this.frame.left + x * CELL + RIM;
        const top = this.frame.top + y * CELL + RIM;
        // To the nearest point of the label, so that it may stand to any side.
        const dx = Math.max(left - near.x, 0, near.x - left - width);
        const dy = Math.max(top - near.y, 0, near.y - top - height);
        const far = dx * dx + dy * dy;
        if (far < closest) {
          closest = far;
          best = { left, top, width, height };
        }
      }
    return best;
  }

  private sums(): Int32Array {
    const stride = this.across + 1;
    const made = new Int32Array(stride * (this.down + 1));
    for (let y = 0; y < this.down; y++) {
      let row = 0;
      for (let x = 0; x < this.across; x++) {
        row += this.taken[y * this.across + x]!;
        made[(y + 1) * stride + x + 1] = made[y * stride + x + 1]! + row;
      }
    }
    return made;
  }
}
