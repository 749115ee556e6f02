import { describe, expect, it } from "vitest";

import { remaining } from "./remaining";

const given = {
  left: [
    { day: "2026-09-01", days: 10 },
    { day: "2026-10-01", days: 5 },
    { day: "2026-11-01", days: 5 },
  ],
  today: "2026-11-01",
  arrival50: "2026-12-01",
  arrival80: "2027-01-01",
  ends: ["2027-04-01"],
  width: 1000,
  height: 100,
};

describe("work left", () => {
  it("falls in steps, and stays where nothing happened", () => {
    const made = remaining(given);
    expect(made.line.map((p) => Math.round(p.y))).toEqual([0, 0, 50, 50, 50]);
    expect(made.line[0]?.x).toBe(0);
  });

  it("opens a cone from today to both arrivals on the ground", () => {
    const made = remaining(given);
    expect(made.cone.map((p) => Math.round(p.y))).toEqual([50, 100, 100]);
    expect(made.cone[0]?.x).toBe(made.today);
    expect(made.cone[1]?.x).toBeGreaterThan(made.cone[2]?.x ?? Infinity);
    expect(made.at("2027-04-01")).toBeLessThan(1000);
  });

  it("has no cone without a forecast, nor when nothing is left", () => {
    expect(remaining({ ...given, arrival50: null, arrival80: null }).cone).toEqual([]);
    expect(remaining({ ...given, left: [{ day: "2026-09-01", days: 0 }] }).cone).toEqual([]);
  });
});
