import { expect, test } from "vitest";

import { stepped } from "./steps";

test("what is left goes down in steps, and time to the right", () => {
  const rows = [
    { day: "2026-11-01", left: 4 },
    { day: "2026-11-06", left: 2 },
    { day: "2026-11-11", left: 2 },
  ];
  expect(stepped(rows, 100, 20)).toEqual([
    [0, 0],
    [50, 0],
    [50, 10],
    [100, 10],
    [100, 10],
  ]);
});

test("a day that has just begun has no line", () => {
  expect(stepped([{ day: "2026-11-01", left: 4 }], 100, 20)).toEqual([]);
  expect(stepped([], 100, 20)).toEqual([]);
});
