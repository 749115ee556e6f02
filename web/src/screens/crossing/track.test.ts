import { describe, expect, test } from "vitest";

import { bars, calls, place, spoken } from "./track";

describe("where a route stands", () => {
  test("the stops lie evenly, and a share between the last two", () => {
    expect([place("old", 0), place("mirrored", 0), place("new", 0)]).toEqual([0, 1 / 3, 1]);
    expect(place("shared", 0)).toBeCloseTo(2 / 3);
    expect(place("shared", 50)).toBeCloseTo(5 / 6);
    expect(place("shared", 200)).toBe(1);
  });
  test("only a share has a percentage", () => {
    expect([spoken("shared", 25), spoken("new", 25)]).toEqual(["shared 25 %", "new"]);
  });
});

describe("a strip of comparisons", () => {
  test("the latest stands at the right, and no more than fit", () => {
    expect(bars([true, false], 4)).toEqual([
      { x: 2, alike: true },
      { x: 3, alike: false },
    ]);
    expect(bars(Array.from({ length: 9 }, () => true), 4)).toHaveLength(4);
  });
});

test("calls are read easily", () => {
  expect([calls(0), calls(0.25), calls(9.96), calls(48210)]).toEqual(["0", "0.3", "10.0", "48,210"]);
});
