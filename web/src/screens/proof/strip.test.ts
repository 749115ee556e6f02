import { describe, expect, it } from "vitest";

import { blocks, marks, names } from "./strip";

const group = (name: string, codes: string) => ({ name, codes });

describe("a strip of tests", () => {
  it("gives every test the same width and fills the whole", () => {
    const made = blocks([group("a", "bbbb"), group("b", "bb")], 612);
    expect(made.map((b) => [b.x, b.width])).toEqual([
      [0, 400],
      [412, 200],
    ]);
  });

  it("is empty without tests", () => {
    expect(blocks([group("a", "")], 600)).toEqual([]);
  });

  it("draws equal neighbours as one mark, and never hides one that breaks", () => {
    const made = marks({ name: "a", x: 10, width: 100, codes: `${"b".repeat(999)}x` });
    expect(made.map((m) => [m.code, m.count])).toEqual([
      ["b", 999],
      ["x", 1],
    ]);
    expect(made[1]?.width).toBe(2);
  });

  it("leaves out names that would touch", () => {
    const made = blocks([group("forms", "b".repeat(50)), group("tariffs", "b"), group("harbour", "b"), group("berths", "b".repeat(50))], 800);
    expect(names(made).map((n) => n.name)).toEqual(["forms", "tariffs", "berths"]);
  });
});
