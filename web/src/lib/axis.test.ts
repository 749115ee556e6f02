import { describe, expect, it } from "vitest";

import { axisFor, place, stretches, ticks } from "./axis";
import { DAY, dateOf, day, effort, percent, signedWeeks } from "./format";

const axis = { start: dateOf("2026-01-01"), end: dateOf("2028-01-01") };
const segment = (line: string, since: string | null, until: string | null, support_ends: string | null) => ({ line, since, until, support_ends, known: true });

describe("the light along a lane", () => {
  it("is dark from the support end to the stage that leaves the line, then bright", () => {
    const lane = { coordinate: "x", name: "x", segments: [segment("3.8", null, "2026-10-01", "2026-06-01"), segment("3.13", "2026-10-01", null, "2029-10-31")] };
    const found = stretches(lane, axis);
    expect(found.map((s) => s.light)).toEqual(["fading", "dark", "supported"]);
    expect(found[1]).toMatchObject({ from: dateOf("2026-06-01"), to: dateOf("2026-10-01") });
  });

  it("covers the whole axis without gap or overlap", () => {
    const lane = { coordinate: "x", name: "x", segments: [segment("1", null, "2026-09-09", "2027-01-01"), segment("2", "2026-09-09", null, null)] };
    const found = stretches(lane, axis);
    expect(found[0]?.from).toBe(axis.start);
    expect(found.at(-1)?.to).toBe(axis.end);
    found.slice(1).forEach((s, i) => expect(s.from).toBe(found[i]?.to));
  });

  it("says unknown where no support end is known, never bright", () => {
    const found = stretches({ coordinate: "x", name: "x", segments: [segment("9", null, null, null)] }, axis);
    expect(found.map((s) => s.light)).toEqual(["unknown"]);
  });
});

describe("the axis", () => {
  it("keeps positions between 0 and 1", () => {
    expect(place(axis, axis.start - DAY)).toBe(0);
    expect(place(axis, axis.end + DAY)).toBe(1);
  });

  it("labels each January once", () => {
    expect(ticks(axis).filter((t) => t.major).map((t) => t.label)).toEqual(["2026", "2027", "2028"]);
  });

  it("reaches fifteen months ahead even when nothing is planned", () => {
    const made = axisFor(null, "2026-11-23");
    expect((made.end - dateOf("2026-11-23")) / DAY).toBeGreaterThanOrEqual(456);
  });
});

describe("figures", () => {
  it("are written as the trade writes them", () => {
    expect(day("2027-03-12")).toBe("12 Mar 2027");
    expect(signedWeeks(-266)).toBe("−38 w");
    expect(signedWeeks(4)).toBe("+4 d");
    expect(effort(3.54)).toBe("3.5 d");
    expect(percent(0.999)).toBe("99 %");
  });
});
