import { expect, test } from "vitest";
import { moved, within, zoomed } from "./view";

const WHOLE = { from: 0, to: 100 };

test("a window stays within the recording, with its width", () => {
  expect(within({ from: -20, to: 10 }, WHOLE)).toEqual({ from: 0, to: 30 });
  expect(within({ from: 90, to: 120 }, WHOLE)).toEqual({ from: 70, to: 100 });
  expect(within({ from: -50, to: 500 }, WHOLE)).toEqual(WHOLE);
});

test("zooming leaves the time under the pointer where it is", () => {
  const near = zoomed({ from: 20, to: 60 }, 0.5, 30);
  expect(near).toEqual({ from: 25, to: 45 });
  expect((30 - near.from) / (near.to - near.from)).toBeCloseTo((30 - 20) / 40);
});

test("moving keeps the width", () => {
  expect(moved({ from: 20, to: 60 }, -5)).toEqual({ from: 15, to: 55 });
});
