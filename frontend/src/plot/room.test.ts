import { expect, test } from "vitest";
import { type Box, Room } from "./room";

const FRAME: Box = { left: 50, top: 20, width: 300, height: 200 };
const overlap = (a: Box, b: Box) =>
  a.left < b.left + b.width &&
  b.left < a.left + a.width &&
  a.top < b.top + b.height &&
  b.top < a.top + a.height;

test("a label stands as near as it can where nothing is", () => {
  const room = new Room(FRAME);
  const point: Box = { left: 196, top: 116, width: 8, height: 8 };
  room.take(point);
  const label = room.free(60, 14, { x: 200, y: 120 })!;
  expect(overlap(label, point)).toBe(false);
  expect(Math.abs(label.top + 7 - 120)).toBeLessThan(20);
});

test("labels placed one after the other do not meet", () => {
  const room = new Room(FRAME);
  room.takeLine([60, 340], [40, 200]);
  const made: Box[] = [];
  for (let i = 0; i < 8; i++) {
    const label = room.free(70, 14, { x: 340, y: 200 })!;
    expect(made.some((each) => overlap(each, label))).toBe(false);
    expect(label.left + label.width).toBeLessThanOrEqual(350);
    room.take(label);
    made.push(label);
  }
});

test("there may be no room, or none that is near enough", () => {
  const room = new Room(FRAME);
  expect(room.free(400, 14, { x: 200, y: 100 })).toBeNull();
  room.take({ left: 50, top: 20, width: 200, height: 200 });
  expect(room.free(40, 14, { x: 60, y: 100 }, 50)).toBeNull();
  expect(room.free(40, 14, { x: 60, y: 100 }, 300)).not.toBeNull();
});
