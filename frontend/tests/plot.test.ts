/* Scales, notation, limits and what a figure is laid out by. */
import { describe, expect, test } from "vitest";
import type { Curve } from "../src/api/schema";
import { polyline, ribbon } from "../src/plot/path";
import { alike, linearX, logBetween, logX, notation } from "../src/plot/scales";
import { residualOf } from "../src/run/figure/choices";
import { edgesOf, scalesOf, shifted, stretched, WHOLE, within } from "../src/run/figure/limits";
import { LEFT, plotOf, TOP } from "../src/run/figure/plot";

const point = (x: number, y: number, residual: number | null = 0, state = "used") =>
  ({ reading: x, group: "g", x, y, residual, state }) as Curve["points"][number];

function curveOf(parts: Partial<Curve>): Curve {
  const line = { x: [0, 10], y: [0, 1], ...BARE };
  return { points: [], samples: [], means: [], line, levels: [], ...parts } as unknown as Curve;
}

describe("ticks", () => {
  test("of a linear axis all have as many decimals as the finest needs", () => {
    expect([0, 0.25, 0.5].map(alike([0, 0.25, 0.5]))).toEqual(["0", "0.25", "0.50"]);
    expect([-0.5, 0, 0.5].map(alike([-0.5, 0, 0.5]))).toEqual(["−0.5", "0", "0.5"]);
    expect(alike([0, 1])(-0.0)).toBe("0");
  });
  test("beyond a million, and below a ten-thousandth, share a power of ten", () => {
    expect([0, 500_000, 1_000_000].map(alike([0, 500_000, 1_000_000]))).toEqual(["0", "0.5·10⁶", "1.0·10⁶"]);
    expect(alike([0, 999_000])(999_000)).toBe("999000");
    expect(alike([0, 0.00009])(0.00009)).toBe("9·10⁻⁵");
    expect(alike([0, 0.0001])(0.0001)).toBe("0.0001");
  });
  test("of a log axis are plain numbers where these stay short, else powers", () => {
    expect([0.01, 1, 100].map(notation([0.01, 100]))).toEqual(["0.01", "1", "100"]);
    expect([1e-6, 2e-3].map(notation([1e-6, 1]))).toEqual(["10⁻⁶", "2·10⁻³"]);
    expect(notation([1, 1e6])(1e6)).toBe("10⁶");
  });
});

describe("a log axis", () => {
  const x = logX(1, 100, true, [0, 300]);
  test("puts zero before its break, and inverts what it places", () => {
    expect(x(0)).toBe(8);
    expect(x.gap).toEqual([20, 28]);
    expect(x.invert(x(10))).toBeCloseTo(10, 9);
    expect(x(1)).toBeGreaterThan(x.gap![1]);
    expect(x.ticks(5)[0]).toBe(0);
  });
  test("has no break without a zero", () => {
    expect(logX(1, 100, false, [0, 300]).gap).toBeNull();
    expect(logBetween([1, 100], false, [0, 200])(10)).toBeCloseTo(100);
  });
  test("shows decades where there are three, else 1, 2 and 5", () => {
    expect(logBetween([1, 1000], false, [0, 300]).ticks(8)).toEqual([1, 10, 100, 1000]);
    expect(logBetween([1, 10], false, [0, 300]).ticks(8)).toEqual([1, 2, 5, 10]);
  });
});

test("a linear axis places and inverts", () => {
  const x = linearX([0, 10], [100, 200]);
  expect([x(0), x(5), x.invert(200)]).toEqual([100, 150, 10]);
});

test("paths go through every point; a band without an interval is none", () => {
  expect(polyline([0, 10], [5, 7])).toBe("M0,5L10,7");
  expect(ribbon([0, 10], [], [])).toBe("");
  expect(ribbon([0, 10], [1, 2], [3, 4])).toContain("Z");
});

describe("limits", () => {
  test("hold their ends; without any everything is within", () => {
    expect([within(1, [1, 2]), within(2, [1, 2]), within(2.01, [1, 2]), within(1e9, null)]).toEqual([
      true,
      true,
      false,
      true,
    ]);
    expect(edgesOf([3, 9, 4])).toEqual([3, 4]);
  });
  test("stretch about a place that stays, and shift as a whole", () => {
    expect(stretched([0, 10], 0.2, 0.5, false)).toEqual([1, 9]);
    expect(stretched([0, 10], 0.2, 0, false)).toEqual([0, 8]);
    expect(stretched([1, 100], 0.5, 1, true)[0]).toBeCloseTo(10);
    expect(shifted([0, 10], 0.5, false)).toEqual([5, 15]);
    expect(shifted([1, 100], 0.5, true)).toEqual([10, 1000]);
  });
  test("start at zero unless signals lie clearly below it", () => {
    const domain = (y: number) =>
      scalesOf(
        [curveOf({ points: [point(1, y), point(2, 1)], line: NONE })],
        WHOLE,
        false,
        [0, 1],
        [1, 0],
      ).y.domain()[0];
    expect(domain(-0.02)).toBe(0);
    expect(domain(-0.2)).toBeLessThan(0);
  });
  test("give lines that run off no more than half of the readings' span", () => {
    const wild = { x: [0, 10], y: [-1000, 1000], ...BARE };
    const { y } = scalesOf(
      [curveOf({ points: [point(1, 0), point(9, 10)], line: wild })],
      WHOLE,
      false,
      [0, 1],
      [1, 0],
    );
    expect(y.domain()).toEqual([-6, 16]); // half beyond either end, and on to the next tick
  });
});

const BARE = { lower: [], upper: [], one_lower: [], one_upper: [] };
const NONE = { x: [], y: [], ...BARE };

describe("residuals", () => {
  test("are raw, in percent of the curve, or in RMSEs", () => {
    const one = point(1, 110, 10);
    expect(residualOf(one, "raw", 5)).toBe(10);
    expect(residualOf(one, "percent", 5)).toBe(10);
    expect(residualOf(one, "standardized", 5)).toBe(2);
    expect(residualOf(one, "standardized", null)).toBe(10);
    expect(residualOf(point(1, 10, 10), "percent", 5)).toBe(0);
  });

  const asked = { width: 600, curves: [], limits: WHOLE, log: false, ruler: [], fromZero: true } as const;
  test("have a strip of their own where there is room", () => {
    const curve = curveOf({ points: [point(1, 1, 0.1), point(2, 2, -0.2)] });
    const tall = plotOf({ ...asked, curve, curves: [curve], height: 300, residuals: "raw" });
    expect(tall.strip).not.toBeNull();
    expect(tall.floor).toBeGreaterThan(tall.bottom);
    for (const [height, residuals] of [
      [230, "raw"],
      [300, null],
    ] as const) {
      const none = plotOf({ ...asked, curve, curves: [curve], height, residuals });
      expect(none.strip).toBeNull();
      expect(none.floor).toBe(none.bottom);
    }
    expect(tall.x.range[0]).toBe(LEFT);
    expect(tall.y.range().at(-1)).toBe(TOP);
  });
  test("left out are shown up to four times those of the curve, beyond that by an arrow", () => {
    const strip = (out: number) => {
      const curve = curveOf({ points: [point(1, 1, 1), point(2, 2, out, "excluded")] });
      return plotOf({ ...asked, curve, curves: [curve], height: 300, residuals: "raw" }).strip!.reach;
    };
    expect(strip(4)).toBeCloseTo(1.15 * 4);
    expect(strip(4.01)).toBeCloseTo(1.15);
  });
});
