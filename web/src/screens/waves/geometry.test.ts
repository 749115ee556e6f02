import { describe, expect, it } from "vitest";

import type { TeamWaves, WaveBar } from "../../api/types";
import { at, blocks, labelOf, mondayAt, months, openEnded, rowHeight, scaleOf, strip, walls } from "./geometry";

const bar = (over: Partial<WaveBar>): WaveBar => ({
  key: "desk|1", application: "desk", name: "desk", set_name: "", number: 1, title: "Python 3.13", team: "Sales", lane: 0, days: 3, days80: 4,
  starts: "2026-12-07", ends: "2026-12-11", live: "2026-12-11", p50: "2026-12-14", p80: "2026-12-18", p95: "2026-12-30", late: 0.1, taken: false, fixed: null, misplaced: false, ...over,
});
const team = (over: Partial<TeamWaves>): TeamWaves => ({ name: "Sales", people: [], days: 5, assumed: false, vendor: false, features: 0, capacity: [5, 5, 0, 5], used: [5, 2, 0, 0], stages: [], walls: [], ...over });
const weeks = ["2026-11-30", "2026-12-07", "2026-12-14", "2026-12-21"];

describe("the axis of the waves", () => {
  const scale = scaleOf(weeks, 4, 400);
  it("gives every week the same room", () => {
    expect(at(scale, Date.UTC(2026, 11, 7))).toBeCloseTo(100);
    expect(mondayAt(scale, 140, "2026-11-30")).toBe("2026-12-07");
    expect(mondayAt(scale, -90, "2026-12-01")).toBe("2026-12-01");
  });
  it("draws a stage from its first morning to its last evening, with its spread", () => {
    const [block] = blocks(team({ stages: [bar({})] }), scale);
    expect(block?.x).toBeCloseTo(100);
    expect(block?.width).toBeCloseTo(100 * (5 / 7) - 1);
    expect(block?.spread ?? 0).toBeGreaterThan(block?.middle ?? 0);
  });
  it("leaves out what begins after the axis or never, and says where one goes on", () => {
    const held = [bar({ starts: "2027-03-01", ends: "2027-03-02" }), bar({ starts: null, ends: null }), bar({ ends: "2027-03-05" })];
    const found = blocks(team({ stages: held }), scale);
    expect(found).toHaveLength(1);
    expect(found[0]?.later).toBe(true);
    expect((found[0]?.x ?? 0) + (found[0]?.width ?? 0)).toBeLessThanOrEqual(400);
  });
  it("puts what is never reached side by side from today on, and counts what has no room", () => {
    const never = ["a", "b", "c"].map((name) => bar({ name, key: name, starts: null, ends: null, lane: 2 }));
    const found = openEnded(team({ stages: [bar({}), ...never] }), scale, "2026-12-01");
    expect(found.map((f) => [f.bar.name, f.more])).toEqual([["a", 0], ["b", 1]]);
    expect(found[0]?.x).toBeCloseTo(400 / 28);
    expect(found[1]?.x).toBeGreaterThan((found[0]?.x ?? 0) + (found[0]?.width ?? 0));
    expect(openEnded(team({ stages: [bar({})] }), scale, "2026-12-01")).toEqual([]);
  });
  it("writes as much of a name as fits", () => {
    expect(labelOf(bar({}), 200)).toBe("desk 1");
    expect(labelOf(bar({ name: "passenger-portal" }), 90)).toMatch(/^passen\S*… 1$/);
    expect(labelOf(bar({ name: "passenger-portal" }), 20)).toBe("1");
    expect(labelOf(bar({ number: 0, name: "passenger-portal" }), 20)).toBe("");
  });
  it("labels months without one lying over the next", () => {
    const found = months(scaleOf(weeks, 52, 500));
    expect(found.every((m, i) => i === 0 || m.x - (found[i - 1]?.x ?? 0) >= 8)).toBe(true);
    expect(found.some((m) => m.label === "Jan 2027")).toBe(true);
  });
  it("gives a row the room of its lanes and scales the strip to the largest week", () => {
    expect(rowHeight(team({ stages: [bar({ lane: 2 })] }))).toBeGreaterThan(rowHeight(team({})));
    const found = strip(team({}), scale, 4);
    expect(found.map((b) => b.most > 0)).toEqual([true, true, false, true]);
    expect((found[0]?.taken ?? 0)).toBeCloseTo(found[0]?.most ?? -1);
  });
  it("puts the words of a wall on the side where there is room, and only where they do not meet", () => {
    const wall = (end: string) => ({ coordinate: "p", short: "p", name: "Python", line: "3.9", end, chance: 0.5, past: false, applications: [], keys: [] });
    const found = walls(team({ walls: [wall("2026-12-02"), wall("2026-12-04"), wall("2026-12-27")] }), scaleOf(weeks, 4, 900));
    expect(found.map((p) => [p.labelled, p.left])).toEqual([[true, false], [false, false], [true, true]]);
  });
});
