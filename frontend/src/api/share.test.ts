import { expect, test } from "vitest";
import { shared } from "./share";

test("what is equal keeps its identity, what is not does not", () => {
  const last = { steps: [{ a: 1 }, { a: 2 }], curve: { x: [1, 2], key: "" }, none: null };
  const next = { steps: [{ a: 1 }, { a: 3 }], curve: { x: [1, 2], key: "" }, none: null };
  const made = shared(last, next) as typeof last;
  expect(made).toEqual(next);
  expect(made.curve).toBe(last.curve);
  expect(made.steps).not.toBe(last.steps);
  expect(made.steps[0]).toBe(last.steps[0]);
  expect(shared(last, structuredClone(last))).toBe(last);
});

test("fewer or more of something is a change", () => {
  expect(shared([1, 2], [1])).toEqual([1]);
  expect(shared([1], [1, 2])).toEqual([1, 2]);
  expect(shared({ a: 1, b: 2 }, { a: 1 })).toEqual({ a: 1 });
  expect(shared({ a: undefined }, { b: undefined })).toEqual({ b: undefined });
  expect(shared({ a: [1] }, { a: null })).toEqual({ a: null });
  expect(shared([], {})).toEqual({});
});

test("a list of more than 2,000 is taken as it comes", () => {
  const rows = (count: number) => Array.from({ length: count }, (_, id) => ({ id }));
  const short = rows(2000);
  expect(shared(short, rows(2000))).toBe(short);
  const long = rows(2001);
  const next = rows(2001);
  expect(shared(long, next)).toBe(next);
});
