import { expect, it } from "vitest";

import { lineAt, lineCount, lineOf } from "./sections";

it("has a head for each section and a line for each row, found again from either side", () => {
  const sections = [2, 1];
  expect(lineCount(sections, 3)).toBe(5);
  expect([0, 1, 2, 3, 4].map((at) => lineAt(sections, at))).toEqual([
    { kind: "head", section: 0 },
    { kind: "row", index: 0 },
    { kind: "row", index: 1 },
    { kind: "head", section: 1 },
    { kind: "row", index: 2 },
  ]);
  expect([0, 1, 2].map((index) => lineOf(sections, index))).toEqual([1, 2, 4]);
  expect(lineAt(sections, 5)).toBeNull();
});

it("has no heads where there are no sections", () => {
  expect(lineCount([], 7)).toBe(7);
  expect(lineAt([], 3)).toEqual({ kind: "row", index: 3 });
  expect(lineOf([], 3)).toBe(3);
});
