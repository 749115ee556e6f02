import { describe, expect, it } from "vitest";

import { cone } from "./cone";

describe("the cone of work left", () => {
  it("falls from the most on the left to nothing on the right", () => {
    const made = cone([{ week: "2026-11-30", low: 8, middle: 10, high: 10 }, { week: "2026-12-07", low: 0, middle: 2, high: 6 }, { week: "2026-12-14", low: 0, middle: 0, high: 0 }], 200, 100);
    expect(made.middle).toBe("M0.0 4.0L100.0 80.8L200.0 100.0");
    expect(made.area.startsWith("M0.0 4.0L100.0 42.4L200.0 100.0")).toBe(true);
    expect(made.labels.map((l) => l.text)).toEqual(["30 Nov ’26", "14 Dec ’26"]);
  });
  it("is nothing without points", () => expect(cone([], 10, 10).area).toBe(""));
});
